package store

import (
	"cmp"
	"database/sql"
	"errors"
	"log/slog"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
	"ebbe/internal/store/words"
)

// Document is a text besides messages by which something is found. A box's own.
type Document struct {
	ID             int64
	BoxID          int64
	Kind           search.DocumentKind
	ConversationID int64  // 0: it is found by itself
	MessageID      int64  // of a file, with its part
	Part           int    // the file of the message, counted from 0
	UID            string // of a follow-up or an event; the ID of a conversation that has a name
	Title          string
	Text           string
	Person         string // the address of whom it is from, or with
	At             when.Instant
}

// PutDocument stores d and the words by which it is found; people are names and addresses
// besides.
func (t Tx) PutDocument(d Document, people string) error {
	if err := t.db.Create(&d).Error; err != nil {
		return err
	}
	return words.Documents.Put(t.db, []words.Row{words.Entry{ID: d.ID, Subject: d.Title, People: people, Body: d.Text}.Row()})
}

// stale names a document that has to be written anew.
type stale struct {
	BoxID int64
	Kind  search.DocumentKind
	UID   string
}

// freshen writes the documents anew whose subjects this transaction has changed.
func (t Tx) freshen() error {
	for {
		var rows []stale
		if err := t.db.Raw("SELECT DISTINCT box_id, kind, uid FROM stale_documents LIMIT 200").Scan(&rows).Error; err != nil || len(rows) == 0 {
			return err
		}
		for _, r := range rows {
			if err := words.Documents.Drop(t.db, "SELECT id FROM documents WHERE box_id = ? AND kind = ? AND uid = ? AND message_id = 0", r.BoxID, r.Kind, r.UID); err != nil {
				return err
			}
			for _, q := range []string{
				"DELETE FROM documents WHERE box_id = ? AND kind = ? AND uid = ? AND message_id = 0",
				"DELETE FROM stale_documents WHERE box_id = ? AND kind = ? AND uid = ?",
			} {
				if err := t.db.Exec(q, r.BoxID, r.Kind, r.UID).Error; err != nil {
					return err
				}
			}
			d, people, err := t.documentOf(r)
			if err != nil { // gone, or not to be read: what happens to the rest happens all the same
				if !errors.Is(err, ErrNotFound) {
					slog.Error("something cannot be found by what it says", "box", r.BoxID, "kind", r.Kind, "error", err)
				}
				continue
			}
			if d.Title+d.Text != "" {
				if err := t.PutDocument(d, people); err != nil {
					return err
				}
			}
		}
	}
}

// documentOf is what is found of a conversation by its name and note, of a follow-up or of
// an event; ErrNotFound if there is none.
func (t Tx) documentOf(r stale) (d Document, people string, err error) {
	d = Document{BoxID: r.BoxID, Kind: r.Kind, UID: r.UID}
	switch r.Kind {
	case search.NameDocument:
		var c Conversation
		id, _ := strconv.ParseInt(r.UID, 10, 64) // it was made of one
		if err := sqlite.Plain(t.db.Select("id", "title", "note", "last_at", "from_name", "from_addr").Where("+box_id = ? AND id = ?", r.BoxID, id).Take(&c).Error); err != nil {
			return d, "", err
		}
		d.ConversationID, d.Title, d.Text, d.Person, d.At = id, c.Title, c.Note, c.FromAddr, c.LastAt
		return d, c.FromName + " " + c.FromAddr, nil
	case search.FollowUpDocument:
		row, err := FollowUps(t).FollowUpByUID(r.BoxID, r.UID)
		f := row.Data
		text := []string{f.Notes, f.Project, f.Context}
		for _, i := range f.Checklist {
			text = append(text, i.Text)
		}
		d.ConversationID, d.Title, d.Text, d.Person, d.At = f.Conversation, f.Title, strings.TrimSpace(strings.Join(text, "\n")), f.With.Address, max(f.Made, f.Finished)
		return d, f.With.Name + " " + f.With.Address, err
	case search.CommentDocument:
		var c struct {
			At   when.Instant
			Text string
			Now  int64
		}
		err := sqlite.Plain(t.db.Raw(`WITH RECURSIVE up(id) AS (SELECT conversation_id FROM comments WHERE id = @id UNION SELECT c.merged_to FROM up u CROSS JOIN conversations c ON c.id = u.id WHERE c.merged_to > 0)
			SELECT m.at, m.text, (SELECT c.id FROM up u CROSS JOIN conversations c ON c.id = u.id WHERE c.merged_to = 0) now FROM comments m WHERE m.id = @id AND m.box_id = @box AND NOT m.gone`,
			sql.Named("id", r.UID), sql.Named("box", r.BoxID)).Take(&c).Error)
		d.ConversationID, d.Text, d.At = c.Now, cmp.Or(together.Line(together.PiecesOf(c.Text, nil), len(c.Text)), c.Text), c.At
		return d, "", err
	default:
		var row Event
		err := sqlite.Plain(t.db.Where("box_id = ? AND uid = ?", r.BoxID, r.UID).Take(&row).Error)
		e := row.Data
		var with strings.Builder
		for _, a := range slices.Concat([]mail.Address{e.Organizer}, addressesOf(e.Guests)) {
			with.WriteString(a.Name + " " + a.Address + " ")
		}
		d.ConversationID, d.Title, d.Text, d.Person, d.At = e.Conversation, e.Title, strings.TrimSpace(e.Place+"\n"+e.Notes), e.Organizer.Address, e.Begins()
		return d, with.String(), err
	}
}

func addressesOf(guests []calendar.Guest) (out []mail.Address) {
	for _, g := range guests {
		out = append(out, mail.Address{Name: g.Name, Address: g.Address.Address})
	}
	return out
}
