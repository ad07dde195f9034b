package weighing

import (
	"ebbe/internal/core/when"
)

// List is a mailing list or newsletter, and what came of its messages.
type List struct {
	List         string // its List-Id, or the address it is from where it has none
	Address      string // from which its newest message is
	Name         string
	Month        int // messages that came since the instant asked for
	Messages     int
	Opened       int // of these had been opened by the reader
	Read         int // to the end
	Answered     int
	Size         int
	First        when.Instant
	Last         when.Instant
	Conversation int64 // of its newest message
	Message      int64 // that
	LeftAt       when.Instant
	Since        int // messages that came more than ten days after it was left
}

// stillSending is after how long a list that was left should have stopped.
const stillSending = 10 * 24 * 3_600_000

// Lists gives the lists of which something came to a person's box since from, those that
// sent most since month first; n at most.
func (t Weights) Lists(box, person int64, from, month when.Instant, n int) (out []List, err error) {
	err = t.db().Raw(`WITH came AS MATERIALIZED (SELECT CASE WHEN m.list <> '' THEN m.list ELSE m.from_addr END list, m.from_addr, m.from_name, m.size, m.conversation_id, m.id, w.came, w.answer,
				(SELECT COUNT(*) > 0 FROM readings r WHERE r.conversation_id = m.conversation_id AND r.person_id = @person) opened,
				COALESCE((SELECT MAX(r.whole) FROM readings r WHERE r.conversation_id = m.conversation_id AND r.person_id = @person), 0) whole
			FROM weighed w CROSS JOIN messages m ON m.id = w.message_id WHERE w.box_id = @box AND w.came >= @from AND m.kind = 'list' AND m.held = '')
		SELECT c.list, MAX(c.came) last, MIN(c.came) first, COUNT(*) messages, SUM(c.came >= @month) month, SUM(c.opened) opened, SUM(c.whole) read, SUM(c.answer > 0) answered, SUM(c.size) size,
			c.from_addr address, c.from_name name, c.conversation_id conversation, c.id message, COALESCE(l.at, 0) left_at,
			COALESCE(SUM(c.came > l.at + @still), 0) since
		FROM came c LEFT JOIN left_lists l ON l.box_id = @box AND l.list = c.list GROUP BY c.list ORDER BY month DESC, messages DESC, c.list LIMIT @n`,
		map[string]any{"box": box, "person": person, "from": from, "month": month, "still": stillSending, "n": n}).Scan(&out).Error
	return out, err
}

// Leave notes that a list was left.
func (t Weights) Leave(box int64, list string, at when.Instant) error {
	return t.db().Exec("INSERT INTO left_lists(box_id, list, at) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET at = excluded.at", box, list, at).Error
}

// OfList gives the conversations of a box that lie in the inbox or the archive and of
// which somebody wrote a message for that list ("": for none), but those the person has
// starred and those with an open follow-up; the newest first, n at most.
func (t Weights) OfList(box, person int64, from, list string, n int) (ids []int64, err error) {
	err = t.db().Raw(`SELECT c.id FROM weighed w CROSS JOIN messages m ON m.id = w.message_id AND m.list = ? AND m.held = '' CROSS JOIN conversations c ON c.id = m.conversation_id
		WHERE w.box_id = ? AND w.from_addr = ? AND c.place IN ('inbox', 'archived') AND c.merged_to = 0
		AND NOT EXISTS (SELECT 1 FROM marks k WHERE k.conversation_id = c.id AND k.person_id = ? AND k.starred) AND NOT EXISTS (SELECT 1 FROM follow_ups f WHERE f.conversation_id = c.id AND f.open)
		GROUP BY c.id ORDER BY MAX(w.came) DESC LIMIT ?`, list, box, from, person, n).Scan(&ids).Error
	return ids, err
}
