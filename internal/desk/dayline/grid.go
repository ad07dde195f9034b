package dayline

import (
	"context"

	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Grid gives the coming week with what already waits in each part of it.
func (d *Desk) Grid(ctx context.Context, who identity.Who) (g [7]when.Day, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	err = d.store.Read(ctx, func(t store.Tx) error {
		back, due, err := store.Agenda(t).Returns(who.Box, when.DayStart(now, loc, 0), when.DayStart(now, loc, 7))
		g = who.Week.Grid(now, back, due)
		return err
	})
	return g, err
}

// Read says what a phrase means in a field that looks that way, and in which it may be
// said that something is done again and again.
func (d *Desk) Read(ctx context.Context, who identity.Who, phrase string, way when.Way, rhythm bool) (p Phrase, err error) {
	if way != when.Ahead && way != when.Back && way != when.Either {
		return p, problem.Invalid("way", "A field looks ahead, back or either way. Nothing was read.")
	}
	const around = when.Instant(30 * 60_000)
	err = d.store.Read(ctx, func(t store.Tx) error {
		is, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		now := d.Journal.Now()
		field := is.Field(way, now)
		field.Rhythm = rhythm
		if p.Reading = who.Week.ReadIn(field, phrase, now); p.Moment.IsZero() {
			return nil
		}
		back, due, err := store.Agenda(t).Returns(who.Box, p.Moment.At-around, p.Moment.At+around)
		p.Also = len(back) + len(due)
		return err
	})
	return p, err
}
