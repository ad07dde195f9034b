package identity

import (
	"context"
	"fmt"
	netmail "net/mail"
	"strings"
	"time"

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
}

// NeedsSetup says that nobody can sign in yet.
func (d *Directory) NeedsSetup(ctx context.Context) (needs bool, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		people, err := t.People()
		needs = len(people) == 0
		return err
	})
	return needs, err
}

// SetUp stores the first person, with these addresses besides that they sign in
// with, and a box of their own; then does what is needed for them in the same
// transaction. It is refused once there is somebody. Errors about what was typed
// are of the type *problem.Error.
func (d *Directory) SetUp(ctx context.Context, s Signup, more []store.OwnAddress, then func(t store.Tx, who Who, p store.Person) error) error {
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
	if _, err := time.LoadLocation(s.Zone); err != nil || s.Zone == "" || s.Zone == "Local" {
		s.Zone = "UTC"
	}
	p := store.Person{Name: s.Name, Address: s.Address, Week: when.Ordinary(s.Zone), Created: d.now(), Delivery: delivery.Usual(), FollowUp: followup.Usual()}
	if s.Password != "" {
		p.Password = hashPassword(s.Password)
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		people, err := t.People()
		if err != nil {
			return err
		}
		if len(people) > 0 {
			return &problem.Error{Type: "set-up-done", Text: "Ebbe is already set up here. Sign in instead."}
		}
		if err := t.PutPerson(&p, firstBox, append([]store.OwnAddress{{Address: p.Address}}, more...)); err != nil {
			return err
		}
		return then(t, Who{Person: p.ID, Box: firstBox, Week: p.Week}, p)
	})
}

// firstBox is the box that mail imported before anybody was there is in.
const firstBox = 1
