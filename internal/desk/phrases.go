package desk

import (
	"context"

	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// Grid gives the coming week with what already waits in each part of it.
func (d *Desk) Grid(ctx context.Context, who identity.Who) (g [7]when.Day, err error) {
	now, loc := d.now(), who.Week.Location()
	err = d.store.Read(ctx, func(t store.Tx) error {
		back, due, err := t.Returns(who.Box, when.DayStart(now, loc, 0), when.DayStart(now, loc, 7))
		g = who.Week.Grid(now, back, due)
		return err
	})
	return g, err
}

// Read says what a phrase means.
func (d *Desk) Read(ctx context.Context, who identity.Who, phrase string) (p Phrase, err error) {
	p.Reading = who.Week.Read(phrase, d.now())
	if p.Moment.IsZero() {
		return p, nil
	}
	const around = when.Instant(30 * 60_000)
	err = d.store.Read(ctx, func(t store.Tx) error {
		back, due, err := t.Returns(who.Box, p.Moment.At-around, p.Moment.At+around)
		p.Also = len(back) + len(due)
		return err
	})
	return p, err
}

// Now is the present as the desk takes it.
func (d *Desk) Now() when.Instant { return d.now() }
