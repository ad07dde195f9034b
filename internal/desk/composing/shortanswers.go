package composing

import (
	"context"
	"slices"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/received"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// ShortAnswers proposes answers to the newest message of a conversation that somebody
// else wrote, a line for each thing it asks. Where it asks when something suits, they
// are times of the stretch it asks about at which the user's calendar is free.
func (d *Desk) ShortAnswers(ctx context.Context, who identity.Who, conversation int64) (out []writing.AnswerLine, err error) {
	now, w := d.Journal.Now(), who.Week
	out = []writing.AnswerLine{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		l, _, err := received.Source(t, who, conversation)
		if err != nil {
			return err
		}
		asks := followup.Asks(l, w)
		soon := when.Stretch{From: now, To: when.DayStart(now, w.Location(), openingDays+1)}
		about := func(a followup.Ask) when.Stretch {
			for _, text := range []string{a.Words, l.Text} {
				if s := w.Asked(text, l.Language, l.Written); s.To > now {
					return s
				}
			}
			return soon
		}
		until := now
		for _, a := range asks {
			if a.Kind == followup.AskTime {
				until = max(until, min(about(a).To, when.DayStart(now, w.Location(), farAhead)))
			}
		}
		var slots []calendar.Slot
		if until > now {
			if slots, err = calendars.SlotsOf(t, who, now, until); err != nil {
				return err
			}
		}
		out = slices.Concat(out, writing.ShortAnswers(l, asks, func(a followup.Ask) []when.Moment {
			in := about(a)
			in.To = min(in.To, until)
			return calendar.Openings(slots, w, now, in)
		}, w, now))
		return nil
	})
	return out, err
}

const (
	openingDays = 10  // days ahead in which times are proposed where nobody named a stretch
	farAhead    = 400 // days ahead to which a calendar is read for it
)
