package mailboxes

import (
	"encoding/json"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Folder is a folder of an account on its server.
type Folder struct {
	ID        int64
	AccountID int64
	Name      string
	Role      mail.Role
	Validity  int64  // UIDVALIDITY; 0 until it was opened first
	Low       int64  // all messages with UIDs from here
	High      int64  // to here have been taken in
	Whole     bool   // and there are none below
	ModSeq    uint64 // the state of the flags (RFC 7162); 0 if unknown
	Gone      bool   // it is not on the server any more
	Careful   bool   // a message in it breaks the line: they are fetched one by one
	Trying    int64  // the UID of the one that is being fetched so; negative: its header alone
}

// Copy says where a message lies on a server. A negative UID is one of before
// the server numbered its messages anew.
type Copy struct {
	FolderID  int64 `gorm:"primaryKey;autoIncrement:false"`
	UID       int64 `gorm:"primaryKey;autoIncrement:false"`
	MessageID int64
	Seen      bool
	Star      bool
	Put       when.Instant // when Ebbe put it there; 0: it came there otherwise
}

// Awaited is a message that Ebbe has put into a folder without learning its
// UID there: when it is found, nobody else has moved it.
type Awaited struct {
	FolderID  int64 `gorm:"primaryKey;autoIncrement:false"`
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
}

// Happening says that something other than Ebbe has put a message into a folder
// or taken it out of one, and that its conversation has still to follow.
type Happening struct {
	ID        int64
	AccountID int64
	MessageID int64
	FolderID  int64 // out of which it went; 0 if it was put into one
}

// Vanishing says that a message has vanished from a folder and was found in no
// other. Those of the last minutes are counted; where they are too many, the
// person is asked before anything follows from them.
type Vanishing struct {
	FolderID  int64 `gorm:"primaryKey;autoIncrement:false"`
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
	AccountID int64
	At        when.Instant
	Asked     bool // nothing has followed: it waits for what the person says
	PutBack   bool // the person wants it laid into the folder again
}

// Folders is what is asked and stored about folders on servers, and what lies in them.
type Folders store.Tx

func (t Folders) db() *gorm.DB { return store.Tx(t).DB() }

// Folders gives the folders of an account that are on its server.
func (t Folders) Folders(account int64) (out []Folder, err error) {
	err = t.db().Where("account_id = ? AND NOT gone", account).Order("id").Find(&out).Error
	return out, err
}

// PutFolder stores a folder, new or changed.
func (t Folders) PutFolder(f *Folder) error { return sqlite.Put(t.db(), f, f.ID) }

// FolderNamed finds a folder of an account, be it on the server or not.
func (t Folders) FolderNamed(account int64, name string) (f Folder, err error) {
	err = sqlite.Plain(t.db().Where("account_id = ? AND name = ?", account, name).Take(&f).Error)
	return f, err
}

// PutCopies notes where messages lie.
func (t Folders) PutCopies(rows []Copy) error {
	return sqlite.Create(t.db(), rows, 150, clause.OnConflict{UpdateAll: true})
}

// CopyUIDs gives the UIDs of a folder under which messages lie there, in order.
func (t Folders) CopyUIDs(folder int64) (out []int64, err error) {
	err = t.db().Model(&Copy{}).Where("folder_id = ?", folder).Order("uid").Pluck("uid", &out).Error
	return out, err
}

// CountCopies is how many messages are known to lie in a folder.
func (t Folders) CountCopies(folder int64) (n int64, err error) {
	err = t.db().Model(&Copy{}).Where("folder_id = ? AND uid > 0", folder).Count(&n).Error
	return n, err
}

// Renumber marks all places in a folder as ones of before the server numbered
// its messages anew.
func (t Folders) Renumber(folder int64) error {
	return t.db().Exec("UPDATE OR REPLACE copies SET uid = -uid WHERE folder_id = ? AND uid > 0", folder).Error
}

// CopiesAt gives what lies under some UIDs of a folder.
func (t Folders) CopiesAt(folder int64, uids []int64) (out []Copy, err error) {
	for chunk := range slices.Chunk(uids, sqlite.AtOnce) {
		var rows []Copy
		if err := t.db().Where("folder_id = ? AND uid IN ?", folder, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		out = append(out, rows...)
	}
	return out, nil
}

// CopiesOf gives where some messages lie, anywhere.
func (t Folders) CopiesOf(messages []int64) (out []Copy, err error) {
	for chunk := range slices.Chunk(messages, sqlite.AtOnce) {
		var rows []Copy
		if err := t.db().Where("message_id IN ?", chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		out = append(out, rows...)
	}
	return out, nil
}

// DropCopies forgets places in a folder.
func (t Folders) DropCopies(folder int64, uids []int64) error {
	for chunk := range slices.Chunk(uids, sqlite.AtOnce) {
		if err := t.db().Where("folder_id = ? AND uid IN ?", folder, chunk).Delete(&Copy{}).Error; err != nil {
			return err
		}
	}
	return nil
}

// ConversationCopies gives where the messages of conversations lie, for each
// from its oldest message to its newest.
func (t Folders) ConversationCopies(box int64, conversations []int64) (map[int64][]inbox.Copy, error) {
	out := map[int64][]inbox.Copy{}
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		var rows []struct {
			ConversationID, Account, Folder, UID, Message int64
			Role                                          mail.Role
			Own, Seen, Star                               bool
		}
		err := t.db().Raw(`SELECT m.conversation_id, f.account_id account, f.id folder, k.uid, m.id message, f.role, m.own, k.seen, k.star
			FROM messages m JOIN copies k ON k.message_id = m.id JOIN folders f ON f.id = k.folder_id
			WHERE +m.box_id = ? AND m.conversation_id IN ? AND k.uid > 0 AND NOT f.gone ORDER BY m.date, m.id, k.uid`, box, chunk).Scan(&rows).Error
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.ConversationID] = append(out[r.ConversationID], inbox.Copy{Message: r.Message, Own: r.Own, Account: r.Account, Folder: r.Folder, UID: r.UID, Role: r.Role, Seen: r.Seen, Star: r.Star})
		}
	}
	return out, nil
}

// Lying is a message that lies in a folder which Ebbe keeps on a server.
type Lying struct {
	Folder, Validity, UID, Conversation int64
	Role                                mail.Role
	Place                               inbox.Place  // of its conversation
	Put                                 when.Instant // when Ebbe put it there; 0: somebody else did
	Open                                bool         // something was decided about it of which the server has not heard
}

// LyingInKept gives what lies in the folders that Ebbe keeps on the server of an account,
// the newest UIDs first.
func (t Folders) LyingInKept(box, account int64) (out []Lying, err error) {
	err = t.db().Raw(`SELECT f.id folder, f.validity, k.uid, m.conversation_id conversation, f.role, c.place, k.put, EXISTS (SELECT 1 FROM errands e WHERE e.conversation_id = m.conversation_id) open
		FROM folders f JOIN copies k ON k.folder_id = f.id JOIN messages m ON m.id = k.message_id JOIN conversations c ON c.id = m.conversation_id
		WHERE f.account_id = ? AND NOT f.gone AND f.role LIKE 'kept/%' AND k.uid > 0 AND +m.box_id = ? ORDER BY f.id, k.uid DESC`, account, box).Scan(&out).Error
	return out, err
}

// Await notes that a message was put into a folder under an unknown UID.
func (t Folders) Await(folder, message int64) error {
	return t.db().Clauses(clause.OnConflict{DoNothing: true}).Create(&Awaited{folder, message}).Error
}

// Awaited says which of the messages were awaited in a folder, and awaits them
// no more.
func (t Folders) Awaited(folder int64, messages []int64) (map[int64]bool, error) {
	out := map[int64]bool{}
	raw, err := json.Marshal(append([]int64{}, messages...))
	if err != nil {
		return nil, err
	}
	var found []int64
	err = t.db().Raw("DELETE FROM awaiteds WHERE folder_id = ? AND message_id IN (SELECT value FROM json_each(?)) RETURNING message_id", folder, string(raw)).Scan(&found).Error
	for _, id := range found {
		out[id] = true
	}
	return out, err
}

// Happen notes what was seen on a server.
func (t Folders) Happen(rows []Happening) error { return sqlite.Create(t.db(), rows, 200) }

// Happenings gives what conversations have still to follow, in the order in
// which it was seen.
func (t Folders) Happenings(account int64) (out []Happening, err error) {
	err = t.db().Where("account_id = ?", account).Order("id").Find(&out).Error
	return out, err
}

// Followed forgets such things.
func (t Folders) Followed(ids []int64) error {
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		if err := t.db().Delete(&Happening{}, chunk).Error; err != nil {
			return err
		}
	}
	return nil
}

// ConversationsOf says to which conversations messages belong.
func (t Folders) ConversationsOf(box int64, messages []int64) (map[int64]int64, error) {
	out := map[int64]int64{}
	for chunk := range slices.Chunk(messages, sqlite.AtOnce) {
		var rows []store.Message
		if err := t.db().Select("id", "conversation_id").Where("+box_id = ? AND id IN ?", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, m := range rows {
			out[m.ID] = m.ConversationID
		}
	}
	return out, nil
}

// Vanish notes what has vanished from the folders of an account and was found
// nowhere else there.
func (t Folders) Vanish(rows []Vanishing) error {
	return sqlite.Create(t.db(), rows, 150, clause.OnConflict{UpdateAll: true})
}

// Vanishings gives what has vanished from the folders of an account since that
// instant, and all about which the person has been asked.
func (t Folders) Vanishings(account int64, since when.Instant) (out []Vanishing, err error) {
	err = t.db().Where("account_id = ? AND (asked OR at >= ?)", account, since).Order("message_id").Find(&out).Error
	return out, err
}

// AskedAbout counts, by account of a box, the messages about whose vanishing the
// person has been asked and has said nothing yet.
func (t Folders) AskedAbout(box int64) (map[int64]int, error) {
	var rows []struct {
		AccountID int64
		N         int
	}
	err := t.db().Raw("SELECT v.account_id, COUNT(*) n FROM vanishings v JOIN accounts a ON a.id = v.account_id WHERE a.box_id = ? AND v.asked AND NOT v.put_back GROUP BY 1", box).Scan(&rows).Error
	out := map[int64]int{}
	for _, r := range rows {
		out[r.AccountID] = r.N
	}
	return out, err
}

// ForgetVanished forgets what vanished from the folders of an account before
// that instant and needs no answer.
func (t Folders) ForgetVanished(account int64, before when.Instant) error {
	return t.db().Where("account_id = ? AND NOT asked AND at < ?", account, before).Delete(&Vanishing{}).Error
}

// DropVanished forgets some of it.
func (t Folders) DropVanished(rows []Vanishing) error {
	for _, v := range rows {
		if err := t.db().Where("folder_id = ? AND message_id = ?", v.FolderID, v.MessageID).Delete(&Vanishing{}).Error; err != nil {
			return err
		}
	}
	return nil
}
