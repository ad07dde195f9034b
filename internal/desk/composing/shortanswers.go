package composing

import (
	"context"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/received"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// ShortAnswers proposes answers to the newest message of a conversation that
// somebody else wrote, with times at which the user's calendar is free.
func (d *Desk) ShortAnswers(ctx context.Context, who identity.Who, conversation int64) (out []string, err error) {
	now := d.Journal.Now()
	out = []string{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		l, _, err := received.Source(t, who, conversation)
		if err != nil {
			return err
		}
		slots, err := calendars.SlotsOf(t, who, now, when.DayStart(now, who.Week.Location(), openingDays+1))
		if err != nil {
			return err
		}
		var free []writing.Free
		for _, m := range calendar.Openings(slots, who.Week, now, openingDays) {
			free = append(free, writing.Free(who.Week.Say(m, now)))
		}
		out = append(out, writing.ShortAnswers(mail.Message{Kind: l.Kind, Text: l.Text}, free)...)
		return nil
	})
	return out, err
}

// openingDays is how many days ahead times are proposed.
const openingDays = 10
