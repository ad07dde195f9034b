package desk

import (
	"context"
	"fmt"
	netmail "net/mail"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// SetUp stores the first person and gives them the mail that was imported
// before. It is refused once there is somebody.
func (d *Desk) SetUp(ctx context.Context, s identity.Signup, more ...store.OwnAddress) error {
	return d.People.SetUp(ctx, s, more, func(t store.Tx, who identity.Who, p store.Person) error {
		if err := callForClosing(t, who.Box, p, d.now()); err != nil {
			return err
		}
		return intake.Adopt(t, who, d.now())
	})
}

// Settings gives what the person has chosen.
func (d *Desk) Settings(ctx context.Context, who identity.Who) (s Settings, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		own, err := t.OwnAddresses(who.Box)
		for _, a := range own {
			s.Addresses = append(s.Addresses, a.Address)
		}
		s.Week, s.Theme, s.Habits = p.Week, p.Theme, p.Habits
		return err
	})
	return s, err
}

// Choose stores settings. Addresses are added to, not replaced: mail from a new
// one counts as the person's own from then on.
func (d *Desk) Choose(ctx context.Context, who identity.Who, s Settings) error {
	if err := s.Week.Valid(); err != nil {
		return problem.Invalid("week", "Nothing was changed: "+err.Error()+".")
	}
	var own []store.OwnAddress
	for _, a := range s.Addresses {
		a = strings.ToLower(strings.TrimSpace(a))
		if parsed, err := netmail.ParseAddress(a); err != nil || parsed.Address != a {
			return problem.Invalid("addresses", fmt.Sprintf("Nothing was changed: “%s” is no mail address.", a))
		}
		own = append(own, store.OwnAddress{Address: a})
	}
	if s.Theme != "" && s.Theme != "light" && s.Theme != "dark" {
		return problem.Invalid("theme", "Nothing was changed: the theme is light, dark, or that of the machine.")
	}
	if err := checkHabits(s.Week, s.Habits, d.now()); err != nil {
		return err
	}
	err := d.store.Write(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		known, err := t.OwnAddresses(who.Box)
		if err != nil {
			return err
		}
		someday, moved := somedayOf(p.Habits) != somedayOf(s.Habits), p.Week.Zone != s.Week.Zone
		p.Week, p.Theme, p.Habits = s.Week, s.Theme, s.Habits
		if err := t.PutPerson(&p, who.Box, own); err != nil {
			return err
		}
		if someday {
			if err := moveSomeday(t, who, s.Week, s.Habits, d.now()); err != nil {
				return err
			}
		}
		if err := realignFollowUps(t, who.Box); err != nil {
			return err
		}
		if err := callForClosing(t, who.Box, p, d.now()); err != nil {
			return err
		}
		if moved { // the times of the plan are those of the new zone from now on
			gate := intake.Gate{T: t, Box: who.Box, Person: p, Now: d.now()}
			if _, err := gate.Renew(); err != nil {
				return err
			}
		}
		for _, a := range own {
			if !slices.ContainsFunc(known, func(k store.OwnAddress) bool { return k.Address == a.Address }) {
				return intake.Adopt(t, who, d.now())
			}
		}
		return nil
	})
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicPerson, journal.TopicMail}})
	}
	return err
}

// somedayOf is the day of the month on which what waits for someday is looked
// through: the first, unless the user has chosen another.
func somedayOf(h store.Habits) int {
	if h.Someday < 1 || h.Someday > 28 {
		return 1
	}
	return h.Someday
}

// checkHabits says in a sentence what is wrong with them.
func checkHabits(w when.Week, h store.Habits, now when.Instant) error {
	if h.Someday < 0 || h.Someday > 28 {
		return problem.Invalid("someday", "Nothing was changed: the day for someday is one from 1 to 28, which every month has.")
	}
	if len(h.Combos) > 20 || len(h.Keys) > 200 {
		return problem.Invalid("combos", "Nothing was changed: there is room for twenty combos.")
	}
	ids := map[string]bool{}
	for _, c := range h.Combos {
		if err := c.Valid(); err != nil {
			return problem.Invalid("combos", "Nothing was changed: "+err.Error()+".")
		}
		if c.ID == "" || ids[c.ID] {
			return problem.Invalid("combos", "Nothing was changed: two combos are taken for the same one. Load the page again.")
		}
		ids[c.ID] = true
		for _, s := range c.Steps {
			if s.Kind == inbox.Snooze && s.Phrase == "" {
				return problem.Invalid("combos", fmt.Sprintf("Nothing was changed: the combo “%s” snoozes, but does not say until when.", c.Name))
			}
			if r := w.Read(s.Phrase, now); s.Phrase != "" && r.Doubt != "" && r.Moment.IsZero() {
				return problem.Invalid("combos", fmt.Sprintf("Nothing was changed: the combo “%s” says “%s”. %s", c.Name, s.Phrase, r.Sentence))
			}
		}
	}
	return nil
}

// moveSomeday lets what waits for someday come back on the day chosen now.
func moveSomeday(t store.Tx, who identity.Who, w when.Week, h store.Habits, now when.Instant) error {
	ids, err := t.SomedayIDs(who.Box)
	if err != nil {
		return err
	}
	m := w.MonthDay(somedayOf(h), now)
	for _, id := range ids {
		if err := t.MoveReturn(who.Box, id, m); err != nil {
			return err
		}
	}
	return nil
}

// realignFollowUps computes anew what the agenda says of all open follow-ups,
// after the day parts or the zone have changed.
func realignFollowUps(t store.Tx, box int64) error {
	all, err := t.AllFollowUps(box)
	if err != nil {
		return err
	}
	return t.PutFollowUps(box, slices.DeleteFunc(all, func(f followup.FollowUp) bool { return !f.Open() }))
}

// FollowUpSettings gives how the user works with follow-ups.
func (d *Desk) FollowUpSettings(ctx context.Context, who identity.Who) (s FollowUpSettings, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		s.Settings, s.Feed = p.FollowUp, p.Feed != ""
		if s.Projects, err = t.Named(who.Box, "project"); err != nil {
			return err
		}
		s.Contexts, err = t.Named(who.Box, "context")
		return err
	})
	return s, err
}

// ChooseFollowUps stores how the user works with follow-ups. What lies in a
// stage that goes is in the first one of its meaning then.
func (d *Desk) ChooseFollowUps(ctx context.Context, who identity.Who, s followup.Settings) error {
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
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		s.Called = p.FollowUp.Called
		p.FollowUp = s
		if err := t.PutPerson(&p, who.Box, nil); err != nil {
			return err
		}
		if err := t.Restage(who.Box, s); err != nil {
			return err
		}
		return callForClosing(t, who.Box, p, d.now())
	})
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicFollowUps, journal.TopicPerson}})
	}
	return err
}
