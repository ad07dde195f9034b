package queue

import (
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/search"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// Together is the key of the group of digests, which is the last of the queue.
const Together = "together"

// apart are the streams whose digests are not taken apart where the inbox is filtered by
// q: all that come together, unless q is about one stream.
func apart(s delivery.Settings, q search.Query) string {
	if q.Stream != "" || q.Together {
		return ""
	}
	ids := make([]string, len(s.Together))
	for i, stream := range s.Together {
		ids[i] = string(stream)
	}
	return strings.Join(ids, ",")
}

// digests are the slips of what lies in the inbox together: one for each stream of which
// something matches q and is there for no other reason than that it came in.
func digests(t store.Tx, who identity.Who, s delivery.Settings, q search.Query, order inbox.Order) (slips []Slip, err error) {
	if apart(s, q) == "" {
		return nil, nil
	}
	for i, stream := range s.Together {
		of := q
		of.Stream, of.Together = string(stream), true
		ids, err := store.Search(t).IDs(who.Box, who.Person, of, order)
		if err != nil {
			return nil, err
		}
		if len(ids) == 0 {
			continue
		}
		rows, err := store.Search(t).Rows(who.Box, who.Person, ids[:min(len(ids), firstSlips)])
		if err != nil {
			return nil, err
		}
		slip := Slip{ID: -1 - int64(i), From: say.Upper(s.Name(stream)), Subject: say.Plural(len(ids), "conversation") + ", together", Messages: len(ids), Stream: string(stream), Labels: []int64{}, Level: -1, Of: ids,
			Position: inbox.Position{Place: inbox.Inbox, Reason: inbox.Arrived}}
		var from []string
		for _, r := range rows {
			one := slipOf(r)
			from = append(from, one.From+": "+one.Subject)
			slip.Unread, slip.LastAt = slip.Unread || one.Unread, max(slip.LastAt, one.LastAt)
		}
		slip.Begins = strings.Join(from[:min(len(from), 4)], "; ")
		slip.Position.Since = slip.LastAt
		slips = append(slips, slip)
	}
	return slips, nil
}
