package talk

import (
	"context"
	"fmt"

	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/talk"
)

// The limits of the files of one comment.
const (
	MaxFile   = 25 << 20 // bytes of each
	mostFiles = 20
	unsaid    = when.Instant(24 * 3_600_000) // how long a file waits for its comment
)

// AddFile keeps a file that is to be added to a comment.
func (d *Desk) AddFile(ctx context.Context, who identity.Who, key, name, kind string, content []byte) (CommentFile, error) {
	if err := d.may(who); err != nil {
		return CommentFile{}, err
	}
	name = mime.FileName(name)
	if len(content) > MaxFile {
		return CommentFile{}, problem.Invalid("files", fmt.Sprintf("“%s” was not added: a file can have %d MB here. Hand it out as a link instead.", name, MaxFile>>20))
	}
	v, _, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (CommentFile, error) {
		now := d.Journal.Now()
		f := talk.CommentFile{BoxID: who.Box, PersonID: who.Person, Name: name, Type: kind, Size: len(content), Added: now, Content: content}
		err := talk.Talk(t).AddFile(&f, now-unsaid)
		return viewOf(f), err
	})
	return v, err
}

func viewOf(f talk.CommentFile) CommentFile { return CommentFile{f.ID, f.Name, f.Size} }

// DropFile removes a file that was to be added to a comment.
func (d *Desk) DropFile(ctx context.Context, who identity.Who, id int64) error {
	return d.store.Write(ctx, func(t store.Tx) error { return talk.Talk(t).DropFile(who.Box, who.Person, id) })
}

// File gives a file of a comment in the box somebody works in, with its name; store.ErrNotFound
// where there is none, or none any more.
func (d *Desk) File(ctx context.Context, who identity.Who, id int64) (name string, content []byte, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		f, err := talk.Talk(t).File(who.Box, who.Person, id)
		name, content = f.Name, f.Content
		return err
	})
	return name, content, err
}

// namesOf is what a comment says that has files and no words.
func namesOf(files []talk.CommentFile) string {
	var names []string
	for _, f := range files {
		names = append(names, f.Name)
	}
	return say.List(names)
}

// adding are the files of these that are to be added to a comment: all, or none with what is wrong.
func adding(t store.Tx, who identity.Who, ids []int64) ([]talk.CommentFile, error) {
	if len(ids) > mostFiles {
		return nil, problem.Invalid("files", fmt.Sprintf("The comment was not written: it can have %d files. Say the rest in another.", mostFiles))
	}
	if len(ids) == 0 {
		return nil, nil
	}
	files, err := talk.Talk(t).Waiting(who.Box, who.Person, ids)
	if err == nil && len(files) < len(ids) {
		err = problem.Invalid("files", "The comment was not written: "+say.Plural(len(ids)-len(files), "file")+" waited here too long. Add the files once more.")
	}
	return files, err
}
