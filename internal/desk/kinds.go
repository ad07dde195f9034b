package desk

import (
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// register tells the journal of the kinds of entries: what each did, in a word,
// and what hangs on taking one back.
func (d *Desk) register() {
	for kind, is := range decisions {
		d.Journal.Register(kind, journal.Kind{Verb: is.verb, Named: is.named})
	}
	for kind, verb := range verbs {
		k := journal.Kind{Verb: verb}
		switch kind {
		case inbox.LetOneIn, inbox.LetAllIn:
			k.Before = d.letBack
		case inbox.DropRestored:
			k.Named, k.Before, k.After = true, restOn, holdOn
		}
		d.Journal.Register(kind, k)
	}
	d.Journal.Always(revive)
	d.Journal.Always(d.Sending.Unsend)
}

// verbs say, in a sentence, what an entry did that is no decision about
// conversations.
var verbs = map[inbox.Kind]string{
	inbox.DropLabel: "label deleted",
	inbox.Here:      "you were there", inbox.DropSite: "place deleted",
	inbox.ChangeFollow: "follow-up changed", inbox.FinishFollow: "finished", inbox.ReopenFollow: "opened again", inbox.DropFollow: "dropped",
	inbox.PutOff: "put off", inbox.PutInStage: "put into a stage", inbox.WaitFor: "waiting", inbox.CloseDay: "day closed", inbox.WaitEnded: "answered",
	inbox.MakeEvent: "put into the calendar", inbox.ChangeEvent: "event changed", inbox.DropEvent: "event taken away", inbox.AnswerGuest: "invitation answered", inbox.TakeIn: "calendar file read",
	inbox.Join: "joined", inbox.Part: "parted", inbox.FollowServer: "done elsewhere", inbox.PutBack: "put back", inbox.DropRestored: "dropped after restoring",
	inbox.Deliver: "came in", inbox.LetOneIn: "let in", inbox.LetAllIn: "let in",
	inbox.Return: "came back", inbox.Remind: "reminded", inbox.Arrive: "new message", inbox.Import: "import",
}

// revive has deleted labels and places back where taking back needs them: the
// ones whose deletion is taken back, and the ones that conversations are put
// back to. Doing a deletion again deletes again.
func revive(t store.Tx, s *journal.Step) error {
	var labels, sites []int64
	for _, c := range s.Changes {
		if c.After != nil {
			labels = append(labels, c.After.Labels.IDs()...)
			if c.After.Until == inbox.UntilSite {
				sites = append(sites, c.After.Site)
			}
		}
	}
	slices.Sort(labels)
	slices.Sort(sites)
	gone := !s.Back
	var err error
	switch s.Root.Kind {
	case inbox.DropLabel:
		err = t.SetGone(&store.Label{}, []int64{s.Done.Ref}, gone)
	case inbox.DropSite:
		err = t.SetGone(&store.Site{}, []int64{s.Done.Ref}, gone)
	}
	if err == nil {
		err = t.SetGone(&store.Label{}, slices.Compact(labels), false)
	}
	if err == nil {
		err = t.SetGone(&store.Site{}, slices.Compact(sites), false)
	}
	return err
}
