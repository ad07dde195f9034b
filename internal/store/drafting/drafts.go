// Package drafting is what is asked and stored about what is being written: drafts,
// their files and copies, templates, and questions without an answer. All of it is a
// person's own. What is named by the ID of a draft alone is asked once the draft has
// been loaded for its person.
package drafting

import (
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Draft is the beginning of a message.
type Draft struct {
	ID             int64
	PersonID       int64
	BoxID          int64 // of which mail it is
	ConversationID int64 // what it is about, or 0
	Mode           writing.Mode
	MessageID      int64          // the message it answers or passes on, or 0
	AccountID      int64          // from which it will go; 0: the first
	To             []mail.Address `gorm:"serializer:json"`
	Cc             []mail.Address `gorm:"serializer:json"`
	Bcc            []mail.Address `gorm:"serializer:json"`
	Subject        string
	Text           string
	Rich           bool // the text is Markdown
	Bare           bool // without what it answers below
	Receipt        bool // ask to be told when it was read
	Named          bool // it goes from the address of a team by the name of whoever writes it
	Begun          when.Instant
	Changed        when.Instant
	OutgoingID     int64          // the message made of it that can still be taken back; it shows nowhere then
	Version        int64          // counts its changes
	Writer         string         // the window that changed it last, or none
	Turn           int64          // which of that window's changes it was
	Trail          together.Trail `gorm:"serializer:json"` // through whose hands of a team it has gone
	BegunBy        int64          // who began it; 0: whoever has it
}

// DraftFile is a file that goes with a draft.
type DraftFile struct {
	ID      int64
	DraftID int64
	Name    string
	Type    string
	Size    int
	Passed  bool // it belongs to the message that is passed on
	Content []byte
}

// DraftCopy says that a copy of a draft lies in the folder of drafts of an
// account, under that Message-ID. It outlives the draft until it is taken away
// there.
type DraftCopy struct {
	AccountID int64  `gorm:"primaryKey;autoIncrement:false"`
	MessageID string `gorm:"primaryKey"`
	DraftID   int64
}

// Drafts is what is asked and stored about drafts, templates and questions without an answer.
type Drafts store.Tx

func (t Drafts) db() *gorm.DB { return store.Tx(t).DB() }

// Draft gives the beginning of an answer in a conversation that was worked on
// last, the zero value if there is none.
func (t Drafts) Draft(person, conversation int64) (d Draft, err error) {
	err = t.db().Where("person_id = ? AND conversation_id = ? AND outgoing_id = 0", person, conversation).Order("changed DESC").Limit(1).Find(&d).Error
	return d, err
}

// DraftByID loads a draft of a person that has not been sent.
func (t Drafts) DraftByID(box, person, id int64) (d Draft, err error) {
	err = sqlite.Plain(t.db().Where("person_id = ? AND box_id = ? AND id = ? AND outgoing_id = 0", person, box, id).Take(&d).Error)
	return d, err
}

// DraftBy loads the draft of a person that was last changed in that window and has
// not been sent.
func (t Drafts) DraftBy(box, person int64, writer string) (d Draft, err error) {
	err = sqlite.Plain(t.db().Where("person_id = ? AND box_id = ? AND writer = ? AND outgoing_id = 0", person, box, writer).Take(&d).Error)
	return d, err
}

// DraftBegunBy loads a draft that a person began, and that is with another of the team.
func (t Drafts) DraftBegunBy(box, person, id int64) (d Draft, err error) {
	err = sqlite.Plain(t.db().Where("begun_by = ? AND +box_id = ? AND id = ? AND +person_id <> ? AND outgoing_id = 0", person, box, id, person).Take(&d).Error)
	return d, err
}

// DraftsBegunBy gives those, the ones worked on last first.
func (t Drafts) DraftsBegunBy(box, person int64, n int) (out []Draft, err error) {
	err = t.db().Where("begun_by = ? AND +box_id = ? AND +person_id <> ? AND outgoing_id = 0", person, box, person).Order("changed DESC, id DESC").Limit(n).Find(&out).Error
	return out, err
}

// ReturnDrafts has the drafts that somebody was given go back to those of the team who began them.
func (t Drafts) ReturnDrafts(box, person int64) error {
	return t.db().Exec("UPDATE drafts SET person_id = begun_by, writer = '', turn = 0, version = version + 1 WHERE person_id = ? AND +box_id = ? AND outgoing_id = 0 AND begun_by > 0 AND begun_by <> ? AND begun_by IN (SELECT m.person_id FROM members m WHERE m.box_id = ?)",
		person, box, person, box).Error
}

// DraftsOf gives the drafts of a person, those worked on last first.
func (t Drafts) DraftsOf(box, person int64, n int) (out []Draft, err error) {
	err = t.db().Where("person_id = ? AND box_id = ? AND outgoing_id = 0", person, box).Order("changed DESC, id DESC").Limit(n).Find(&out).Error
	return out, err
}

// Drafts says in which of the conversations an answer was begun.
func (t Drafts) Drafts(person int64, conversations []int64) (map[int64]bool, error) {
	out := map[int64]bool{}
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		var found []int64
		if err := t.db().Model(&Draft{}).Where("person_id = ? AND outgoing_id = 0 AND text <> '' AND conversation_id IN ?", person, chunk).Pluck("conversation_id", &found).Error; err != nil {
			return nil, err
		}
		for _, id := range found {
			out[id] = true
		}
	}
	return out, nil
}

// PutDraft stores a draft, new or changed.
func (t Drafts) PutDraft(d *Draft) error { return sqlite.Put(t.db(), d, d.ID) }

// DropDraft deletes a draft with its files.
func (t Drafts) DropDraft(id int64) error {
	if err := t.db().Where("draft_id = ?", id).Delete(&DraftFile{}).Error; err != nil {
		return err
	}
	return t.db().Delete(&Draft{}, id).Error
}

// SetDraftSent notes that a message was made of a draft, or with 0 that it is a
// draft again.
func (t Drafts) SetDraftSent(id, outgoing int64) error {
	return t.db().Model(&Draft{}).Where("id = ?", id).Update("outgoing_id", outgoing).Error
}

// DraftFiles gives the files of a draft, in the order in which they were added,
// without what is in them.
func (t Drafts) DraftFiles(draft int64) (out []DraftFile, err error) {
	err = t.db().Omit("Content").Where("draft_id = ?", draft).Order("id").Find(&out).Error
	return out, err
}

// DraftFilesWhole gives the same with what is in them.
func (t Drafts) DraftFilesWhole(draft int64) (out []DraftFile, err error) {
	err = t.db().Where("draft_id = ?", draft).Order("id").Find(&out).Error
	return out, err
}

// AddDraftFile stores a file of a draft.
func (t Drafts) AddDraftFile(f *DraftFile) error { return t.db().Create(f).Error }

// CopyDraftFiles puts the files of one draft to another, too.
func (t Drafts) CopyDraftFiles(from, to int64) error {
	return t.db().Exec("INSERT INTO draft_files (draft_id, name, type, size, passed, content) SELECT ?, name, type, size, passed, content FROM draft_files WHERE draft_id = ? ORDER BY id", to, from).Error
}

// DropDraftFile takes a file away from a draft.
func (t Drafts) DropDraftFile(draft, id int64) error {
	return t.db().Where("draft_id = ? AND id = ?", draft, id).Delete(&DraftFile{}).Error
}

// DraftCopies gives the copies of drafts that lie on the server of an account.
func (t Drafts) DraftCopies(account int64) (out []DraftCopy, err error) {
	err = t.db().Where("account_id = ?", account).Find(&out).Error
	return out, err
}

// DraftsFrom gives the drafts of a person that go from an account and in which
// something is written.
func (t Drafts) DraftsFrom(person, account int64) (out []Draft, err error) {
	err = t.db().Where("person_id = ? AND account_id = ? AND outgoing_id = 0 AND text <> ''", person, account).Order("id").Find(&out).Error
	return out, err
}

// PutDraftCopy notes that a copy of a draft lies on a server.
func (t Drafts) PutDraftCopy(k DraftCopy) error {
	return t.db().Clauses(clause.OnConflict{DoNothing: true}).Create(&k).Error
}

// DropDraftCopy notes that a copy of a draft was taken away.
func (t Drafts) DropDraftCopy(k DraftCopy) error { return t.db().Delete(&k).Error }
