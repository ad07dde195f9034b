package figures

import (
	"context"

	"ebbe/internal/core/numbers"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

const (
	oldDays   = 91  // after which a fresh start takes what is left
	paceDays  = 56  // of which it is learned how long a decision takes
	usualTens = 2   // pieces of ten minutes a day, until something else is said
	mostTens  = 24  // that anybody can mean to take
	digDays   = 366 // of progress that are shown
)

// Dig gives the plan by which the inbox comes to zero, and how far it has come; tens is how many pieces of
// ten minutes a day are tried, 0 for what was chosen.
func (d *Desk) Dig(ctx context.Context, who identity.Who, tens int) (v DigView, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	now, loc := d.Journal.Now(), who.Week.Location()
	today := numbers.WallOf(now, loc).Day()
	v.Days = []DayView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		if v.Left, err = store.Conversations(t).Left(who.Box); err != nil {
			return err
		}
		heaps, old, err := counting.Digs(t).Heaps(who.Box, when.DayStart(now, loc, -oldDays))
		if err != nil {
			return err
		}
		counts, err := counting.Counted(t).Sums(who.Box, today-paceDays, today+1, numbers.Took)
		if err != nil {
			return err
		}
		v.Pace = numbers.Over(counts).Took.Median
		v.Steps = numbers.DigOut(old, heaps, v.Pace)
		v.Whole, v.Next = numbers.Tens(v.Steps), numbers.NextTen(v.Steps)
		dig, err := counting.Digs(t).Of(who.Box)
		if err != nil {
			return err
		}
		if v.Tens = usualTens; tens > 0 {
			v.Tens = min(tens, mostTens)
		} else if dig.Tens > 0 {
			v.Tens = dig.Tens
		}
		off, err := d.off(t, who, today, today+longestStretch)
		if err != nil {
			return err
		}
		if day, ok := numbers.DigEnd(v.Whole, v.Tens, today, off); ok && v.Whole > 0 {
			v.End = dateOf(day)
		}
		if dig.Begun == 0 {
			return nil
		}
		v.Begun, v.LeftThen = dateOf(numbers.WallOf(dig.Begun, loc).Day()), dig.LeftThen
		from := max(numbers.WallOf(dig.Begun, loc).Day(), today-digDays)
		rows, err := counting.Counted(t).Evenings(who.Box, from, today+1)
		for _, e := range rows {
			v.Days = append(v.Days, DayView{Date: dateOf(e.Day), Left: e.Left, Acted: true})
		}
		return err
	})
	return v, err
}

// BeginDig begins to dig the inbox out, with so many pieces of ten minutes a day, or changes how many; with
// none it ends.
func (d *Desk) BeginDig(ctx context.Context, who identity.Who, tens int) error {
	if who.Team != 0 {
		if err := who.May(together.Serve); err != nil {
			return err
		}
	}
	if tens < 0 || tens > mostTens {
		return problem.Invalid("tens", "Choose one to 24 pieces of ten minutes a day.")
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		if tens == 0 {
			return counting.Digs(t).Drop(who.Box)
		}
		dig, err := counting.Digs(t).Of(who.Box)
		if err != nil {
			return err
		}
		if dig.Begun == 0 {
			if dig.LeftThen, err = store.Conversations(t).Left(who.Box); err != nil {
				return err
			}
			dig.BoxID, dig.Begun = who.Box, d.Journal.Now()
		}
		dig.Tens = tens
		return counting.Digs(t).Put(dig)
	})
}
