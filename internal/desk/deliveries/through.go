package deliveries

import (
	"context"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// LetPass stores an entry that lets mail through, new or changed. One that is
// there already is not stored twice.
func (d *Desk) LetPass(ctx context.Context, who identity.Who, e delivery.Exception) error {
	if err := who.May(together.Serve); err != nil {
		return err
	}
	e.Value = strings.Join(strings.Fields(e.Value), " ")
	if e.By != delivery.ByWords {
		e.Value = strings.ToLower(strings.TrimPrefix(e.Value, "@"))
	}
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		same := func(o delivery.Exception) bool {
			return o.ID == e.ID || o.By == e.By && (o.Value == e.Value || e.By == delivery.ByWritten || e.By == delivery.ByImportance)
		}
		if i := slices.IndexFunc(s.Through, same); i >= 0 {
			e.ID = s.Through[i].ID
			s.Through[i] = e
		} else {
			e.ID = uuid.NewString()
			s.Through = append(s.Through, e)
		}
		return store.Entry{Kind: inbox.ChangePlan, Text: e.Says() + " comes through at once"}, nil
	})
}

// StopPass takes an entry away.
func (d *Desk) StopPass(ctx context.Context, who identity.Who, id string) error {
	if err := who.May(together.Serve); err != nil {
		return err
	}
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		i := slices.IndexFunc(s.Through, func(e delivery.Exception) bool { return e.ID == id })
		if i < 0 {
			return store.Entry{}, nil
		}
		e := store.Entry{Kind: inbox.ChangePlan, Text: s.Through[i].Says() + " comes through no more"}
		s.Through = slices.Delete(s.Through, i, i+1)
		return e, nil
	})
}
