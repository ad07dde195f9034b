package finding

import (
	"strconv"

	"ebbe/internal/core/search"
	"ebbe/internal/store"
	"ebbe/internal/store/words"
)

// tries is how often reading the files of a message is begun: what has broken the program
// off is left alone.
const tries = 3

// Unread gives up to n messages, of all boxes, whose files have not been read, the newest
// first.
func (t Finding) Unread(n int) (out []store.Message, err error) {
	err = t.db().Where("id IN (SELECT message_id FROM unread_files WHERE tries < ? ORDER BY message_id DESC LIMIT ?)", tries, n).Order("id DESC").Find(&out).Error
	return out, err
}

// Try notes that reading the files of a message is begun.
func (t Finding) Try(message int64) error {
	return t.db().Exec("UPDATE unread_files SET tries = tries + 1 WHERE message_id = ?", message).Error
}

// Untry takes back that reading the files of these messages was begun: it was broken off
// for no reason of theirs.
func (t Finding) Untry(messages []int64) error {
	return t.db().Exec("UPDATE unread_files SET tries = tries - 1 WHERE message_id IN ?", messages).Error
}

// CountUnread counts the messages of a box whose files have not been read, up to most.
func (t Finding) CountUnread(box int64, most int) (n int, err error) {
	err = t.db().Raw("SELECT COUNT(*) FROM (SELECT 1 FROM unread_files u CROSS JOIN messages m ON m.id = u.message_id WHERE +m.box_id = ? AND u.tries < ? LIMIT ?)", box, tries, most).Scan(&n).Error
	return n, err
}

// PutFiles stores what the files of a message say, in place of what was known of them. A
// message that is gone has none.
func (t Finding) PutFiles(m store.Message, files []store.Document) error {
	if err := words.Documents.Drop(t.db(), "SELECT id FROM documents WHERE message_id = ? AND message_id > 0", m.ID); err != nil {
		return err
	}
	for _, q := range []string{
		"DELETE FROM documents WHERE message_id = ? AND message_id > 0",
		"DELETE FROM unread_files WHERE message_id = ?",
	} {
		if err := t.db().Exec(q, m.ID).Error; err != nil {
			return err
		}
	}
	var conversation int64
	if err := t.db().Raw("SELECT conversation_id FROM messages WHERE id = ?", m.ID).Scan(&conversation).Error; err != nil || conversation == 0 {
		return err
	}
	for _, d := range files {
		d.BoxID, d.Kind, d.ConversationID, d.MessageID, d.Person, d.At = m.BoxID, search.FileDocument, conversation, m.ID, m.FromAddr, m.Date
		if err := store.Tx(t).PutDocument(d, around(m)); err != nil {
			return err
		}
	}
	return nil
}

// around are the people and words besides by which a file of a message is found.
func around(m store.Message) string { return m.FromName + " " + m.FromAddr + " " + m.Subject }

// ReindexFiles puts what is known of the files of a message into the index anew; known says
// that something is.
func (t Finding) ReindexFiles(m store.Message) (known bool, err error) {
	const of = "SELECT id FROM documents WHERE message_id = ? AND message_id > 0"
	if err := words.Documents.Drop(t.db(), of, m.ID); err != nil {
		return false, err
	}
	var files []store.Document
	if err := t.db().Where("id IN ("+of+")", m.ID).Find(&files).Error; err != nil {
		return false, err
	}
	var rows []words.Row
	for _, d := range files {
		rows = append(rows, words.Entry{ID: d.ID, Subject: d.Title, People: around(m), Body: d.Text}.Row())
	}
	return len(files) > 0, words.Documents.Put(t.db(), rows)
}

// FileText is what a file of a message says, as far as it has been read; empty: nothing, or
// nothing is known of it.
func (t Finding) FileText(message int64, part int) (text string, err error) {
	err = t.db().Raw("SELECT text FROM documents WHERE message_id = ? AND message_id > 0 AND part = ?", message, part).Scan(&text).Error
	return text, err
}

// metaUnfolded is the ID of the newest message that is not in the indexes as this version
// keeps them, among the values kept about the whole database.
const metaUnfolded = "unfolded"

// CountUnfolded counts the messages of a box that are not in the indexes as this version
// keeps them, up to most.
func (t Finding) CountUnfolded(box int64, most int) (n int, err error) {
	from, err := t.unfolded()
	if err == nil && from > 0 {
		err = t.db().Raw("SELECT COUNT(*) FROM (SELECT 1 FROM messages WHERE id <= ? AND +box_id = ? ORDER BY id DESC LIMIT ?)", from, box, most).Scan(&n).Error
	}
	return n, err
}

// Unfolded gives the newest n messages, of all boxes, of which that is so.
func (t Finding) Unfolded(n int) (out []store.Message, err error) {
	from, err := t.unfolded()
	if err != nil || from == 0 {
		return nil, err
	}
	err = t.db().Where("id <= ?", from).Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

func (t Finding) unfolded() (int64, error) {
	text, err := store.Tx(t).Meta(metaUnfolded)
	from, _ := strconv.ParseInt(text, 10, 64) // what is none is 0
	return from, err
}

// Folded notes that all messages from that one on are in the indexes; 0: all are.
func (t Finding) Folded(message int64) error {
	if message <= 1 {
		return t.db().Delete(&store.Meta{Name: metaUnfolded}).Error
	}
	return store.Tx(t).SetMeta(metaUnfolded, strconv.FormatInt(message-1, 10))
}
