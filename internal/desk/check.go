package desk

import (
	"bytes"
	"context"
	"crypto/sha256"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/post"
	"ebbe/internal/store"
)

// Check verifies the database against its own rules, and every stored original
// against its hash. It returns what is wrong, each in a sentence.
func (d *Desk) Check(ctx context.Context) (wrong []string, messages int, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		if wrong, err = t.Check(); err != nil {
			return err
		}
		late, err := d.late(t)
		if err != nil {
			return err
		}
		wrong = append(wrong, late...)
		silent, err := silent(t)
		if err != nil {
			return err
		}
		wrong = append(wrong, silent...)
		return nil
	})
	if err != nil {
		return wrong, messages, err
	}
	err = d.store.EachMessage(ctx, 1, func(m store.Message, raw []byte) error {
		messages++
		if h := sha256.Sum256(raw); !bytes.Equal(h[:], m.Hash) || len(raw) != m.Size {
			wrong = append(wrong, fmt.Sprintf("The original of message %d (“%s”) is not what came in.", m.ID, m.Subject))
		}
		return nil
	})
	return wrong, messages, err
}

// silent says which follow-ups would come up at another time than the agenda
// has for them.
func silent(t store.Tx) (wrong []string, err error) {
	things, err := t.Things()
	if err != nil {
		return nil, err
	}
	type subject struct {
		box int64
		uid string
	}
	at, kept := map[subject]when.Instant{}, map[subject]bool{}
	for _, th := range things {
		if th.Kind == inbox.Remind {
			at[subject{th.BoxID, th.FollowUp}], kept[subject{th.BoxID, th.FollowUp}] = th.At, th.Kept()
		}
	}
	people, err := t.People()
	for _, p := range people {
		box, err := t.BoxOf(p.ID)
		if err != nil {
			return wrong, err
		}
		all, err := t.AllFollowUps(box)
		if err != nil {
			return wrong, err
		}
		for _, f := range all {
			if next, s := f.Next(p.Week), (subject{box, f.UID}); next != at[s] && !kept[s] {
				wrong = append(wrong, fmt.Sprintf("The follow-up “%s” is not on the agenda as it should be.", f.Title))
			}
		}
	}
	return wrong, err
}

// Export writes the originals of all messages of a box, unchanged: as one mbox
// file, or as a folder of .eml files. It never overwrites anything.
func (d *Desk) Export(ctx context.Context, box int64, format, out string) (n int, err error) {
	var write func(store.Message, []byte) error
	switch format {
	case "mbox":
		file, err := os.OpenFile(out, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
		if err != nil {
			return 0, fmt.Errorf("nothing was exported: %w", err)
		}
		defer func() {
			if e := file.Close(); err == nil {
				err = e
			}
		}()
		write = func(m store.Message, raw []byte) error { return writeMbox(file, m, raw) }
	case "eml":
		if err := os.MkdirAll(out, 0o700); err != nil {
			return 0, fmt.Errorf("nothing was exported: %w", err)
		}
		write = func(m store.Message, raw []byte) error {
			name := fmt.Sprintf("%s-%06d.eml", m.Date.In(time.UTC).Format("2006-01-02"), m.ID)
			f, err := os.OpenFile(filepath.Join(out, name), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
			if err != nil {
				return err
			}
			if _, err := f.Write(raw); err != nil {
				f.Close()
				return err
			}
			return f.Close()
		}
	default:
		return 0, fmt.Errorf("the format %q is not known: use mbox or eml", format)
	}
	err = d.store.EachMessage(ctx, box, func(m store.Message, raw []byte) error {
		if err := write(m, raw); err != nil {
			return fmt.Errorf("%d messages were exported, then: %w", n, err)
		}
		n++
		return nil
	})
	return n, err
}

func writeMbox(w io.Writer, m store.Message, raw []byte) error {
	return post.WriteMbox(w, m.FromAddr, m.Date.Time(), raw)
}
