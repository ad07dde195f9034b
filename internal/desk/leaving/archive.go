package leaving

import (
	"archive/zip"
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/identity"
	"ebbe/internal/post/archive"
	"ebbe/internal/store"
	"ebbe/internal/store/leaving"
)

// readMe says what is in the archive.
const readMe = `All that is yours in Ebbe.

mail/            your messages as they came in, a file for each place, in the
                 format mbox (RFC 4155), which most mail programs take in
calendar.ics     your follow-ups and events (RFC 5545)
follow-ups.csv   your follow-ups as a table
rows/            everything besides: a file for each table of the program, a
                 line of JSON (RFC 8259) for each row. Instants are milliseconds
                 since 1970 in UTC. Passwords, keys and the secret parts of
                 addresses are not in it.
`

// Archive writes all that is a person's into one file (ZIP): their mail, follow-ups and
// events in the formats that others read, and every row of theirs. Mail that comes in while
// it is written may be in it or not.
func (d *Desk) Archive(ctx context.Context, who identity.Who, out io.Writer) error {
	z := zip.NewWriter(out)
	file := func(name string, write func(io.Writer) error) error {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: time.Now().UTC()})
		if err == nil {
			b := bufio.NewWriter(w)
			if err = write(b); err == nil {
				err = b.Flush()
			}
		}
		return err
	}
	text := func(name string, make func(context.Context, identity.Who) ([]byte, error)) error {
		raw, err := make(ctx, who)
		if err != nil {
			return err
		}
		return file(name, func(w io.Writer) error { _, err := w.Write(raw); return err })
	}
	if err := file("read me.txt", func(w io.Writer) error { _, err := io.WriteString(w, readMe); return err }); err != nil {
		return err
	}
	for _, place := range inbox.Places {
		if err := file("mail/"+string(place)+".mbox", func(w io.Writer) error { return d.mail(ctx, who.Box, place, w) }); err != nil {
			return err
		}
	}
	if err := text("calendar.ics", d.Calendar.Export); err != nil {
		return err
	}
	if err := text("follow-ups.csv", d.Calendar.ExportCSV); err != nil {
		return err
	}
	if err := d.rows(ctx, who, file); err != nil {
		return err
	}
	return z.Close()
}

// mail writes the messages of a place.
func (d *Desk) mail(ctx context.Context, box int64, place inbox.Place, w io.Writer) error {
	for after, more := (leaving.After{ID: -1}), true; more; {
		var letters []leaving.Letter
		err := d.store.Read(ctx, func(t store.Tx) (err error) {
			letters, after, more, err = leaving.Leaving(t).Letters(box, place, after)
			return err
		})
		if err != nil {
			return err
		}
		for chunk := range slices.Chunk(letters, 20) { // of which each can be large
			ids := make([]int64, len(chunk))
			for i, l := range chunk {
				ids[i] = l.ID
			}
			var raws map[int64][]byte
			err := d.store.Read(ctx, func(t store.Tx) (err error) { raws, err = store.Messages(t).Bytes(ids); return err })
			if err != nil {
				return err
			}
			for _, l := range chunk {
				if raw, ok := raws[l.ID]; ok {
					if err := archive.WriteMbox(w, l.From, l.Date.Time(), raw); err != nil {
						return err
					}
				}
			}
		}
	}
	return nil
}

// rows writes every row of a person's, a file for each table.
func (d *Desk) rows(ctx context.Context, who identity.Who, file func(string, func(io.Writer) error) error) error {
	return d.store.Read(ctx, func(t store.Tx) error {
		for _, table := range leaving.Given() {
			err := file("rows/"+table+".jsonl", func(w io.Writer) error {
				enc := json.NewEncoder(w)
				enc.SetEscapeHTML(false)
				return leaving.Leaving(t).Rows(leaving.Owner{Person: who.Person, Box: who.Box}, table, func(row map[string]any) error { return enc.Encode(row) })
			})
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// Packed is an archive in a file that is gone once it is closed, and what it is called.
type Packed struct {
	*os.File
	Name string
	Size int64
}

// Pack writes the archive of a person beside the data, so that it is whole before any of it
// is given out.
func (d *Desk) Pack(ctx context.Context, who identity.Who) (p Packed, err error) {
	var person store.Person
	if err := d.store.Read(ctx, func(t store.Tx) (err error) { person, err = store.People(t).PersonByID(who.Person); return err }); err != nil {
		return p, err
	}
	f, err := os.CreateTemp(d.store.Dir(), "ebbe-archive-*")
	if err != nil {
		return p, fmt.Errorf("the archive cannot be written: %w", err)
	}
	if err = os.Remove(f.Name()); err == nil { // it lives on until it is closed
		err = d.Archive(ctx, who, f)
	}
	if err == nil {
		p = Packed{File: f, Name: "ebbe-" + strings.Map(plain, person.Address) + "-" + time.Now().Format("2006-01-02") + ".zip"}
		p.Size, err = f.Seek(0, io.SeekCurrent)
	}
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		f.Close()
	}
	return p, err
}

// plain keeps what may stand in the name of a file.
func plain(r rune) rune {
	if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r == '.' {
		return r
	}
	return '-'
}
