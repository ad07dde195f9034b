package desk

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"ebbe/internal/post/archive"
	"ebbe/internal/store"
)

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
	return archive.WriteMbox(w, m.FromAddr, m.Date.Time(), raw)
}
