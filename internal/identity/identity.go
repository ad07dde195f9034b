// Package identity knows who somebody is: the people of this Ebbe, their
// passwords (argon2id, RFC 9106), the browsers they are signed in with, and how
// guessing is slowed down. It knows nothing of mail.
//
// Sessions and the throttle go by the clock of the machine, never by the one of
// the demo, which can be moved.
package identity

import (
	"context"
	"crypto/rand"
	"strings"
	"sync"

	"ebbe/internal/core/when"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
)

// Who is a signed-in person and the box they work in.
type Who struct {
	Person int64
	Box    int64
	Week   when.Week
	Admin  bool // they look after the people of this Ebbe
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
