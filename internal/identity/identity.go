// Package identity knows who somebody is: the people of this Ebbe, their
// passwords (argon2id, RFC 9106), the browsers they are signed in with, and how
// guessing is slowed down. It knows nothing of mail.
//
// Sessions and the throttle go by the clock of the machine, never by the one of
// the demo, which can be moved.
package identity

import (
	"cmp"
	"context"
	"crypto/rand"
	"strings"
	"sync"

	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
)

// Who is a signed-in person and the box they work in.
type Who struct {
	Person int64
	Box    int64
	Week   when.Week
	Admin  bool          // they look after the people of this Ebbe
	Team   int64         // in the box of a team: the row of people that stands for it; 0: the box is the person's own
	Role   together.Role // in the box of a team
}

// Keeper is whose settings hold for the box: the person's, or the team's.
func (w Who) Keeper() int64 { return cmp.Or(w.Team, w.Person) }

// Itself is who works in the box by itself: the person, or the team.
func (w Who) Itself() Who { return Who{Person: w.Keeper(), Box: w.Box, Week: w.Week} }

// May refuses what the person may not do in the box they work in (together.Act).
func (w Who) May(a together.Act) error {
	role := w.Role
	if w.Team == 0 {
		role = together.Own
	}
	switch {
	case role.May(a):
		return nil
	case together.Steward.May(a) && w.Team != 0:
		return &problem.Error{Type: "not-allowed", Text: "Only those who look after this team can do that. Nothing was changed."}
	}
	return &problem.Error{Type: "not-allowed", Text: "That is done in the box of a team. Nothing was changed."}
}

// Of is who works in a box by itself, as rules and the clock do: its person, or the team.
func Of(t store.Tx, box int64) (who Who, err error) {
	keeper, err := store.People(t).Keeper(box)
	if err != nil || keeper == 0 {
		return Who{Box: box}, err
	}
	p, err := store.People(t).PersonByID(keeper)
	return Who{Person: keeper, Box: box, Week: p.Week}, err
}

// Directory is the people of this Ebbe.
type Directory struct {
	store      *store.Store
	demo       bool
	now        func() when.Instant // by the clock people see; used for nothing but when somebody came
	tries      throttle
	checks     checks
	open       open
	ceremonies ceremonies
	Key        secrets.Key // seals what is needed to check codes by the time

	mu        sync.Mutex
	instance  string
	setupCode string // that whoever sets Ebbe up has to show; "": none
}

// New is the directory of the people in a store. In the demo, one click signs
// in, and the password may be short.
func New(s *store.Store, now func() when.Instant, demo bool) *Directory {
	return &Directory{store: s, demo: demo, now: now, checks: newChecks()}
}

// Instance tells this Ebbe from others on the same machine: what a browser keeps
// for one is not given to another.
func (d *Directory) Instance(ctx context.Context) (id string, err error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.instance != "" {
		return d.instance, nil
	}
	err = d.store.Write(ctx, func(t store.Tx) (err error) {
		if id, err = t.Meta("instance"); err != nil || id != "" {
			return err
		}
		id = strings.ToLower(rand.Text())[:8]
		return t.SetMeta("instance", id)
	})
	if err == nil {
		d.instance = id
	}
	return id, err
}
