// Package sending stores what goes out.
package sending

import (
	"database/sql"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Outgoing is a message on its way out.
type Outgoing struct {
	ID       int64
	BoxID    int64
	Once     string `gorm:"column:hold"` // what makes it the only one of its kind: the hold whose automatic answer it is, its own Message-ID, …
	Address  string // of the first recipient, lower case
	Name     string
	At       when.Instant // when it was written, or the user wants it to go
	Subject  string
	Text     string
	Original []byte         `gorm:"-"`               // as it leaves (RFC 5322); kept apart, and loaded where it is asked for
	Bcc      []mail.Address `gorm:"serializer:json"` // hidden recipients: in the user's own copy, and never on the wire

	EntryID   int64 // the entry of the journal that wrote it, if it can be taken back
	Withdrawn bool  // that entry was taken back

	AccountID      int64
	DraftID        int64
	ConversationID int64
	State          writing.State
	To             []writing.Recipient `gorm:"column:recipients;serializer:json"`
	Next           when.Instant        // of the next try
	Rule           string              // by which it is sent again (RECUR of RFC 5545); empty: once
	Again          string              // the same in the user's words
	Begins         when.Moment         `gorm:"serializer:json"` // from when the rule counts
	Attempts       int
	Problem        string
	SentAt         when.Instant
	Quiet          bool         // it is not shown in its conversation: an automatic answer
	Filed          bool         // it stands in its conversation
	Laid           bool         // it lies in the folder of sent mail on the server
	Receipt        string       // by which name the gateway of a telephone line tells of it
	Reached        when.Instant // when it has reached the telephone it was for; 0: nobody has said so

	MessageID int64 // the message it has become in its conversation, which has its bytes then; or 0
}

// OutgoingBytes is a message of the outbox as it leaves, until it stands in its
// conversation.
type OutgoingBytes struct {
	OutgoingID int64 `gorm:"primaryKey;autoIncrement:false"`
	Bytes      []byte
}

// Outbox is what is asked and stored about messages on their way out.
type Outbox store.Tx

func (t Outbox) db() *gorm.DB { return store.Tx(t).DB() }

// Reached says when the texts of a conversation have reached their telephones, by the messages they
// have become.
func (t Outbox) Reached(conversation int64) (map[int64]when.Instant, error) {
	var rows []Outgoing
	err := t.db().Select("message_id", "reached").Where("conversation_id = ? AND reached > 0", conversation).Find(&rows).Error
	out := map[int64]when.Instant{}
	for _, o := range rows {
		out[o.MessageID] = o.Reached
	}
	return out, err
}

// ByReceipt is the message of which the gateway of a telephone line tells by that name;
// store.ErrNotFound if there is none.
func (t Outbox) ByReceipt(account int64, receipt string) (o Outgoing, err error) {
	err = sqlite.Plain(t.db().Where("account_id = ? AND receipt = ? AND receipt <> ''", account, receipt).Take(&o).Error)
	return o, err
}

// Send puts a message into the outbox, unless this address has had one with
// the same hold; fresh says whether it was put there.
func (t Outbox) Send(o *Outgoing) (fresh bool, err error) {
	res := t.db().Clauses(clause.OnConflict{DoNothing: true}).Create(o)
	if res.Error != nil || res.RowsAffected == 0 {
		return false, res.Error
	}
	return true, t.db().Create(&OutgoingBytes{OutgoingID: o.ID, Bytes: o.Original}).Error
}

// Outgoing loads a message of the outbox of a box, without its bytes.
func (t Outbox) Outgoing(box, id int64) (o Outgoing, err error) {
	err = sqlite.Plain(t.db().Where("box_id = ? AND id = ?", box, id).Take(&o).Error)
	return o, err
}

// BytesOfOutgoing gives a message of the outbox as it leaves, or ErrNotFound once
// it stands in its conversation.
func (t Outbox) BytesOfOutgoing(id int64) ([]byte, error) {
	var b OutgoingBytes
	err := sqlite.Plain(t.db().Where("outgoing_id = ?", id).Take(&b).Error)
	return b.Bytes, err
}

// withBytes loads the bytes of these.
func (t Outbox) withBytes(out []Outgoing, err error) ([]Outgoing, error) {
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
func (t Outbox) PutOutgoing(o *Outgoing) error {
	return sqlite.There(t.db().Model(o).Select("EntryID", "AccountID", "State", "To", "Next", "Attempts", "Problem", "SentAt", "Receipt", "Reached").Updates(o))
}

// FileOutgoing notes that a message that was sent stands in a conversation as a
// message that has its bytes from now on; 0 and 0 for one that stands nowhere.
func (t Outbox) FileOutgoing(id, conversation, message int64) error {
	set := map[string]any{"filed": true, "conversation_id": conversation, "message_id": message}
	if message == 0 { // an automatic answer: it is laid nowhere, either
		set = map[string]any{"filed": true, "laid": true}
	}
	if err := sqlite.There(t.db().Model(&Outgoing{}).Where("id = ?", id).Updates(set)); err != nil {
		return err
	}
	return t.db().Where("outgoing_id = ?", id).Delete(&OutgoingBytes{}).Error
}

// LaidOutgoing notes that a message that was sent lies in the folder of sent mail
// on its server.
func (t Outbox) LaidOutgoing(id int64) error {
	if err := sqlite.There(t.db().Model(&Outgoing{}).Where("id = ?", id).Update("laid", true)); err != nil {
		return err
	}
	return t.db().Where("outgoing_id = ?", id).Delete(&OutgoingBytes{}).Error
}

// OutgoingBy gives what an entry of the journal has put into the outbox.
func (t Outbox) OutgoingBy(entry int64) (out []Outgoing, err error) {
	err = t.db().Where("entry_id = ? AND entry_id > 0", entry).Order("id").Find(&out).Error
	return out, err
}

// Withdraw takes back, or with false sends after all, a message that waits or
// that there was no account for.
func (t Outbox) Withdraw(id int64, withdrawn bool, next when.Instant) error {
	return t.db().Exec(`UPDATE outgoings SET withdrawn = @withdrawn, next = @next,
		state = CASE WHEN @withdrawn THEN 'withdrawn' WHEN account_id = 0 THEN 'kept' ELSE 'waiting' END WHERE id = @id`,
		map[string]any{"withdrawn": withdrawn, "next": next, "id": id}).Error
}

// AccountsToSend gives the accounts, of whatever box, that have messages whose
// time to be handed over has come by now; 0 among them if those of some have no
// account.
func (t Outbox) AccountsToSend(now when.Instant) (accounts []int64, err error) {
	err = t.db().Model(&Outgoing{}).Where("state = 'waiting' AND next <= ?", now).Distinct().Order("account_id").Pluck("account_id", &accounts).Error
	return accounts, err
}

// ToSend gives up to n messages of an account whose time to be handed over has
// come by now, in order, with their bytes.
func (t Outbox) ToSend(account int64, now when.Instant, n int) (out []Outgoing, err error) {
	err = t.db().Where("state = 'waiting' AND next <= ? AND account_id = ?", now, account).Order("next, id").Limit(n).Find(&out).Error
	return t.withBytes(out, err)
}

// NextToSend is when, after the instant given, the next message of whatever box
// is to be handed over; 0 if none is.
func (t Outbox) NextToSend(after when.Instant) (at when.Instant, err error) {
	err = t.db().Model(&Outgoing{}).Where("state = 'waiting' AND next > ?", after).Select("COALESCE(MIN(next), 0)").Scan(&at).Error
	return at, err
}

// Interrupted gives the messages that were being handed over when the program
// ended.
func (t Outbox) Interrupted() (out []Outgoing, err error) {
	err = t.db().Where("state = 'sending'").Find(&out).Error
	return out, err
}

// Unfiled gives up to n sent messages that do not stand in their conversations
// yet, with their bytes.
func (t Outbox) Unfiled(n int) (out []Outgoing, err error) {
	err = t.db().Where("state = 'sent' AND NOT filed").Order("id").Limit(n).Find(&out).Error
	return t.withBytes(out, err)
}

// Unsettled gives the messages of a box that have gone, or may have, and do not
// stand in their conversations yet: one is being handed over, hangs, or is to be
// filed. They are without their bytes.
func (t Outbox) Unsettled(box int64) (out []Outgoing, err error) {
	err = t.db().Where(`id IN (SELECT id FROM outgoings WHERE state = 'sending' AND +box_id = @box AND NOT quiet
		UNION ALL SELECT id FROM outgoings WHERE box_id = @box AND state IN ('refused', 'hanging') AND state = 'hanging' AND NOT quiet
		UNION ALL SELECT id FROM outgoings WHERE state = 'sent' AND NOT filed AND +box_id = @box AND NOT quiet)`, sql.Named("box", box)).Find(&out).Error
	return out, err
}

// Unlaid gives up to n sent messages of an account that do not lie in its folder
// of sent mail yet.
func (t Outbox) Unlaid(account int64, n int) (out []Outgoing, err error) {
	err = t.db().Where("state = 'sent' AND filed AND NOT laid AND account_id = ?", account).Order("id").Limit(n).Find(&out).Error
	return out, err
}

// Outbox gives the newest n messages of the outbox that have not gone, before
// the one with that ID (0: from the newest on).
func (t Outbox) Outbox(box, before int64, n int) (out []Outgoing, err error) {
	q := t.db().Where("box_id = ? AND state NOT IN ('sent', 'withdrawn')", box)
	if before > 0 {
		q = q.Where("id < ?", before)
	}
	err = q.Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// SentBefore gives the messages of a box that went out through the outbox and
// stand in their conversations, by their Message-IDs.
func (t Outbox) SentBefore(box int64, messageIDs []string) (map[string]int64, error) {
	out := map[string]int64{}
	for chunk := range slices.Chunk(messageIDs, sqlite.AtOnce) {
		var rows []store.Message
		err := t.db().Select("id", "message_id").Where("box_id = ? AND message_id IN ? AND own AND EXISTS (SELECT 1 FROM outgoings o WHERE o.box_id = messages.box_id AND o.hold = 'message/' || messages.message_id)", box, chunk).
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
func (t Outbox) CountStuck(box int64) (n int, err error) {
	var count int64
	err = t.db().Model(&Outgoing{}).Where("box_id = ? AND state IN ('refused', 'hanging')", box).Count(&count).Error
	return int(count), err
}

// Answers gives the newest n automatic answers of a box, gone or not, before
// the one with that ID (0: from the newest on).
func (t Outbox) Answers(box, before int64, n int) (out []Outgoing, err error) {
	q := t.db().Where("box_id = ? AND quiet AND state <> 'withdrawn'", box)
	if before > 0 {
		q = q.Where("id < ?", before)
	}
	err = q.Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// OutboxOf gives what is on its way out from a conversation, or could not go,
// oldest first.
func (t Outbox) OutboxOf(box, conversation int64) (out []Outgoing, err error) {
	err = t.db().Where("box_id = ? AND conversation_id = ? AND state NOT IN ('sent', 'withdrawn')", box, conversation).Order("id").Find(&out).Error
	return out, err
}

// Held says that something was put into the outbox under that hold.
func (t Outbox) Held(box int64, hold string) (bool, error) {
	var n int64
	err := t.db().Model(&Outgoing{}).Where("box_id = ? AND hold = ?", box, hold).Limit(1).Count(&n).Error
	return n > 0, err
}

// Heard gives the automatic answers that these addresses have had: for each the
// holds in which they had one.
func (t Outbox) Heard(box int64, addresses []string) (map[string][]string, error) {
	out := map[string][]string{}
	for chunk := range slices.Chunk(addresses, sqlite.AtOnce) {
		var rows []Outgoing
		if err := t.db().Select("hold", "address").Where("box_id = ? AND address IN ?", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, o := range rows {
			out[o.Address] = append(out[o.Address], o.Once)
		}
	}
	return out, nil
}
