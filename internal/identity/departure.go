package identity

import (
	"context"
	"fmt"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Departure is how a person leaves this Ebbe with all that is theirs: by their own will, or
// sent by whoever looks after the people. What is theirs goes when the time has come
// (room desk/leaving); until then they can stay after all.
type Departure struct{ *Directory }

var (
	errAlone   = &problem.Error{Type: "last-admin", Text: "You are the only one here: all there is would go. Stop Ebbe and remove its data folder for that. Nothing was changed."}
	errLeaving = &problem.Error{Type: "leaving", Text: "They have left already, and what was theirs is being removed. Nothing was changed."}
)

const mostNotice = 90 // days

// Leave has a person who shows their password leave in some days (0: now). Later they are
// signed in until then.
func (d Departure) Leave(ctx context.Context, who Who, password string, days int) error {
	p, err := d.sure(ctx, who, password)
	if err != nil {
		return err
	}
	return d.set(ctx, p.ID, days, "")
}

// Stay has a person not leave after all.
func (d Departure) Stay(ctx context.Context, who Who) error { return d.keep(ctx, who.Person) }

// Send has whoever looks after the people send somebody away in some days (0: now). What
// they have open ends, so that they hear of it when they sign in next. It gives who it is.
func (d Departure) Send(ctx context.Context, who Who, person int64, days int) (p store.Person, err error) {
	if !who.Admin {
		return p, errNotAdmin
	}
	at := time.Now().AddDate(0, 0, days)
	tell := fmt.Sprintf("Your time in this Ebbe ends on %s: all that is yours here is removed then, and nothing of it on the servers of your accounts. Until then you can take it with you: Setup, Signing in.", at.Format("2 January 2006, 15:04"))
	if err := d.set(ctx, person, days, tell); err != nil {
		return p, err
	}
	if err := d.endAll(ctx, person, ""); err != nil {
		return p, err
	}
	return d.person(ctx, person)
}

// Keep has whoever looks after the people let somebody stay after all.
func (d Departure) Keep(ctx context.Context, who Who, person int64) error {
	if !who.Admin {
		return errNotAdmin
	}
	return d.keep(ctx, person)
}

// SendCalled is Send by whoever has the machine, of whoever signs in with an address, now.
func (d Departure) SendCalled(ctx context.Context, address string) (p store.Person, err error) {
	who, err := d.Called(ctx, address)
	if err != nil {
		return p, err
	}
	if err := d.set(ctx, who.Person, 0, ""); err != nil {
		return p, err
	}
	return d.person(ctx, who.Person)
}

func (d Departure) set(ctx context.Context, person int64, days int, tell string) error {
	if days < 0 || days > mostNotice {
		return problem.Invalid("days", fmt.Sprintf("That can be now, or in up to %d days. Nothing was changed.", mostNotice))
	}
	now := time.Now()
	err := d.store.Write(ctx, func(t store.Tx) error {
		people, err := store.People(t).People()
		if err != nil {
			return err
		}
		found, stay := false, 0
		for _, p := range people {
			switch {
			case p.ID == person && gone(p, now):
				return errLeaving
			case p.ID == person:
				found = true
			case looksAfter(p):
				stay++
			}
		}
		switch {
		case !found:
			return store.ErrNotFound
		case len(people) == 1:
			return errAlone
		case stay == 0:
			return errLast
		}
		columns := map[string]any{"leaves": when.Of(now.AddDate(0, 0, days))}
		if tell != "" {
			columns["tell"] = tell
		}
		return store.People(t).ChangePerson(person, columns)
	})
	if err == nil && days == 0 {
		err = d.endAll(ctx, person, "")
	}
	return err
}

func (d Departure) keep(ctx context.Context, person int64) error {
	return d.store.Write(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(person)
		if err != nil {
			return err
		}
		if gone(p, time.Now()) {
			return errLeaving
		}
		columns := map[string]any{"leaves": 0}
		if p.Leaves > 0 {
			columns["tell"] = ""
		}
		return store.People(t).ChangePerson(person, columns)
	})
}

// gone says that a person has left: nobody is them any more.
func gone(p store.Person, now time.Time) bool { return p.Leaves > 0 && p.Leaves <= when.Of(now) }

// looksAfter says that a person looks after the others, and goes on doing so.
func looksAfter(p store.Person) bool { return p.Admin && !p.Paused && p.Leaves == 0 }
