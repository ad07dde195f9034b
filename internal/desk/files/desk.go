// Package files is about the files of messages: each is shown beside its message, those of a
// conversation stand together, and several are saved as one.
package files

import (
	"archive/zip"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/identity"
	"ebbe/internal/post/fileshow"
	"ebbe/internal/post/filetext"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/finding"
)

// Limits of what is saved as one file.
const (
	MaxTogether = 500     // files
	maxBytes    = 1 << 30 // bytes of them together
	maxListed   = 1000    // files of a conversation that are listed, the newest
)

// errNotNow says nothing of a file: it is the end of a sentence about one.
var errNotNow = errors.New("cannot be read at the moment; open it again in a while")

// Desk is where files are.
type Desk struct {
	// Reads reads the text of a file, as filetext.Read does; nil: what has not been read shows nothing.
	Reads func(ctx context.Context, name, kind string, content []byte) (string, error)

	store *store.Store
}

// New makes a desk over a store.
func New(s *store.Store) *Desk { return &Desk{store: s} }

// Name names a file: which of a message.
type Name struct {
	Message int64
	Number  int
}

// File gives a file of a message. It returns store.ErrNotFound.
func (d *Desk) File(ctx context.Context, who identity.Who, of Name) (mime.Part, error) {
	p, _, err := d.file(ctx, who, of)
	return p, err
}

func (d *Desk) file(ctx context.Context, who identity.Who, of Name) (p mime.Part, text string, err error) {
	var raw []byte
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		if _, err = store.Messages(t).MessageRow(who.Box, of.Message); err != nil {
			return err
		}
		if raw, err = store.Messages(t).Original(of.Message); err != nil {
			return err
		}
		text, err = finding.Finding(t).FileText(of.Message, of.Number)
		return err
	})
	if err != nil {
		return p, "", err
	}
	parts := mime.Read(raw).Parts
	if of.Number < 0 || of.Number >= len(parts) {
		return p, "", store.ErrNotFound
	}
	return parts[of.Number], text, nil
}

// shown is a file as it is shown. What was read of it for searching is not read again.
func (d *Desk) shown(ctx context.Context, who identity.Who, of Name) (p mime.Part, s fileshow.Shown, err error) {
	p, text, err := d.file(ctx, who, of)
	if err != nil {
		return p, s, err
	}
	var unread error
	if text == "" && fileshow.Begins(p.Content) == fileshow.Text {
		unread = filetext.ErrUnknown
		if d.Reads != nil {
			text, unread = d.Reads(ctx, p.Name, p.Type, p.Content)
		}
		switch {
		case ctx.Err() != nil:
			return p, s, ctx.Err()
		case errors.Is(unread, filetext.ErrNoReader):
			unread = errNotNow
		case errors.Is(unread, filetext.ErrBroken): // what exactly is for the log of whoever writes the reader
			unread = filetext.ErrBroken
		}
	}
	return p, fileshow.Show(p.Name, p.Content, text, unread), nil
}

// Look says how a file is shown, and where in it the terms stand. It returns
// store.ErrNotFound.
func (d *Desk) Look(ctx context.Context, who identity.Who, of Name, terms []search.Term) (v FileLook, err error) {
	p, s, err := d.shown(ctx, who, of)
	if err != nil {
		return v, err
	}
	v = FileLook{File: mail.File{Name: p.Name, Type: p.Type, Size: len(p.Content)}, Shows: s.Kind, Says: s.Says}
	if s.Kind != fileshow.Picture {
		page := s.Page(terms)
		v.Turns, v.Places = page.Turns, page.Places
	}
	return v, nil
}

// Page is what stands in the frame of a file, which has no script; picture says that it is
// nothing but that. It returns store.ErrNotFound.
func (d *Desk) Page(ctx context.Context, who identity.Who, of Name, terms []search.Term) (html string, picture bool, err error) {
	_, s, err := d.shown(ctx, who, of)
	return s.Page(terms).HTML, s.Kind == fileshow.Picture, err
}

// OfConversation lists the files of a conversation, the newest first. It returns
// store.ErrNotFound.
func (d *Desk) OfConversation(ctx context.Context, who identity.Who, id int64) (v FilesView, err error) {
	v.Files = []FileRow{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		c, err := store.Conversations(t).Opened(who.Box, who.Person, id)
		if err != nil {
			return err
		}
		v.Of = cmp.Or(c.Title, c.Subject)
		messages, err := store.Messages(t).MessagesOf(who.Box, c.ID)
		for _, m := range slices.Backward(messages) {
			v.add(m)
		}
		return err
	})
	return v, err
}

// OfPerson lists the files that went between the reader and whoever has an address, the
// newest first.
func (d *Desk) OfPerson(ctx context.Context, who identity.Who, address string) (v FilesView, err error) {
	v.Files, v.Of = []FileRow{}, address
	err = d.store.Read(ctx, func(t store.Tx) error {
		c, err := store.Correspondents(t).Correspondent(who.Box, address)
		if err != nil {
			return err
		}
		v.Of = cmp.Or(c.Name, address)
		messages, err := finding.Finding(t).Exchanged(who.Box, address, personLooked)
		for _, m := range messages {
			v.add(m)
		}
		return err
	})
	return v, err
}

// personLooked is how many messages that name somebody are looked at for their files.
const personLooked = 1000

// add lists the files of a message.
func (v *FilesView) add(m store.Message) {
	for n, f := range m.Files {
		if len(v.Files) == maxListed {
			return
		}
		v.Bytes += int64(f.Size)
		v.Files = append(v.Files, FileRow{Message: m.ID, Number: n, File: f, At: m.Date, From: mail.Address{Name: m.FromName, Address: m.FromAddr}, Own: m.Own})
	}
}

// Together writes files as one ZIP (ISO/IEC 21320), each under its name; begin is called once
// it is known that all of them are there, before anything is written. It returns
// store.ErrNotFound if one of them is not there, and a *problem.Error beyond what is saved as
// one.
func (d *Desk) Together(ctx context.Context, who identity.Who, of []Name, begin func(), to io.Writer) error {
	if len(of) == 0 || len(of) > MaxTogether {
		return problem.Invalid("files", fmt.Sprintf("Between 1 and %d files can be saved as one; these are %d. Choose fewer.", MaxTogether, len(of)))
	}
	rows := map[int64]store.Message{}
	err := d.store.Read(ctx, func(t store.Tx) error {
		var all int64
		for _, f := range of {
			m, known := rows[f.Message]
			if !known {
				var err error
				if m, err = store.Messages(t).MessageRow(who.Box, f.Message); err != nil {
					return err
				}
				rows[f.Message] = m
			}
			if f.Number < 0 || f.Number >= len(m.Files) {
				return store.ErrNotFound
			}
			all += int64(m.Files[f.Number].Size)
		}
		if all > maxBytes {
			return problem.Invalid("files", "Together these files have more than 1 GB, which is more than can be saved as one. Choose fewer.")
		}
		return nil
	})
	if err != nil {
		return err
	}
	begin()
	z := zip.NewWriter(to)
	taken := map[string]bool{}
	var parts []mime.Part // of the message they were last taken from
	last := int64(0)
	for _, f := range of {
		if f.Message != last {
			var raw []byte
			if err := d.store.Read(ctx, func(t store.Tx) (err error) {
				raw, err = store.Messages(t).Original(f.Message)
				return err
			}); err != nil {
				return err
			}
			parts, last = mime.Read(raw).Parts, f.Message
		}
		if f.Number >= len(parts) {
			return store.ErrNotFound
		}
		p := parts[f.Number]
		w, err := z.CreateHeader(&zip.FileHeader{Name: free(fileName(p.Name), taken), Method: zip.Deflate, Modified: rows[f.Message].Date.In(time.UTC)})
		if err != nil {
			return err
		}
		if _, err := w.Write(p.Content); err != nil {
			return err
		}
	}
	return z.Close()
}

// fileName is a name under which a file can be kept in a folder, whatever it came with.
func fileName(name string) string {
	name = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || strings.ContainsRune(`/\:*?"<>|`, r) || r == unicode.ReplacementChar || unicode.Is(unicode.Bidi_Control, r) {
			return '_'
		}
		return r
	}, name)
	if name = strings.Trim(name, " ."); name == "" {
		return "file"
	}
	for len(name) > 200 { // most file systems have 255 bytes
		end := path.Ext(name)
		if len(end) > 20 {
			end = ""
		}
		begins := strings.TrimSuffix(name, end)
		_, size := utf8.DecodeLastRuneInString(begins)
		name = begins[:len(begins)-size] + end
	}
	return name
}

// free is a name, or one like it that is not taken yet; file systems that do not tell capital
// letters apart are thought of.
func free(name string, taken map[string]bool) string {
	out := name
	for n := 2; taken[strings.ToLower(out)]; n++ {
		end := path.Ext(name)
		out = fmt.Sprintf("%s (%d)%s", strings.TrimSuffix(name, end), n, end)
	}
	taken[strings.ToLower(out)] = true
	return out
}
