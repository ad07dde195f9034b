package queue

import (
	"context"
	"fmt"
	"strings"

	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Senders gives a page of those who have something in the inbox, most first,
// from the position after (as the page before named it).
func (d *Desk) Senders(ctx context.Context, who identity.Who, after string) (s Senders, err error) {
	var cursor *store.Cursor
	address := ""
	if after != "" {
		count, rest, _ := strings.Cut(after, ".")
		cursor, address = &store.Cursor{}, rest
		if _, err := fmt.Sscan(count, &cursor.ID); err != nil {
			return s, problem.Invalid("after", "That is no position in this list. Start again from the top.")
		}
	}
	s.Senders = []SenderView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := store.Correspondents(t).Senders(who.Box, who.Person, cursor, address, store.PageSize)
		if err != nil {
			return err
		}
		for _, r := range rows {
			s.Senders = append(s.Senders, SenderView{Address: r.Address, Name: r.Name, Count: r.Count, Unread: r.Unread, Starred: r.Starred,
				Person: r.People > 0, Newest: r.Newest, Oldest: r.Oldest, AnsweredAt: r.AnsweredAt})
		}
		if len(rows) == store.PageSize {
			last := rows[len(rows)-1]
			s.Next = fmt.Sprintf("%d.%s", last.Count, last.Address)
		}
		s.Left, err = store.Conversations(t).Left(who.Box)
		return err
	})
	return s, err
}
