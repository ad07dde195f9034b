package desk

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/search"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/files"
	"ebbe/internal/identity"
	"ebbe/internal/post/fileshow"
	"ebbe/internal/post/filetext"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// readNow lets the desk read files in this process.
func (f *office) readNow(t testing.TB) (read *int) {
	t.Helper()
	read = new(int)
	f.Files.Reads = func(_ context.Context, name, kind string, content []byte) (string, error) {
		*read++
		return filetext.Read(name, kind, content)
	}
	return read
}

func (f *office) message(t testing.TB, subject string) (id int64) {
	t.Helper()
	v, err := f.Reading.Conversation(ctx, f.who, f.by(t, subject).ID)
	require.NoError(t, err)
	return v.Messages[len(v.Messages)-1].ID
}

func TestAFileIsLookedAt(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t,
		withFile("a@x", "Mirela <mirela@coast.example>", "Crates", "Two.", "measures.csv", "text/csv", "crate;height\n1;104\n2;118\n"),
		withFile("b@x", "Tomasz <tomasz@m.example>", "Locked", "Look.", "old.doc", "application/msword", "\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1"),
		withFile("c@x", "Tomasz <tomasz@m.example>", "Broken", "Look.", "sheet.xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "PK\x03\x04 no"),
		withFile("d@x", "Tomasz <tomasz@m.example>", "Drawing", "Look.", "drawing.pdf", "application/pdf", "%PDF-1.4 …"))
	read := f.readNow(t)
	at := func(subject string) files.Name { return files.Name{Message: f.message(t, subject)} }
	look := func(subject, words string) files.FileLook {
		t.Helper()
		v, err := f.Files.Look(ctx, f.who, at(subject), search.TermsOf(words))
		require.NoError(t, err)
		return v
	}
	v := look("Crates", "height 118")
	require.Equal(t, fileshow.Table, v.Shows)
	require.Equal(t, 2, v.Places)
	require.Equal(t, "measures.csv", v.File.Name)
	page, picture, err := f.Files.Page(ctx, f.who, at("Crates"), search.TermsOf("118"))
	require.NoError(t, err)
	require.False(t, picture)
	require.Contains(t, page, "<mark id=p1>118</mark>")
	require.Equal(t, 2, *read)
	f.readFiles(t)
	require.Equal(t, 2, look("Crates", "height 118").Places)
	require.Equal(t, 2, *read, "what has been read is not read again")

	require.Equal(t, "This file is locked with a password. It can be saved and opened elsewhere.", look("Locked", "").Says)
	require.Equal(t, "This file is damaged, or not what it says it is. It can be saved and opened elsewhere.", look("Broken", "").Says)
	require.Equal(t, fileshow.PDF, look("Drawing", "").Shows)

	f.Files.Reads = func(context.Context, string, string, []byte) (string, error) { return "", filetext.ErrTooLong }
	require.Equal(t, "This file took too long to read, or too much memory. It can be saved and opened elsewhere.", look("Locked", "").Says)
	f.Files.Reads = func(context.Context, string, string, []byte) (string, error) { return "", filetext.ErrNoReader }
	require.Contains(t, look("Locked", "").Says, "This file cannot be read at the moment; open it again in a while.")
	_, err = f.Files.Look(ctx, f.who, files.Name{Message: f.message(t, "Crates"), Number: 1}, nil)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = f.Files.Look(ctx, identity.Who{Person: 2, Box: 2}, at("Crates"), nil)
	require.ErrorIs(t, err, store.ErrNotFound, "another box has none of it")
	stopped, stop := context.WithCancel(ctx)
	f.Files.Reads = func(ctx context.Context, _, _ string, _ []byte) (string, error) { stop(); return "", ctx.Err() }
	_, err = f.Files.Look(stopped, f.who, at("Locked"), nil)
	require.ErrorIs(t, err, context.Canceled, "a stop says nothing of a file")
}

func TestFilesTogether(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t,
		withFile("a@x", "Mirela <mirela@coast.example>", "Crates", "Two.", "list.txt", "text/plain", "first"),
		strings.Replace(withFile("b@x", "Mirela <mirela@coast.example>", "Re: Crates", "And.", "List.txt", "text/plain", "second"), "\nDate:", "\nReferences: <a@x>\nDate:", 1),
		strings.Replace(withFile("c@x", "Mirela <mirela@coast.example>", "Re: Crates", "And.", "..\\..\\evil:?.txt", "text/plain", "third"), "\nDate:", "\nReferences: <a@x>\nDate:", 1))
	f.take(t, withFile("other@x", "Mirela <mirela@coast.example>", "Other", "And.", "other.txt", "text/plain", "x"))
	list, err := f.Files.OfConversation(ctx, f.who, f.by(t, "Crates").ID)
	require.NoError(t, err)
	require.Len(t, list.Files, 3)
	require.EqualValues(t, len("first")+len("second")+len("third"), list.Bytes)
	require.Equal(t, "Crates", list.Of)

	together := func(of ...files.Name) (map[string]string, bool, error) {
		var b bytes.Buffer
		begun := false
		if err := f.Files.Together(ctx, f.who, of, func() { begun = true }, &b); err != nil {
			return nil, begun, err
		}
		z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
		require.NoError(t, err)
		out := map[string]string{}
		for _, x := range z.File {
			r, err := x.Open()
			require.NoError(t, err)
			raw, err := io.ReadAll(r)
			require.NoError(t, err)
			require.NotContains(t, out, x.Name)
			out[x.Name] = string(raw)
		}
		return out, begun, nil
	}
	var all []files.Name
	for _, r := range list.Files {
		all = append(all, files.Name{Message: r.Message, Number: r.Number})
	}
	out, _, err := together(all...)
	require.NoError(t, err)
	require.Len(t, out, 3)
	says := map[string]bool{}
	for name, content := range out {
		says[content] = true
		require.NotContains(t, name, "\\")
		require.NotContains(t, name, ":")
		require.False(t, strings.HasPrefix(name, "."), name)
	}
	require.Len(t, says, 3)
	out, _, err = together(all[0], all[0])
	require.NoError(t, err)
	require.Len(t, out, 2, "the same twice has two names")

	_, begun, err := together(append(all, files.Name{Message: 99})...)
	require.ErrorIs(t, err, store.ErrNotFound)
	require.False(t, begun, "where one is missing nothing is begun")
	var wrong *problem.Error
	_, _, err = together()
	require.ErrorAs(t, err, &wrong)
	_, _, err = together(make([]files.Name, files.MaxTogether+1)...)
	require.ErrorAs(t, err, &wrong)
	require.Contains(t, wrong.Text, "these are 501")
	require.ErrorIs(t, f.Files.Together(ctx, identity.Who{Person: 2, Box: 2}, all, func() {}, io.Discard), store.ErrNotFound)
	torn := errors.New("the line is cut")
	require.ErrorIs(t, f.Files.Together(ctx, f.who, all, func() {}, cut{torn}), torn)

	_, err = f.Files.OfConversation(ctx, identity.Who{Person: 2, Box: 2}, f.by(t, "Crates").ID)
	require.ErrorIs(t, err, store.ErrNotFound)
}

// cut is where nothing can be written.
type cut struct{ err error }

func (c cut) Write([]byte) (int, error) { return 0, c.err }

func TestFilesGoWithADraft(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, withFile("a@x", "Mirela <mirela@coast.example>", "Crates", "Two.", "list.txt", "text/plain", "first"),
		withFile("b@x", "Mirela <mirela@coast.example>", "Photographs", "All.", "large.bin", "application/octet-stream", strings.Repeat("x", 15<<20)))
	list, large := composing.FileOf{Message: f.message(t, "Crates")}, composing.FileOf{Message: f.message(t, "Photographs")}
	draft, err := f.Writing.Begin(ctx, f.who, "k", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	for range 2 { // asked again, it is put there once
		v, err := f.Writing.Attach(ctx, f.who, "once", draft.ID, []composing.FileOf{list})
		require.NoError(t, err)
		require.Len(t, v.Files, 1)
		require.Equal(t, "list.txt", v.Files[0].Name)
	}
	var wrong *problem.Error
	_, err = f.Writing.Attach(ctx, f.who, "", draft.ID, []composing.FileOf{large, large})
	require.ErrorAs(t, err, &wrong)
	require.Equal(t, "files", wrong.Field)
	_, err = f.Writing.Attach(ctx, f.who, "", draft.ID, []composing.FileOf{{Message: list.Message, Number: 3}})
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = f.Writing.Attach(ctx, f.who, "", draft.ID, make([]composing.FileOf, 101))
	require.ErrorAs(t, err, &wrong)
	require.Contains(t, wrong.Text, "these are 101")
	v, err := f.Writing.Draft(ctx, f.who, draft.ID)
	require.NoError(t, err)
	require.Len(t, v.Files, 1, "what could not be put there has changed nothing")
	_, err = f.Writing.Attach(ctx, identity.Who{Person: 2, Box: 2}, "", draft.ID, []composing.FileOf{list})
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A conversation that was joined into another is found by its old number, too.
func TestFilesOfJoinedConversations(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, withFile("a@x", "Mirela <mirela@coast.example>", "Crates", "Two.", "list.txt", "text/plain", "first"), letter("z@x", "Mirela <mirela@coast.example>", "Lorry"))
	ids := []int64{f.by(t, "Crates").ID, f.by(t, "Lorry").ID}
	f.take(t, strings.Replace(letter("j@x", "Mirela <mirela@coast.example>", "Both"), "\nDate:", "\nReferences: <a@x> <z@x>\nDate:", 1))
	for _, id := range ids {
		v, err := f.Files.OfConversation(ctx, f.who, id)
		require.NoError(t, err)
		require.Len(t, v.Files, 1)
		text, err := f.Reading.Text(ctx, f.who, id)
		require.NoError(t, err)
		require.Equal(t, 3, strings.Count(text, "\nFrom: "))
	}
}

// The files of a long conversation are listed in a moment, and without a look at any of them.
func TestFilesOfALongConversation(t *testing.T) {
	f := newOffice(t, store.Options{})
	raws := []string{withFile("a@x", "Mirela <mirela@coast.example>", "Crates", "Two.", "list.txt", "text/plain", "first")}
	for i := range 30 {
		raws = append(raws, strings.Replace(withFile(fmt.Sprintf("n%d@x", i), "Mirela <mirela@coast.example>", "Re: Crates", fmt.Sprint(i), fmt.Sprintf("list-%d.txt", i), "text/plain", fmt.Sprint("no. ", i)), "\nDate:", "\nReferences: <a@x>\nDate:", 1))
	}
	f.take(t, raws...)
	f.clock.t = f.clock.t.Add(time.Minute)
	list, err := f.Files.OfConversation(ctx, f.who, f.by(t, "Crates").ID)
	require.NoError(t, err)
	require.Len(t, list.Files, 31)
	for i, r := range list.Files[1:] {
		require.GreaterOrEqual(t, list.Files[i].At, r.At, "the newest first")
	}
}
