package drafting

import (
	"gorm.io/gorm/clause"

	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Unasked says that the user does not wait for an answer to a message of
// theirs, though it asks something.
type Unasked struct {
	PersonID  int64 `gorm:"primaryKey;autoIncrement:false"`
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
}

// LastWords gives up to n messages that the user sent in [from, to) to one
// person alone, that are the last of their conversations, and that nothing waits
// for yet; the newest first.
func (t Drafts) LastWords(box, person int64, from, to when.Instant, n int) (out []store.Message, err error) {
	err = t.db().Raw(`SELECT m.* FROM conversations c JOIN messages m ON m.conversation_id = c.id AND m.date = c.last_at AND m.own
		WHERE c.box_id = ? AND c.last_at >= ? AND c.last_at < ? AND c.own_last AND c.merged_to = 0 AND c.place NOT IN ('snoozed', 'bin', 'junk', 'held')
		AND json_array_length(m."to") = 1 AND COALESCE(json_array_length(NULLIF(m.cc, 'null')), 0) = 0
		AND NOT EXISTS (SELECT 1 FROM follow_ups f WHERE f.conversation_id = c.id AND f.waits_since > 0)
		AND NOT EXISTS (SELECT 1 FROM unaskeds u WHERE u.person_id = ? AND u.message_id = m.id)
		ORDER BY c.last_at DESC, m.id DESC LIMIT ?`, box, from, to, person, n).Scan(&out).Error
	return out, err
}

// Unask notes that the user does not wait for an answer to a message.
func (t Drafts) Unask(person, message int64) error {
	return t.db().Clauses(clause.OnConflict{DoNothing: true}).Create(&Unasked{person, message}).Error
}
