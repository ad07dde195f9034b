package desk

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Decide takes a decision and stores it with its line in the journal. The key
// makes it safe to repeat. Conversations that no longer exist, or are no longer
// where the user saw them, are passed over, and the answer says how many; if
// none that was named exists the error says so.
func (d *Desk) Decide(ctx context.Context, who Who, key string, req Decision) (Decided, error) {
	if req.Kind == inbox.Rest && req.Where == nil {
		req.Where = &search.Query{Unstarred: true}
	}
	if len(req.Conversations) == 0 && req.Where == nil {
		return Decided{}, invalid("conversations", "No conversation was chosen, so nothing was decided.")
	}
	now := d.now()
	req.Return = req.Return.Realign()
	if req.FollowUp != nil {
		req.FollowUp.Due = req.FollowUp.Due.Realign()
	}
	var changes []inbox.Change
	out, fresh, err := once(ctx, d, who, key, func(t store.Tx) (out Decided, err error) {
		var stale int
		if changes, stale, err = d.changes(t, who, &req, now); err != nil {
			return out, err
		}
		e := store.Entry{Kind: req.Kind, At: now, SittingID: req.Sitting}
		if out, err = d.commit(t, who, e, changes, req.sentence(who.Week, now, changes)); err != nil {
			return out, err
		}
		if req.Kind == inbox.Snooze && strings.TrimSpace(req.Text) != "" && len(changes) == 1 {
			if err := d.word(t, who, *changes[0].After, req.Text, &out, now); err != nil {
				return out, err
			}
		}
		if out.Stale = stale; stale > 0 && len(changes) == 0 {
			out.Text = "That has been decided elsewhere meanwhile, so nothing was changed."
		} else if stale > 0 {
			out.Text += fmt.Sprintf(" %d had been decided elsewhere meanwhile and stay as they are.", stale)
		}
		return out, err
	})
	switch {
	case errors.Is(err, inbox.ErrPast):
		return out, invalid("return", "That time has passed, so nothing was snoozed. Choose one that is still ahead.")
	case errors.Is(err, inbox.ErrKind):
		return out, invalid("kind", "Ebbe does not know that decision, so nothing was changed. Load the page again.")
	case errors.Is(err, inbox.ErrNowhere), errors.Is(err, inbox.ErrLong):
		return out, invalid("text", "Nothing was changed: "+err.Error()+".")
	}
	if fresh {
		d.tell(who.Box, key, changes)
	}
	return out, err
}

func (req Decision) sentence(w when.Week, now when.Instant, changes []inbox.Change) func(n int) string {
	return func(n int) string {
		many := ""
		if n > 1 {
			many = fmt.Sprintf(" %d", n)
		}
		if len(changes) == 0 && req.Where != nil {
			return "There was nothing of that kind in the inbox, so nothing was changed."
		}
		switch req.Kind {
		case inbox.ToBin:
			return "Binned" + many + "."
		case inbox.Archive:
			return "Archived" + many + "."
		case inbox.Rest:
			return fmt.Sprintf("The rest is done: archived %d. The starred stay.", n)
		case inbox.FreshStart:
			return fmt.Sprintf("A fresh start: archived %d. What gets a new message comes back by itself.", n)
		case inbox.ToInbox:
			return "Back in the inbox" + strings.Replace(many, " ", ": ", 1) + "."
		case inbox.Snooze:
			if n > 1 {
				many = " all" + many
			}
			switch req.Until {
			case inbox.UntilAnswer:
				return "Back" + many + " when somebody answers."
			case inbox.UntilSite:
				return "Back" + many + " when you are there."
			case inbox.UntilSomeday:
				return "Someday. Looked through" + many + " " + w.Say(req.Return, now) + "."
			case inbox.UntilUnanswered:
				return "Back" + many + " " + w.Say(req.Return, now) + ", if nobody has answered by then."
			}
			return "Back" + many + " " + w.Say(req.Return, now) + "."
		case inbox.Star:
			return "Starred" + many + "."
		case inbox.Unstar:
			return "No longer starred" + strings.Replace(many, " ", ": ", 1) + "."
		case inbox.MarkUnread:
			return "Marked unread" + strings.Replace(many, " ", ": ", 1) + "."
		case inbox.MarkRead:
			return "Marked read" + strings.Replace(many, " ", ": ", 1) + "."
		case inbox.Leave:
			if len(changes) == 1 && n == 1 {
				return fmt.Sprintf("Left undecided. Looks so far: %d.", changes[0].After.Looks)
			}
			return "Left undecided" + strings.Replace(many, " ", ": ", 1) + "."
		case inbox.Rename:
			if req.Text == "" {
				return "It is called by its subject again."
			}
			return "Renamed. Answers still carry the subject it had."
		case inbox.WriteNote:
			if req.Text == "" {
				return "The note is gone."
			}
			return "The note is kept."
		case inbox.Label:
			return "Labels changed" + strings.Replace(many, " ", ": ", 1) + "."
		case inbox.Combo:
			return "“" + req.Text + "” done" + strings.Replace(many, " ", ": ", 1) + "."
		case inbox.MakeFollowUp:
			if n > 1 {
				return fmt.Sprintf("%d follow-ups made.", n)
			}
			if req.FollowUp != nil && !req.FollowUp.Due.IsZero() {
				return "Follow-up made, due " + w.Say(req.FollowUp.Due, now) + "."
			}
			return "Follow-up made."
		}
		return ""
	}
}

// chosen is which conversations the decision is about, as they are now.
func (req *Decision) chosen(t store.Tx, who Who) (ids []int64, err error) {
	if req.Where == nil {
		ids = slices.Clone(req.Conversations)
		merged, err := t.Merged(who.Box, ids)
		if err != nil {
			return nil, err
		}
		for i, id := range ids {
			if merged[id] {
				if ids[i], err = t.Resolve(who.Box, id); err != nil {
					return nil, err
				}
			}
		}
		return ids, nil
	}
	if err := req.Where.Valid(); err != nil {
		return nil, invalid("where", "Nothing was changed: "+err.Error()+".")
	}
	q := *req.Where
	q.Place = inbox.Inbox
	return t.IDs(who.Box, who.Person, q, inbox.NewestFirst)
}

// check looks up what the decision names besides conversations.
func (d *Desk) check(t store.Tx, who Who, req *Decision, now when.Instant) error {
	if len(req.Add)+len(req.Remove) > 0 {
		labels, err := t.Labels(who.Box, false)
		if err != nil {
			return err
		}
		for _, id := range req.Add {
			if !slices.ContainsFunc(labels, func(l store.Label) bool { return l.ID == id }) {
				return invalid("add", "That label has been deleted meanwhile, so nothing was changed.")
			}
		}
	}
	if req.Until == inbox.UntilSite {
		sites, err := t.Sites(who.Person, false)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(sites, func(s store.Site) bool { return s.ID == req.Site }) {
			return invalid("site", "That place has been deleted meanwhile, so nothing was snoozed. Choose another.")
		}
	}
	if req.Until == inbox.UntilSomeday {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		req.Return = who.Week.MonthDay(somedayOf(p.Habits), now)
	}
	if req.Sitting != 0 {
		s, err := t.LastSitting(who.Person)
		if err != nil && !isMissing(err) {
			return err
		}
		if s.ID != req.Sitting || s.Ended != 0 {
			req.Sitting = 0 // it has ended: the decision holds all the same
		}
	}
	return nil
}

// changes asks the core what the decision changes. stale is how many of the
// conversations were passed over, as they have left the place where they were
// seen.
func (d *Desk) changes(t store.Tx, who Who, req *Decision, now when.Instant) (changes []inbox.Change, stale int, err error) {
	if err := d.check(t, who, req, now); err != nil {
		return nil, 0, err
	}
	ids, err := req.chosen(t, who)
	if err != nil {
		return nil, 0, err
	}
	state, err := t.State(who.Box, who.Person, ids, nil)
	if err != nil {
		return nil, 0, err
	}
	if len(state.Conversations) == 0 && req.Where == nil {
		return nil, 0, store.ErrNotFound
	}
	steps, err := d.steps(t, who, req, now)
	if err != nil {
		return nil, 0, err
	}
	b := maker{t: t, who: who, now: now}
	for _, id := range ids {
		before, ok := state.Conversations[id]
		if !ok {
			continue
		}
		delete(state.Conversations, id) // named twice, decided once
		if before.Place == inbox.Held { // it is not there yet
			stale++
			continue
		}
		if req.Seen != "" && before.Place != req.Seen {
			stale++
			continue
		}
		after := before
		for _, s := range steps {
			if s.Kind == inbox.Snooze && req.Day != nil {
				s.Until, s.Return = before.Until, who.Week.OnDay(before.Return, *req.Day, now)
				if s.Until != inbox.UntilUnanswered {
					s.Until = inbox.UntilTime
				}
				req.Return, req.Until = s.Return, s.Until
			}
			if after, err = inbox.Decide(after, s.Decision, now); err != nil {
				return nil, 0, err
			}
			b.want(id, s)
		}
		if c := (inbox.Change{Before: &before, After: &after}); !c.Nothing() {
			changes = append(changes, c)
		}
	}
	made, err := b.followUps()
	return append(made, changes...), stale, err
}

// act is one thing a decision does to each of its conversations.
type act struct {
	inbox.Decision
	make   *NewFollowUp // a follow-up to be made
	finish bool         // the open follow-ups are to be finished
}

// steps is what the decision does to each of its conversations: one act, or
// for a combo several.
func (d *Desk) steps(t store.Tx, who Who, req *Decision, now when.Instant) ([]act, error) {
	switch req.Kind {
	case inbox.MakeFollowUp:
		if req.FollowUp == nil {
			return nil, invalid("followUp", "Nothing was said about the follow-up, so none was made. Give it a title.")
		}
		kind := inbox.Archive
		if req.FollowUp.Keep {
			kind = inbox.ToInbox
		}
		return []act{{Decision: inbox.Decision{Kind: kind}, make: req.FollowUp}}, nil
	case inbox.Combo:
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return nil, err
		}
		i := slices.IndexFunc(p.Habits.Combos, func(c inbox.Chain) bool { return c.ID == req.Combo })
		if i < 0 {
			return nil, invalid("combo", "That combo has been deleted meanwhile, so nothing was done.")
		}
		req.Text = p.Habits.Combos[i].Name
		labels, err := t.Labels(who.Box, false)
		if err != nil {
			return nil, err
		}
		return d.chain(who, p.Habits.Combos[i], labels, now)
	}
	return []act{{Decision: inbox.Decision{Kind: req.Kind, Return: req.Return, Until: req.Until, Site: req.Site, Text: req.Text, Add: req.Add, Remove: req.Remove}}}, nil
}

// chain is what a combo does.
func (d *Desk) chain(who Who, c inbox.Chain, labels []store.Label, now when.Instant) (acts []act, err error) {
	read := func(phrase string) (when.Moment, error) {
		r := who.Week.Read(phrase, now)
		if r.Doubt != "" && r.Moment.IsZero() {
			return r.Moment, invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” says “%s”, and Ebbe cannot read that as a time now. Change it in Setup.", c.Name, phrase))
		}
		return r.Moment, nil
	}
	for _, s := range c.Steps {
		switch a := (act{Decision: inbox.Decision{Kind: s.Kind}}); s.Kind {
		case inbox.Snooze:
			if a.Return, err = read(s.Phrase); err != nil {
				return nil, err
			}
			acts = append(acts, a)
		case inbox.Label:
			for _, id := range s.Labels {
				if !slices.ContainsFunc(labels, func(l store.Label) bool { return l.ID == id }) {
					return nil, invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” uses a label that has been deleted. Change it in Setup.", c.Name))
				}
			}
			a.Add = s.Labels
			acts = append(acts, a)
		case inbox.MakeFollowUp:
			f := NewFollowUp{Title: s.Text}
			if s.Phrase != "" {
				r := who.Week.Read(s.Phrase, now)
				if f.Due, err = read(s.Phrase); err != nil {
					return nil, err
				}
				if !r.Timed {
					f.Due = f.Due.Day(who.Week.Location())
				}
			}
			a.Kind, a.make = inbox.MarkRead, &f
			acts = append(acts, a)
		case inbox.FinishFollow:
			a.Kind, a.finish = inbox.MarkRead, true
			acts = append(acts, a)
		default:
			acts = append(acts, a)
		}
	}
	return acts, nil
}

// maker gathers the follow-ups that a decision makes and finishes.
type maker struct {
	t      store.Tx
	who    Who
	now    when.Instant
	ids    []int64 // conversations that get one each
	make   NewFollowUp
	finish []int64 // conversations whose open ones are finished
}

func (b *maker) want(conversation int64, a act) {
	if a.make != nil {
		b.ids, b.make = append(b.ids, conversation), *a.make
	}
	if a.finish {
		b.finish = append(b.finish, conversation)
	}
}

// followUps are the changes to follow-ups, those finished before those made.
func (b *maker) followUps() (changes []inbox.Change, err error) {
	open, err := b.t.FollowUpsOf(b.who.Box, b.finish)
	if err != nil {
		return nil, err
	}
	for _, id := range b.finish {
		for _, f := range open[id] {
			before, after := f.Data, f.Data.Finish(b.now)
			changes = append(changes, inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after})
		}
	}
	if len(b.ids) == 0 {
		return changes, nil
	}
	originals, err := b.t.Originals(b.ids)
	if err != nil {
		return nil, err
	}
	rows, err := b.t.ConversationRows(b.who.Box, b.ids)
	if err != nil {
		return nil, err
	}
	p, err := b.t.PersonByID(b.who.Person)
	if err != nil {
		return nil, err
	}
	for _, id := range b.ids {
		f := followup.FollowUp{Status: followup.NeedsAction, Conversation: id, Made: b.now, Message: originals[id]}
		n := b.make
		if row := rows[id]; row != nil && !row.Kind.Machine() {
			f.With = mail.Address{Name: row.FromName, Address: row.FromAddr}
		}
		if n.Title == "" {
			letter, _, err := letterOf(b.t, b.who, id)
			if err != nil {
				return nil, err
			}
			n.Title = followup.Propose(letter, b.who.Week).Title
		}
		if f, err = n.write(f, p.FollowUp, b.who.Week, b.now); err != nil {
			return nil, err
		}
		f.UID = uuid.NewString()
		changes = append(changes, inbox.Change{FollowUpAfter: &f})
	}
	return changes, nil
}

// commit stores changes with their line in the journal.
func (d *Desk) commit(t store.Tx, who Who, e store.Entry, changes []inbox.Change, sentence func(n int) string) (out Decided, err error) {
	for _, c := range changes {
		e.Delta += c.Delta()
		e.Count++
	}
	if len(changes) > 0 || e.Ref != 0 || len(e.Touched) > 0 {
		e.Count = max(e.Count, len(e.Touched))
		if e.Text == "" {
			if e.ConversationID, e.Text, err = about(t, who.Box, changes); err != nil {
				return out, err
			}
		}
		e.BoxID, e.PersonID, e.Changes = who.Box, who.Person, changes
		e.Step = e.Kind.Undoable()
		if e.Actor == "" {
			e.Actor = store.ByPerson
		}
		if err := t.Record(&e); err != nil {
			return out, err
		}
		if err := t.Apply(who.Box, who.Person, changes); err != nil {
			return out, err
		}
		out.Entry = e.ID
	}
	for _, c := range changes {
		if c.After != nil {
			if out.Count++; out.First == 0 {
				out.First = c.After.ID
			}
		}
	}
	if sentence != nil {
		out.Text = sentence(max(out.Count, 1))
	}
	out.Left, err = t.CountPlace(who.Box, inbox.Inbox)
	return out, err
}

// about says, for the history, what an entry is about: the title of the
// follow-up or event, or the subject of the first conversation.
func about(t store.Tx, box int64, changes []inbox.Change) (conversation int64, text string, err error) {
	for _, c := range changes {
		f := c.FollowUpAfter
		if f == nil {
			f = c.FollowUpBefore
		}
		if f != nil {
			return f.Conversation, f.Title, nil
		}
		e := c.EventAfter
		if e == nil {
			e = c.EventBefore
		}
		if e != nil {
			return e.Conversation, e.Title, nil
		}
	}
	id := changes[0].Conversation()
	rows, err := t.ConversationRows(box, []int64{id})
	if err != nil || rows[id] == nil {
		return id, "", err
	}
	return id, cmp.Or(rows[id].Title, rows[id].Subject), nil
}

func (d *Desk) tell(box int64, key string, changes []inbox.Change) {
	topics, conversations := topicsOf(changes)
	d.announce(box, Event{Topics: topics, Conversations: conversations, Key: key})
}

// Look notes that the person has opened a conversation: it is read now, and if
// it is still undecided, that was one more look.
func (d *Desk) Look(ctx context.Context, who Who, key string, id int64) (Decided, error) {
	return d.Decide(ctx, who, key, Decision{Kind: inbox.Look, Conversations: []int64{id}})
}

// TakeBack takes back the newest decision of the person that still stands.
// What has been changed since by the clock or by new mail stays as it is.
func (d *Desk) TakeBack(ctx context.Context, who Who, key string) (Decided, error) {
	return d.revert(ctx, who, key, inbox.TakeBack)
}

// Again does again what was taken back last, as long as nothing else has been
// decided since.
func (d *Desk) Again(ctx context.Context, who Who, key string) (Decided, error) {
	return d.revert(ctx, who, key, inbox.Again)
}

func (d *Desk) revert(ctx context.Context, who Who, key string, kind inbox.Kind) (Decided, error) {
	return d.reverting(ctx, who, key, kind, func(t store.Tx) (store.Entry, error) {
		find, none := t.LastStep, "There is nothing left to take back."
		if kind == inbox.Again {
			find, none = t.LastTakeBack, "There is nothing that was taken back last."
		}
		done, err := find(who.Person)
		if isMissing(err) {
			err = &UserError{Type: "nothing-to-take-back", Text: none}
		}
		return done, err
	})
}

// TakeBackStep takes back one decision of the person, however long ago, if
// nothing since depends on it; else the error says what does.
func (d *Desk) TakeBackStep(ctx context.Context, who Who, key string, id int64) (Decided, error) {
	return d.reverting(ctx, who, key, inbox.TakeBack, func(t store.Tx) (done store.Entry, err error) {
		if done, err = t.Entry(who.Box, id); err != nil {
			return done, err
		}
		switch {
		case done.TakenBack != 0:
			return done, &UserError{Type: "taken-back", Text: "That has been taken back already."}
		case !done.Step || done.PersonID != who.Person:
			return done, &UserError{Type: "no-step", Text: "That was not a decision of yours, so there is nothing to take back."}
		}
		return done, d.depends(t, who, done)
	})
}

// depends is the error that says what has changed since, if anything has, of
// that which the entry did.
func (d *Desk) depends(t store.Tx, who Who, done store.Entry) error {
	state, err := stateOf(t, who, done.Changes)
	if err != nil {
		return err
	}
	var in []int64
	for _, c := range done.Changes {
		if !inbox.Stands(c, nowOf(state, c)) {
			in = append(in, c.Conversation())
		}
	}
	if len(in) == 0 {
		return nil
	}
	since, err := t.Since(who.Box, done.ID, in)
	if err != nil && !isMissing(err) {
		return err
	}
	text := "That cannot be taken back by itself: it has changed since. Nothing was changed now."
	if err == nil {
		at := who.Week.Say(when.Moment{At: since.At}, d.now())
		text = fmt.Sprintf("That cannot be taken back by itself: “%s” has changed since (%s, %s). Take that back first; nothing was changed now.", since.Text, verbs[since.Kind], at)
	}
	return &UserError{Type: "depends", Text: text}
}

// verbs say, in a sentence, what an entry did.
var verbs = map[inbox.Kind]string{
	inbox.ToBin: "binned", inbox.Archive: "archived", inbox.ToInbox: "brought back", inbox.Snooze: "snoozed", inbox.Star: "starred", inbox.Unstar: "star taken away",
	inbox.Leave: "left undecided", inbox.Rename: "renamed", inbox.WriteNote: "note written", inbox.Label: "labelled", inbox.DropLabel: "label deleted", inbox.Combo: "combo",
	inbox.Here: "you were there", inbox.DropSite: "place deleted", inbox.Rest: "the rest done", inbox.FreshStart: "fresh start", inbox.MakeFollowUp: "follow-up made",
	inbox.ChangeFollow: "follow-up changed", inbox.FinishFollow: "finished", inbox.ReopenFollow: "opened again", inbox.DropFollow: "dropped",
	inbox.PutOff: "put off", inbox.PutInStage: "put into a stage", inbox.WaitFor: "waiting", inbox.CloseDay: "day closed", inbox.WaitEnded: "answered",
	inbox.MakeEvent: "put into the calendar", inbox.ChangeEvent: "event changed", inbox.DropEvent: "event taken away", inbox.AnswerGuest: "invitation answered", inbox.TakeIn: "calendar file read",
	inbox.Join: "joined", inbox.Part: "parted", inbox.FollowServer: "done elsewhere", inbox.PutBack: "put back", inbox.DropRestored: "dropped after restoring",
	inbox.Deliver: "came in", inbox.LetOneIn: "let in", inbox.LetAllIn: "let in",
	inbox.Return: "came back", inbox.Remind: "reminded", inbox.Arrive: "new message", inbox.Import: "import", inbox.MarkUnread: "marked unread", inbox.MarkRead: "marked read",
}

// reverting takes back, or does again, the entry that find gives.
func (d *Desk) reverting(ctx context.Context, who Who, key string, kind inbox.Kind, find func(store.Tx) (store.Entry, error)) (Decided, error) {
	var changes []inbox.Change
	out, fresh, err := once(ctx, d, who, key, func(t store.Tx) (out Decided, err error) {
		done, err := find(t)
		if err != nil {
			return out, err
		}
		if changes, err = reverted(t, who, done.Changes); err != nil {
			return out, err
		}
		root := done
		if kind == inbox.Again {
			if root, err = t.Entry(done.BoxID, done.Of); err != nil {
				return out, err
			}
		}
		if err := d.revive(t, done, root.Kind, kind, changes); err != nil {
			return out, err
		}
		if err := d.unsend(t, who, root.ID, kind == inbox.TakeBack); err != nil {
			return out, err
		}
		step := store.Entry{Kind: kind, Actor: store.ByPerson, At: d.now(), Of: done.ID, Ref: done.Ref, Text: done.Text, ConversationID: done.ConversationID, BoxID: who.Box, PersonID: who.Person}
		if root.Kind == inbox.LetOneIn || root.Kind == inbox.LetAllIn {
			if step.Delta, step.Touched, err = d.letBack(t, who, root, kind); err != nil {
				return out, err
			}
		}
		if root.Kind == inbox.DropRestored {
			if step.Touched, err = restOn(t, who, root, kind == inbox.TakeBack); err != nil {
				return out, err
			}
		}
		if len(changes) == 0 && step.Ref == 0 && len(step.Touched) == 0 { // the line is written all the same: it was asked for
			if err := t.Record(&step); err != nil {
				return out, err
			}
			out.Entry, out.Text = step.ID, "Nothing of it was left to take back: it has changed since."
			if out.Left, err = t.CountPlace(who.Box, inbox.Inbox); err != nil {
				return out, err
			}
		} else if out, err = d.commit(t, who, step, changes, nil); err != nil {
			return out, err
		} else {
			out.Text = revertSentence(kind, done)
		}
		if root.Kind == inbox.DropRestored && kind == inbox.TakeBack {
			if err := t.HoldReminders(who.Box, remindedOf(changes)); err != nil {
				return out, err
			}
		}
		if err := t.SetTakenBack(done.ID, out.Entry, false); err != nil {
			return out, err
		}
		if kind == inbox.Again {
			return out, t.SetTakenBack(done.Of, 0, true)
		}
		return out, nil
	})
	if fresh {
		d.tell(who.Box, key, changes)
	}
	return out, err
}

// revive has deleted labels and places back where taking back needs them: the
// ones whose deletion is taken back, and the ones that conversations are put
// back to. Doing a deletion again deletes again.
func (d *Desk) revive(t store.Tx, done store.Entry, of, kind inbox.Kind, changes []inbox.Change) error {
	var labels, sites []int64
	for _, c := range changes {
		if c.After != nil {
			labels = append(labels, c.After.Labels.IDs()...)
			if c.After.Until == inbox.UntilSite {
				sites = append(sites, c.After.Site)
			}
		}
	}
	slices.Sort(labels)
	slices.Sort(sites)
	gone := kind == inbox.Again
	var err error
	switch of {
	case inbox.DropLabel:
		err = t.SetGone(&store.Label{}, []int64{done.Ref}, gone)
	case inbox.DropSite:
		err = t.SetGone(&store.Site{}, []int64{done.Ref}, gone)
	}
	if err == nil {
		err = t.SetGone(&store.Label{}, slices.Compact(labels), false)
	}
	if err == nil {
		err = t.SetGone(&store.Site{}, slices.Compact(sites), false)
	}
	return err
}

func revertSentence(kind inbox.Kind, done store.Entry) string {
	what := "“" + done.Text + "”"
	if done.Count > 1 && done.Kind != inbox.MakeFollowUp && done.Kind != inbox.DropRestored {
		what = fmt.Sprintf("%d conversations", done.Count)
	}
	if kind == inbox.Again {
		return "Done again: " + what + "."
	}
	return "Taken back: " + what + "."
}

// stateOf loads how everything is now that the changes are about.
func stateOf(t store.Tx, who Who, done []inbox.Change) (store.State, error) {
	var ids []int64
	var uids []string
	for _, c := range done {
		if c.After != nil || c.Before != nil {
			ids = append(ids, c.Conversation())
		}
		for _, f := range []*followup.FollowUp{c.FollowUpBefore, c.FollowUpAfter} {
			if f != nil {
				uids = append(uids, f.UID)
			}
		}
		for _, e := range []*calendar.Event{c.EventBefore, c.EventAfter} {
			if e != nil {
				uids = append(uids, e.UID)
			}
		}
	}
	return t.State(who.Box, who.Person, ids, uids)
}

// nowOf is how the subject of the change c is now.
func nowOf(state store.State, c inbox.Change) (now inbox.Change) {
	if c.After != nil || c.Before != nil {
		if s, ok := state.Conversations[c.Conversation()]; ok {
			now.After = &s
		}
	}
	for _, f := range []*followup.FollowUp{c.FollowUpBefore, c.FollowUpAfter} {
		if f != nil {
			if s, ok := state.FollowUps[f.UID]; ok {
				now.FollowUpAfter = &s
			}
		}
	}
	for _, e := range []*calendar.Event{c.EventBefore, c.EventAfter} {
		if e != nil {
			if s, ok := state.Events[e.UID]; ok {
				now.EventAfter = &s
			}
		}
	}
	return now
}

// reverted is what takes back the changes, given how everything is now.
func reverted(t store.Tx, who Who, done []inbox.Change) (changes []inbox.Change, err error) {
	state, err := stateOf(t, who, done)
	if err != nil {
		return nil, err
	}
	for _, c := range done {
		if r := inbox.Revert(c, nowOf(state, c)); !r.Nothing() {
			changes = append(changes, r)
		}
	}
	return changes, nil
}
