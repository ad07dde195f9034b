package desk

import (
	"context"
	"fmt"
	netmail "net/mail"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// SetUp stores the first person and gives them the mail that was imported
// before. It is refused once there is somebody.
func (d *Desk) SetUp(ctx context.Context, s identity.Signup, more ...store.OwnAddress) error {
	return d.People.SetUp(ctx, s, more, d.welcome)
}

// AddPerson stores one more person, with a box of their own.
func (d *Desk) AddPerson(ctx context.Context, s identity.Signup, more ...store.OwnAddress) error {
	return d.People.Add(ctx, s, more, d.welcome)
}

// welcome does what a new person needs: their day is closed at its time, and what
// lies in their box already is theirs.
func (d *Desk) welcome(t store.Tx, who identity.Who, p store.Person) error {
	if err := followups.CallForClosing(t, who.Box, p, d.Now()); err != nil {
		return err
	}
	return intake.Adopt(t, who, d.Now())
}

// BoxFor is the box of whoever signs in with an address. Without one it is the box
// of the only person, or that of mail imported before anybody was there.
func (d *Desk) BoxFor(ctx context.Context, address string) (box int64, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		people, err := store.People(t).People()
		if err != nil {
			return err
		}
		var names []string
		for _, p := range people {
			if names = append(names, p.Address); strings.EqualFold(p.Address, address) || address == "" && len(people) == 1 {
				box, err = store.People(t).BoxOf(p.ID)
				return err
			}
		}
		switch {
		case address != "":
			return fmt.Errorf("nobody signs in with %s here; these do: %s", address, strings.Join(names, ", "))
		case len(people) > 1:
			return fmt.Errorf("say whose mail it is with --for: %s", strings.Join(names, ", "))
		}
		box = store.FirstBox
		return nil
	})
	return box, err
}

// Settings gives what the person has chosen.
func (d *Desk) Settings(ctx context.Context, who identity.Who) (s Settings, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Person)
		if err != nil {
			return err
		}
		own, err := store.People(t).OwnAddresses(who.Box)
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
	if err := checkHabits(s.Week, s.Habits, d.Now()); err != nil {
		return err
	}
	err := d.store.Write(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Person)
		if err != nil {
			return err
		}
		known, err := store.People(t).OwnAddresses(who.Box)
		if err != nil {
			return err
		}
		someday, moved := decide.SomedayOf(p.Habits) != decide.SomedayOf(s.Habits), p.Week.Zone != s.Week.Zone
		p.Week, p.Theme, p.Habits = s.Week, s.Theme, s.Habits
		if err := store.People(t).PutPerson(&p, who.Box, own); err != nil {
			return err
		}
		if someday {
			if err := decide.MoveSomeday(t, who, s.Week, s.Habits, d.Now()); err != nil {
				return err
			}
		}
		if err := followups.RealignFollowUps(t, who.Box); err != nil {
			return err
		}
		if err := followups.CallForClosing(t, who.Box, p, d.Now()); err != nil {
			return err
		}
		if moved { // the times of the plan are those of the new zone from now on
			gate := intake.Gate{T: t, Box: who.Box, Person: p, Now: d.Now()}
			if _, err := gate.Renew(); err != nil {
				return err
			}
		}
		for _, a := range own {
			if !slices.ContainsFunc(known, func(k store.OwnAddress) bool { return k.Address == a.Address }) {
				return intake.Adopt(t, who, d.Now())
			}
		}
		return nil
	})
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicPerson, journal.TopicMail}})
	}
	return err
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
