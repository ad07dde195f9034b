package desk

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// firstSlips is how many slips come with the order of the queue.
const firstSlips = 20

// Queue gives the inbox, arranged: the order of all that is in it by ID, and
// its first slips. The others are fetched with Slips as they come into view.
func (d *Desk) Queue(ctx context.Context, who identity.Who, a Arrangement) (q Queue, err error) {
	if a.Group == "" {
		a.Group = inbox.ByWhy
	}
	if a.Order == "" {
		a.Order = inbox.NewestFirst
	}
	if !slices.Contains(inbox.Groupings, a.Group) || !slices.Contains(inbox.Orders, a.Order) {
		return q, problem.Invalid("group", "Ebbe does not know that arrangement. Choose one of those offered.")
	}
	if err := a.Where.Valid(); err != nil {
		return q, problem.Invalid("where", "The inbox is not narrowed: "+err.Error()+".")
	}
	a.Where.Place = inbox.Inbox
	now, loc := d.now(), who.Week.Location()
	q.Groups = []QueueGroup{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		var groups []store.Group
		switch a.Group {
		case inbox.ByWhy:
			today := when.DayStart(now, loc, 0)
			var rounds []when.Instant
			if rounds, err = t.Rounds(who.Box, today); err == nil {
				groups, err = t.GroupSpans(who.Box, who.Person, a.Where, inbox.Spans(today, when.DayStart(now, loc, -1), rounds), a.Order)
			}
		case inbox.ByDay:
			groups, err = t.GroupSpans(who.Box, who.Person, a.Where, inbox.Days(now, loc), a.Order)
		default:
			groups, err = t.GroupBy(who.Box, who.Person, a.Where, a.Group, a.Order)
		}
		if err != nil {
			return err
		}
		var first []int64
		for _, g := range groups {
			q.Groups = append(q.Groups, QueueGroup(g))
			q.Shown += g.Count
			first = append(first, beginning(g.IDs, firstSlips-len(first))...)
		}
		if q.Slips, err = slipsBy(t, who, first); err != nil {
			return err
		}
		if q.Left = q.Shown; a.Where != (search.Query{Place: inbox.Inbox}) {
			q.Left, err = t.CountPlace(who.Box, inbox.Inbox)
		}
		return err
	})
	return q, err
}

// beginning reads the first n numbers of a JSON array of numbers.
func beginning(array []byte, n int) (ids []int64) {
	for part := range bytes.SplitSeq(bytes.Trim(array, "[]"), []byte(",")) {
		id, err := strconv.ParseInt(string(part), 10, 64)
		if len(ids) >= n || err != nil {
			break
		}
		ids = append(ids, id)
	}
	return ids
}

func slipsBy(t store.Tx, who identity.Who, ids []int64) ([]Slip, error) {
	rows, err := t.Rows(who.Box, who.Person, ids)
	if err != nil {
		return nil, err
	}
	return slipsOf(t, who, rows)
}

// maxSlips is how many slips are given at once.
const maxSlips = 200

// Slips gives slips by the IDs of their conversations, in that order. What does
// not exist is left out.
func (d *Desk) Slips(ctx context.Context, who identity.Who, ids []int64) (slips []Slip, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		slips, err = slipsBy(t, who, ids[:min(len(ids), maxSlips)])
		return err
	})
	return slips, err
}

// Alike gives the conversations in the inbox that are from the same sender as
// this one or, with shape, also have a subject of the same shape.
func (d *Desk) Alike(ctx context.Context, who identity.Who, id int64, shape bool) (ids []int64, err error) {
	ids = []int64{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		row, err := t.RowByID(who.Box, who.Person, id)
		if err != nil {
			return err
		}
		rows, err := t.SubjectsFrom(who.Box, row.FromAddr)
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
		if m.Count, err = t.Count(who.Box, who.Person, q, all); err != nil {
			return err
		}
		q.Starred, q.Unstarred = true, false
		m.Starred, err = t.Count(who.Box, who.Person, q, all)
		return err
	})
	return m, err
}

// Senders gives a page of those who have something in the inbox, most first,
// from the position after (as the page before named it).
func (d *Desk) Senders(ctx context.Context, who identity.Who, after string) (s Senders, err error) {
	var cursor *store.Cursor
	address := ""
	if after != "" {
		count, rest, _ := strings.Cut(after, ".")
		cursor, address = &store.Cursor{}, rest
		if _, err := fmt.Sscan(count, &cursor.ID); err != nil {
			return s, problem.Invalid("after", "That is no position in this list. Start again from the top.")
		}
	}
	s.Senders = []SenderView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := t.Senders(who.Box, who.Person, cursor, address, PageSize)
		if err != nil {
			return err
		}
		for _, r := range rows {
			s.Senders = append(s.Senders, SenderView{Address: r.Address, Name: r.Name, Count: r.Count, Unread: r.Unread, Starred: r.Starred,
				Person: r.People > 0, Newest: r.Newest, Oldest: r.Oldest, AnsweredAt: r.AnsweredAt})
		}
		if len(rows) == PageSize {
			last := rows[len(rows)-1]
			s.Next = fmt.Sprintf("%d.%s", last.Count, last.Address)
		}
		s.Left, err = t.CountPlace(who.Box, inbox.Inbox)
		return err
	})
	return s, err
}

// Days gives what falls on each of the coming n days, from today.
func (d *Desk) Days(ctx context.Context, who identity.Who, n int) (days []DayLoad, err error) {
	now, loc := d.now(), who.Week.Location()
	for i := range n {
		days = append(days, DayLoad{Start: when.DayStart(now, loc, i)})
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		back, due, err := t.Returns(who.Box, days[0].Start, when.DayStart(now, loc, n))
		count := func(times []when.Instant, into func(*DayLoad) *int) {
			for _, at := range times {
				i, found := slices.BinarySearchFunc(days, at, func(d DayLoad, at when.Instant) int { return int(d.Start - at) })
				if !found {
					i--
				}
				*into(&days[max(i, 0)])++
			}
		}
		count(back, func(l *DayLoad) *int { return &l.Back })
		count(due, func(l *DayLoad) *int { return &l.Due })
		return err
	})
	return days, err
}

// listed is how many slips of a saved list are shown.
const listed, mostCounted = 30, 1000

// SavedLists gives the lists of the user, those not folded with their first
// slips.
func (d *Desk) SavedLists(ctx context.Context, who identity.Who) (out []SavedList, err error) {
	out = []SavedList{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		lists, err := t.SavedLists(who.Person)
		if err != nil {
			return err
		}
		for _, l := range lists {
			v := SavedList{ID: l.ID, Name: l.Name, Query: l.Query, Folded: l.Folded, Rank: l.Rank, Slips: []Slip{}}
			if v.Count, err = t.Count(who.Box, who.Person, l.Query, mostCounted); err != nil {
				return err
			}
			if !l.Folded {
				rows, err := t.Found(who.Box, who.Person, l.Query, nil, listed)
				if err != nil {
					return err
				}
				if v.Slips, err = slipsOf(t, who, rows); err != nil {
					return err
				}
			}
			out = append(out, v)
		}
		return nil
	})
	return out, err
}

// maxLists is how many lists somebody can keep in view.
const maxLists = 20

// PutSavedList stores a list, new (with ID 0) or changed.
func (d *Desk) PutSavedList(ctx context.Context, who identity.Who, v SavedList) error {
	if err := search.Named(v.Name, v.Query); err != nil {
		return problem.Invalid("name", "The list was not kept: "+err.Error()+".")
	}
	err := d.store.Write(ctx, func(t store.Tx) error {
		lists, err := t.SavedLists(who.Person)
		if err != nil {
			return err
		}
		known := slices.ContainsFunc(lists, func(l store.SavedList) bool { return l.ID == v.ID })
		switch {
		case v.ID != 0 && !known:
			return store.ErrNotFound
		case v.ID == 0 && len(lists) >= maxLists:
			return problem.Invalid("name", fmt.Sprintf("The list was not kept: there are %d already. Delete one first.", maxLists))
		case v.ID == 0:
			v.Rank = len(lists)
		}
		return t.PutSavedList(&store.SavedList{ID: v.ID, PersonID: who.Person, Name: strings.TrimSpace(v.Name), Query: v.Query, Folded: v.Folded, Rank: v.Rank})
	})
	return d.announced(who, journal.TopicLabels, err)
}

// DropSavedList deletes a list; what is on it stays as it is.
func (d *Desk) DropSavedList(ctx context.Context, who identity.Who, id int64) error {
	err := d.store.Write(ctx, func(t store.Tx) error { return t.DropSavedList(who.Person, id) })
	return d.announced(who, journal.TopicLabels, err)
}

// announced tells what changed unless there was an error, and gives that back.
func (d *Desk) announced(who identity.Who, topic string, err error) error {
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{topic}})
	}
	return err
}

// Sit begins a sitting. One that still lasts ends.
func (d *Desk) Sit(ctx context.Context, who identity.Who, req Sit) (v SittingView, err error) {
	if req.Order == "" {
		req.Order = inbox.MostImportant
	}
	switch {
	case req.Order != inbox.MostImportant && req.Order != inbox.OldestFirst && req.Order != inbox.SenderFirst:
		return v, problem.Invalid("order", "A sitting goes by importance, from the oldest on, or by sender. Choose one of these.")
	case req.Minutes < 0 || req.Minutes > inbox.MaxSitting:
		return v, problem.Invalid("minutes", fmt.Sprintf("A sitting lasts up to %d minutes. Name fewer, or none for as long as it takes.", inbox.MaxSitting))
	}
	q := search.Query{}
	if req.Where != nil {
		q = *req.Where
	}
	if err := q.Valid(); err != nil {
		return v, problem.Invalid("where", "The sitting did not begin: "+err.Error()+".")
	}
	q.Place = inbox.Inbox
	err = d.store.Write(ctx, func(t store.Tx) error {
		now := d.now()
		ids, err := t.IDs(who.Box, who.Person, q, req.Order)
		if err != nil {
			return err
		}
		if len(req.Conversations) > 0 {
			named := map[int64]bool{}
			for _, id := range req.Conversations {
				named[id] = true
			}
			ids = slices.DeleteFunc(ids, func(id int64) bool { return !named[id] })
		}
		if len(ids) == 0 {
			return &problem.Error{Type: "nothing-to-decide", Text: "There is nothing to decide here, so no sitting began."}
		}
		if last, err := t.LastSitting(who.Person); err == nil && last.Ended == 0 {
			last.Ended = now
			if err := t.PutSitting(&last); err != nil {
				return err
			}
		}
		s := store.Sitting{PersonID: who.Person, Begun: now, Order: req.Order, Minutes: req.Minutes, Queue: ids}
		if err := t.PutSitting(&s); err != nil {
			return err
		}
		v, err = sittingView(t, who, s)
		return err
	})
	return v, d.announced(who, journal.TopicSitting, err)
}

// Sitting gives the sitting that lasts, or the last one.
func (d *Desk) Sitting(ctx context.Context, who identity.Who) (v SittingView, err error) {
	v.Queue, v.Slips = []int64{}, []Slip{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		s, err := t.LastSitting(who.Person)
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		if err == nil {
			v, err = sittingView(t, who, s)
		}
		return err
	})
	return v, err
}

// Lengthen gives the sitting that lasts more minutes than it had.
func (d *Desk) Lengthen(ctx context.Context, who identity.Who, minutes int) (v SittingView, err error) {
	return d.changeSitting(ctx, who, func(s *store.Sitting, now when.Instant) {
		over := int((now - s.Begun) / 60_000)
		s.Minutes = min(max(s.Minutes, over)+max(minutes, 1), 24*60)
	})
}

// EndSitting ends the sitting that lasts, and gives what came of it.
func (d *Desk) EndSitting(ctx context.Context, who identity.Who) (v SittingView, err error) {
	return d.changeSitting(ctx, who, func(s *store.Sitting, now when.Instant) { s.Ended = now })
}

func (d *Desk) changeSitting(ctx context.Context, who identity.Who, f func(*store.Sitting, when.Instant)) (v SittingView, err error) {
	err = d.store.Write(ctx, func(t store.Tx) error {
		s, err := t.LastSitting(who.Person)
		if err != nil {
			return err
		}
		if s.Ended == 0 {
			f(&s, d.now())
			if err := t.PutSitting(&s); err != nil {
				return err
			}
		}
		v, err = sittingView(t, who, s)
		return err
	})
	return v, d.announced(who, journal.TopicSitting, err)
}

func sittingView(t store.Tx, who identity.Who, s store.Sitting) (v SittingView, err error) {
	v = SittingView{ID: s.ID, Begun: s.Begun, Ended: s.Ended, Order: s.Order, Minutes: s.Minutes, Total: len(s.Queue), Queue: []int64{}, Slips: []Slip{}}
	entries, err := t.StepsOf(s.ID)
	if err != nil {
		return v, err
	}
	steps := make([]inbox.Taken, len(entries))
	for i, e := range entries {
		steps[i] = inbox.Taken{Kind: e.Kind, At: e.At, Count: e.Count}
		if e.Kind == inbox.MakeFollowUp || e.Kind == inbox.Combo {
			steps[i].Count = max(1, -e.Delta) // it counts its follow-ups as well
		}
	}
	v.Sum = inbox.SumUp(s.Begun, steps)
	if s.Ended != 0 {
		return v, nil
	}
	left, err := t.LeftIn(s.ID)
	if err != nil {
		return v, err
	}
	gone := map[int64]bool{}
	for _, id := range left {
		gone[id] = true
	}
	if v.Queue, err = t.StillIn(who.Box, slices.DeleteFunc(s.Queue, func(id int64) bool { return gone[id] })); err != nil {
		return v, err
	}
	v.Slips, err = slipsBy(t, who, v.Queue[:min(len(v.Queue), firstSlips)])
	return v, err
}
