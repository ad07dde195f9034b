package deliveries

import (
	"context"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Hold holds all mail by hand, lets it in as it is sent, or (with the empty
// mode) lets the plan decide again.
func (d *Desk) Hold(ctx context.Context, who identity.Who, h delivery.Hand) (said string, err error) {
	if err := who.May(together.Serve); err != nil {
		return said, err
	}
	h.Until = h.Until.Realign()
	err = d.settle(ctx, who, func(s *delivery.Settings, now when.Instant) (store.Entry, error) {
		if h.Mode != delivery.ModePlan && !h.Until.IsZero() && h.Until.At <= now {
			return store.Entry{}, problem.Invalid("until", "That time has passed, so nothing was changed. Choose one that is still ahead.")
		}
		until := ""
		if !h.Until.IsZero() {
			until = " until " + who.Week.Say(h.Until, now)
		}
		e := store.Entry{Kind: inbox.HoldMail, Text: "all mail" + until}
		switch h.Mode {
		case delivery.ModeHold:
			said = "Held by hand" + until + "."
		case delivery.ModeOpen:
			e.Kind, said = inbox.OpenMail, "Mail comes in as it is sent"+until+"."
		default:
			e = store.Entry{Kind: inbox.EndHand, Text: "mail comes in as it is sent"}
			if p := s.Plan(); p != nil {
				e.Text = "“" + p.Name + "” decides again"
			}
			said = say.Upper(e.Text) + "."
		}
		if h.From = now; h.Mode == delivery.ModePlan && s.Hand.Mode == delivery.ModeHold {
			// The hold ends now, as if that had been its time.
			s.Hand.Until = when.Moment{At: now}
		} else {
			s.Hand = h
		}
		return e, nil
	})
	return said, err
}
