// Package subscriptions shows the mailing lists and newsletters that come to a person.
package subscriptions

import (
	"context"
	"fmt"
	"net/url"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
	"ebbe/internal/store/weighing"
)

// Desk is where subscriptions are seen.
type Desk struct {
	Journal   *journal.Journal
	Decisions *decide.Desk

	store *store.Store
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, d *decide.Desk) *Desk { return &Desk{j, d, s} }

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

const binnedAtOnce = 5000

// Bin puts all that the lists of these conversations have sent into the bin, as far as it
// lies in the inbox or the archive, but what is starred or has an open follow-up. It is one
// step.
func (d *Desk) Bin(ctx context.Context, who identity.Who, key string, conversations []int64) (journal.Decided, error) {
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		var ids []int64
		name := ""
		for _, c := range conversations[:min(len(conversations), most)] {
			row, err := store.Conversations(t).RowByID(who.Box, who.Person, c)
			if err != nil {
				return out, err
			}
			list, err := ruling.Rules(t).ListOf(who.Box, c)
			if err != nil {
				return out, err
			}
			more, err := weighing.Weights(t).OfList(who.Box, who.Person, row.FromAddr, list, binnedAtOnce-len(ids))
			if err != nil {
				return out, err
			}
			ids, name = append(ids, more...), mail.Address{Name: row.FromName, Address: row.FromAddr}.Short()
		}
		if len(ids) == 0 {
			return journal.Decided{Text: "Nothing of that lies in the inbox or the archive."}, nil
		}
		if changes, err = d.Decisions.Bin(t, who, ids); err != nil {
			return out, err
		}
		return d.Journal.Commit(t, who, store.Entry{Kind: inbox.ToBin, At: d.Journal.Now()}, changes, func(n int) string {
			if len(conversations) > 1 {
				return fmt.Sprintf("Binned %s of %s.", say.Plural(n, "conversation"), say.Plural(len(conversations), "list"))
			}
			return fmt.Sprintf("Binned %s of %s.", say.Plural(n, "conversation"), name)
		})
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
	}
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
