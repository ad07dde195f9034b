package followups

import (
	"context"
	"fmt"

	"ebbe/internal/core/followup"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// Log gives a page of what was finished or dropped, the last first.
func (d *Desk) Log(ctx context.Context, who identity.Who, before string) (l Log, err error) {
	from, err := positionIn(before)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := store.FollowUps(t).FinishedFollowUps(who.Box, 1, followup.Ever, from, store.PageSize)
		if err != nil {
			return err
		}
		if len(rows) == store.PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d %s", last.Finished, last.UID)
		}
		l.FollowUps, err = d.followUpViews(t, who, rows)
		return err
	})
	return l, err
}

// Waiting gives a page of what waits for somebody, the longest first.
func (d *Desk) Waiting(ctx context.Context, who identity.Who, after string) (l Waiting, err error) {
	from, err := positionIn(after)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := store.FollowUps(t).WaitingFollowUps(who.Box, from, store.PageSize)
		if err != nil {
			return err
		}
		if len(rows) == store.PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d %s", last.WaitsSince, last.UID)
		}
		if l.Count, err = store.FollowUps(t).CountWaiting(who.Box); err != nil {
			return err
		}
		l.FollowUps, err = d.followUpViews(t, who, rows)
		return err
	})
	return l, err
}
