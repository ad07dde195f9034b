package desk

import (
	"context"
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// PageSize is how many rows a page of a list has.
const PageSize = 100

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

func slipsOf(t store.Tx, who identity.Who, rows []store.Row) ([]Slip, error) {
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	followUps, err := t.FollowUpsOf(who.Box, ids)
	if err != nil {
		return nil, err
	}
	drafts, err := t.Drafts(who.Person, ids)
	if err != nil {
		return nil, err
	}
	slips := make([]Slip, len(rows))
	for i, r := range rows {
		slips[i] = slipOf(r)
		slips[i].Draft = drafts[r.ID]
		for _, f := range followUps[r.ID] {
			if !f.Data.Due.IsZero() {
				slips[i].Due = &f.Data.Due
				break
			}
		}
	}
	return slips, nil
}

func slipOf(r store.Row) Slip {
	from := mail.Address{Name: r.FromName, Address: r.FromAddr}.Short()
	if from == "" {
		from = "Unknown sender"
	}
	subject := r.Subject
	if subject == "" {
		subject = "(no subject)"
	}
	return Slip{ID: r.ID, From: from, Subject: subject, Kind: r.Kind, LastAt: r.LastAt, Messages: r.Messages, Files: r.Files,
		Unread: r.Unread, Starred: r.Starred, Looks: r.Looks, Position: r.Position(),
		Title: r.Title, Note: r.Note != "", Labels: r.Labels.IDs(), Reach: r.Reach, Account: r.Account}
}

// Later gives a page of the snoozed, in the order of their return.
func (d *Desk) Later(ctx context.Context, who identity.Who, after string) (l List, err error) {
	cursor, err := parseCursor(after)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := t.Later(who.Box, who.Person, cursor, PageSize)
		if err != nil {
			return err
		}
		if len(rows) == PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d.%d", last.ReturnAt, last.ID)
		}
		if l.Slips, err = slipsOf(t, who, rows); err != nil {
			return err
		}
		l.Count, err = t.CountPlace(who.Box, inbox.Snoozed)
		return err
	})
	return l, err
}

// Find gives a page of the conversations that match q, newest first, wherever
// they are unless q narrows it.
func (d *Desk) Find(ctx context.Context, who identity.Who, q search.Query, after string) (l List, err error) {
	cursor, err := parseCursor(after)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := t.Found(who.Box, who.Person, q, cursor, PageSize)
		if err != nil {
			return err
		}
		if len(rows) == PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d.%d", last.LastAt, last.ID)
		}
		l.Count = len(rows)
		l.Slips, err = slipsOf(t, who, rows)
		return err
	})
	return l, err
}
