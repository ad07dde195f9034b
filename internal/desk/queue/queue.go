package queue

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/holding"
	"ebbe/internal/store/membership"
)

// firstSlips is how many slips come with the order of the queue.
const firstSlips = 20

// Arranged gives the inbox, arranged: the order of all that is in it by ID, and
// its first slips. The others are fetched with Slips as they come into view. Whoever says which order
// they have gets what has become otherwise since.
func (d *Desk) Arranged(ctx context.Context, who identity.Who, a Arrangement) (q Queue, err error) {
	if a.Group == "" {
		a.Group = inbox.ByWhy
		if who.Team != 0 {
			a.Group = inbox.ByOwner
		}
	}
	if a.Order == "" {
		a.Order = inbox.NewestFirst
	}
	if !slices.Contains(inbox.Groupings, a.Group) || !slices.Contains(inbox.Orders, a.Order) {
		return q, problem.Invalid("group", "Ebbe does not know that arrangement. Choose one of those offered.")
	}
	if err := a.Where.Valid(); err != nil {
		return q, problem.Invalid("where", "The inbox is not filtered: "+err.Error()+".")
	}
	a.Where.Place = inbox.Inbox
	now, loc := d.Journal.Now(), who.Week.Location()
	q.Group, q.Groups = a.Group, []QueueGroup{}
	written := d.store.Written()
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		all := a.Where
		a.Where.Apart = apart(p.Delivery, all)
		var groups []store.Group
		switch a.Group {
		case inbox.ByWhy:
			today := when.DayStart(now, loc, 0)
			var rounds []when.Instant
			if rounds, err = holding.Held(t).Rounds(who.Box, today); err == nil {
				groups, err = store.Search(t).GroupSpans(who.Box, who.Person, a.Where, inbox.Spans(today, when.DayStart(now, loc, -1), rounds), a.Order)
			}
		case inbox.ByDay:
			groups, err = store.Search(t).GroupSpans(who.Box, who.Person, a.Where, inbox.Days(now, loc), a.Order)
		case inbox.ByOwner:
			read := func() ([]store.Group, error) {
				return store.Search(t).GroupBy(who.Box, who.Person, a.Where, a.Group, a.Order)
			}
			if (all == search.Query{Place: inbox.Inbox}) { // the same for all of a team
				groups, err = d.alike.get(asks{who.Box, a.Order}, written, read)
			} else {
				groups, err = read()
			}
		default:
			groups, err = store.Search(t).GroupBy(who.Box, who.Person, a.Where, a.Group, a.Order)
		}
		if err != nil {
			return err
		}
		if a.Group == inbox.ByOwner {
			if groups, err = byOwner(t, who, groups, now); err != nil {
				return err
			}
		}
		if a.Group == inbox.ByStream {
			for i, g := range groups {
				groups[i].Name = say.Upper(p.Delivery.Name(delivery.Stream(g.Key)))
			}
		}
		for _, g := range groups {
			q.Groups = append(q.Groups, QueueGroup{Key: g.Key, Name: g.Name, Count: g.Count, IDs: g.IDs})
			q.Shown += g.Count
		}
		heaps, err := digests(t, who, p.Delivery, all, a.Order)
		if err != nil {
			return err
		}
		if len(heaps) > 0 {
			ids := make([]string, len(heaps))
			for i, h := range heaps {
				ids[i] = strconv.FormatInt(h.ID, 10)
				q.Shown += len(h.Of)
			}
			q.Groups = append(q.Groups, QueueGroup{Key: Together, Count: len(heaps), IDs: json.RawMessage("[" + strings.Join(ids, ",") + "]")})
		}
		q.Tag = d.recent.put(who.Box, who.Person, q.Groups)
		if was := d.recent.of(who.Box, who.Person, a.Since); was != nil {
			q.Since, q.Groups = a.Since, since(was, q.Groups)
		}
		var first []int64
		for _, g := range q.Groups {
			if g.Key != Together {
				first = append(first, Beginning(g.IDs, firstSlips-len(first))...)
			}
		}
		if q.Slips, err = SlipsBy(t, who, first, now); err != nil {
			return err
		}
		q.Slips = append(q.Slips, heaps...)
		if q.Left = q.Shown; all != (search.Query{Place: inbox.Inbox}) {
			q.Left, err = store.Conversations(t).Left(who.Box)
		}
		return err
	})
	return q, err
}

// Beginning reads the first n numbers of a JSON array of numbers.
func Beginning(array []byte, n int) (ids []int64) {
	for part := range bytes.SplitSeq(bytes.Trim(array, "[]"), []byte(",")) {
		id, err := strconv.ParseInt(string(part), 10, 64)
		if len(ids) >= n || err != nil {
			break
		}
		ids = append(ids, id)
	}
	return ids
}

// Alike gives the conversations in the inbox that are from the same sender as
// this one or, with shape, also have a subject of the same shape.
func (d *Desk) Alike(ctx context.Context, who identity.Who, id int64, shape bool) (ids []int64, err error) {
	ids = []int64{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		row, err := store.Conversations(t).RowByID(who.Box, who.Person, id)
		if err != nil {
			return err
		}
		rows, err := store.Conversations(t).SubjectsFrom(who.Box, row.FromAddr)
		for _, r := range rows {
			if !shape || mail.Shape(r.Subject) == mail.Shape(row.Subject) {
				ids = append(ids, r.ID)
			}
		}
		return err
	})
	return ids, err
}

// Matching says how many conversations in the inbox match q, and how many of
// them are starred.
func (d *Desk) Matching(ctx context.Context, who identity.Who, q search.Query) (m Matching, err error) {
	const all = 1 << 30
	q.Place = inbox.Inbox
	err = d.store.Read(ctx, func(t store.Tx) error {
		if m.Count, err = store.Search(t).Count(who.Box, who.Person, q, all); err != nil {
			return err
		}
		q.Starred, q.Unstarred = true, false
		m.Starred, err = store.Search(t).Count(who.Box, who.Person, q, all)
		return err
	})
	return m, err
}

// byOwner puts first what nobody has, then what the person has, then what those have who are away,
// which is for the others to take, and names the others by who has them.
func byOwner(t store.Tx, who identity.Who, groups []store.Group, now when.Instant) ([]store.Group, error) {
	names, err := membership.Membership(t).Names(who.Box)
	if err != nil {
		return nil, err
	}
	hands, err := membership.Membership(t).Hands(who.Box)
	if err != nil {
		return nil, err
	}
	away := map[string]string{} // until when, in words
	for _, h := range hands {
		if until, is := h.Delivery.Away(now); is && h.PersonID != who.Person {
			words := ", away"
			if !until.IsZero() {
				words += " until " + who.Week.Say(until, now)
			}
			away[strconv.FormatInt(h.PersonID, 10)] = words
		}
	}
	rank := func(g store.Group) int {
		switch g.Key {
		case "0":
			return 0
		case strconv.FormatInt(who.Person, 10):
			return 1
		}
		if away[g.Key] != "" {
			return 2
		}
		return 3
	}
	for i, g := range groups {
		id, _ := strconv.ParseInt(g.Key, 10, 64) // it is one, or the group stays without a name
		groups[i].Name = [...]string{"Nobody’s yet", "Mine", names[id] + away[g.Key], cmp.Or(names[id], "Somebody who left")}[rank(g)]
	}
	slices.SortStableFunc(groups, func(a, b store.Group) int { return cmp.Or(cmp.Compare(rank(a), rank(b)), cmp.Compare(a.Name, b.Name)) })
	return groups, nil
}
