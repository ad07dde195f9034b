// Package subscriptions shows the mailing lists and newsletters that come to a person.
package subscriptions

import (
	"context"
	"net/url"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/weighing"
)

// Desk is where subscriptions are seen.
type Desk struct {
	Journal *journal.Journal

	store *store.Store
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk { return &Desk{j, s} }

const (
	lookedBack = 400 // days
	most       = 200 // lists
	aDay       = when.Instant(24 * 3_600_000)
)

// All gives the lists of which something came to a person in the last 400 days, those
// that sent most in the last 30 days first.
func (d *Desk) All(ctx context.Context, who identity.Who) (out []Subscription, err error) {
	out = []Subscription{}
	now := d.Journal.Now()
	err = d.store.Read(ctx, func(t store.Tx) error {
		lists, err := weighing.Weights(t).Lists(who.Box, who.Person, now-lookedBack*aDay, now-30*aDay, most)
		if err != nil {
			return err
		}
		var newest []int64
		for _, l := range lists {
			newest = append(newest, l.Message)
		}
		raws, err := store.Messages(t).Bytes(newest)
		if err != nil {
			return err
		}
		for _, l := range lists {
			s := Subscription{List: l.List, From: mail.Address{Name: l.Name, Address: l.Address}, Month: l.Month, Messages: l.Messages, Opened: l.Opened, Read: l.Read, Answered: l.Answered, Size: l.Size,
				Since: l.First, Last: l.Last, Conversation: l.Conversation, LeftAt: l.LeftAt, StillSent: l.Since}
			s.Way, s.Page = way(raws[l.Message])
			out = append(out, s)
		}
		return nil
	})
	return out, err
}

// way is how one leaves the list of a message, by its header alone.
func way(raw []byte) (way, page string) {
	switch l := mime.Read(mime.HeaderOf(raw)).Leave; {
	case l.Post != "":
		return "request", ""
	case l.Mail.Address != "":
		return "mail", ""
	case l.Page != "":
		if u, err := url.Parse(l.Page); err == nil && u.Scheme == "https" {
			return "page", l.Page
		}
	}
	return "", ""
}
