package desk

import (
	"context"
	"errors"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/telling"
)

// rereadOnce is how many messages that were kept raw are looked at in one go.
const rereadOnce = 20

// Reread reads again what an earlier version could not read and has kept raw.
// What still cannot be is left for the next version.
func (d *Desk) Reread(ctx context.Context) error {
	for {
		var rows []store.Message
		raws, weeks := map[int64][]byte{}, map[int64]when.Week{}
		err := d.store.Read(ctx, func(t store.Tx) (err error) {
			if rows, err = store.Messages(t).KeptRaw(mime.Reader, rereadOnce); err != nil {
				return err
			}
			for _, m := range rows {
				if raws[m.ID], err = store.Messages(t).Original(m.ID); err != nil {
					return err
				}
				if weeks[m.BoxID], err = intake.WeekOf(t, m.BoxID); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil || len(rows) == 0 {
			return err
		}
		for i := range rows {
			p := d.Intake.Parse(post.Item{Raw: raws[rows[i].ID]}) // outside of the transaction, within its time
			p.Look(weeks[rows[i].BoxID], d.Journal.Now())
			m, b := &rows[i], p.Body.Message
			m.Raw, m.Reader = b.Raw, mime.Reader
			if b.Raw {
				b.Files = nil
			} else {
				m.Begins, m.Language, m.List = mail.Begins(b.Text), p.Language, b.List
				m.Subject, m.FromName, m.FromAddr, m.To, m.Cc, m.Kind = b.Subject, b.From.Name, b.From.Address, b.To, b.Cc, b.Kind
			}
			m.Files = append([]mail.File{}, b.Files...)
			if err := d.store.Write(ctx, func(t store.Tx) error {
				if !m.Own {
					if err := telling.Facts(t).Replace(m.ID, telling.Of(*m, p.Facts)); err != nil {
						return err
					}
				}
				return store.Messages(t).ReadAgain(*m, intake.Words(b))
			}); err != nil {
				return err
			}
		}
		d.Journal.AnnounceAll(journal.TopicMail)
	}
}

// beginOnce is how many conversations of before are given their beginning in one go.
const beginOnce = 50

// Begin gives the conversations of before slips had the beginning of a text theirs,
// the newest first. A message that cannot be read has none.
func (d *Desk) Begin(ctx context.Context) error {
	for {
		var todo []store.Unbegun
		raws := map[int64][]byte{}
		err := d.store.Read(ctx, func(t store.Tx) (err error) {
			if todo, err = store.Conversations(t).Unbegun(beginOnce); err != nil {
				return err
			}
			for _, u := range todo {
				raw, err := store.Messages(t).Original(u.MessageID)
				if errors.Is(err, store.ErrNotFound) {
					continue
				}
				if err != nil {
					return err
				}
				raws[u.MessageID] = raw
			}
			return nil
		})
		if err != nil || len(todo) == 0 {
			return err
		}
		for i := range todo { // outside of the transaction, each within its time
			if raw, ok := raws[todo[i].MessageID]; ok {
				todo[i].Begins = mail.Begins(d.Intake.Parse(post.Item{Raw: raw}).Body.Text)
			}
		}
		if err := d.store.Write(ctx, func(t store.Tx) error { return store.Conversations(t).SetBegun(todo) }); err != nil {
			return err
		}
		d.Journal.AnnounceAll(journal.TopicMail)
	}
}
