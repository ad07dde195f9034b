package calendars

import (
	"cmp"
	"context"
	"slices"
	"time"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/queue"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// dueShown is how many follow-ups that are due are shown on a day of the week.
const dueShown = 8

// Week gives the week in which a day lies (today if it is empty): events,
// follow-ups that are due, and what comes back.
func (d *Desk) Week(ctx context.Context, who identity.Who, day string) (w CalendarWeek, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	t := now.In(loc)
	if day != "" {
		if t, err = time.Parse("2006-01-02", day); err != nil || t.Year() < 1990 || t.Year() > 2200 {
			return w, problem.Invalid("day", "That is no day Ebbe can show. Choose another.")
		}
	}
	first := who.Week.StartOfWeek(t)
	w.From = first.Format("2006-01-02")
	starts := make([]when.Instant, 8)
	for i := range starts {
		starts[i] = when.At(first.AddDate(0, 0, i), 0, loc)
	}
	w.Days = make([]CalendarDay, 7)
	dayOf := func(at when.Instant) int {
		i, found := slices.BinarySearch(starts, at)
		if !found {
			i--
		}
		return min(max(i, 0), 6)
	}
	due, err := d.FollowUps.OnDays(ctx, who, starts, dueShown)
	if err != nil {
		return w, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		slots, err := SlotsOf(t, who, starts[0], starts[7])
		if err != nil {
			return err
		}
		for i := range w.Days {
			w.Days[i] = CalendarDay{Start: starts[i], Slots: []calendar.Slot{}, Due: due[i].Due, Back: []queue.Slip{}, Open: due[i].Open}
			for _, s := range slots {
				if s.From < starts[i+1] && (s.To > starts[i] || s.From >= starts[i]) {
					w.Days[i].Slots = append(w.Days[i].Slots, s)
				}
			}
		}
		ids, err := store.Agenda(t).ReturnsIn(who.Box, starts[0], starts[7], 200)
		if err != nil {
			return err
		}
		back, err := queue.SlipsBy(t, who, ids, now)
		for _, s := range back {
			i := dayOf(s.Position.Return.At)
			w.Days[i].Back = append(w.Days[i].Back, s)
		}
		return err
	})
	return w, err
}

// SlotsOf gives the occurrences of all events in [from, to), in order.
func SlotsOf(t store.Tx, who identity.Who, from, to when.Instant) (slots []calendar.Slot, err error) {
	events, err := store.Calendar(t).EventsBetween(who.Box, from, to)
	for _, e := range events {
		slots = append(slots, e.Between(from, to, who.Week.Location())...)
	}
	slices.SortStableFunc(slots, func(a, b calendar.Slot) int { return cmp.Or(cmp.Compare(a.From, b.From), cmp.Compare(a.UID, b.UID)) })
	return slots, err
}
