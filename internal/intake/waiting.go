package intake

import (
	"fmt"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// endWaiting ends the waiting for those who have written, each with its line in
// the journal, and says so.
func endWaiting(t store.Tx, box int64, p store.Person, from []mail.Address, now when.Instant) (changes []inbox.Change, notice journal.Notice, err error) {
	var addresses []string
	for _, a := range from {
		if !slices.Contains(addresses, a.Address) {
			addresses = append(addresses, a.Address)
		}
	}
	rows, err := store.FollowUps(t).WaitingFor(box, addresses)
	if err != nil || len(rows) == 0 {
		return nil, notice, err
	}
	var entries []*store.Entry
	for _, r := range rows {
		before, after := r.Data, p.FollowUp.Answered(r.Data, now)
		after.Card = after.Open()
		c := inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after}
		changes = append(changes, c)
		entries = append(entries, &store.Entry{BoxID: box, PersonID: p.ID, Actor: store.ByMail, Kind: inbox.WaitEnded, At: now, Count: 1, ConversationID: before.Conversation,
			Text: before.With.Short() + " has written: " + before.Title, Changes: []inbox.Change{c}})
	}
	if err := store.Journal(t).Record(entries...); err != nil {
		return nil, notice, err
	}
	notice.Text, notice.FollowUp = rows[0].Data.With.Short()+" has written; you need not wait any more: “"+rows[0].Data.Title+"”.", rows[0].Data.UID
	if n := len(rows) - 1; n > 0 {
		notice.Text += fmt.Sprintf(" And %d more.", n)
	}
	return changes, notice, store.Conversations(t).Apply(box, p.ID, changes)
}
