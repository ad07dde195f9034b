package store

import (
	"slices"
	"strings"
	"unicode"

	"gorm.io/gorm/clause"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Send puts a message into the outbox, unless this address has had one with
// the same hold; fresh says whether it was put there.
func (t Tx) Send(o *Outgoing) (fresh bool, err error) {
	res := t.db.Clauses(clause.OnConflict{DoNothing: true}).Create(o)
	if res.Error != nil || res.RowsAffected == 0 {
		return false, res.Error
	}
	return true, t.db.Create(&OutgoingBytes{OutgoingID: o.ID, Bytes: o.Original}).Error
}

// Outgoing loads a message of the outbox of a box, without its bytes.
func (t Tx) Outgoing(box, id int64) (o Outgoing, err error) {
	err = plain(t.db.Where("box_id = ? AND id = ?", box, id).Take(&o).Error)
	return o, err
}

// BytesOfOutgoing gives a message of the outbox as it leaves, or ErrNotFound once
// it stands in its conversation.
func (t Tx) BytesOfOutgoing(id int64) ([]byte, error) {
	var b OutgoingBytes
	err := plain(t.db.Where("outgoing_id = ?", id).Take(&b).Error)
	return b.Bytes, err
}

// withBytes loads the bytes of these.
func (t Tx) withBytes(out []Outgoing, err error) ([]Outgoing, error) {
	for i := range out {
		if err == nil {
			out[i].Original, err = t.BytesOfOutgoing(out[i].ID)
		}
	}
	return out, err
}

// PutOutgoing stores how a message of the outbox stands: its state, recipients,
// tries, account, and the entry that wrote it. One that is not there any more is
// not brought back: ErrNotFound.
func (t Tx) PutOutgoing(o *Outgoing) error {
	return there(t.db.Model(o).Select("EntryID", "AccountID", "State", "To", "Next", "Attempts", "Problem", "SentAt").Updates(o))
}

// FileOutgoing notes that a message that was sent stands in a conversation as a
// message that has its bytes from now on; 0 and 0 for one that stands nowhere.
func (t Tx) FileOutgoing(id, conversation, message int64) error {
	set := map[string]any{"filed": true, "conversation_id": conversation, "message_id": message}
	if message == 0 { // an automatic answer: it is laid nowhere, either
		set = map[string]any{"filed": true, "laid": true}
	}
	if err := there(t.db.Model(&Outgoing{}).Where("id = ?", id).Updates(set)); err != nil {
		return err
	}
	return t.db.Where("outgoing_id = ?", id).Delete(&OutgoingBytes{}).Error
}

// LaidOutgoing notes that a message that was sent lies in the folder of sent mail
// on its server.
func (t Tx) LaidOutgoing(id int64) error {
	if err := there(t.db.Model(&Outgoing{}).Where("id = ?", id).Update("laid", true)); err != nil {
		return err
	}
	return t.db.Where("outgoing_id = ?", id).Delete(&OutgoingBytes{}).Error
}

// OutgoingBy gives what an entry of the journal has put into the outbox.
func (t Tx) OutgoingBy(entry int64) (out []Outgoing, err error) {
	err = t.db.Where("entry_id = ? AND entry_id > 0", entry).Order("id").Find(&out).Error
	return out, err
}

// Withdraw takes back, or with false sends after all, a message that waits or
// that there was no account for.
func (t Tx) Withdraw(id int64, withdrawn bool, next when.Instant) error {
	return t.db.Exec(`UPDATE outgoings SET withdrawn = @withdrawn, next = @next,
		state = CASE WHEN @withdrawn THEN 'withdrawn' WHEN account_id = 0 THEN 'kept' ELSE 'waiting' END WHERE id = @id`,
		map[string]any{"withdrawn": withdrawn, "next": next, "id": id}).Error
}

// AccountsToSend gives the accounts, of whatever box, that have messages whose
// time to be handed over has come by now; 0 among them if those of some have no
// account.
func (t Tx) AccountsToSend(now when.Instant) (accounts []int64, err error) {
	err = t.db.Model(&Outgoing{}).Where("state = 'waiting' AND next <= ?", now).Distinct().Order("account_id").Pluck("account_id", &accounts).Error
	return accounts, err
}

// ToSend gives up to n messages of an account whose time to be handed over has
// come by now, in order, with their bytes.
func (t Tx) ToSend(account int64, now when.Instant, n int) (out []Outgoing, err error) {
	err = t.db.Where("state = 'waiting' AND next <= ? AND account_id = ?", now, account).Order("next, id").Limit(n).Find(&out).Error
	return t.withBytes(out, err)
}

// NextToSend is when, after the instant given, the next message of whatever box
// is to be handed over; 0 if none is.
func (t Tx) NextToSend(after when.Instant) (at when.Instant, err error) {
	err = t.db.Model(&Outgoing{}).Where("state = 'waiting' AND next > ?", after).Select("COALESCE(MIN(next), 0)").Scan(&at).Error
	return at, err
}

// Interrupted gives the messages that were being handed over when the program
// ended.
func (t Tx) Interrupted() (out []Outgoing, err error) {
	err = t.db.Where("state = 'sending'").Find(&out).Error
	return out, err
}

// Unfiled gives up to n sent messages that do not stand in their conversations
// yet, with their bytes.
func (t Tx) Unfiled(n int) (out []Outgoing, err error) {
	err = t.db.Where("state = 'sent' AND NOT filed").Order("id").Limit(n).Find(&out).Error
	return t.withBytes(out, err)
}

// Unlaid gives up to n sent messages of an account that do not lie in its folder
// of sent mail yet.
func (t Tx) Unlaid(account int64, n int) (out []Outgoing, err error) {
	err = t.db.Where("state = 'sent' AND filed AND NOT laid AND account_id = ?", account).Order("id").Limit(n).Find(&out).Error
	return out, err
}

// Outbox gives the newest n messages of the outbox that have not gone, before
// the one with that ID (0: from the newest on).
func (t Tx) Outbox(box, before int64, n int) (out []Outgoing, err error) {
	q := t.db.Where("box_id = ? AND state NOT IN ('sent', 'withdrawn')", box)
	if before > 0 {
		q = q.Where("id < ?", before)
	}
	err = q.Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// SentBefore gives the messages of a box that went out through the outbox and
// stand in their conversations, by their Message-IDs.
func (t Tx) SentBefore(box int64, messageIDs []string) (map[string]int64, error) {
	out := map[string]int64{}
	for chunk := range slices.Chunk(messageIDs, atOnce) {
		var rows []Message
		err := t.db.Select("id", "message_id").Where("box_id = ? AND message_id IN ? AND own AND EXISTS (SELECT 1 FROM outgoings o WHERE o.box_id = messages.box_id AND o.hold = 'message/' || messages.message_id)", box, chunk).
			Find(&rows).Error
		if err != nil {
			return nil, err
		}
		for _, m := range rows {
			out[m.MessageID] = m.ID
		}
	}
	return out, nil
}

// CountStuck counts the messages of a box that only its owner can settle.
func (t Tx) CountStuck(box int64) (n int, err error) {
	var count int64
	err = t.db.Model(&Outgoing{}).Where("box_id = ? AND state IN ('refused', 'hanging')", box).Count(&count).Error
	return int(count), err
}

// Answers gives the newest n automatic answers of a box, gone or not, before
// the one with that ID (0: from the newest on).
func (t Tx) Answers(box, before int64, n int) (out []Outgoing, err error) {
	q := t.db.Where("box_id = ? AND quiet AND state <> 'withdrawn'", box)
	if before > 0 {
		q = q.Where("id < ?", before)
	}
	err = q.Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// OutboxOf gives what is on its way out from a conversation, or could not go,
// oldest first.
func (t Tx) OutboxOf(box, conversation int64) (out []Outgoing, err error) {
	err = t.db.Where("box_id = ? AND conversation_id = ? AND state NOT IN ('sent', 'withdrawn')", box, conversation).Order("id").Find(&out).Error
	return out, err
}

// Draft gives the beginning of an answer in a conversation that was worked on
// last, the zero value if there is none.
func (t Tx) Draft(person, conversation int64) (d Draft, err error) {
	err = t.db.Where("person_id = ? AND conversation_id = ? AND outgoing_id = 0", person, conversation).Order("changed DESC").Limit(1).Find(&d).Error
	return d, err
}

// DraftByID loads a draft of a person that has not been sent.
func (t Tx) DraftByID(person, id int64) (d Draft, err error) {
	err = plain(t.db.Where("person_id = ? AND id = ? AND outgoing_id = 0", person, id).Take(&d).Error)
	return d, err
}

// DraftsOf gives the drafts of a person, those worked on last first.
func (t Tx) DraftsOf(person int64, n int) (out []Draft, err error) {
	err = t.db.Where("person_id = ? AND outgoing_id = 0", person).Order("changed DESC, id DESC").Limit(n).Find(&out).Error
	return out, err
}

// Drafts says in which of the conversations an answer was begun.
func (t Tx) Drafts(person int64, conversations []int64) (map[int64]bool, error) {
	out := map[int64]bool{}
	for chunk := range slices.Chunk(conversations, atOnce) {
		var found []int64
		if err := t.db.Model(&Draft{}).Where("person_id = ? AND outgoing_id = 0 AND text <> '' AND conversation_id IN ?", person, chunk).Pluck("conversation_id", &found).Error; err != nil {
			return nil, err
		}
		for _, id := range found {
			out[id] = true
		}
	}
	return out, nil
}

// PutDraft stores a draft, new or changed.
func (t Tx) PutDraft(d *Draft) error { return put(t, d, d.ID) }

// DropDraft deletes a draft with its files.
func (t Tx) DropDraft(id int64) error {
	if err := t.db.Where("draft_id = ?", id).Delete(&DraftFile{}).Error; err != nil {
		return err
	}
	return t.db.Delete(&Draft{}, id).Error
}

// SetDraftSent notes that a message was made of a draft, or with 0 that it is a
// draft again.
func (t Tx) SetDraftSent(id, outgoing int64) error {
	return t.db.Model(&Draft{}).Where("id = ?", id).Update("outgoing_id", outgoing).Error
}

// DraftFiles gives the files of a draft, in the order in which they were added,
// without what is in them.
func (t Tx) DraftFiles(draft int64) (out []DraftFile, err error) {
	err = t.db.Omit("Content").Where("draft_id = ?", draft).Order("id").Find(&out).Error
	return out, err
}

// DraftFilesWhole gives the same with what is in them.
func (t Tx) DraftFilesWhole(draft int64) (out []DraftFile, err error) {
	err = t.db.Where("draft_id = ?", draft).Order("id").Find(&out).Error
	return out, err
}

// AddDraftFile stores a file of a draft.
func (t Tx) AddDraftFile(f *DraftFile) error { return t.db.Create(f).Error }

// DropDraftFile takes a file away from a draft.
func (t Tx) DropDraftFile(draft, id int64) error {
	return t.db.Where("draft_id = ? AND id = ?", draft, id).Delete(&DraftFile{}).Error
}

// known is among how many people a beginning is completed: of those written to
// the ones written to last, of the others the ones heard of first last.
const known = 500

// Complete gives people whose names or addresses have words that begin like that, those
// written to lately and often first. Machines are left out, as nobody writes to
// them.
func (t Tx) Complete(box int64, begins string, now when.Instant, n int) (out []mail.Address, err error) {
	like := escapeLike(begins)
	match := matchAll(strings.FieldsFunc(begins, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) }))
	if match == "" {
		match = `"@"`
	}
	err = t.db.Raw(`SELECT name, address FROM (
			SELECT rowid FROM (SELECT rowid FROM correspondents WHERE box_id = @box AND sent > 0 AND (address LIKE @at ESCAPE '\' OR name LIKE @at ESCAPE '\' OR name LIKE @in ESCAPE '\') ORDER BY answered_at DESC LIMIT @known)
			UNION SELECT rowid FROM (SELECT rowid FROM people_words WHERE people_words MATCH @match ORDER BY rowid DESC LIMIT @known)) w
		CROSS JOIN correspondents c ON c.rowid = w.rowid AND c.box_id = @box
		WHERE sent > 0 OR NOT (address LIKE 'no-reply%' OR address LIKE 'noreply%' OR address LIKE 'notices@%' OR address LIKE 'mailer-daemon@%')
		ORDER BY (sent * 3.0 + received) / (1.0 + MAX(0, @now - MAX(answered_at, last_at / 2)) / 2592000000.0) DESC, sent DESC, address LIMIT @n`,
		map[string]any{"box": box, "at": like + "%", "in": "% " + like + "%", "now": now, "n": n, "known": known, "match": match}).Scan(&out).Error
	return out, err
}

func escapeLike(s string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(s)
}

// LastWords gives up to n messages that the user sent in [from, to) to one
// person alone, that are the last of their conversations, and that nothing waits
// for yet; the newest first.
func (t Tx) LastWords(box, person int64, from, to when.Instant, n int) (out []Message, err error) {
	err = t.db.Raw(`SELECT m.* FROM conversations c JOIN messages m ON m.conversation_id = c.id AND m.date = c.last_at AND m.own
		WHERE c.box_id = ? AND c.last_at >= ? AND c.last_at < ? AND c.own_last AND c.merged_to = 0 AND c.place NOT IN ('snoozed', 'bin', 'junk', 'held')
		AND json_array_length(m."to") = 1 AND COALESCE(json_array_length(NULLIF(m.cc, 'null')), 0) = 0
		AND NOT EXISTS (SELECT 1 FROM follow_ups f WHERE f.conversation_id = c.id AND f.waits_since > 0)
		AND NOT EXISTS (SELECT 1 FROM unaskeds u WHERE u.person_id = ? AND u.message_id = m.id)
		ORDER BY c.last_at DESC, m.id DESC LIMIT ?`, box, from, to, person, n).Scan(&out).Error
	return out, err
}

// Unask notes that the user does not wait for an answer to a message.
func (t Tx) Unask(person, message int64) error {
	return t.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&Unasked{person, message}).Error
}

// DraftCopies gives the copies of drafts that lie on the server of an account.
func (t Tx) DraftCopies(account int64) (out []DraftCopy, err error) {
	err = t.db.Where("account_id = ?", account).Find(&out).Error
	return out, err
}

// DraftsFrom gives the drafts of a person that go from an account and in which
// something is written.
func (t Tx) DraftsFrom(person, account int64) (out []Draft, err error) {
	err = t.db.Where("person_id = ? AND account_id = ? AND outgoing_id = 0 AND text <> ''", person, account).Order("id").Find(&out).Error
	return out, err
}

// PutDraftCopy notes that a copy of a draft lies on a server.
func (t Tx) PutDraftCopy(k DraftCopy) error {
	return t.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&k).Error
}

// DropDraftCopy notes that a copy of a draft was taken away.
func (t Tx) DropDraftCopy(k DraftCopy) error { return t.db.Delete(&k).Error }

// Templates gives the templates of a person by their names.
func (t Tx) Templates(person int64) (out []Template, err error) {
	err = t.db.Where("person_id = ?", person).Order("name COLLATE NOCASE, id").Find(&out).Error
	return out, err
}

// Template loads a template of a person.
func (t Tx) Template(person, id int64) (r Template, err error) {
	err = plain(t.db.Where("person_id = ? AND id = ?", person, id).Take(&r).Error)
	return r, err
}

// PutTemplate stores a template, new or changed.
func (t Tx) PutTemplate(r *Template) error { return put(t, r, r.ID) }

// DropTemplate deletes a template of a person.
func (t Tx) DropTemplate(person, id int64) error {
	return t.db.Where("person_id = ? AND id = ?", person, id).Delete(&Template{}).Error
}

// Held says that something was put into the outbox under that hold.
func (t Tx) Held(box int64, hold string) (bool, error) {
	var n int64
	err := t.db.Model(&Outgoing{}).Where("box_id = ? AND hold = ?", box, hold).Limit(1).Count(&n).Error
	return n > 0, err
}
