package desk

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/runner"
	"ebbe/internal/store"
)

// comeBack brings back what was snoozed until now.
func (d *Desk) comeBack(b *runner.Box, things []store.Thing) error {
	ids := make([]int64, len(things))
	for i, th := range things {
		ids[i] = th.ConversationID
	}
	k := d.gateOf(b)
	answered, err := k.Answered(ids)
	if err != nil {
		return err
	}
	b.Changes = append(b.Changes, answered.Changes...)
	state, err := store.Conversations(b.T).State(b.ID, b.Person.ID, ids, nil)
	if err != nil {
		return err
	}
	rows, err := store.Conversations(b.T).ConversationRows(b.ID, ids)
	if err != nil {
		return err
	}
	today := when.DayStart(b.Now, b.Person.Week.Location(), 0)
	var done happened
	for _, th := range things {
		before, ok := state.Conversations[th.ConversationID]
		since := th.At
		if since < today { // it was due on a day when the program was off
			since = max(today, b.Late+1)
			b.Late = since
		}
		after := inbox.ComeBack(before, since, b.Now, k.Holds(th.At))
		if !ok || after == before { // it waits no more
			if err := store.Agenda(b.T).DropThing(th.ID); err != nil {
				return err
			}
			continue
		}
		text := ""
		if row := rows[th.ConversationID]; row != nil {
			text = row.Subject
		}
		done.add(inbox.Return, th.ConversationID, text, inbox.Change{Before: &before, After: &after})
	}
	return done.record(b)
}
