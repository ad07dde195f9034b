package desk

import (
	"context"
	"fmt"
	netmail "net/mail"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
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
		return d.adopt(t, who)
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
				return d.adopt(t, who)
			}
		}
		return nil
	})
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicPerson, journal.TopicMail}})
	}
	return err
}

// adopt gives a person what is theirs in the box, with a line in the journal
// for what left the inbox because nobody else had written in it.
func (d *Desk) adopt(t store.Tx, who identity.Who) error {
	before, err := t.CountPlace(who.Box, inbox.Inbox)
	if err != nil {
		return err
	}
	if err := t.Adopt(who.Box, who.Person, d.now()); err != nil {
		return err
	}
	after, err := t.CountPlace(who.Box, inbox.Inbox)
	if err != nil || after == before {
		return err
	}
	return t.Record(&store.Entry{BoxID: who.Box, PersonID: who.Person, Actor: store.ByMail, Kind: inbox.Import, At: d.now(),
		Delta: after - before, Count: before - after, Text: "Your own messages left the inbox"})
}
