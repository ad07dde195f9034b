package followups

import (
	"context"
	"slices"

	"ebbe/internal/core/followup"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// RealignFollowUps computes anew what the agenda says of all open follow-ups,
// after the day parts or the zone have changed.
func RealignFollowUps(t store.Tx, box int64) error {
	all, err := store.FollowUps(t).AllFollowUps(box)
	if err != nil {
		return err
	}
	return store.FollowUps(t).PutFollowUps(box, slices.DeleteFunc(all, func(f followup.FollowUp) bool { return !f.Open() }))
}

// Settings gives how the user works with follow-ups.
func (d *Desk) Settings(ctx context.Context, who identity.Who) (s FollowUpSettings, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		s.Settings, s.Feed = p.FollowUp, p.Feed != ""
		if s.Projects, err = store.FollowUps(t).Named(who.Box, "project"); err != nil {
			return err
		}
		s.Contexts, err = store.FollowUps(t).Named(who.Box, "context")
		return err
	})
	return s, err
}
