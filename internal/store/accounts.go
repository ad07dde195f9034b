package store

import (
	"encoding/json"
	"slices"
	"strings"

	"gorm.io/gorm/clause"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Accounts gives the accounts of a box, in the order in which they were added;
// of all boxes if box is 0.
func (t Tx) Accounts(box int64) (out []Account, err error) {
	err = t.db.Where("box_id = @box OR @box = 0", map[string]any{"box": box}).Order("id").Find(&out).Error
	return out, err
}

// Account loads an account of a box.
func (t Tx) Account(box, id int64) (a Account, err error) {
	err = plain(t.db.Where("box_id = ? AND id = ?", box, id).Take(&a).Error)
	return a, err
}

// PutAccount stores an account, new or changed.
func (t Tx) PutAccount(a *Account) error { return put(t, a, a.ID) }

// NoteSync stores how the mailbox of an account stands.
func (t Tx) NoteSync(id int64, at when.Instant, trouble string) error {
	set := map[string]any{"trouble": trouble}
	if trouble == "" {
		set["synced"] = at
	}
	return t.db.Model(&Account{}).Where("id = ?", id).Updates(set).Error
}

// NoteProgress stores how far the first sync of an account has come.
func (t Tx) NoteProgress(id int64, expected, brought int) error {
	return t.db.Model(&Account{}).Where("id = ?", id).Updates(map[string]any{"expected": expected, "brought": brought}).Error
}

// DropAccount forgets an account and where its messages lie. The messages stay.
func (t Tx) DropAccount(id int64) error {
	for _, q := range []string{
		"DELETE FROM copies WHERE folder_id IN (SELECT id FROM folders WHERE account_id = ?)",
		"DELETE FROM awaiteds WHERE folder_id IN (SELECT id FROM folders WHERE account_id = ?)",
		"DELETE FROM happenings WHERE account_id = ?",
		"DELETE FROM vanishings WHERE account_id = ?",
		"DELETE FROM folders WHERE account_id = ?",
		"DELETE FROM draft_copies WHERE account_id = ?",
		"DELETE FROM accounts WHERE id = ?",
		"DELETE FROM errands WHERE NOT EXISTS (SELECT 1 FROM accounts a WHERE a.box_id = errands.box_id AND a.id <> ?)",
	} {
		if err := t.db.Exec(q, id).Error; err != nil {
			return err
		}
	}
	return nil
}

// Folders gives the folders of an account that are on its server.
func (t Tx) Folders(account int64) (out []Folder, err error) {
	err = t.db.Where("account_id = ? AND NOT gone", account).Order("id").Find(&out).Error
	return out, err
}

// PutFolder stores a folder, new or changed.
func (t Tx) PutFolder(f *Folder) error { return put(t, f, f.ID) }

// FolderNamed finds a folder of an account, be it on the server or not.
func (t Tx) FolderNamed(account int64, name string) (f Folder, err error) {
	err = plain(t.db.Where("account_id = ? AND name = ?", account, name).Take(&f).Error)
	return f, err
}

// PutCopies notes where messages lie.
func (t Tx) PutCopies(rows []Copy) error {
	return create(t, rows, 150, clause.OnConflict{UpdateAll: true})
}

// CopyUIDs gives the UIDs of a folder under which messages lie there, in order.
func (t Tx) CopyUIDs(folder int64) (out []int64, err error) {
	err = t.db.Model(&Copy{}).Where("folder_id = ?", folder).Order("uid").Pluck("uid", &out).Error
	return out, err
}

// CountCopies is how many messages are known to lie in a folder.
func (t Tx) CountCopies(folder int64) (n int64, err error) {
	err = t.db.Model(&Copy{}).Where("folder_id = ? AND uid > 0", folder).Count(&n).Error
	return n, err
}

// Renumber marks all places in a folder as ones of before the server numbered
// its messages anew.
func (t Tx) Renumber(folder int64) error {
	return t.db.Exec("UPDATE OR REPLACE copies SET uid = -uid WHERE folder_id = ? AND uid > 0", folder).Error
}

// CopiesAt gives what lies under some UIDs of a folder.
func (t Tx) CopiesAt(folder int64, uids []int64) (out []Copy, err error) {
	for chunk := range slices.Chunk(uids, atOnce) {
		var rows []Copy
		if err := t.db.Where("folder_id = ? AND uid IN ?", folder, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		out = append(out, rows...)
	}
	return out, nil
}

// CopiesOf gives where some messages lie, anywhere.
func (t Tx) CopiesOf(messages []int64) (out []Copy, err error) {
	for chunk := range slices.Chunk(messages, atOnce) {
		var rows []Copy
		if err := t.db.Where("message_id IN ?", chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		out = append(out, rows...)
	}
	return out, nil
}

// DropCopies forgets places in a folder.
func (t Tx) DropCopies(folder int64, uids []int64) error {
	for chunk := range slices.Chunk(uids, atOnce) {
		if err := t.db.Where("folder_id = ? AND uid IN ?", folder, chunk).Delete(&Copy{}).Error; err != nil {
			return err
		}
	}
	return nil
}

// ConversationCopies gives where the messages of conversations lie, for each
// from its oldest message to its newest.
func (t Tx) ConversationCopies(box int64, conversations []int64) (map[int64][]inbox.Copy, error) {
	out := map[int64][]inbox.Copy{}
	for chunk := range slices.Chunk(conversations, atOnce) {
		var rows []struct {
			ConversationID, Account, Folder, UID, Message int64
			Role                                          mail.Role
			Own, Seen, Star                               bool
		}
		err := t.db.Raw(`SELECT m.conversation_id, f.account_id account, f.id folder, k.uid, m.id message, f.role, m.own, k.seen, k.star
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

// Await notes that a message was put into a folder under an unknown UID.
func (t Tx) Await(folder, message int64) error {
	return t.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&Awaited{folder, message}).Error
}

// Awaited says which of the messages were awaited in a folder, and awaits them
// no more.
func (t Tx) Awaited(folder int64, messages []int64) (map[int64]bool, error) {
	out := map[int64]bool{}
	raw, err := json.Marshal(append([]int64{}, messages...))
	if err != nil {
		return nil, err
	}
	var found []int64
	err = t.db.Raw("DELETE FROM awaiteds WHERE folder_id = ? AND message_id IN (SELECT value FROM json_each(?)) RETURNING message_id", folder, string(raw)).Scan(&found).Error
	for _, id := range found {
		out[id] = true
	}
	return out, err
}

// Happen notes what was seen on a server.
func (t Tx) Happen(rows []Happening) error { return create(t, rows, 200) }

// Happenings gives what conversations have still to follow, in the order in
// which it was seen.
func (t Tx) Happenings(account int64) (out []Happening, err error) {
	err = t.db.Where("account_id = ?", account).Order("id").Find(&out).Error
	return out, err
}

// Followed forgets such things.
func (t Tx) Followed(ids []int64) error {
	for chunk := range slices.Chunk(ids, atOnce) {
		if err := t.db.Delete(&Happening{}, chunk).Error; err != nil {
			return err
		}
	}
	return nil
}

// ConversationsOf says to which conversations messages belong.
func (t Tx) ConversationsOf(box int64, messages []int64) (map[int64]int64, error) {
	out := map[int64]int64{}
	for chunk := range slices.Chunk(messages, atOnce) {
		var rows []Message
		if err := t.db.Select("id", "conversation_id").Where("+box_id = ? AND id IN ?", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, m := range rows {
			out[m.ID] = m.ConversationID
		}
	}
	return out, nil
}

// Errands gives up to n conversations of a box about which the server of an
// account may have to hear of a decision by now, and those that lie on no
// server at all: those after the one given, in order.
func (t Tx) Errands(box, account int64, now when.Instant, after Errand, n int) (out []Errand, err error) {
	const lies = "SELECT 1 FROM messages m JOIN copies k ON k.message_id = m.id JOIN folders f ON f.id = k.folder_id WHERE m.conversation_id = errands.conversation_id"
	err = t.db.Where("box_id = ? AND at <= ? AND (at, conversation_id) > (?, ?) AND (EXISTS ("+lies+" AND f.account_id = ?) OR NOT EXISTS ("+lies+"))", box, now, after.At, after.ConversationID, account).
		Order("at, conversation_id").Limit(n).Find(&out).Error
	return out, err
}

// Left are the places that the conversation has left by decisions of which its
// servers have not heard.
func (e Errand) Left() (out []inbox.Place) {
	for _, p := range strings.Split(e.LeftPlaces, ",") {
		if p != "" {
			out = append(out, inbox.Place(p))
		}
	}
	return out
}

// AddErrands notes that the servers do not know yet what was decided about the
// conversations of these messages, as far as they are junk.
func (t Tx) AddErrands(box int64, messages []int64, now when.Instant) error {
	for chunk := range slices.Chunk(messages, atOnce) {
		err := t.db.Exec(`INSERT INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places)
			SELECT DISTINCT c.id, c.box_id, 1, 0, ?, '', 'inbox' FROM conversations c JOIN messages m ON m.conversation_id = c.id
			WHERE m.id IN ? AND c.box_id = ? AND c.place = 'junk'
			ON CONFLICT(conversation_id) DO UPDATE SET rev = rev + 1, left_places = CASE WHEN left_places = '' THEN 'inbox' ELSE left_places || ',inbox' END`, now, chunk, box).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// CarryMarks notes that the servers are to show these conversations of a box as
// they are marked here. It moves nothing.
func (t Tx) CarryMarks(box int64, conversations []int64) error {
	for chunk := range slices.Chunk(conversations, atOnce) {
		err := t.db.Exec(`INSERT INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places)
			SELECT id, box_id, 1, 0, 0, '', '' FROM conversations WHERE id IN ? AND +box_id = ? ON CONFLICT DO NOTHING`, chunk, box).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// NewestOf gives the newest message of each conversation that came from
// somebody else.
func (t Tx) NewestOf(box int64, conversations []int64) (map[int64]int64, error) {
	out := map[int64]int64{}
	for chunk := range slices.Chunk(conversations, atOnce) {
		var rows []Message
		if err := t.db.Select("id", "conversation_id").Where("+box_id = ? AND conversation_id IN ? AND NOT own", box, chunk).Order("date, id").Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, m := range rows {
			out[m.ConversationID] = m.ID
		}
	}
	return out, nil
}

// OpenErrands gives, by conversation, the decisions of which its servers have not
// heard yet.
func (t Tx) OpenErrands(box int64, conversations []int64) (map[int64]Errand, error) {
	out := map[int64]Errand{}
	for chunk := range slices.Chunk(conversations, atOnce) {
		var found []Errand
		if err := t.db.Where("box_id = ? AND conversation_id IN ?", box, chunk).Find(&found).Error; err != nil {
			return nil, err
		}
		for _, e := range found {
			out[e.ConversationID] = e
		}
	}
	return out, nil
}

// CarriedOut forgets errands, unless something more was decided meanwhile.
func (t Tx) CarriedOut(done []Errand) error {
	for _, e := range done {
		if err := t.db.Where("conversation_id = ? AND rev = ?", e.ConversationID, e.Rev).Delete(&Errand{}).Error; err != nil {
			return err
		}
	}
	return nil
}

// PostponeErrands notes that errands were not carried out, why, and when to try again.
func (t Tx) PostponeErrands(failed []Errand, at when.Instant, problem string) error {
	for _, e := range failed {
		err := t.db.Model(&Errand{}).Where("conversation_id = ? AND rev = ?", e.ConversationID, e.Rev).
			Updates(map[string]any{"attempts": e.Attempts + 1, "at": at, "problem": problem}).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// NotCarriedOut counts the decisions of a box that a server has not heard of
// for another reason than that they are new, with the last reason.
func (t Tx) NotCarriedOut(box int64) (n int, problem string, err error) {
	var row struct {
		N       int
		Problem string
	}
	err = t.db.Raw("SELECT COUNT(*) n, COALESCE(MAX(problem), '') problem FROM errands WHERE box_id = ? AND attempts > 0", box).Scan(&row).Error
	return row.N, row.Problem, err
}

// PersonByInward finds whose addresses into Ebbe have that secret part.
func (t Tx) PersonByInward(key string) (p Person, err error) {
	err = plain(t.db.Where("inward = ? AND inward <> ''", HashOf(key)).Take(&p).Error)
	return p, err
}
