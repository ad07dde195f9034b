package store

import (
	"encoding/json"
	"slices"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// Postponed is a notification that waits until the user wants to hear of it.
type Postponed struct {
	ID             int64
	BoxID          int64
	Text           string
	ConversationID int64  // what it leads to, or 0
	FollowUp       string // the same, a UID
}

// CameWith gives the messages that came in with an entry of the journal.
func (t HeldMail) CameWith(entry int64) (ids []int64, err error) {
	err = t.db.Model(&Message{}).Where("let_in = ? AND let_in > 0", entry).Order("id").Pluck("id", &ids).Error
	return ids, err
}

// HeldMail is what is asked and stored about mail that delivery holds.
type HeldMail Tx

// HeldUntil gives the conversations of which something is held that came by
// that instant, in the order in which it came.
func (t HeldMail) HeldUntil(box int64, stream delivery.Stream, until when.Instant) (ids []int64, err error) {
	query := `SELECT conversation_id id, MIN(received) at FROM messages WHERE box_id = @box AND held = @stream AND held <> '' AND received <= @until GROUP BY conversation_id`
	if stream == delivery.StreamPeople {
		query += ` UNION ALL SELECT id, since FROM conversations WHERE box_id = @box AND place = 'held' AND snoozed_at > 0 AND since <= @until`
	}
	err = t.db.Raw("SELECT id FROM ("+query+") GROUP BY id ORDER BY MIN(at), id", map[string]any{"box": box, "stream": stream, "until": until}).Scan(&ids).Error
	return ids, err
}

// HeldAmong gives those of the conversations of which something is held.
func (t HeldMail) HeldAmong(box int64, ids []int64) (out []int64, err error) {
	err = t.db.Raw(`SELECT value FROM json_each(?) WHERE EXISTS (SELECT 1 FROM messages m WHERE +m.box_id = ? AND m.conversation_id = value AND m.held <> '')
		OR EXISTS (SELECT 1 FROM conversations c WHERE c.id = value AND c.box_id = ? AND c.place = 'held')`, asJSON(ids), box, box).Scan(&out).Error
	return out, err
}

// InView gives those of the conversations that are not held as a whole.
func (t HeldMail) InView(box int64, ids []int64) (out []int64, err error) {
	err = t.db.Raw(`SELECT id FROM conversations WHERE id IN (SELECT value FROM json_each(?)) AND +box_id = ? AND place <> 'held'`, asJSON(ids), box).Scan(&out).Error
	return out, err
}

// HeldMessages gives the held messages of conversations in the order in which
// they came.
func (t HeldMail) HeldMessages(box int64, ids []int64) ([]*Message, error) {
	return t.messagesAmong(box, ids, "held <> ''")
}

// ShownMessages gives the messages of conversations that are in view, in the
// order in which they came.
func (t HeldMail) ShownMessages(box int64, ids []int64) ([]*Message, error) {
	return t.messagesAmong(box, ids, "held = ''")
}

func (t HeldMail) messagesAmong(box int64, ids []int64, which string) (out []*Message, err error) {
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var rows []*Message // found by their conversations, not by an index of the box
		if err := t.db.Where("+box_id = ? AND conversation_id IN ?", box, chunk).Where(which).Order("received, id").Find(&rows).Error; err != nil {
			return nil, err
		}
		out = append(out, rows...)
	}
	return out, nil
}

func asJSON(ids []int64) string {
	raw, _ := json.Marshal(ids) // numbers always can be
	if ids == nil {
		return "[]"
	}
	return string(raw)
}

// ComeIn lets all that is held of the conversations come in with an entry of the
// journal: those held as a whole go to the inbox as p says, where one that is
// there for another reason than having arrived keeps that reason. Those in view
// only get their messages; their rows are for the caller. It returns how many
// went to the inbox.
func (t HeldMail) ComeIn(box int64, ids []int64, p inbox.Position, entry int64) (n int, err error) {
	if err := t.release(box, ids, entry); err != nil {
		return 0, err
	}
	res := t.db.Exec(`UPDATE conversations SET place = 'inbox', since = @since, round = CASE WHEN reason = 'arrived' THEN @round ELSE 0 END,
		reason = CASE WHEN reason = 'arrived' THEN @reason ELSE reason END
		WHERE id IN (SELECT value FROM json_each(@ids)) AND box_id = @box AND place = 'held'`,
		map[string]any{"ids": asJSON(ids), "box": box, "since": p.Since, "round": p.Round, "reason": p.Reason})
	return int(res.RowsAffected), res.Error
}

// release makes the held messages of conversations show, and counts them for
// who wrote them.
func (t HeldMail) release(box int64, ids []int64, entry int64) error {
	if len(ids) == 0 {
		return nil
	}
	args := map[string]any{"ids": asJSON(ids), "box": box, "entry": entry}
	for _, q := range []string{
		`INSERT INTO correspondents(box_id, address, name, received, sent, first_at, last_at, answered_at)
			SELECT @box, from_addr, MAX(from_name), COUNT(*), 0, MIN(date), MAX(date), 0 FROM messages INDEXED BY message_held
			WHERE box_id = @box AND held <> '' AND from_addr <> '' AND conversation_id IN (SELECT value FROM json_each(@ids)) GROUP BY from_addr
			ON CONFLICT DO UPDATE SET received = received + excluded.received, first_at = MIN(first_at, excluded.first_at), last_at = MAX(last_at, excluded.last_at),
				name = CASE WHEN excluded.name = '' THEN name ELSE excluded.name END`,
		`UPDATE messages INDEXED BY message_held SET held = '', let_in = @entry
			WHERE box_id = @box AND held <> '' AND conversation_id IN (SELECT value FROM json_each(@ids))`,
	} {
		if err := t.db.Exec(q, args).Error; err != nil {
			return err
		}
	}
	return nil
}

// LetInWith gives the conversations of which something came in with an entry
// of the journal and is in view, or is held again.
func (t HeldMail) LetInWith(box, entry int64, held bool) (ids []int64, err error) {
	sign := "="
	if held {
		sign = "<>"
	}
	err = t.db.Raw("SELECT DISTINCT conversation_id FROM messages WHERE let_in = ? AND let_in > 0 AND +box_id = ? AND held "+sign+" ''", entry, box).Scan(&ids).Error
	return ids, err
}

// HoldAgain takes back a letting in: of these conversations, what came in with
// the entry is held again. Those of which nothing else is in view, and which
// lie in the inbox as the entry left them, leave it; it returns which.
func (t HeldMail) HoldAgain(box int64, ids []int64, e Entry) (out []int64, err error) {
	var machines []mail.Kind
	for _, k := range mail.Kinds {
		if delivery.StreamOf(k) == delivery.StreamMachines {
			machines = append(machines, k)
		}
	}
	args := map[string]any{"ids": asJSON(ids), "box": box, "entry": e.ID, "at": e.At, "machines": machines}
	err = t.db.Exec(`UPDATE messages SET held = CASE WHEN stream <> '' THEN stream WHEN kind IN @machines THEN 'machines' ELSE 'people' END
		WHERE let_in = @entry AND let_in > 0 AND +box_id = @box AND +conversation_id IN (SELECT value FROM json_each(@ids))`, args).Error
	if err != nil {
		return nil, err
	}
	err = t.db.Exec(`INSERT INTO correspondents(box_id, address, name, received, sent, first_at, last_at, answered_at)
		SELECT @box, from_addr, '', COUNT(*), 0, 0, 0, 0 FROM messages WHERE let_in = @entry AND let_in > 0 AND +box_id = @box AND held <> '' GROUP BY from_addr
		ON CONFLICT DO UPDATE SET received = MAX(0, received - excluded.received)`, args).Error
	if err != nil {
		return nil, err
	}
	err = t.db.Raw(`UPDATE conversations SET place = 'held', round = 0, reason = CASE WHEN reason = 'let-in' THEN 'arrived' ELSE reason END,
			since = (SELECT MIN(received) FROM messages m WHERE m.conversation_id = conversations.id)
		WHERE id IN (SELECT value FROM json_each(@ids)) AND box_id = @box AND place = 'inbox' AND since = @at
			AND NOT EXISTS (SELECT 1 FROM messages m WHERE m.conversation_id = conversations.id AND m.held = '') RETURNING id`, args).Scan(&out).Error
	return out, err
}

// Standing gives those of the conversations that lie in the inbox as an entry
// that let them in left them.
func (t HeldMail) Standing(box int64, ids []int64, at when.Instant) (out []int64, err error) {
	err = t.db.Raw(`SELECT id FROM conversations WHERE id IN (SELECT value FROM json_each(?)) AND box_id = ? AND place = 'inbox' AND since = ?`,
		asJSON(ids), box, at).Scan(&out).Error
	return out, err
}

// Written says when the reader last wrote to each of the addresses.
func (t HeldMail) Written(box int64, addresses []string) (map[string]when.Instant, error) {
	out := map[string]when.Instant{}
	for chunk := range slices.Chunk(addresses, sqlite.AtOnce) {
		var rows []Correspondent
		if err := t.db.Select("address", "answered_at").Where("box_id = ? AND address IN ? AND answered_at > 0", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.Address] = r.AnsweredAt
		}
	}
	return out, nil
}

// Postpone keeps a notification until the user wants to hear of it.
func (t HeldMail) Postpone(p Postponed) error {
	return t.db.Create(&p).Error
}

// TakePostponed gives the notifications that were kept, and forgets them.
func (t HeldMail) TakePostponed(box int64) (out []Postponed, err error) {
	if err = t.db.Where("box_id = ?", box).Order("id").Find(&out).Error; err == nil && len(out) > 0 {
		err = t.db.Where("box_id = ?", box).Delete(&Postponed{}).Error
	}
	return out, err
}
