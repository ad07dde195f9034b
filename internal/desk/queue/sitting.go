package queue

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

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
		now := d.Journal.Now()
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		if len(req.Conversations) == 0 { // what comes together is gone through in its digest
			q.Apart = apart(p.Delivery, q)
		}
		ids, err := store.Search(t).IDs(who.Box, who.Person, q, req.Order)
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
		if last, err := counting.Sittings(t).Last(who.Box, who.Person); err == nil && last.Ended == 0 {
			last.Ended = now
			if err := counting.Sittings(t).Put(&last); err != nil {
				return err
			}
		}
		s := counting.Sitting{PersonID: who.Person, BoxID: who.Box, Begun: now, Order: req.Order, Minutes: req.Minutes, Queue: ids}
		if err := counting.Sittings(t).Put(&s); err != nil {
			return err
		}
		v, err = sittingView(t, who, s, d.Journal.Now())
		return err
	})
	return v, d.Journal.Announced(who.Box, journal.TopicSitting, err)
}

// Sitting gives the sitting that lasts, or the last one.
func (d *Desk) Sitting(ctx context.Context, who identity.Who) (v SittingView, err error) {
	v.Queue, v.Slips = []int64{}, []Slip{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		s, err := counting.Sittings(t).Last(who.Box, who.Person)
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		if err == nil {
			v, err = sittingView(t, who, s, d.Journal.Now())
		}
		return err
	})
	return v, err
}

// Lengthen gives the sitting that lasts more minutes than it had.
func (d *Desk) Lengthen(ctx context.Context, who identity.Who, minutes int) (v SittingView, err error) {
	return d.changeSitting(ctx, who, func(s *counting.Sitting, now when.Instant) {
		over := int((now - s.Begun) / 60_000)
		s.Minutes = min(max(s.Minutes, over)+max(minutes, 1), 24*60)
	})
}

// EndSitting ends the sitting that lasts, and gives what came of it.
func (d *Desk) EndSitting(ctx context.Context, who identity.Who) (v SittingView, err error) {
	return d.changeSitting(ctx, who, func(s *counting.Sitting, now when.Instant) { s.Ended = now })
}

func (d *Desk) changeSitting(ctx context.Context, who identity.Who, f func(*counting.Sitting, when.Instant)) (v SittingView, err error) {
	err = d.store.Write(ctx, func(t store.Tx) error {
		s, err := counting.Sittings(t).Last(who.Box, who.Person)
		if err != nil {
			return err
		}
		if s.Ended == 0 {
			f(&s, d.Journal.Now())
			if err := counting.Sittings(t).Put(&s); err != nil {
				return err
			}
		}
		v, err = sittingView(t, who, s, d.Journal.Now())
		return err
	})
	return v, d.Journal.Announced(who.Box, journal.TopicSitting, err)
}

func sittingView(t store.Tx, who identity.Who, s counting.Sitting, now when.Instant) (v SittingView, err error) {
	v = SittingView{ID: s.ID, Begun: s.Begun, Ended: s.Ended, Order: s.Order, Minutes: s.Minutes, Total: len(s.Queue), Queue: []int64{}, Slips: []Slip{}}
	entries, err := counting.Sittings(t).StepsOf(s.ID)
	if err != nil {
		return v, err
	}
	steps := make([]inbox.Taken, len(entries))
	for i, e := range entries {
		steps[i] = inbox.Taken{Kind: e.Kind, At: e.At, Count: e.Count}
		if e.Kind == inbox.MakeFollowUp || e.Kind == inbox.Combo {
			steps[i].Count = max(1, -e.Delta) // it counts its follow-ups as well
		}
		if e.Kind == inbox.SendMail { // an answer, or what was handed over
			steps[i].Count = max(0, -e.Delta)
		}
	}
	v.Sum = inbox.SumUp(s.Begun, steps)
	if s.Ended != 0 {
		return v, nil
	}
	left, err := counting.Sittings(t).LeftIn(s.ID)
	if err != nil {
		return v, err
	}
	gone := map[int64]bool{}
	for _, id := range left {
		gone[id] = true
	}
	if v.Queue, err = counting.Sittings(t).StillIn(who.Box, slices.DeleteFunc(s.Queue, func(id int64) bool { return gone[id] })); err != nil {
		return v, err
	}
	v.Slips, err = SlipsBy(t, who, v.Queue[:min(len(v.Queue), firstSlips)], now)
	return v, err
}
