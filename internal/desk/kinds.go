package desk

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/journal"
)

// register tells the journal of the kinds of entries: what each did, in a word,
// and what hangs on taking one back.
func (d *Desk) register() {
	for kind, verb := range verbs {
		k := journal.Kind{Verb: verb}
		switch kind {
		case inbox.LetOneIn, inbox.LetAllIn:
			k.Before = d.Delivery.LetBack
		case inbox.DropRestored:
			k.Named, k.Before, k.After = true, accounts.RestOn, accounts.RestAgain
		}
		d.Journal.Register(kind, k)
	}
	d.Journal.Always(labelling.Revive)
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
