package identity

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Session is a browser that has been signed in: its secret token, to be kept in
// a cookie, and the token its changing requests have to carry.
type Session struct {
	Token   string
	CSRF    string
	Expires time.Time // by the clock of the machine
	Known   string    // by which the browser is known when it signs in again; empty: as it was
}

const sessionLength = 30 * 24 * time.Hour

// SignIn checks address and password. Wrong guesses make the next ones wait: those
// for one name from one place together, and apart from them those of a browser
// that has signed in before (known, the token it was given then), so that
// nobody else's guesses keep the owner out. Errors for the user are of the type
// *problem.Error: "wrong-password" and "slow-down".
func (d *Directory) SignIn(ctx context.Context, address, password, from, known string) (Session, error) {
	address = strings.ToLower(strings.TrimSpace(address))
	var p store.Person
	var browser string
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		if p, err = store.People(t).PersonByAddress(address); err != nil || known == "" {
			return err
		}
		ok, err := store.People(t).KnowsBrowser(p.ID, tokenHash(known))
		if ok {
			browser = tokenHash(known)
		}
		return err
	})
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return Session{}, err
	}
	key := "guess " + address + " " + from
	if browser != "" {
		key = "known " + browser
	}
	if wait := d.tries.begin(key, time.Now()); wait > 0 {
		return Session{}, &problem.Error{Type: "slow-down", Text: fmt.Sprintf("Too many wrong passwords. Wait %d seconds and try again.", int(wait.Seconds())+1)}
	}
	right, err := d.checks.check(ctx, p.Password, password)
	if err != nil {
		d.tries.undo(key)
		return Session{}, err
	}
	if !right {
		return Session{}, &problem.Error{Type: "wrong-password", Text: "Address and password do not belong together.", Field: "password"}
	}
	d.tries.succeeded(key)
	out, err := d.begin(ctx, p.ID)
	if err != nil || browser != "" {
		return out, err
	}
	out.Known = Secret()
	return out, d.store.Write(ctx, func(t store.Tx) error {
		return store.People(t).KnowBrowser(p.ID, tokenHash(out.Known), when.Of(time.Now()))
	})
}

// SignInDemo signs in the person of the demo without a password; where there is
// none it gives store.ErrNotFound.
func (d *Directory) SignInDemo(ctx context.Context) (Session, error) {
	if !d.demo {
		return Session{}, store.ErrNotFound
	}
	var people []store.Person
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		people, err = store.People(t).People()
		return err
	})
	if err != nil || len(people) == 0 {
		return Session{}, errors.Join(err, store.ErrNotFound)
	}
	return d.begin(ctx, people[0].ID)
}

func (d *Directory) begin(ctx context.Context, person int64) (Session, error) {
	s := Session{Token: Secret(), CSRF: Secret(), Expires: time.Now().Add(sessionLength)}
	return s, d.store.Write(ctx, func(t store.Tx) error {
		return store.People(t).PutSession(store.Session{TokenHash: tokenHash(s.Token), PersonID: person, CSRF: s.CSRF, Expires: when.Of(s.Expires)})
	})
}

// SignedIn finds who is signed in with a token, and the token their changing
// requests have to carry. An unknown or expired one gives store.ErrNotFound.
func (d *Directory) SignedIn(ctx context.Context, token string) (who Who, csrf string, err error) {
	var s store.SignedIn
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		s, err = store.People(t).SignedIn(tokenHash(token), when.Of(time.Now()))
		return err
	})
	return Who{Person: s.PersonID, Box: s.BoxID, Week: s.Week}, s.CSRF, err
}

// Session is SignedIn with all that is known of the person.
func (d *Directory) Session(ctx context.Context, token string) (p store.Person, csrf string, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		s, err := store.People(t).SignedIn(tokenHash(token), when.Of(time.Now()))
		if err != nil {
			return err
		}
		csrf = s.CSRF
		p, err = store.People(t).PersonByID(s.PersonID)
		return err
	})
	return p, csrf, err
}

// SignOut ends a session.
func (d *Directory) SignOut(ctx context.Context, token string) error {
	return d.store.Write(ctx, func(t store.Tx) error { return store.People(t).DropSession(tokenHash(token)) })
}

// Secret is a new secret of 32 random bytes, as text.
func Secret() string {
	b := make([]byte, 32)
	_, _ = rand.Read(b) // never fails (crypto/rand)
	return base64.RawURLEncoding.EncodeToString(b)
}

func tokenHash(token string) string { return store.HashOf(token) }
