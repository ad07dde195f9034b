package identity

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"sync"
	"time"

	"github.com/go-webauthn/webauthn/protocol"
	"github.com/go-webauthn/webauthn/webauthn"

	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
)

// Site is at what address a browser asks.
type Site struct {
	Host   string // without port
	Origin string // RFC 6454
}

// Passkeys are a person's second factor that nobody can be talked out of (WebAuthn level 2):
// asked for besides the password, in the place of a code.
type Passkeys struct{ *Directory }

// The bounds of passkeys.
const (
	mostPasskeys   = 20
	mostCeremonies = 1000
	ceremonyWithin = 5 * time.Minute
)

var errNoName = &problem.Error{Type: "no-name", Text: "Browsers make passkeys for names alone, not for a bare address. Open Ebbe at a name (ebbe serve --host), or at localhost."}

// ceremony is one that was begun and not finished.
type ceremony struct {
	person  int64
	session webauthn.SessionData
	until   time.Time
}

type ceremonies struct {
	mu   sync.Mutex
	open map[string]ceremony
}

func (c *ceremonies) begin(person int64, session *webauthn.SessionData, now time.Time) (id string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for id, o := range c.open {
		if o.until.Before(now) || len(c.open) >= mostCeremonies {
			delete(c.open, id)
		}
	}
	if c.open == nil {
		c.open = map[string]ceremony{}
	}
	id = Secret()
	c.open[id] = ceremony{person, *session, now.Add(ceremonyWithin)}
	return id
}

// take gives a ceremony of a person, once.
func (c *ceremonies) take(id string, person int64, now time.Time) (webauthn.SessionData, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	o, ok := c.open[id]
	delete(c.open, id)
	return o.session, ok && o.person == person && now.Before(o.until)
}

// holder is a person as the package for passkeys knows one.
type holder struct {
	store.Person
	instance string
	keys     []admission.Passkey
	known    []webauthn.Credential
}

func (h holder) WebAuthnID() []byte                         { return []byte(fmt.Sprint(h.instance, " ", h.ID)) }
func (h holder) WebAuthnName() string                       { return h.Address }
func (h holder) WebAuthnDisplayName() string                { return h.Name }
func (h holder) WebAuthnCredentials() []webauthn.Credential { return h.known }

func (d Passkeys) holder(ctx context.Context, p store.Person) (h holder, err error) {
	h.Person = p
	if h.instance, err = d.Instance(ctx); err != nil {
		return h, err
	}
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		h.keys, err = admission.Admission(t).Passkeys(p.ID)
		return err
	})
	for _, k := range h.keys {
		var c webauthn.Credential
		if err := json.Unmarshal(k.Credential, &c); err != nil {
			return h, err
		}
		h.known = append(h.known, c)
	}
	return h, err
}

func (s Site) webauthn() (*webauthn.WebAuthn, error) {
	if net.ParseIP(s.Host) != nil || s.Host == "" {
		return nil, errNoName
	}
	return webauthn.New(&webauthn.Config{RPID: s.Host, RPDisplayName: "Ebbe", RPOrigins: []string{s.Origin}})
}

// Offer begins to make a passkey for whoever knows their password.
func (d Passkeys) Offer(ctx context.Context, who Who, site Site, password string) (out PasskeyOffer, err error) {
	w, err := site.webauthn()
	if err != nil {
		return out, err
	}
	p, err := d.sure(ctx, who, password)
	if err != nil {
		return out, err
	}
	h, err := d.holder(ctx, p)
	if err != nil {
		return out, err
	}
	if len(h.keys) >= mostPasskeys {
		return out, problem.Invalid("name", fmt.Sprintf("You have %d passkeys, which is as many as there can be. Remove one first.", mostPasskeys))
	}
	creation, session, err := w.BeginRegistration(h, webauthn.WithExclusions(webauthn.Credentials(h.known).CredentialDescriptors()), webauthn.WithResidentKeyRequirement(protocol.ResidentKeyRequirementPreferred))
	if err != nil {
		return out, err
	}
	return PasskeyOffer{d.ceremonies.begin(p.ID, session, time.Now()), creation.Response}, nil
}

var errCeremony = &problem.Error{Type: "passkey", Text: "That took too long, or was done already. Begin again; nothing was changed."}

// Take stores the passkey that a browser has made.
func (d Passkeys) Take(ctx context.Context, who Who, site Site, name string, shown PasskeyShown) error {
	w, err := site.webauthn()
	if err != nil {
		return err
	}
	if name, err = goodName(name); err != nil {
		return problem.Invalid("name", "Give it a name by which you know it, as “phone”: at most 200 letters.")
	}
	p, err := d.person(ctx, who.Person)
	if err != nil {
		return err
	}
	session, ok := d.ceremonies.take(shown.Ceremony, p.ID, time.Now())
	if !ok {
		return errCeremony
	}
	h, err := d.holder(ctx, p)
	if err != nil {
		return err
	}
	parsed, err := protocol.ParseCredentialCreationResponseBytes(shown.Response)
	if err != nil {
		return refusedPasskey(err)
	}
	made, err := w.CreateCredential(h, session, parsed)
	if err != nil {
		return refusedPasskey(err)
	}
	raw, err := json.Marshal(made)
	if err != nil {
		return err
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		return admission.Admission(t).PutPasskey(&admission.Passkey{PersonID: p.ID, Name: name, Credential: raw, Made: when.Of(time.Now())})
	})
}

func refusedPasskey(err error) error {
	var why *protocol.Error
	if errors.As(err, &why) {
		slog.Warn("a passkey was refused", "error", why.Type, "details", why.Details, "info", why.DevInfo)
	}
	return &problem.Error{Type: "passkey", Text: "That passkey is not one that counts here. Nothing was opened and nothing was changed.", Field: "code"}
}

// Drop forgets a passkey of whoever knows their password.
func (d Passkeys) Drop(ctx context.Context, who Who, password string, id int64) error {
	if _, err := d.sure(ctx, who, password); err != nil {
		return err
	}
	return d.store.Write(ctx, func(t store.Tx) error { return admission.Admission(t).DropPasskey(who.Person, id) })
}

// Ask begins to show a passkey, for whoever knows the password.
func (d Passkeys) Ask(ctx context.Context, e Entry, site Site, from From) (out PasskeyOffer, err error) {
	w, err := site.webauthn()
	if err != nil {
		return out, err
	}
	p, settle, _, err := d.prove(ctx, e, from)
	if err != nil {
		return out, err
	}
	settle(false) // nothing is opened by it
	h, err := d.holder(ctx, p)
	if err != nil {
		return out, err
	}
	if len(h.known) == 0 {
		return out, errCode
	}
	assertion, session, err := w.BeginLogin(h)
	if err != nil {
		return out, err
	}
	return PasskeyOffer{d.ceremonies.begin(p.ID, session, time.Now()), assertion.Response}, nil
}

// shown looks at the passkey that a person shows.
func (d Passkeys) shown(ctx context.Context, h holder, site Site, shown PasskeyShown) error {
	w, err := site.webauthn()
	if err != nil {
		return err
	}
	session, ok := d.ceremonies.take(shown.Ceremony, h.ID, time.Now())
	if !ok {
		return errCeremony
	}
	parsed, err := protocol.ParseCredentialRequestResponseBytes(shown.Response)
	if err != nil {
		return refusedPasskey(err)
	}
	used, err := w.ValidateLogin(h, session, parsed)
	if err != nil {
		return refusedPasskey(err)
	}
	if used.Authenticator.CloneWarning {
		return &problem.Error{Type: "passkey", Text: "That passkey may have been copied: it counts otherwise than it should. Nothing was opened; use a code, and remove it in Setup.", Field: "code"}
	}
	for i, known := range h.known {
		if bytes.Equal(known.ID, used.ID) {
			raw, err := json.Marshal(used)
			if err != nil {
				return err
			}
			k := h.keys[i]
			k.Credential, k.Used = raw, when.Of(time.Now())
			return d.store.Write(ctx, func(t store.Tx) error { return admission.Admission(t).PutPasskey(&k) })
		}
	}
	return refusedPasskey(nil)
}
