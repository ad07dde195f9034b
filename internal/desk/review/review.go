// Package review is a week looked back on: few numbers, and up to three offers that follow from them, each
// of which is taken or refused at once.
package review

import (
	"cmp"
	"context"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/figures"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/rules"
	"ebbe/internal/desk/subscriptions"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

const (
	days      = 7
	soonDays  = 7
	often     = 20 // conversations that were snoozed again and again
	rounds    = 28 // days of which rounds are looked at
	waits     = 12 * 7
	waitsSeen = 1000
	longWait  = 7 * 24 * numbers.Hour // an answer that takes longer is late
	newRules  = 5
)

// Desk is where a week is looked back on.
type Desk struct {
	Journal   *journal.Journal
	Figures   *figures.Desk
	Lists     *subscriptions.Desk
	FollowUps *followups.Desk
	Rules     *rules.Desk
	Delivery  *deliveries.Desk
	Writing   *composing.Desk

	store *store.Store
}

// New makes a desk over a store; the rooms that it looks at and acts by are set by whoever makes it.
func New(s *store.Store, j *journal.Journal) *Desk { return &Desk{Journal: j, store: s} }

// own says that a week in review is looked at and acted on in one's own box only.
func own(who identity.Who) error {
	if who.Team != 0 {
		return problem.Invalid("box", "A week in review is one’s own: look at it in your own box. Nothing was changed.")
	}
	return nil
}

// At has it be looked at on these days and at that time.
func (d *Desk) At(ctx context.Context, who identity.Who, at delivery.Rounds) error {
	if err := own(who); err != nil {
		return err
	}
	return d.Delivery.ReviewAt(ctx, who, at)
}

// Week gives the last seven days in review.
func (d *Desk) Week(ctx context.Context, who identity.Who) (v ReviewView, err error) {
	if err := own(who); err != nil {
		return v, err
	}
	now, loc := d.Journal.Now(), who.Week.Location()
	today := now.In(loc)
	v.From, v.To = today.AddDate(0, 0, 1-days).Format(time.DateOnly), today.Format(time.DateOnly)
	var week figures.FiguresView
	var ahead figures.AheadView
	var parts errgroup.Group // each reads by itself
	parts.Go(func() (err error) { week, err = d.Figures.Overview(ctx, who, v.From, v.To); return err })
	parts.Go(func() (err error) { ahead, err = d.Figures.Ahead(ctx, who, nil); return err })
	parts.Go(func() (err error) { v.Own, v.Theirs, err = d.Figures.Speeds(ctx, who, v.From, v.To); return err })
	parts.Go(func() (err error) { v.Mine, v.ForThem, err = d.Figures.Longest(ctx, who); return err })
	parts.Go(func() (err error) { v.Offers, err = d.offers(ctx, who); return err })
	if err := parts.Wait(); err != nil {
		return v, err
	}
	v.Is, v.Before, v.Known, v.Zeros = week.Is, week.Before, week.Known, week.Zeros
	for _, a := range ahead.Days[:soonDays] {
		v.Due += a.Due
		if a.Due+a.Events > 0 && (v.Fullest == nil || a.Due+a.Events > v.Fullest.Due+v.Fullest.Events) {
			v.Fullest = &a
		}
	}
	v.Often = []OftenSnoozed{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := counting.Reviews(t).SnoozedOften(who.Box, often)
		if err != nil {
			return err
		}
		for _, o := range rows {
			v.Often = append(v.Often, OftenSnoozed{o.ConversationID, o.Title, o.Times})
		}
		p, err := store.People(t).PersonByID(who.Person)
		if err != nil {
			return err
		}
		v.At = p.Delivery.Review
		looked, err := counting.Reviews(t).Looked(who.Box, who.Person)
		v.New = looked < p.Delivery.Review.Last(now, loc)
		return err
	})
	return v, err
}

// Looked notes that somebody has looked at it.
func (d *Desk) Looked(ctx context.Context, who identity.Who) error {
	if err := own(who); err != nil {
		return err
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		return counting.Reviews(t).Refuse(who.Box, who.Person, "", d.Journal.Now())
	})
}

// Refuse has an offer stay away.
func (d *Desk) Refuse(ctx context.Context, who identity.Who, key string) error {
	a, err := d.offered(ctx, who, key)
	if err != nil {
		return err
	}
	if a.Kind == numbers.AdviseRule {
		if err := d.Rules.Refuse(ctx, who, a.Rule); err != nil {
			return err
		}
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		return counting.Reviews(t).Refuse(who.Box, who.Person, key, d.Journal.Now())
	})
}

// Take does what was offered; asked again with the same key it is done once.
func (d *Desk) Take(ctx context.Context, who identity.Who, key, offer string) (out journal.Decided, err error) {
	a, err := d.offered(ctx, who, offer)
	if err != nil {
		return out, err
	}
	switch a.Kind {
	case numbers.AdviseRule:
		return d.Rules.Save(ctx, who, key, rules.Saving{Words: a.Words, Mode: sorting.On, Offer: a.Rule})
	case numbers.AdviseLeave:
		return d.Writing.LeaveList(ctx, who, key, a.Conversation)
	case numbers.AdviseDrop:
		return d.FollowUps.StepAll(ctx, who, key, followups.FollowUpStep{Kind: inbox.DropFollow, UIDs: a.UIDs})
	case numbers.AdviseAsk:
		tomorrow := d.Journal.Now().In(who.Week.Location()).AddDate(0, 0, 1)
		at := when.AtWall(time.Date(tomorrow.Year(), tomorrow.Month(), tomorrow.Day(), 0, who.Week.Morning, 0, 0, time.UTC), who.Week.Location())
		return d.FollowUps.StepAll(ctx, who, key, followups.FollowUpStep{Kind: inbox.WaitFor, UIDs: a.UIDs, Ask: at})
	}
	plan, err := d.plan(ctx, who)
	if err != nil || plan == nil {
		return out, cmp.Or(err, store.ErrNotFound)
	}
	_, err = d.Delivery.PutPlan(ctx, who, key, without(*plan, a.Minute), true)
	return journal.Decided{Text: "There is no round at " + delivery.Clock(a.Minute) + " any more."}, err
}

// offered is an offer that stands.
func (d *Desk) offered(ctx context.Context, who identity.Who, key string) (numbers.Advice, error) {
	if err := own(who); err != nil {
		return numbers.Advice{}, err
	}
	all, err := d.offers(ctx, who)
	for _, a := range all {
		if a.Key == key {
			return a, nil
		}
	}
	return numbers.Advice{}, cmp.Or(err, store.ErrNotFound)
}

// offers are those that stand.
func (d *Desk) offers(ctx context.Context, who identity.Who) ([]numbers.Advice, error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	var e numbers.Evidence
	offered, err := d.Rules.Offers(ctx, who)
	if err != nil {
		return nil, err
	}
	for _, o := range offered[:min(len(offered), newRules)] {
		e.Rules = append(e.Rules, numbers.NewRule{ID: o.ID, Words: o.Words, Name: o.Text})
	}
	lists, err := d.Lists.All(ctx, who)
	if err != nil {
		return nil, err
	}
	for _, l := range lists {
		if l.Way == "request" || l.Way == "mail" { // a page has to be gone to by hand
			e.Lists = append(e.Lists, numbers.Heard{List: l.List, Name: l.From.Short(), Messages: l.Messages, Opened: l.Opened, Conversation: l.Conversation, Left: l.LeftAt > 0})
		}
	}
	var refused map[string]when.Instant
	err = d.store.Read(ctx, func(t store.Tx) error {
		r := counting.Reviews(t)
		if refused, err = r.Refused(who.Box, who.Person); err != nil {
			return err
		}
		open, err := counting.Answers(t).Pending(who.Box)
		if err != nil {
			return err
		}
		for _, f := range open {
			e.Moved = append(e.Moved, numbers.Postponed{UID: f.UID, Title: f.Title, Times: f.Moved})
		}
		known, err := r.Waits(who.Box, when.DayStart(now, loc, -waits), waitsSeen)
		if err != nil {
			return err
		}
		e.People = awaited(known)
		p, err := store.People(t).PersonByID(who.Person)
		if err != nil || p.Delivery.Plan() == nil {
			return err
		}
		from := max(p.Delivery.Since, when.DayStart(now, loc, -rounds))
		brought, err := r.Delivered(who.Box, from, now, loc)
		e.Rounds = came(*p.Delivery.Plan(), brought, from, now, loc)
		return err
	})
	return numbers.Advise(e, func(key string) bool { return refused[key] > 0 }), err
}

// awaited is how those whom the reader waited for keep to days.
func awaited(all []counting.Wait) (out []numbers.Awaited) {
	at := map[string]int{}
	for _, w := range all {
		if w.Person == "" || w.Since == 0 && w.Ended == 0 {
			continue
		}
		i, ok := at[w.Person]
		if !ok {
			i = len(out)
			at[w.Person] = i
			out = append(out, numbers.Awaited{Address: w.Person, Name: w.PersonName})
		}
		switch {
		case w.Open && w.Since > 0:
			out[i].Open = append(out[i].Open, w.UID)
		case w.Ended > 0:
			if out[i].Waits++; w.Asked > 0 || w.Ended-w.Was > longWait {
				out[i].Late++
			}
		}
	}
	return out
}

// came is on how many days each round of a plan came in [from, to), and on how many it brought something.
func came(p delivery.Plan, brought map[int]int, from, to when.Instant, loc *time.Location) (out []numbers.Round) {
	times := map[int]int{}
	for d := 1; d <= rounds; d++ {
		start := when.DayStart(to, loc, -d)
		if start < from {
			break
		}
		weekday := start.In(loc).Weekday()
		seen := map[int]bool{}
		for _, stream := range [][]delivery.Day{p.People, p.Machines} {
			if int(weekday) >= len(stream) {
				continue
			}
			for _, m := range stream[weekday].Rounds {
				if !seen[m] {
					seen[m] = true
					times[m]++
				}
			}
		}
	}
	for m, n := range times {
		out = append(out, numbers.Round{Minute: m, Days: n, Useful: min(brought[m], n)})
	}
	slices.SortFunc(out, func(a, b numbers.Round) int { return cmp.Compare(a.Minute, b.Minute) })
	return out
}

// plan is the one in force; nil if none is.
func (d *Desk) plan(ctx context.Context, who identity.Who) (plan *delivery.Plan, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Person)
		plan = p.Delivery.Plan()
		return err
	})
	return plan, err
}

// without is a plan with no round at that minute of a day.
func without(p delivery.Plan, minute int) delivery.Plan {
	trim := func(week []delivery.Day) []delivery.Day {
		week = slices.Clone(week)
		for i, day := range week {
			week[i].Rounds = slices.DeleteFunc(slices.Clone(day.Rounds), func(m int) bool { return m == minute })
		}
		return week
	}
	p.People, p.Machines = trim(p.People), trim(p.Machines)
	own := map[delivery.Stream][]delivery.Day{}
	for s, week := range p.Own {
		own[s] = trim(week)
	}
	if p.Own != nil {
		p.Own = own
	}
	return p
}
