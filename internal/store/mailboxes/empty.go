package mailboxes

import (
	"encoding/json"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sharing"
	"ebbe/internal/store/talk"
)

// Stale gives up to n copies in the bin and junk of an account that Ebbe put there
// before that instant, and whose conversations still lie there, by folder.
func (t Folders) Stale(account int64, before when.Instant, n int) (map[int64][]Copy, error) {
	var rows []Copy
	err := t.db().Raw(`SELECT k.* FROM folders f JOIN copies k ON k.folder_id = f.id JOIN messages m ON m.id = k.message_id JOIN conversations c ON c.id = m.conversation_id
		WHERE f.account_id = ? AND f.role IN ? AND NOT f.gone AND k.uid > 0 AND k.put > 0 AND k.put < ? AND c.place IN ? AND c.since < ? ORDER BY k.put LIMIT ?`,
		account, []mail.Role{mail.RoleBin, mail.RoleJunk}, before, []inbox.Place{inbox.Bin, inbox.Junk}, before, n).Scan(&rows).Error
	out := map[int64][]Copy{}
	for _, k := range rows {
		out[k.FolderID] = append(out[k.FolderID], k)
	}
	return out, err
}

// Remove removes messages of a box for good that lie on no server any more, with
// what only they need; conversations of which nothing is left go with them. It
// gives how many messages that were.
func (t Folders) Remove(box int64, messages []int64) (n int, err error) {
	raw, _ := json.Marshal(messages) // numbers always can be
	args := map[string]any{"box": box, "ids": string(raw)}
	var gone []store.Message
	err = t.db().Raw("SELECT id, conversation_id, message_id FROM messages WHERE id IN (SELECT value FROM json_each(@ids)) AND +box_id = @box AND NOT EXISTS (SELECT 1 FROM copies k WHERE k.message_id = messages.id)", args).Scan(&gone).Error
	if err != nil || len(gone) == 0 {
		return 0, err
	}
	ids, touched := make([]int64, len(gone)), map[int64]bool{}
	for i, m := range gone {
		ids[i] = m.ID
		touched[m.ConversationID] = true
	}
	raw, _ = json.Marshal(ids)
	args["ids"] = string(raw)
	if err := DropOriginals(store.Tx(t), string(raw)); err != nil {
		return 0, err
	}
	if err := sharing.Sharings(t).Gone(string(raw)); err != nil {
		return 0, err
	}
	for _, q := range []string{
		"DELETE FROM junk_tests WHERE message_id IN (SELECT value FROM json_each(@ids))", // what was learned of them stays
		"DELETE FROM messages WHERE id IN (SELECT value FROM json_each(@ids)) AND +box_id = @box",
	} {
		if err := t.db().Exec(q, args).Error; err != nil {
			return 0, err
		}
	}
	for id := range touched {
		var left int64
		if err := t.db().Model(&store.Message{}).Where("conversation_id = ?", id).Count(&left).Error; err != nil {
			return 0, err
		}
		if left > 0 {
			if err := store.Conversations(t).Recount(box, id); err != nil {
				return 0, err
			}
			continue
		}
		if err := talk.Talk(t).Gone(box, id); err != nil {
			return 0, err
		}
		if err := sharing.Sharings(t).Removed(box, id); err != nil {
			return 0, err
		}
		for _, q := range []string{
			"DELETE FROM refs WHERE conversation_id = ? AND +box_id > 0",
			"DELETE FROM marks WHERE conversation_id = ? AND person_id IN (SELECT id FROM people UNION SELECT 0)",
			"DELETE FROM conversation_labels WHERE conversation_id = ?",
			"DELETE FROM errands WHERE conversation_id = ?",
			"DELETE FROM things WHERE kind = 'return' AND conversation_id = ?",
			"DELETE FROM touches WHERE conversation_id = ?",
			"UPDATE drafts SET conversation_id = 0 WHERE conversation_id = ?",
			"DELETE FROM conversations WHERE id = ?",
		} {
			if err := t.db().Exec(q, id).Error; err != nil {
				return 0, err
			}
		}
	}
	return len(gone), nil
}

// DropOriginals removes the originals of messages, whose IDs are given as a list in JSON,
// but not of those that lie in another box, too. It is for messages that go.
func DropOriginals(t store.Tx, ids string) error {
	return t.DB().Exec(`DELETE FROM originals WHERE message_id IN (SELECT COALESCE(NULLIF(m.original_id, 0), m.id) FROM messages m WHERE m.id IN (SELECT value FROM json_each(?))
		AND NOT EXISTS (SELECT 1 FROM messages o WHERE o.hash = m.hash AND o.box_id <> m.box_id AND COALESCE(NULLIF(o.original_id, 0), o.id) = COALESCE(NULLIF(m.original_id, 0), m.id)))`, ids).Error
}
