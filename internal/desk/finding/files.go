package finding

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/filetext"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/finding"
	"ebbe/internal/store/telling"
	"ebbe/internal/store/words"
)

const (
	atOnce      = 100             // messages whose words are folded in one transaction
	fileAtOnce  = 20              // messages whose files are read in one go,
	bytesAtOnce = 16 << 20        // or as many as are that large together, but one at least
	inBetween   = 2 * time.Second // between something that came in and reading its files
)

// Run reads files, until the context ends, as they come in; first it puts into the index
// anew what earlier versions have put there.
func (d *Desk) Run(ctx context.Context) {
	if err := d.Refold(ctx); err != nil && ctx.Err() == nil {
		slog.Error("the words of older messages could not be put into the index anew", "error", err)
	}
	for {
		if err := d.ReadFiles(ctx); err != nil && ctx.Err() == nil {
			slog.Error("files could not be read; it is tried again", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-d.stirred:
		}
		select { // what comes with it is read in one go
		case <-ctx.Done():
			return
		case <-time.After(inBetween):
		}
	}
}

// Refold puts the words of messages that an earlier version has indexed into the index as
// this one does, the newest first, keeps what they tell, and lets their files be read.
// Broken off, it goes on where it was.
func (d *Desk) Refold(ctx context.Context) error {
	for {
		var rows []store.Message
		raws, weeks := map[int64][]byte{}, map[int64]when.Week{}
		err := d.store.Read(ctx, func(t store.Tx) (err error) {
			if rows, err = finding.Finding(t).Unfolded(atOnce); err != nil {
				return err
			}
			for _, m := range rows {
				if raws[m.ID], err = store.Messages(t).Original(m.ID); err != nil && !errors.Is(err, store.ErrNotFound) {
					return err
				}
				if _, known := weeks[m.BoxID]; !known {
					if weeks[m.BoxID], err = intake.WeekOf(t, m.BoxID); err != nil {
						return err
					}
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
		said, tells := make([]words.Entry, len(rows)), make([][]telling.Told, len(rows))
		for i, m := range rows { // outside of the transaction, each within its time
			p := d.intake.Parse(post.Item{Raw: raws[m.ID]})
			said[i] = intake.Words(p.Body.Message)
			if p.Look(weeks[m.BoxID], d.journal.Now()); !m.Own {
				tells[i] = telling.Of(m, p.Facts)
			}
		}
		err = d.store.Write(ctx, func(t store.Tx) error {
			next := int64(0)
			for i, m := range rows {
				next = m.ID
				if _, err := store.Messages(t).MessageRow(m.BoxID, m.ID); errors.Is(err, store.ErrNotFound) { // removed meanwhile
					continue
				}
				known, err := finding.Finding(t).ReindexFiles(m)
				if err != nil {
					return err
				}
				if err := store.Messages(t).Reindex(m.ID, said[i], len(m.Files) > 0 && m.Stub == 0 && !known); err != nil {
					return err
				}
				if err := telling.Facts(t).Replace(m.ID, tells[i]); err != nil {
					return err
				}
			}
			return finding.Finding(t).Folded(next)
		})
		if err != nil || len(rows) == 0 {
			return err
		}
	}
}

// ReadFiles reads the files of all messages whose files have not been read, the newest
// first, each by itself: one that cannot be read is found by its name alone.
func (d *Desk) ReadFiles(ctx context.Context) error {
	for d.Reads != nil {
		var rows []store.Message
		err := d.store.Read(ctx, func(t store.Tx) (err error) {
			rows, err = finding.Finding(t).Unread(fileAtOnce)
			return err
		})
		if err != nil || len(rows) == 0 {
			return err
		}
		n, size := 1, rows[0].Size
		for n < len(rows) && size+rows[n].Size <= bytesAtOnce {
			size += rows[n].Size
			n++
		}
		if err := d.readFilesOf(ctx, rows[:n]); err != nil {
			return err
		}
		d.journal.AnnounceAll(journal.TopicFiles)
	}
	return nil
}

// readFilesOf reads the files of some messages, outside of transactions, and stores what
// they say.
func (d *Desk) readFilesOf(ctx context.Context, rows []store.Message) error {
	raws := map[int64][]byte{}
	err := d.store.Write(ctx, func(t store.Tx) error {
		for _, m := range rows {
			raw, err := store.Messages(t).Original(m.ID)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return err
			}
			raws[m.ID] = raw
			if err := finding.Finding(t).Try(m.ID); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	files := make([][]store.Document, len(rows))
	for n, m := range rows {
		for i, p := range mime.Read(raws[m.ID]).Parts {
			text := ""
			if filetext.Readable(p.Name, p.Type) {
				text, err = d.Reads(ctx, p.Name, p.Type, p.Content)
				if err != nil && (ctx.Err() != nil || errors.Is(err, filetext.ErrNoReader)) { // nothing is known of the file
					return errors.Join(err, d.untry(ctx, rows))
				}
				if err != nil {
					slog.Debug("a file is found by its name alone", "message", m.ID, "file", i, "why", err)
				}
			}
			files[n] = append(files[n], store.Document{Part: i, Title: p.Name, Text: text})
		}
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		for n, m := range rows {
			if err := finding.Finding(t).PutFiles(m, files[n]); err != nil {
				return err
			}
		}
		return nil
	})
}

// untry lets the files of these messages be read another time, as if it had not been
// begun; also while the program stops.
func (d *Desk) untry(ctx context.Context, rows []store.Message) error {
	ids := make([]int64, len(rows))
	for i, m := range rows {
		ids[i] = m.ID
	}
	return d.store.Write(context.WithoutCancel(ctx), func(t store.Tx) error { return finding.Finding(t).Untry(ids) })
}
