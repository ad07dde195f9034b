package rules

import (
	"context"
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
)

// Never puts the sender of a conversation away for good, or the list it is of: what
// comes from there is binned as it comes in, and so is what of it is undecided now. It
// is one step, which is taken back as one. What answers the user, and what they wait
// for, comes in all the same.
func (d *Desk) Never(ctx context.Context, who identity.Who, key string, conversation int64) (journal.Decided, error) {
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
		list, err := ruling.Rules(t).ListOf(who.Box, conversation)
		if err != nil {
			return out, err
		}
		name := mail.Address{Name: row.FromName, Address: row.FromAddr}.Short()
		q, words := search.Query{From: row.FromAddr}, "from "+row.FromAddr
		if list != "" {
			q, words = search.Query{List: list}, "list "+list
		}
		r := sorting.Rule{Name: name, Words: words + ": bin", When: []search.Query{q}, Except: []search.Query{}, Then: []inbox.ComboStep{{Kind: inbox.ToBin}}, Mode: sorting.On, Away: true}
		if err := r.Valid(); err != nil {
			return out, problem.Invalid("conversation", "Nothing was changed: "+err.Error()+".")
		}
		all, err := ruling.Rules(t).All(who.Box)
		if err != nil {
			return out, err
		}
		known := false
		for _, o := range all {
			known = known || o.Away && o.When[0] == q
		}
		q.Place = inbox.Inbox
		ids, err := store.Search(t).IDs(who.Box, who.Person, q, inbox.NewestFirst)
		if err != nil {
			return out, err
		}
		if row.Place == inbox.Inbox { // also where its newest message is by somebody else
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
