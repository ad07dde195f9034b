package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Decide takes a decision and stores it with its line in the journal. The key
// makes it safe to repeat. Conversations that no longer exist, or are no longer
// where the user saw them, are passed over, and the answer says how many; if
// none that was named exists the error says so.
func (d *Desk) Decide(ctx context.Context, who identity.Who, key string, req Decision) (journal.Decided, error) {
	if req.Kind == inbox.Rest && req.Where == nil {
		req.Where = &search.Query{Unstarred: true}
	}
	if len(req.Conversations) == 0 && req.Where == nil {
		return journal.Decided{}, problem.Invalid("conversations", "No conversation was chosen, so nothing was decided.")
	}
	now := d.now()
	req.Return = req.Return.Realign()
	if req.FollowUp != nil {
		req.FollowUp.Due = req.FollowUp.Due.Realign()
	}
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		var stale int
		if changes, stale, err = d.changes(t, who, &req, now); err != nil {
			return out, err
		}
		e := store.Entry{Kind: req.Kind, At: now, SittingID: req.Sitting}
		if out, err = d.Journal.Commit(t, who, e, changes, req.sentence(who.Week, now, changes)); err != nil {
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
		return out, problem.Invalid("return", "That time has passed, so nothing was snoozed. Choose one that is still ahead.")
	case errors.Is(err, inbox.ErrKind):
		return out, problem.Invalid("kind", "Ebbe does not know that decision, so nothing was changed. Load the page again.")
	case errors.Is(err, inbox.ErrNowhere), errors.Is(err, inbox.ErrLong):
		return out, problem.Invalid("text", "Nothing was changed: "+err.Error()+".")
	}
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
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
func (req *Decision) chosen(t store.Tx, who identity.Who) (ids []int64, err error) {
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
		return nil, problem.Invalid("where", "Nothing was changed: "+err.Error()+".")
	}
	q := *req.Where
	q.Place = inbox.Inbox
	return t.IDs(who.Box, who.Person, q, inbox.NewestFirst)
}

// check looks up what the decision names besides conversations.
func (d *Desk) check(t store.Tx, who identity.Who, req *Decision, now when.Instant) error {
	if len(req.Add)+len(req.Remove) > 0 {
		labels, err := t.Labels(who.Box, false)
		if err != nil {
			return err
		}
		for _, id := range req.Add {
			if !slices.ContainsFunc(labels, func(l store.Label) bool { return l.ID == id }) {
				return problem.Invalid("add", "That label has been deleted meanwhile, so nothing was changed.")
			}
		}
	}
	if req.Until == inbox.UntilSite {
		sites, err := t.Sites(who.Person, false)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(sites, func(s store.Site) bool { return s.ID == req.Site }) {
			return problem.Invalid("site", "That place has been deleted meanwhile, so nothing was snoozed. Choose another.")
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
		if err != nil && !errors.Is(err, store.ErrNotFound) {
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
func (d *Desk) changes(t store.Tx, who identity.Who, req *Decision, now when.Instant) (changes []inbox.Change, stale int, err error) {
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
func (d *Desk) steps(t store.Tx, who identity.Who, req *Decision, now when.Instant) ([]act, error) {
	switch req.Kind {
	case inbox.MakeFollowUp:
		if req.FollowUp == nil {
			return nil, problem.Invalid("followUp", "Nothing was said about the follow-up, so none was made. Give it a title.")
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
			return nil, problem.Invalid("combo", "That combo has been deleted meanwhile, so nothing was done.")
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
func (d *Desk) chain(who identity.Who, c inbox.Chain, labels []store.Label, now when.Instant) (acts []act, err error) {
	read := func(phrase string) (when.Moment, error) {
		r := who.Week.Read(phrase, now)
		if r.Doubt != "" && r.Moment.IsZero() {
			return r.Moment, problem.Invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” says “%s”, and Ebbe cannot read that as a time now. Change it in Setup.", c.Name, phrase))
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
					return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” uses a label that has been deleted. Change it in Setup.", c.Name))
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
	who    identity.Who
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

// Look notes that the person has opened a conversation: it is read now, and if
// it is still undecided, that was one more look.
func (d *Desk) Look(ctx context.Context, who identity.Who, key string, id int64) (journal.Decided, error) {
	return d.Decide(ctx, who, key, Decision{Kind: inbox.Look, Conversations: []int64{id}})
}
