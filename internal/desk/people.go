package desk

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	netmail "net/mail"
	"slices"
	"strings"
	"time"

	"golang.org/x/crypto/argon2"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Signed is a browser that has been signed in: its secret token, to be kept in
// a cookie, and the token its changing requests have to carry.
type Signed struct {
	Token   string
	CSRF    string
	Expires time.Time
	Known   string // by which the browser is known when it signs in again; empty: as it was
}

// MinPassword is the shortest password, in bytes.
const MinPassword = 10

const sessionLength = 30 * 24 * time.Hour

// NeedsSetup says that nobody can sign in yet.
func (d *Desk) NeedsSetup(ctx context.Context) (needs bool, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		people, err := t.People()
		needs = len(people) == 0
		return err
	})
	return needs, err
}

// SetUp stores the first person and gives them the mail that was imported
// before. It is refused once there is somebody.
func (d *Desk) SetUp(ctx context.Context, s Signup, more ...store.OwnAddress) error {
	s.Name, s.Address = strings.TrimSpace(s.Name), strings.ToLower(strings.TrimSpace(s.Address))
	if s.Name == "" {
		return invalid("name", "Write your name: it stands above your mail.")
	}
	if a, err := netmail.ParseAddress(s.Address); err != nil || a.Address != s.Address {
		return invalid("address", "That is no mail address. It looks like name@place.example.")
	}
	if !d.demo && len(s.Password) < MinPassword {
		return invalid("password", fmt.Sprintf("That password is too short: take at least %d characters.", MinPassword))
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
			return &UserError{Type: "set-up-done", Text: "Ebbe is already set up here. Sign in instead."}
		}
		own := append([]store.OwnAddress{{Address: p.Address}}, more...)
		if err := t.PutPerson(&p, 1, own); err != nil {
			return err
		}
		if err := callForClosing(t, 1, p, d.now()); err != nil {
			return err
		}
		return d.adopt(t, Who{Person: p.ID, Box: 1})
	})
}

// SignIn checks address and password. Wrong guesses make the next ones wait: those
// for one name from one place together, and apart from them those of a browser
// that has signed in before (known, the token it was given then), so that
// nobody else's guesses keep the owner out.
func (d *Desk) SignIn(ctx context.Context, address, password, from, known string) (Signed, error) {
	address = strings.ToLower(strings.TrimSpace(address))
	var p store.Person
	var browser string
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		if p, err = t.PersonByAddress(address); err != nil || known == "" {
			return err
		}
		ok, err := t.KnowsBrowser(p.ID, tokenHash(known))
		if ok {
			browser = tokenHash(known)
		}
		return err
	})
	if err != nil && !isMissing(err) {
		return Signed{}, err
	}
	key := "guess " + address + " " + from
	if browser != "" {
		key = "known " + browser
	}
	if wait := d.guard.begin(key, time.Now()); wait > 0 {
		return Signed{}, &UserError{Type: "slow-down", Text: fmt.Sprintf("Too many wrong passwords. Wait %d seconds and try again.", int(wait.Seconds())+1)}
	}
	right, err := d.hashing.check(ctx, p.Password, password)
	if err != nil {
		d.guard.undo(key)
		return Signed{}, err
	}
	if !right {
		return Signed{}, &UserError{Type: "wrong-password", Text: "Address and password do not belong together.", Field: "password"}
	}
	d.guard.passed(key)
	out, err := d.sign(ctx, p.ID)
	if err != nil || browser != "" {
		return out, err
	}
	out.Known = secret()
	return out, d.store.Write(ctx, func(t store.Tx) error { return t.KnowBrowser(p.ID, tokenHash(out.Known), when.Of(time.Now())) })
}

// SignInDemo signs in the person of the demo without a password.
func (d *Desk) SignInDemo(ctx context.Context) (Signed, error) {
	if !d.demo {
		return Signed{}, store.ErrNotFound
	}
	var people []store.Person
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		people, err = t.People()
		return err
	})
	if err != nil || len(people) == 0 {
		return Signed{}, err
	}
	return d.sign(ctx, people[0].ID)
}

func (d *Desk) sign(ctx context.Context, person int64) (Signed, error) {
	s := Signed{Token: secret(), CSRF: secret(), Expires: time.Now().Add(sessionLength)}
	return s, d.store.Write(ctx, func(t store.Tx) error {
		return t.PutSession(store.Session{TokenHash: tokenHash(s.Token), PersonID: person, CSRF: s.CSRF, Expires: when.Of(s.Expires)})
	})
}

// Session finds who is signed in with a token, and the token their changing
// requests have to carry. An unknown or expired one gives store.ErrNotFound.
func (d *Desk) Session(ctx context.Context, token string) (who Who, p store.Person, csrf string, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		s, err := t.SessionByHash(tokenHash(token), when.Of(time.Now()))
		if err != nil {
			return err
		}
		if p, err = t.PersonByID(s.PersonID); err != nil {
			return err
		}
		csrf, who.Person, who.Week = s.CSRF, p.ID, p.Week
		who.Box, err = t.BoxOf(p.ID)
		return err
	})
	return who, p, csrf, err
}

// SignOut ends a session.
func (d *Desk) SignOut(ctx context.Context, token string) error {
	return d.store.Write(ctx, func(t store.Tx) error { return t.DropSession(tokenHash(token)) })
}

// Settings gives what the person has chosen.
func (d *Desk) Settings(ctx context.Context, who Who) (s Settings, err error) {
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
func (d *Desk) Choose(ctx context.Context, who Who, s Settings) error {
	if err := s.Week.Valid(); err != nil {
		return invalid("week", "Nothing was changed: "+err.Error()+".")
	}
	var own []store.OwnAddress
	for _, a := range s.Addresses {
		a = strings.ToLower(strings.TrimSpace(a))
		if parsed, err := netmail.ParseAddress(a); err != nil || parsed.Address != a {
			return invalid("addresses", fmt.Sprintf("Nothing was changed: “%s” is no mail address.", a))
		}
		own = append(own, store.OwnAddress{Address: a})
	}
	if s.Theme != "" && s.Theme != "light" && s.Theme != "dark" {
		return invalid("theme", "Nothing was changed: the theme is light, dark, or that of the machine.")
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
			if _, err := gate(t, who.Box, p, d.now()); err != nil {
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
		d.announce(who.Box, Event{Topics: []string{TopicPerson, TopicMail}})
	}
	return err
}

// adopt gives a person what is theirs in the box, with a line in the journal
// for what left the inbox because nobody else had written in it.
func (d *Desk) adopt(t store.Tx, who Who) error {
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

// Instance tells this Ebbe from others on the same machine: what a browser keeps
// for one is not given to another.
func (d *Desk) Instance(ctx context.Context) (id string, err error) {
	d.instance.Lock()
	defer d.instance.Unlock()
	if d.instance.id != "" {
		return d.instance.id, nil
	}
	err = d.store.Write(ctx, func(t store.Tx) (err error) {
		if id, err = t.Meta("instance"); err != nil || id != "" {
			return err
		}
		id = strings.ToLower(rand.Text())[:8]
		return t.SetMeta("instance", id)
	})
	if err == nil {
		d.instance.id = id
	}
	return id, err
}

func secret() string {
	b := make([]byte, 32)
	_, _ = rand.Read(b) // never fails (crypto/rand)
	return base64.RawURLEncoding.EncodeToString(b)
}

func tokenHash(token string) string { return store.HashOf(token) }

// The parameters of argon2id (RFC 9106, section 4, second choice).
const (
	argonTime    = 3
	argonMemory  = 64 * 1024 // KiB
	argonThreads = 4
)

func hashPassword(password string) string {
	salt := make([]byte, 16)
	_, _ = rand.Read(salt)
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, 32)
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonThreads,
		base64.RawStdEncoding.EncodeToString(salt), base64.RawStdEncoding.EncodeToString(key))
}

// checkPassword takes as long for an unknown person as for a known one.
func checkPassword(stored, password string) bool {
	var version, memory, rounds, threads int
	salt, want := make([]byte, 16), []byte(nil)
	parts := strings.Split(stored, "$")
	if len(parts) == 6 {
		_, _ = fmt.Sscanf(parts[2], "v=%d", &version)
		_, _ = fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &rounds, &threads)
		salt, _ = base64.RawStdEncoding.DecodeString(parts[4])
		want, _ = base64.RawStdEncoding.DecodeString(parts[5])
	}
	if memory < 1 || rounds < 1 || threads < 1 || threads > 255 {
		memory, rounds, threads = argonMemory, argonTime, argonThreads
	}
	got := argon2.IDKey([]byte(password), salt, uint32(rounds), uint32(memory), uint8(threads), 32)
	return len(want) > 0 && subtle.ConstantTimeCompare(got, want) == 1
}
