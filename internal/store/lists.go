package store

import (
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Row is a conversation as a person sees it in a list.
type Row struct {
	Conversation
	Unread  bool
	Starred bool
	Looks   int
}

// Cursor is a position in a list that is ordered by an instant and an ID.
type Cursor struct {
	At when.Instant
	ID int64
}

const rowColumns = "c.*, COALESCE(m.unread, 0) unread, COALESCE(m.starred, 0) starred, COALESCE(m.looks, 0) looks"

// Queue gives up to n conversations of one section of the inbox, newest first,
// after the cursor (nil: from its top).
func (t Tx) Queue(box, person int64, span inbox.Span, after *Cursor, n int) (rows []Row, err error) {
	q := t.db.Table("conversations c").Select(rowColumns).
		Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person).
		Where("c.box_id = ? AND c.place = ? AND c.since >= ? AND c.since < ?", box, inbox.Inbox, span.From, span.To)
	if len(span.Reasons) > 0 {
		q = q.Where("c.reason IN ?", span.Reasons)
	}
	if after != nil {
		q = q.Where("(c.since, c.id) < (?, ?)", after.At, after.ID)
	}
	err = q.Order("c.since DESC, c.id DESC").Limit(n).Scan(&rows).Error
	return rows, err
}

// CountSpans counts the conversations of each section of the inbox.
func (t Tx) CountSpans(box int64, spans []inbox.Span) (counts map[inbox.Section]int, err error) {
	counts = map[inbox.Section]int{}
	for _, s := range spans {
		q := t.db.Model(&Conversation{}).Where("box_id = ? AND place = ? AND since >= ? AND since < ?", box, inbox.Inbox, s.From, s.To)
		if len(s.Reasons) > 0 {
			q = q.Where("reason IN ?", s.Reasons)
		}
		var n int64
		if err := q.Count(&n).Error; err != nil {
			return nil, err
		}
		counts[s.Section] = int(n)
	}
	return counts, nil
}

// CountPlace counts the conversations in a place.
func (t Tx) CountPlace(box int64, p inbox.Place) (int, error) {
	var n int64
	err := t.db.Model(&Conversation{}).Where("box_id = ? AND place = ?", box, p).Count(&n).Error
	return int(n), err
}

// Later gives up to n snoozed conversations in the order of their return.
func (t Tx) Later(box, person int64, after *Cursor, n int) (rows []Row, err error) {
	q := t.db.Table("conversations c").Select(rowColumns).
		Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person).
		Where("c.box_id = ? AND c.place = ?", box, inbox.Snoozed)
	if after != nil {
		q = q.Where("(c.return_at, c.id) > (?, ?)", after.At, after.ID)
	}
	err = q.Order("c.return_at, c.id").Limit(n).Scan(&rows).Error
	return rows, err
}

// RowByID loads one conversation as a person sees it.
func (t Tx) RowByID(box, person, id int64) (Row, error) {
	var rows []Row
	err := t.db.Table("conversations c").Select(rowColumns).
		Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person).
		Where("c.box_id = ? AND c.id = ?", box, id).Scan(&rows).Error
	if err == nil && len(rows) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Row{}, err
	}
	return rows[0], nil
}

// Found gives up to n conversations that contain all words, newest first; with
// no words, all of them. A place (or "starred") narrows the list.
func (t Tx) Found(box, person int64, words []string, place string, after *Cursor, n int) (rows []Row, err error) {
	q := t.db.Table("conversations c").Select(rowColumns).
		Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person).
		Where("c.box_id = ? AND c.merged_to = 0 AND c.place <> ?", box, inbox.Held)
	switch place {
	case "":
	case "starred":
		q = q.Where("m.starred")
	default:
		q = q.Where("c.place = ?", place)
	}
	if len(words) > 0 {
		quoted := make([]string, len(words))
		for i, w := range words {
			quoted[i] = `"` + strings.ReplaceAll(w, `"`, `""`) + `"*`
		}
		q = q.Where("c.id IN (SELECT x.conversation_id FROM messages x WHERE x.id IN (SELECT rowid FROM words WHERE words MATCH ?))", strings.Join(quoted, " "))
	}
	if after != nil {
		q = q.Where("(c.last_at, c.id) < (?, ?)", after.At, after.ID)
	}
	err = q.Order("c.last_at DESC, c.id DESC").Limit(n).Scan(&rows).Error
	return rows, err
}

// FollowUpsOf gives the open follow-ups of conversations.
func (t Tx) FollowUpsOf(box int64, conversations []int64) (out map[int64][]FollowUp, err error) {
	out = map[int64][]FollowUp{}
	for chunk := range chunks(conversations) {
		var rows []FollowUp
		if err := t.db.Where("box_id = ? AND open AND conversation_id IN ?", box, chunk).Order("due_at").Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.ConversationID] = append(out[r.ConversationID], r)
		}
	}
	return out, nil
}

// OpenFollowUps gives up to n open follow-ups due in [from, to), in the order
// of their due times, after the one with that due time and UID.
func (t Tx) OpenFollowUps(box int64, from, to when.Instant, after when.Instant, uid string, n int) (rows []FollowUp, err error) {
	q := t.db.Where("box_id = ? AND open AND due_at >= ? AND due_at < ?", box, from, to)
	if uid != "" {
		q = q.Where("(due_at, uid) > (?, ?)", after, uid)
	}
	err = q.Order("due_at, uid").Limit(n).Find(&rows).Error
	return rows, err
}

// CountFollowUps counts the open follow-ups due in [from, to).
func (t Tx) CountFollowUps(box int64, from, to when.Instant) (int, error) {
	var n int64
	err := t.db.Model(&FollowUp{}).Where("box_id = ? AND open AND due_at >= ? AND due_at < ?", box, from, to).Count(&n).Error
	return int(n), err
}

// FinishedFollowUps gives the n that were finished last.
func (t Tx) FinishedFollowUps(box int64, n int) (rows []FollowUp, err error) {
	err = t.db.Where("box_id = ? AND NOT open", box).Order("finished DESC, uid").Limit(n).Find(&rows).Error
	return rows, err
}

// Cards gives the follow-ups whose reminder has fired and waits for an answer.
func (t Tx) Cards(box int64) (rows []FollowUp, err error) {
	err = t.db.Where("box_id = ? AND card", box).Order("due_at, uid").Limit(100).Find(&rows).Error
	return rows, err
}

// FollowUpsBetween gives the open follow-ups of a box that belong to
// conversations in which the address wrote last.
func (t Tx) FollowUpsBetween(box int64, address string) (rows []FollowUp, err error) {
	err = t.db.Where(`box_id = ? AND open AND conversation_id > 0 AND conversation_id IN
		(SELECT conversation_id FROM messages WHERE box_id = ? AND from_addr = ?)`, box, box, address).
		Order("due_at").Limit(20).Find(&rows).Error
	return rows, err
}
