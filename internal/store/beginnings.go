package store

// Unbegun is a conversation of before slips had the beginning of a text, with the
// message whose text that is: the newest in view that is not the reader's own, or the newest;
// 0 if it has none.
type Unbegun struct {
	ConversationID int64
	MessageID      int64
	Begins         string `gorm:"-"`
}

// Unbegun gives up to n conversations whose beginning has not been read, of all boxes,
// those that began last first.
func (t Conversations) Unbegun(n int) (out []Unbegun, err error) {
	err = t.db.Raw(`SELECT u.conversation_id, COALESCE(
			(SELECT m.id FROM messages m WHERE m.conversation_id = u.conversation_id AND NOT +m.own ORDER BY m.held <> '', m.date DESC, m.id DESC LIMIT 1),
			(SELECT m.id FROM messages m WHERE m.conversation_id = u.conversation_id ORDER BY m.held <> '', m.date DESC, m.id DESC LIMIT 1), 0) AS message_id
		FROM unbegun u ORDER BY u.conversation_id DESC LIMIT ?`, n).Scan(&out).Error
	return out, err
}

// SetBegun notes the beginnings that were read. A conversation that has had a message
// since has its beginning from that.
func (t Conversations) SetBegun(begun []Unbegun) error {
	for _, u := range begun {
		for _, q := range []struct {
			text string
			args []any
		}{
			{"UPDATE messages SET begins = ? WHERE id = ?", []any{u.Begins, u.MessageID}},
			{"UPDATE conversations SET begins = ? WHERE id = ? AND begins = ''", []any{u.Begins, u.ConversationID}},
			{"DELETE FROM unbegun WHERE conversation_id = ?", []any{u.ConversationID}},
		} {
			if err := t.db.Exec(q.text, q.args...).Error; err != nil {
				return err
			}
		}
	}
	return nil
}
