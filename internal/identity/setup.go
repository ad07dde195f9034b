package identity

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"strings"
	"time"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Signup is what somebody gives to begin.
type Signup struct {
	Name     string `json:"name"`
	Address  string `json:"address"`
	Password string `json:"password"`
	Zone     string `json:"zone"` // IANA name, as the browser knows it
	// Languages are those the browser says the person reads (BCP 47), at most 20 looked at.
	Languages []string `json:"languages"`
	Code      string   `json:"code"` // that was printed at the start, where one is asked for
}

// NeedsSetup says whether nobody has set Ebbe up yet.
func (d *Directory) NeedsSetup(ctx context.Context) (needs bool, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		people, err := store.People(t).People()
		needs = len(people) == 0
		return err
	})
	return needs, err
}

// AskForCode has whoever sets Ebbe up show a code, which it gives; "" once it is set up. It
// is another one after each start.
func (d *Directory) AskForCode(ctx context.Context) (code string, err error) {
	needs, err := d.NeedsSetup(ctx)
	if err != nil || !needs {
		return "", err
	}
	code = strings.ToLower(rand.Text())[:12]
	d.mu.Lock()
	defer d.mu.Unlock()
	d.setupCode = code
	return code[:4] + "-" + code[4:8] + "-" + code[8:], nil
}

// AsksForCode says whether the set-up asks for a code.
func (d *Directory) AsksForCode() bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.setupCode != ""
}

// codeShown says what is wrong with the code for the set-up that somebody at an address
// shows.
func (d *Directory) codeShown(code, from string) error {
	d.mu.Lock()
	want := d.setupCode
	d.mu.Unlock()
	if want == "" {
		return nil
	}
	key := "setup " + from
	if wait := d.tries.begin(key, time.Now()); wait > 0 {
		return slowDown(wait)
	}
	got := strings.ToLower(strings.NewReplacer("-", "", " ", "").Replace(code))
	if subtle.ConstantTimeCompare([]byte(got), []byte(want)) != 1 {
		return problem.Invalid("code", "That is not the code that Ebbe printed when it was started. Look there: it is another one after each start.")
	}
	d.tries.succeeded(key)
	return nil
}

// Begin is SetUp for somebody at an address who shows the code that was printed, if one is
// asked for. It gives recovery codes.
func (d *Directory) Begin(ctx context.Context, s Signup, from string, then Then) (codes []string, err error) {
	if err := d.codeShown(s.Code, from); err != nil {
		return nil, err
	}
	return d.first(ctx, s, nil, then)
}

// SetUp stores the first person, who looks after the others, with the box of mail that was
// imported before. It is refused once there is somebody.
func (d *Directory) SetUp(ctx context.Context, s Signup, more []store.OwnAddress, then Then) error {
	_, err := d.first(ctx, s, more, then)
	return err
}

func (d *Directory) first(ctx context.Context, s Signup, more []store.OwnAddress, then Then) (codes []string, err error) {
	return d.add(ctx, s, more, then, func(t store.Tx) (box int64, err error) {
		people, err := store.People(t).People()
		if err == nil && len(people) > 0 {
			err = &problem.Error{Type: "set-up-done", Text: "Ebbe is already set up here. Sign in instead."}
		}
		return store.FirstBox, err
	})
}

// Add stores one more person, with a box of their own.
func (d *Directory) Add(ctx context.Context, s Signup, more []store.OwnAddress, then Then) error {
	_, err := d.add(ctx, s, more, then, func(t store.Tx) (int64, error) { return d.boxFor(t, s) })
	return err
}

// boxFor makes a box for somebody new.
func (d *Directory) boxFor(t store.Tx, s Signup) (box int64, err error) {
	if _, err := store.People(t).PersonByAddress(strings.ToLower(strings.TrimSpace(s.Address))); !errors.Is(err, store.ErrNotFound) {
		return 0, cmp.Or(err, error(problem.Invalid("address", "Somebody signs in with that address already. Nobody was added.")))
	}
	return store.People(t).MakeBox(s.Name)
}

// Then is what is done for a person who has been added, in the same transaction.
type Then func(t store.Tx, who Who, p store.Person) error

func (d *Directory) add(ctx context.Context, s Signup, more []store.OwnAddress, then Then, boxFor func(store.Tx) (int64, error)) (codes []string, err error) {
	if s.Name, err = goodName(s.Name); err != nil {
		return nil, err
	}
	if s.Address, err = goodAddress(s.Address); err != nil {
		return nil, err
	}
	if err := d.fit(s.Password, s.Name, s.Address); err != nil {
		return nil, err
	}
	if _, err := when.LoadZone(s.Zone); err != nil || s.Zone == "" || s.Zone == "Local" {
		s.Zone = "UTC"
	}
	p := store.Person{Name: s.Name, Address: s.Address, Week: when.Ordinary(s.Zone), Created: d.now(), Delivery: delivery.Usual(), FollowUp: followup.Usual()}
	p.Week.Languages = when.LanguagesIn(s.Languages)
	if s.Password != "" {
		p.Password = d.checks.hash(s.Password)
	}
	err = d.store.Write(ctx, func(t store.Tx) error {
		box, err := boxFor(t)
		if err != nil {
			return err
		}
		p.Admin = box == store.FirstBox
		if err := store.People(t).PutPerson(&p, box, append([]store.OwnAddress{{Address: p.Address}}, more...)); err != nil {
			return err
		}
		if !d.demo {
			if codes, err = newRecoveryCodes(t, p.ID); err != nil {
				return err
			}
		}
		return then(t, Who{Person: p.ID, Box: box, Week: p.Week, Admin: p.Admin}, p)
	})
	return codes, err
}

// Called finds who signs in with an address.
func (d *Directory) Called(ctx context.Context, address string) (who Who, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByAddress(strings.ToLower(address))
		if err != nil {
			return err
		}
		who.Person, who.Week, who.Admin = p.ID, p.Week, p.Admin
		who.Box, err = store.People(t).BoxOf(p.ID)
		return err
	})
	return who, err
}
