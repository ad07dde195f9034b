package followups

import (
	"context"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
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
		p, err := store.People(t).PersonByID(who.Person)
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

// Choose stores how the user works with follow-ups. What lies in a
// stage that goes is in the first one of its meaning then.
func (d *Desk) Choose(ctx context.Context, who identity.Who, s followup.Settings) error {
	for i := range s.Stages {
		if s.Stages[i].ID == "" {
			s.Stages[i].ID = uuid.NewString()
		}
		s.Stages[i].Name = strings.Join(strings.Fields(s.Stages[i].Name), " ")
	}
	for i := range s.Views {
		if s.Views[i].ID == "" {
			s.Views[i].ID = uuid.NewString()
		}
	}
	if s.Views == nil {
		s.Views = []followup.View{}
	}
	if err := s.Valid(); err != nil {
		return problem.Invalid("stages", "Nothing was changed: "+err.Error()+".")
	}
	err := d.store.Write(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Person)
		if err != nil {
			return err
		}
		s.Called = p.FollowUp.Called
		p.FollowUp = s
		if err := store.People(t).PutPerson(&p, who.Box, nil); err != nil {
			return err
		}
		if err := store.FollowUps(t).Restage(who.Box, s); err != nil {
			return err
		}
		return CallForClosing(t, who.Box, p, d.Journal.Now())
	})
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicFollowUps, journal.TopicPerson}})
	}
	return err
}
