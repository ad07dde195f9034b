package followups

import (
	"context"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// CallForClosing notes on the agenda when the day is closed next: on the next
// working day at the time chosen.
func CallForClosing(t store.Tx, box int64, p store.Person, now when.Instant) error {
	if p.FollowUp.CloseAt < 0 {
		return store.Agenda(t).SetTime(box, inbox.CloseDay, 0)
	}
	loc := p.Week.Location()
	for i := range 8 {
		day := when.DayStart(now, loc, i).In(loc)
		if at := when.At(day, p.FollowUp.CloseAt, loc); at > now && p.Week.Works(day.Weekday()) {
			return store.Agenda(t).SetTime(box, inbox.CloseDay, at)
		}
	}
	return store.Agenda(t).SetTime(box, inbox.CloseDay, 0)
}

// Closing gives what is left of the day, each with the nearest free days.
func (d *Desk) Closing(ctx context.Context, who identity.Who) (c Closing, err error) {
	c.Items = []ClosingItem{}
	err = d.viewing(ctx, who, func(v viewer) error {
		views, err := v.list(search.Query{}, followup.Span{From: 1, To: v.bounds.Today}, oneByOne)
		if err != nil {
			return err
		}
		var l FollowUpList
		if err := v.days(&l, search.Query{}); err != nil {
			return err
		}
		c.Days = l.Days
		for _, f := range views {
			c.Items = append(c.Items, ClosingItem{f, followup.Free(l.Days, f.Minutes())})
		}
		c.Done, err = store.FollowUps(v.t).CountFinished(who.Box, when.DayStart(v.now, who.Week.Location(), 0), followup.Ever)
		return err
	})
	return c, err
}

// ClosedDay notes that closing the day has been answered.
func (d *Desk) ClosedDay(ctx context.Context, who identity.Who) error {
	err := d.store.Write(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil || p.FollowUp.Called == 0 {
			return err
		}
		p.FollowUp.Called = 0
		return store.People(t).PutPerson(&p, who.Box, nil)
	})
	return d.Journal.Announced(who.Box, journal.TopicCards, err)
}
