package desk

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Decide takes a decision and stores it with its line in the journal. The key
// makes it safe to repeat. Conversations that no longer exist are passed over;
// if none is left the error says so.
func (d *Desk) Decide(ctx context.Context, who Who, key string, req Decision) (Decided, error) {
	if len(req.Conversations) == 0 {
		return Decided{}, invalid("conversations", "No conversation was chosen, so nothing was decided.")
	}
	now := d.now()
	req.Return = req.Return.Realign()
	var changes []inbox.Change
	out, fresh, err := once(ctx, d, who, key, func(t store.Tx) (out Decided, err error) {
		if changes, err = d.changes(t, who, req, now); err != nil {
			return out, err
		}
		return d.commit(t, who, store.Entry{Kind: req.Kind, At: now}, changes, req.sentence(who.Week, now))
	})
	if errors.Is(err, inbox.ErrPast) {
		return out, invalid("return", "That time has passed, so nothing was snoozed. Choose one that is still ahead.")
	}
	if fresh {
		d.tell(who.Box, key, changes)
	}
	return out, err
}

func (req Decision) sentence(w when.Week, now when.Instant) func(n int) string {
	return func(n int) string {
		many := ""
		if n > 1 {
			many = fmt.Sprintf(" %d", n)
		}
		switch req.Kind {
		case inbox.ToBin:
			return "Binned" + many + "."
		case inbox.Archive:
			return "Archived" + many + "."
		case inbox.ToInbox:
			return "Back in the inbox."
		case inbox.Snooze:
			return "Back " + w.Say(req.Return, now) + "."
		case inbox.Star:
			return "Starred."
		case inbox.Unstar:
			return "No longer starred."
		case inbox.MarkUnread:
			return "Marked unread."
		case inbox.MakeFollowUp:
			if req.FollowUp != nil && !req.FollowUp.Due.IsZero() {
				return "Follow-up made, due " + w.Say(req.FollowUp.Due, now) + "."
			}
			return "Follow-up made."
		}
		return ""
	}
}

// changes asks the core what the decision changes.
func (d *Desk) changes(t store.Tx, who Who, req Decision, now when.Instant) (changes []inbox.Change, err error) {
	ids := req.Conversations
	for i := range ids {
		if id, err := t.Resolve(who.Box, ids[i]); err == nil {
			ids[i] = id
		} else if !isMissing(err) {
			return nil, err
		}
	}
	state, err := t.State(who.Box, who.Person, ids, nil)
	if err != nil {
		return nil, err
	}
	if len(state.Conversations) == 0 {
		return nil, store.ErrNotFound
	}
	core := inbox.Decision{Kind: req.Kind, Return: req.Return}
	if req.Kind == inbox.MakeFollowUp {
		if req.FollowUp == nil {
			return nil, invalid("followUp", "Nothing was said about the follow-up, so none was made. Give it a title.")
		}
		core.Kind = inbox.Archive
		if req.FollowUp.Keep {
			core.Kind = inbox.ToInbox
		}
	}
	for _, id := range ids {
		before, ok := state.Conversations[id]
		if !ok {
			continue
		}
		after, err := inbox.Decide(before, core, now)
		if err != nil {
			return nil, err
		}
		if req.Kind == inbox.MakeFollowUp {
			f, err := d.newFollowUp(t, who, id, *req.FollowUp, now)
			if err != nil {
				return nil, err
			}
			changes = append(changes, inbox.Change{FollowUpAfter: &f})
		}
		if c := (inbox.Change{Before: &before, After: &after}); !c.Nothing() {
			changes = append(changes, c)
		}
	}
	return changes, nil
}

func (d *Desk) newFollowUp(t store.Tx, who Who, conversation int64, n NewFollowUp, now when.Instant) (f followup.FollowUp, err error) {
	f = followup.FollowUp{UID: uuid.NewString(), Status: followup.NeedsAction, Conversation: conversation, Made: now}
	messages, err := t.MessagesOf(who.Box, conversation)
	if err != nil {
		return f, err
	}
	for _, m := range messages {
		if !m.Own || f.Message == "" {
			f.Message = m.MessageID
		}
	}
	return f, n.write(&f, now)
}

// write puts what the user said into the follow-up.
func (n NewFollowUp) write(f *followup.FollowUp, now when.Instant) error {
	f.Title, f.Due, f.Priority = strings.Join(strings.Fields(n.Title), " "), n.Due.Realign(), n.Priority
	if f.Priority == 0 {
		f.Priority = followup.Normal
	}
	if remind := n.Remind.Realign(); remind != f.Remind {
		if !remind.IsZero() && remind.At <= now {
			return invalid("remind", "The time of the reminder has passed, so nothing was stored. Choose one that is still ahead.")
		}
		f.Remind, f.Card = remind, false
	}
	if err := f.Valid(); err != nil {
		return invalid("title", "Nothing was stored: "+err.Error()+".")
	}
	return nil
}

// commit stores changes with their line in the journal.
func (d *Desk) commit(t store.Tx, who Who, e store.Entry, changes []inbox.Change, sentence func(n int) string) (out Decided, err error) {
	for _, c := range changes {
		e.Delta += c.Delta()
		if c.After != nil || c.FollowUpAfter != nil || c.FollowUpBefore != nil {
			e.Count++
		}
	}
	if len(changes) > 0 {
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
// follow-up or the subject of the first conversation.
func about(t store.Tx, box int64, changes []inbox.Change) (conversation int64, text string, err error) {
	for _, c := range changes {
		f := c.FollowUpAfter
		if f == nil {
			f = c.FollowUpBefore
		}
		if f != nil {
			return f.Conversation, f.Title, nil
		}
	}
	id := changes[0].After.ID
	rows, err := t.ConversationRows(box, []int64{id})
	if err != nil || rows[id] == nil {
		return id, "", err
	}
	return id, rows[id].Subject, nil
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
	var changes []inbox.Change
	out, fresh, err := once(ctx, d, who, key, func(t store.Tx) (out Decided, err error) {
		find, none := t.LastStep, "There is nothing left to take back."
		if kind == inbox.Again {
			find, none = t.LastTakeBack, "There is nothing that was taken back last."
		}
		done, err := find(who.Person)
		if isMissing(err) {
			return out, &UserError{Type: "nothing-to-take-back", Text: none}
		}
		if err != nil {
			return out, err
		}
		if changes, err = reverted(t, who, done.Changes); err != nil {
			return out, err
		}
		step := store.Entry{Kind: kind, Actor: store.ByPerson, At: d.now(), Of: done.ID, Text: done.Text, ConversationID: done.ConversationID, BoxID: who.Box, PersonID: who.Person}
		if len(changes) == 0 { // the line is written all the same: it was asked for
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

func revertSentence(kind inbox.Kind, done store.Entry) string {
	what := "“" + done.Text + "”"
	if done.Count > 1 && done.Kind != inbox.MakeFollowUp {
		what = fmt.Sprintf("%d conversations", done.Count)
	}
	if kind == inbox.Again {
		return "Done again: " + what + "."
	}
	return "Taken back: " + what + "."
}

// reverted is what takes back the changes, given how everything is now.
func reverted(t store.Tx, who Who, done []inbox.Change) (changes []inbox.Change, err error) {
	var ids []int64
	var uids []string
	for _, c := range done {
		if c.After != nil {
			ids = append(ids, c.After.ID)
		}
		if f := c.FollowUpAfter; f != nil {
			uids = append(uids, f.UID)
		} else if f := c.FollowUpBefore; f != nil {
			uids = append(uids, f.UID)
		}
	}
	state, err := t.State(who.Box, who.Person, ids, uids)
	if err != nil {
		return nil, err
	}
	for _, c := range done {
		var now inbox.Change
		if c.After != nil {
			if s, ok := state.Conversations[c.After.ID]; ok {
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
		if r := inbox.Revert(c, now); !r.Nothing() {
			changes = append(changes, r)
		}
	}
	return changes, nil
}
