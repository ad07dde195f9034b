// Package mailboxes is what is asked and stored about accounts: their folders on
// servers, where copies of messages lie in these, and what the servers have still to
// hear. What is limited to an account, or to nothing, follows the rule of the store;
// UIDs are those of RFC 9051, section 2.3.1.1, and hold for one UIDVALIDITY.
package mailboxes

import (
	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Account is a mailbox on a server, with the server that sends for it.
type Account struct {
	ID        int64
	BoxID     int64
	PersonID  int64
	Name      string // what the person calls it
	Address   string // lower case
	FullName  string // under which it sends
	Signature string
	Mailbox   mail.Server `gorm:"serializer:json"`
	Sending   mail.Server `gorm:"serializer:json"`
	Login     string
	Secret    []byte        // sealed with the key of the data folder
	Token     bool          // the secret is a token
	Carries   inbox.Carries `gorm:"serializer:json"`
	Paused    bool
	EmptyDays int // after how many days what Ebbe has put into its bin and junk is removed; 0: never
	Begun     when.Instant
	Synced    when.Instant // when all of it was last in step
	Trouble   string       // why it is not, in a sentence; empty if it is
	Expected  int          // messages that the first sync will bring
	Brought   int          // those it has brought

	Line *texting.Line `gorm:"serializer:json"` // it is a telephone line, and has no servers; nil: it is of mail
	Hook string        // of a line: the secret part of the address at which its gateway speaks to Ebbe
}

// Accounts is what is asked and stored about accounts.
type Accounts store.Tx

func (t Accounts) db() *gorm.DB { return store.Tx(t).DB() }

// Accounts gives the accounts of mail of a box, in the order in which they were added;
// of all boxes if box is 0.
func (t Accounts) Accounts(box int64) (out []Account, err error) {
	err = t.db().Where("(box_id = @box OR @box = 0) AND line IS NULL", map[string]any{"box": box}).Order("id").Find(&out).Error
	return out, err
}

// Lines gives the telephone lines of a box, in the order in which they were added; of all boxes if
// box is 0.
func (t Accounts) Lines(box int64) (out []Account, err error) {
	err = t.db().Where("(box_id = @box OR @box = 0) AND line IS NOT NULL", map[string]any{"box": box}).Order("id").Find(&out).Error
	return out, err
}

// ByHook is the line at whose address a gateway speaks; store.ErrNotFound if there is none.
func (t Accounts) ByHook(hook string) (a Account, err error) {
	if hook == "" {
		return a, store.ErrNotFound
	}
	err = sqlite.Plain(t.db().Where("hook = ? AND hook <> ''", hook).Take(&a).Error)
	return a, err
}

// Account loads an account of a box, of mail or a telephone line.
func (t Accounts) Account(box, id int64) (a Account, err error) {
	err = sqlite.Plain(t.db().Where("box_id = ? AND id = ?", box, id).Take(&a).Error)
	return a, err
}

// PutAccount stores an account, new or changed.
func (t Accounts) PutAccount(a *Account) error { return sqlite.Put(t.db(), a, a.ID) }

// NoteSync stores how the mailbox of an account stands.
func (t Accounts) NoteSync(id int64, at when.Instant, trouble string) error {
	set := map[string]any{"trouble": trouble}
	if trouble == "" {
		set["synced"] = at
	}
	return t.db().Model(&Account{}).Where("id = ?", id).Updates(set).Error
}

// NoteProgress stores how far the first sync of an account has come.
func (t Accounts) NoteProgress(id int64, expected, brought int) error {
	return t.db().Model(&Account{}).Where("id = ?", id).Updates(map[string]any{"expected": expected, "brought": brought}).Error
}

// DropAccount forgets an account and where its messages lie. The messages stay.
func (t Accounts) DropAccount(id int64) error {
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
		if err := t.db().Exec(q, id).Error; err != nil {
			return err
		}
	}
	return nil
}
