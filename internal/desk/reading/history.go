package reading

import (
	"context"

	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
)

// History gives a page of the journal, filtered as p says.
func (d *Desk) History(ctx context.Context, who identity.Who, p store.Past) (h History, err error) {
	h.Lines = []HistoryLine{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		entries, err := store.Journal(t).History(who.Box, p, store.PageSize)
		if err != nil {
			return err
		}
		names, err := membership.Membership(t).Names(who.Box)
		if err != nil {
			return err
		}
		for _, e := range entries {
			l := HistoryLine{ID: e.ID, At: e.At, Actor: e.Actor, Kind: e.Kind, Count: e.Count, Text: e.Text, Conversation: e.ConversationID, TakenBack: e.TakenBack != 0,
				Step: journal.CanTakeBack(who, e)}
			if e.Actor == store.ByPerson {
				l.Who = names[e.PersonID]
			}
			h.Lines = append(h.Lines, l)
		}
		if len(entries) == store.PageSize {
			h.Next = entries[len(entries)-1].ID
		}
		return nil
	})
	return h, err
}
