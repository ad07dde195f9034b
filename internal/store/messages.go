package store

import (
	"bytes"
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"

	"gorm.io/gorm/clause"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
	"ebbe/internal/store/words"
)

// Message is one stored message; its bytes are in Original.
type Message struct {
	ID             int64
	BoxID          int64
	Hash           []byte // SHA-256 of the original
	MessageID      string
	ConversationID int64
	Date           when.Instant // Date header, or when it came in
	Received       when.Instant
	Subject        string
	FromName       string
	FromAddr       string
	To             []mail.Address `gorm:"serializer:json"`
	Cc             []mail.Address `gorm:"serializer:json"`
	Files          []mail.File    `gorm:"serializer:json"`
	Kind           mail.Kind
	Own            bool          // the reader wrote it
	Raw            bool          // could not be read as MIME
	Stub           int64         // bytes that it has on its server, if only its header is kept here; else 0
	Reader         int           // the version of the reader that read it; post.Reader
	Size           int           // bytes of the original
	Begins         string        // what its sender begins with; mail.Begins
	List           string        // its List-Id (RFC 2919)
	Language       when.Language // in which its sender wrote; mail.LanguageOf. Empty for what came before that was found
	Importance     int           // as it was weighed when it came, in thousandths; 0: it was not. sorting.Weighed
	Because        string        // why; sorting.Reasons, as they are written
	OriginalID     int64         // the message, of another box, with which its original is kept; 0: this one

	Held    delivery.Stream // its stream while it is held; then it shows nowhere
	Stream  delivery.Stream // in which it came, where a rule or the user said so; else that of its kind
	Through string          // the ID of the entry that let it through, if one did
	LetIn   int64           // the entry of the journal with which it came in after it had been held
}

// Original is a message byte for byte as it came in.
type Original struct {
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
	Bytes     []byte
}

// Messages is what is asked and stored about messages and their bytes.
type Messages Tx

// Originals gives the Message-ID of the newest message by somebody else in each
// of the conversations, or of the newest of all.
func (t Messages) Originals(conversations []int64) (map[int64]string, error) {
	out := map[int64]string{}
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		var rows []Message
		if err := t.db.Select("conversation_id", "message_id").Where("conversation_id IN ? AND held = ''", chunk).Order("NOT own, date, id").Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.ConversationID] = r.MessageID
		}
	}
	return out, nil
}

// Known gives the messages the box already has, by their hashes.
func (t Messages) Known(box int64, hashes [][]byte) (map[string]int64, error) {
	known := map[string]int64{}
	for chunk := range slices.Chunk(hashes, sqlite.AtOnce) {
		var found []Message
		if err := t.db.Select("id", "hash").Where("box_id = ? AND hash IN ?", box, chunk).Find(&found).Error; err != nil {
			return nil, err
		}
		for _, m := range found {
			known[string(m.Hash)] = m.ID
		}
	}
	return known, nil
}

// Twins gives the messages of a box that have one of these Message-IDs (RFC
// 5322, section 3.6.4), at most n of each.
func (t Messages) Twins(box int64, ids []string, n int) (map[string][]Message, error) {
	out := map[string][]Message{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var rows []Message
		if err := t.db.Select("id", "hash", "message_id").Where("box_id = ? AND message_id IN ? AND message_id <> ''", box, chunk).Order("+id").Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, m := range rows {
			if len(out[m.MessageID]) < n {
				out[m.MessageID] = append(out[m.MessageID], m)
			}
		}
	}
	return out, nil
}

// Batch is a batch of messages with all that their coming in changed.
type Batch struct {
	Messages       []*Message
	Originals      [][]byte
	Words          []words.Row
	Refs           []Ref
	Conversations  []*Conversation
	Marks          []Mark
	Correspondents []Correspondent
	Moved          []inbox.Change // conversations whose place changed while snoozed
	Released       []int64        // conversations of which what was held comes in with this
	Unread         []int64        // conversations in which something new came into view
}

// AddBatch stores a batch.
func (t Messages) AddBatch(box, person int64, d Batch) error {
	if err := HeldMail(t).release(box, d.Released, 0); err != nil {
		return err
	}
	if err := t.share(box, d.Messages); err != nil {
		return err
	}
	if err := sqlite.Create(t.db, d.Messages, 40); err != nil {
		return err
	}
	var originals []Original
	for i, m := range d.Messages {
		if m.OriginalID == 0 {
			originals = append(originals, Original{MessageID: m.ID, Bytes: d.Originals[i]})
		}
		d.Words[i].ID = m.ID
	}
	if err := sqlite.Create(t.db, originals, 50); err != nil {
		return err
	}
	if err := words.Messages.Put(t.db, d.Words); err != nil {
		return err
	}
	if err := t.block(d.Messages); err != nil {
		return err
	}
	if err := sqlite.Create(t.db, d.Refs, 200, clause.OnConflict{UpdateAll: true}); err != nil {
		return err
	}
	if err := sqlite.Create(t.db, d.Conversations, 40, clause.OnConflict{UpdateAll: true}); err != nil {
		return err
	}
	if err := sqlite.Create(t.db, d.Marks, 150, clause.OnConflict{UpdateAll: true}); err != nil {
		return err
	}
	if err := Conversations(t).anew(box, d.Unread); err != nil {
		return err
	}
	err := sqlite.Create(t.db, d.Correspondents, 100, clause.OnConflict{
		Columns: []clause.Column{{Name: "box_id"}, {Name: "address"}},
		DoUpdates: clause.Set{
			{Column: clause.Column{Name: "received"}, Value: clause.Expr{SQL: "received + excluded.received"}},
			{Column: clause.Column{Name: "sent"}, Value: clause.Expr{SQL: "sent + excluded.sent"}},
			{Column: clause.Column{Name: "first_at"}, Value: clause.Expr{SQL: "MIN(first_at, excluded.first_at)"}},
			{Column: clause.Column{Name: "last_at"}, Value: clause.Expr{SQL: "MAX(last_at, excluded.last_at)"}},
			{Column: clause.Column{Name: "answered_at"}, Value: clause.Expr{SQL: "MAX(answered_at, excluded.answered_at)"}},
			{Column: clause.Column{Name: "name"}, Value: clause.Expr{SQL: "CASE WHEN excluded.name = '' THEN name ELSE excluded.name END"}},
		},
	})
	if err != nil {
		return err
	}
	return Conversations(t).Apply(box, person, d.Moved)
}

// BlockBits is the binary logarithm of how many messages, by ID, are a block.
const BlockBits = 12

// block notes how new the newest of each block is, and whose files have not been read.
func (t Messages) block(messages []*Message) error {
	type block struct{ box, block int64 }
	newest, unread := map[block]when.Instant{}, []int64{}
	for _, m := range messages {
		b := block{m.BoxID, m.ID >> BlockBits}
		newest[b] = max(newest[b], m.Date)
		if len(m.Files) > 0 && m.Stub == 0 {
			unread = append(unread, m.ID)
		}
	}
	if len(unread) > 0 {
		raw, _ := json.Marshal(unread) // numbers always can be
		if err := t.db.Exec("INSERT OR IGNORE INTO unread_files(message_id) SELECT value FROM json_each(?)", string(raw)).Error; err != nil {
			return err
		}
	}
	for b, at := range newest {
		if err := t.db.Exec("INSERT INTO message_blocks(box_id, block, newest) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET newest = MAX(newest, excluded.newest)", b.box, b.block, at).Error; err != nil {
			return err
		}
	}
	return nil
}

// MessagesOf gives the newest 2,000 messages of a conversation, oldest first.
// What is held is not among them.
func (t Messages) MessagesOf(box, conversation int64) (rows []Message, err error) {
	err = t.db.Where("box_id = ? AND conversation_id = ? AND held = ''", box, conversation).Order("date DESC, id DESC").Limit(2000).Find(&rows).Error
	slices.Reverse(rows)
	return rows, err
}

// MessageRow loads one message of a box.
func (t Messages) MessageRow(box, id int64) (m Message, err error) {
	err = sqlite.Plain(t.db.Where("box_id = ? AND id = ?", box, id).Take(&m).Error)
	return m, err
}

// ByMessageID finds a message that is not held by its Message-ID (RFC 2392
// "mid:").
func (t Messages) ByMessageID(box int64, mid string) (m Message, err error) {
	err = sqlite.Plain(t.db.Where("box_id = ? AND message_id = ? AND held = ''", box, mid).Order("+id").Take(&m).Error)
	return m, err
}

// share finds which of the messages lie in another box already: their bytes are
// kept once.
func (t Messages) share(box int64, messages []*Message) error {
	for chunk := range slices.Chunk(messages, sqlite.AtOnce) {
		var hashes [][]byte
		for _, m := range chunk {
			hashes = append(hashes, m.Hash)
		}
		var rows []Message
		err := t.db.Select("id", "hash", "original_id").Where("hash IN ? AND box_id <> ? AND stub = 0", hashes, box).Find(&rows).Error
		if err != nil {
			return err
		}
		for _, r := range rows {
			for _, m := range chunk {
				if bytes.Equal(m.Hash, r.Hash) && m.Stub == 0 {
					m.OriginalID = cmp.Or(r.OriginalID, r.ID)
				}
			}
		}
	}
	return nil
}

// Original gives the bytes of a message as they came in. Whoever asks has to
// have loaded the message through its box before.
func (t Messages) Original(id int64) ([]byte, error) {
	var o Original
	err := sqlite.Plain(t.db.Where("message_id = (SELECT COALESCE(NULLIF(original_id, 0), id) FROM messages WHERE id = ?)", id).Take(&o).Error)
	return o.Bytes, err
}

// Beginning gives the first n bytes of a message as it came in; see Original.
func (t Messages) Beginning(id int64, n int) (begins []byte, err error) {
	err = t.db.Raw("SELECT substr(bytes, 1, ?) FROM originals WHERE message_id = (SELECT COALESCE(NULLIF(original_id, 0), id) FROM messages WHERE id = ?)", n, id).Row().Scan(&begins)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return begins, err
}

// Bytes gives the originals of some messages, by their IDs.
func (t Messages) Bytes(messages []int64) (map[int64][]byte, error) {
	out := map[int64][]byte{}
	for chunk := range slices.Chunk(messages, sqlite.AtOnce) {
		var rows []Original
		err := t.db.Raw("SELECT m.id message_id, o.bytes FROM messages m JOIN originals o ON o.message_id = COALESCE(NULLIF(m.original_id, 0), m.id) WHERE m.id IN ?", chunk).Scan(&rows).Error
		if err != nil {
			return nil, err
		}
		for _, o := range rows {
			out[o.MessageID] = o.Bytes
		}
	}
	return out, nil
}

// EachMessage walks over all messages of a box (0: of all boxes) in the order they were stored,
// some at a time, each on a snapshot of its own: a walk that takes long keeps no
// log of what others write meanwhile.
func (s *Store) EachMessage(ctx context.Context, box int64, f func(Message, []byte) error) error {
	for last := int64(0); ; {
		var rows []Message
		err := s.Read(ctx, func(t Tx) error {
			return t.db.Where("(box_id = ? OR ? = 0) AND id > ?", box, box, last).Order("id").Limit(100).Find(&rows).Error
		})
		if err != nil || len(rows) == 0 {
			return err
		}
		for _, m := range rows {
			var raw []byte
			err := s.Read(ctx, func(t Tx) (err error) { raw, err = Messages(t).Original(m.ID); return err })
			if errors.Is(err, ErrNotFound) { // removed meanwhile
				last = m.ID
				continue
			}
			if err == nil {
				err = f(m, raw)
			}
			if err != nil {
				return err
			}
			last = m.ID
		}
	}
}

// KeptRaw gives up to n messages that a reader before that version could not
// read, of all boxes.
func (t Messages) KeptRaw(reader, n int) (out []Message, err error) {
	err = t.db.Where("raw AND reader < ?", reader).Order("reader, id").Limit(n).Find(&out).Error
	return out, err
}

// ReadAgain stores what a later version of the reader made of a message that
// was kept raw: its files, its kind, and the words by which it is found.
func (t Messages) ReadAgain(m Message, w words.Entry) error {
	err := t.db.Model(&Message{}).Where("id = ?", m.ID).Select("Raw", "Reader", "Files", "Kind", "Subject", "FromName", "FromAddr", "To", "Cc", "Begins", "Language", "List").Updates(&m).Error
	if err != nil || m.Raw {
		return err
	}
	for _, q := range []struct {
		text string
		args []any
	}{
		{"UPDATE conversations SET files = files + ?, traits = traits | ? WHERE id = ?", []any{len(m.Files), search.TraitsOf(m.Files, m.Own, m.Language), m.ConversationID}},
		{"UPDATE conversations SET begins = ? WHERE id = ? AND last_at = ?", []any{m.Begins, m.ConversationID, m.Date}},
	} {
		if err := t.db.Exec(q.text, q.args...).Error; err != nil {
			return err
		}
	}
	return t.Reindex(m.ID, w, len(m.Files) > 0)
}

// Reindex puts the words of a message into the index anew, and lets its files be read.
func (t Messages) Reindex(message int64, w words.Entry, files bool) error {
	if err := words.Messages.Drop(t.db, "?", message); err != nil {
		return err
	}
	w.ID = message
	err := words.Messages.Put(t.db, []words.Row{w.Row()})
	if err == nil && files {
		err = t.db.Exec("INSERT OR IGNORE INTO unread_files(message_id) VALUES (?)", message).Error
	}
	return err
}

// CompleteMessage stores all of a message of which only the header was kept.
func (t Messages) CompleteMessage(m Message, raw []byte, w words.Entry) error {
	before, err := t.MessageRow(m.BoxID, m.ID)
	if err != nil {
		return err
	}
	err = t.db.Model(&Message{}).Where("id = ?", m.ID).Select("Hash", "Size", "Stub", "Raw", "Reader", "Files", "Kind", "Begins", "Language").Updates(&m).Error
	if err != nil {
		return err
	}
	for _, q := range []struct {
		text string
		args []any
	}{
		{"UPDATE originals SET bytes = ? WHERE message_id = ?", []any{raw, m.ID}},
		{"UPDATE conversations SET files = files + ?, size = size + ?, traits = traits | ? WHERE id = ?", []any{len(m.Files) - len(before.Files), m.Size - before.Size, search.TraitsOf(m.Files, m.Own, m.Language), m.ConversationID}},
		{"UPDATE conversations SET begins = ? WHERE id = ? AND last_at = ?", []any{m.Begins, m.ConversationID, m.Date}},
	} {
		if err := t.db.Exec(q.text, q.args...).Error; err != nil {
			return err
		}
	}
	return t.Reindex(m.ID, w, len(m.Files) > 0)
}
