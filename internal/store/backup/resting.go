package backup

import (
	"slices"

	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sending"
	"ebbe/internal/store/sqlite"
)

// Restored is what is told of a message or a decision that waited when the
// backup was made of which the database was restored.
const Restored = "It waited when the backup was made, and Ebbe cannot know whether it was done since."

// Resting is what is asked and stored about what rests after a restore.
type Resting store.Tx

func (t Resting) db() *gorm.DB { return store.Tx(t).DB() }

// RestRestored keeps what waited when the backup was made, and is past by now,
// until the user says what becomes of it: messages on their way out, but for
// those that have been found among the sent mail, decisions of which servers have
// not heard, and reminders. It gives how many of each.
func (t Resting) RestRestored(now when.Instant) (messages, decisions, reminders int, err error) {
	for _, q := range []string{
		`UPDATE outgoings SET state = 'sent', filed = 1, laid = 1, sent_at = next WHERE state NOT IN ('sent', 'withdrawn') AND state IN ('waiting', 'hanging') AND hold LIKE 'message/%'
			AND EXISTS (SELECT 1 FROM messages m WHERE m.box_id = outgoings.box_id AND m.message_id = substr(outgoings.hold, 9) AND m.own)`,
		`DELETE FROM drafts WHERE outgoing_id > 0 AND EXISTS (SELECT 1 FROM outgoings o WHERE o.id = drafts.outgoing_id AND o.state = 'sent')`,
		`DELETE FROM outgoing_bytes WHERE EXISTS (SELECT 1 FROM outgoings o WHERE o.id = outgoing_id AND o.state = 'sent' AND o.filed AND o.laid)`,
	} {
		if err := t.db().Exec(q).Error; err != nil {
			return 0, 0, 0, err
		}
	}
	res := t.db().Exec("UPDATE outgoings SET state = 'kept', problem = ? WHERE state = 'waiting' AND next <= ?", Restored, now)
	if res.Error != nil {
		return 0, 0, 0, res.Error
	}
	errands := t.db().Exec("UPDATE errands SET at = ?, problem = ?", store.WhenSaid, Restored)
	if errands.Error != nil {
		return 0, 0, 0, errands.Error
	}
	due := t.db().Exec("UPDATE things SET at = ? WHERE kind IN ? AND at <= ?", store.WhenSaid, reminding, now)
	return int(res.RowsAffected), int(errands.RowsAffected), int(due.RowsAffected), due.Error
}

var reminding = []inbox.Kind{inbox.Remind, inbox.RemindEvent}

// RestoredOutgoing gives the messages of a box that wait for the user's word.
func (t Resting) RestoredOutgoing(box int64) (out []sending.Outgoing, err error) {
	err = t.db().Where("box_id = ? AND state NOT IN ('sent', 'withdrawn') AND state = 'kept' AND problem = ?", box, Restored).Order("id").Find(&out).Error
	return out, err
}

// RestoredErrands gives the conversations about which decisions of the user
// wait for their word before a server hears of them.
func (t Resting) RestoredErrands(box int64) (out []store.Conversation, err error) {
	err = t.db().Raw("SELECT c.id, c.subject, c.title, c.place, c.from_name, c.from_addr FROM errands e JOIN conversations c ON c.id = e.conversation_id WHERE e.box_id = ? AND e.at = ? ORDER BY c.id", box, store.WhenSaid).Scan(&out).Error
	return out, err
}

// ReleaseErrands lets the servers hear of the decisions that wait for the user's
// word.
func (t Resting) ReleaseErrands(box int64) error {
	return t.db().Exec("UPDATE errands SET at = 0, problem = '', attempts = 0 WHERE box_id = ? AND at = ?", box, store.WhenSaid).Error
}

// RestErrands lets the decisions about conversations of a box wait for the
// user's word again, before servers hear of them.
func (t Resting) RestErrands(box int64, conversations []int64) error {
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		err := t.db().Exec(`INSERT INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places)
			SELECT id, box_id, 1, 0, ?, ?, 'inbox,held,snoozed,archived,bin,junk' FROM conversations WHERE id IN ? AND +box_id = ? AND merged_to = 0 ON CONFLICT DO NOTHING`, store.WhenSaid, Restored, chunk, box).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// DropHeld forgets, of the decisions about conversations of a box, those that
// wait for the user's word.
func (t Resting) DropHeld(box int64, conversations []int64) error {
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		if err := t.db().Exec("DELETE FROM errands WHERE conversation_id IN ? AND +box_id = ? AND at = ?", chunk, box, store.WhenSaid).Error; err != nil {
			return err
		}
	}
	return nil
}

// RestoredReminders gives the things of the agenda of a box that wait for the
// user's word before they remind of anything.
func (t Resting) RestoredReminders(box int64) (out []store.Thing, err error) {
	err = t.db().Where("box_id = ? AND at = ? AND kind IN ?", box, store.WhenSaid, reminding).Order("id").Find(&out).Error
	return out, err
}

// RestReminders lets what is on the agenda about follow-ups and events of a box,
// by UID, wait for the user's word again before it reminds.
func (t Resting) RestReminders(box int64, uids []string) error {
	for chunk := range slices.Chunk(uids, sqlite.AtOnce) {
		if err := t.db().Exec("UPDATE things SET at = ? WHERE +box_id = ? AND follow_up IN ? AND kind IN ?", store.WhenSaid, box, chunk, reminding).Error; err != nil {
			return err
		}
	}
	return nil
}

// ReleaseReminders lets what waits for the user's word remind at once.
func (t Resting) ReleaseReminders(box int64, now when.Instant) error {
	return t.db().Exec("UPDATE things SET at = ? WHERE box_id = ? AND at = ? AND kind IN ?", now, box, store.WhenSaid, reminding).Error
}
