package intake

import (
	"fmt"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/awaiting"
)

// endWaiting ends what was waited for where one of the messages that have come
// is the answer, each with its line in the journal, and says so. What may be
// the answer is offered.
func endWaiting(t store.Tx, box int64, p store.Person, came []followup.Came, now when.Instant) (changes []inbox.Change, notice journal.Notice, err error) {
	if len(came) == 0 {
		return nil, notice, nil
	}
	rows, err := awaiting.Awaited(t).Over(box, came)
	if err != nil || len(rows) == 0 {
		return nil, notice, err
	}
	var entries []*store.Entry
	var ended []followup.FollowUp
	for _, r := range rows {
		before, after := r.Data, r.Data
		by := before.With // who answered, if several are waited for
		for _, m := range came {
			switch after.Bearing(m, r.About...) {
			case followup.Answers:
				if len(before.Waits.Also) > 0 {
					by = m.From
				}
				if after = p.FollowUp.AnsweredBy(after, m.From, now); !after.Waiting() {
					after.Card = after.Open()
				}
			case followup.MayAnswer:
				after = after.Offer(followup.Candidate{Message: m.Message, Conversation: m.In[0], From: m.From, At: now})
			}
		}
		if after.Equal(before) {
			continue
		}
		was := before
		c := inbox.Change{FollowUpBefore: &was, FollowUpAfter: &after}
		changes = append(changes, c)
		if after.Waiting() {
			if len(after.Waits.Have) > len(before.Waits.Have) {
				notice.Text, notice.FollowUp = fmt.Sprintf("%s has answered “%s”; %s to.", by.Short(), before.Title, stillHave(len(after.Missing()))), before.UID
			}
			continue
		}
		before.With = by // in what is said
		ended = append(ended, before)
		entries = append(entries, &store.Entry{BoxID: box, PersonID: p.ID, Actor: store.ByMail, Kind: inbox.WaitEnded, At: now, Count: 1, ConversationID: before.Conversation,
			Text: before.With.Short() + " has answered: " + before.Title, Changes: []inbox.Change{c}})
	}
	if len(changes) == 0 {
		return nil, notice, nil
	}
	if err := store.Journal(t).Record(entries...); err != nil {
		return nil, notice, err
	}
	if len(ended) > 0 {
		notice.Text, notice.FollowUp = ended[0].With.Short()+" has answered; you need not wait any more: “"+ended[0].Title+"”.", ended[0].UID
	}
	if n := len(ended) - 1; n > 0 {
		notice.Text += fmt.Sprintf(" And %d more.", n)
	}
	return changes, notice, store.Conversations(t).Apply(box, p.ID, changes)
}

func stillHave(n int) string {
	if n == 1 {
		return "1 still has"
	}
	return fmt.Sprintf("%d still have", n)
}
