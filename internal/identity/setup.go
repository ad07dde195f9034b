package identity

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	netmail "net/mail"
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Signup is what Ebbe asks for when it is set up.
type Signup struct {
	Name     string `json:"name"`
	Address  string `json:"address"`
	Password string `json:"password"`
	Zone     string `json:"zone"` // IANA name, as the browser knows it
	// Languages are those the browser says the person reads (BCP 47), at most 20 looked at.
	Languages []string `json:"languages"`
}

// NeedsSetup says that nobody can sign in yet.
func (d *Directory) NeedsSetup(ctx context.Context) (needs bool, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		people, err := store.People(t).People()
		needs = len(people) == 0
		return err
	})
	return needs, err
}

// SetUp stores the first person, with these addresses besides that they sign in
// with, and the box of what was imported before; then does what is needed for them
// in the same transaction. It is refused once there is somebody. Errors about what
// was typed are of the type *problem.Error.
func (d *Directory) SetUp(ctx context.Context, s Signup, more []store.OwnAddress, then Then) error {
	return d.add(ctx, s, more, then, func(t store.Tx) (box int64, err error) {
		people, err := store.People(t).People()
		if err == nil && len(people) > 0 {
			err = &problem.Error{Type: "set-up-done", Text: "Ebbe is already set up here. Sign in instead."}
		}
		return store.FirstBox, err
	})
}

// Add stores one more person, with a box of their own. Errors about what was typed
// are of the type *problem.Error.
func (d *Directory) Add(ctx context.Context, s Signup, more []store.OwnAddress, then Then) error {
	return d.add(ctx, s, more, then, func(t store.Tx) (box int64, err error) {
		if _, err := store.People(t).PersonByAddress(strings.ToLower(strings.TrimSpace(s.Address))); !errors.Is(err, store.ErrNotFound) {
			return 0, cmp.Or(err, error(problem.Invalid("address", "Somebody signs in with that address already. Nobody was added.")))
		}
		return store.People(t).MakeBox(s.Name)
	})
}

// Then is what is needed for a new person, in the transaction that stores them.
type Then func(t store.Tx, who Who, p store.Person) error

func (d *Directory) add(ctx context.Context, s Signup, more []store.OwnAddress, then Then, boxFor func(store.Tx) (int64, error)) error {
	s.Name, s.Address = strings.TrimSpace(s.Name), strings.ToLower(strings.TrimSpace(s.Address))
	if s.Name == "" {
		return problem.Invalid("name", "Write your name: it stands above your mail.")
	}
	if a, err := netmail.ParseAddress(s.Address); err != nil || a.Address != s.Address {
		return problem.Invalid("address", "That is no mail address. It looks like name@place.example.")
	}
	if !d.demo && len(s.Password) < MinPassword {
		return problem.Invalid("password", fmt.Sprintf("That password is too short: take at least %d characters.", MinPassword))
	}
	if _, err := when.LoadZone(s.Zone); err != nil || s.Zone == "" || s.Zone == "Local" {
		s.Zone = "UTC"
	}
	p := store.Person{Name: s.Name, Address: s.Address, Week: when.Ordinary(s.Zone), Created: d.now(), Delivery: delivery.Usual(), FollowUp: followup.Usual()}
	p.Week.Languages = when.LanguagesIn(s.Languages)
	if s.Password != "" {
		p.Password = hashPassword(s.Password)
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		box, err := boxFor(t)
		if err != nil {
			return err
		}
		if err := store.People(t).PutPerson(&p, box, append([]store.OwnAddress{{Address: p.Address}}, more...)); err != nil {
			return err
		}
		return then(t, Who{Person: p.ID, Box: box, Week: p.Week}, p)
	})
}

// Called gives whoever signs in with an address, or store.ErrNotFound.
func (d *Directory) Called(ctx context.Context, address string) (who Who, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByAddress(strings.ToLower(address))
		if err != nil {
			return err
		}
		who.Person, who.Week = p.ID, p.Week
		who.Box, err = store.People(t).BoxOf(p.ID)
		return err
	})
	return who, err
}
