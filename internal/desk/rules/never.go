package rules

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/together"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
)

// Never puts the sender of a conversation away for good, or the list it is of, or a wider
// scope if one is said: what comes from there is binned as it comes in, and so is what of it is undecided now. It
// is one step, which is taken back as one. What answers the user, and what they wait
// for, comes in all the same.
func (d *Desk) Never(ctx context.Context, who identity.Who, key string, conversation int64, a PutAway) (journal.Decided, error) {
	if err := who.May(together.Serve); err != nil {
		return journal.Decided{}, err
	}
	now := d.Journal.Now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		row, err := store.Conversations(t).RowByID(who.Box, who.Person, conversation)
		if err != nil {
			return out, err
		}
		own, err := store.People(t).OwnAddresses(who.Box)
		if err != nil {
			return out, err
		}
		for _, a := range own {
			if a.Address == row.FromAddr {
				return out, problem.Invalid("conversation", "That is your own address, so nothing was changed.")
			}
		}
		m, err := d.moving(t, who, conversation)
		if err != nil {
			return out, err
		}
		if a.Scope == "" {
			if a.Scope = Sender; m.list != "" {
				a.Scope = List
			}
		}
		r, doubt := m.lesson(a.Scope, a.Words, delivery.StreamPeople)
		if doubt != "" {
			return out, problem.Invalid("words", "Nothing was changed. "+doubt)
		}
		name := mail.Address{Name: row.FromName, Address: row.FromAddr}.Short()
		switch a.Scope {
		case Domain:
			name = "everybody at " + row.FromAddr[strings.LastIndexByte(row.FromAddr, '@')+1:]
		case Such:
			name = r.Words
		}
		r.Name, r.Words, r.Then, r.Lesson, r.Away = name, r.Words+": bin", []inbox.ComboStep{{Kind: inbox.ToBin}}, false, true
		if len(r.Name) > 80 {
			r.Name = strings.ToValidUTF8(r.Name[:77], "") + "…"
		}
		if err := r.Valid(); err != nil {
			return out, problem.Invalid("conversation", "Nothing was changed: "+err.Error()+".")
		}
		all, err := ruling.Rules(t).All(who.Box)
		if err != nil {
			return out, err
		}
		known := false
		for _, o := range all {
			known = known || o.Away && o.SameAbout(r)
		}
		ids, err := d.undecided(t, who, r)
		if err != nil {
			return out, err
		}
		if row.Place == inbox.Inbox && !slices.Contains(ids, conversation) { // also where its newest message is by somebody else
			ids = append(ids, conversation)
		}
		if len(ids) > 0 {
			if changes, err = d.Decisions.Bin(t, who, ids); err != nil {
				return out, err
			}
		}
		e := store.Entry{Kind: inbox.NeverAgain, At: now, ConversationID: conversation, Text: name}
		if !known {
			if err := ruling.Rules(t).Put(who.Box, &r, false); err != nil {
				return out, err
			}
			e.Ref = r.ID
			if e.Chosen, err = store.Choose((*sorting.Rule)(nil), &r); err != nil {
				return out, err
			}
		}
		return d.Journal.Commit(t, who, e, changes, func(n int) string {
			text := "Never again: " + name + "."
			if n > 1 {
				text += fmt.Sprintf(" %d in the inbox were binned.", n)
			}
			return text
		})
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicRules}, Key: key})
	}
	return out, err
}
