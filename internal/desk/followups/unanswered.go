package followups

import (
	"context"
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/received"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
)

// The days between which a question waits for an answer before it is offered,
// and after which it no longer is; and how many messages are looked through.
const (
	askedDays  = 2 // working days
	askedAtAll = 30
	askedMost  = 60
)

// Unanswered gives the questions of the user that nobody has answered: asked of
// one person alone, some working days ago, with nothing after them.
func (d *Desk) Unanswered(ctx context.Context, who identity.Who) (out []Unanswered, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	until := now.In(loc)
	for n := 0; n < askedDays; {
		until = until.AddDate(0, 0, -1)
		if who.Week.Works(until.Weekday()) {
			n++
		}
	}
	out = []Unanswered{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := drafting.Drafts(t).LastWords(who.Box, who.Person, when.Of(now.Time().Add(-askedAtAll*24*time.Hour)), when.Of(until), askedMost)
		if err != nil {
			return err
		}
		ids := make([]int64, len(rows))
		for i, m := range rows {
			ids[i] = m.ID
		}
		originals, err := store.Messages(t).Bytes(ids)
		if err != nil {
			return err
		}
		for _, m := range rows {
			if q := writing.Questions(received.OwnWords(originals[m.ID])); len(q) > 0 {
				out = append(out, Unanswered{Message: m.ID, Conversation: m.ConversationID, To: m.To[0], Subject: mail.Title(m.Subject), Asked: q[0], At: m.Date})
			}
		}
		return nil
	})
	return out, err
}

// DismissUnanswered notes that the user does not wait for an answer to a message.
func (d *Desk) DismissUnanswered(ctx context.Context, who identity.Who, message int64) error {
	err := d.store.Write(ctx, func(t store.Tx) error {
		if _, err := store.Messages(t).MessageRow(who.Box, message); err != nil {
			return err
		}
		return drafting.Drafts(t).Unask(who.Person, message)
	})
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicFollowUps}})
	}
	return err
}
