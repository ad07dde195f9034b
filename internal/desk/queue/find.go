package queue

import (
	"context"
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

func parseCursor(after string) (*store.Cursor, error) {
	if after == "" {
		return nil, nil
	}
	c := &store.Cursor{}
	if _, err := fmt.Sscanf(after, "%d.%d", &c.At, &c.ID); err != nil {
		return nil, problem.Invalid("after", "That is no position in this list. Start again from the top.")
	}
	return c, nil
}

// Later gives a page of the snoozed, in the order of their return.
func (d *Desk) Later(ctx context.Context, who identity.Who, after string) (l List, err error) {
	cursor, err := parseCursor(after)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := store.Conversations(t).Later(who.Box, who.Person, cursor, store.PageSize)
		if err != nil {
			return err
		}
		if len(rows) == store.PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d.%d", last.ReturnAt, last.ID)
		}
		if l.Slips, err = SlipsOf(t, who, rows, d.Journal.Now()); err != nil {
			return err
		}
		l.Count, err = store.Conversations(t).CountPlace(who.Box, inbox.Snoozed)
		return err
	})
	return l, err
}

// Find gives a page of the conversations that match q, newest first, wherever
// they are unless q filters it.
func (d *Desk) Find(ctx context.Context, who identity.Who, q search.Query, after string) (l List, err error) {
	cursor, err := parseCursor(after)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := store.Search(t).Found(who.Box, who.Person, q, cursor, store.PageSize)
		if err != nil {
			return err
		}
		if len(rows) == store.PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d.%d", last.LastAt, last.ID)
		}
		l.Count = len(rows)
		l.Slips, err = SlipsOf(t, who, rows, d.Journal.Now())
		return err
	})
	return l, err
}
