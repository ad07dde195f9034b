package desk

import (
	"ebbe/internal/core/facts"
	"ebbe/internal/core/inbox"
	"ebbe/internal/runner"
	"ebbe/internal/store"
	"ebbe/internal/store/telling"
)

// binCodes bins what has brought nothing but codes for signing in, once that has lain in
// the inbox for an hour. What the user has decided, starred, labelled or written on, and
// what says more, stays; what is held waits until it has been in view for as long.
func (d *Desk) binCodes(b *runner.Box, things []store.Thing) error {
	ids := make([]int64, len(things))
	for i, th := range things {
		ids[i] = th.ConversationID
	}
	state, err := store.Conversations(b.T).State(b.ID, b.Person.ID, ids, nil)
	if err != nil {
		return err
	}
	rows, err := store.Conversations(b.T).ConversationRows(b.ID, ids)
	if err != nil {
		return err
	}
	followed, err := store.FollowUps(b.T).FollowUpsOf(b.ID, ids)
	if err != nil {
		return err
	}
	var done happened
	for _, th := range things {
		c, ok := state.Conversations[th.ConversationID]
		over := c.Since + facts.CodeFor
		switch {
		case ok && c.Place == inbox.Held:
			over = b.Now + facts.CodeFor
			fallthrough
		case ok && c.Place == inbox.Inbox && over > b.Now:
			if err := store.Agenda(b.T).Put(b.ID, inbox.CodeOver, c.ID, over); err != nil {
				return err
			}
			continue
		}
		if err := store.Agenda(b.T).DropThing(th.ID); err != nil {
			return err
		}
		touched := c.Starred || c.Note != "" || c.Title != "" || len(c.Labels.IDs()) > 0 || len(followed[c.ID]) > 0
		if !ok || !b.Person.Habits.BinCodes || c.Place != inbox.Inbox || c.Reason == inbox.Decided || touched {
			continue
		}
		if only, err := telling.Facts(b.T).OnlyCodes(b.ID, c.ID); err != nil || !only {
			if err != nil {
				return err
			}
			continue
		}
		after, text := c.In(inbox.Bin, b.Now), ""
		if row := rows[c.ID]; row != nil {
			text = row.Subject
		}
		done.add(inbox.CodeOver, c.ID, text, inbox.Change{Before: &c, After: &after})
		done.entries[len(done.entries)-1].Step = true
	}
	return done.record(b)
}
