// Package admission keeps by what people are let in: sessions, browsers that are known,
// invitations, recovery codes.
package admission

import (
	"encoding/json"

	"gorm.io/gorm"

	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Session is one signed-in browser. Only a hash of its token is kept.
type Session struct {
	TokenHash string `gorm:"primaryKey"`
	PersonID  int64
	CSRF      string
	Expires   when.Instant
	Begun     when.Instant
	Seen      when.Instant // when it was last used, to some minutes
	Browser   string       // what it called itself
	Origin    string       // the address it came from
}

// Invitation lets somebody come to this Ebbe once. Only a hash of its secret part is kept.
type Invitation struct {
	TokenHash string `gorm:"primaryKey"`
	Name      string
	Address   string
	MadeBy    int64
	Made      when.Instant
	Expires   when.Instant
}

// RecoveryCode lets a person in once. Only a hash of it is kept.
type RecoveryCode struct {
	PersonID int64  `gorm:"primaryKey;autoIncrement:false"`
	CodeHash string `gorm:"primaryKey"`
}

// KnownBrowser is a browser in which a person has signed in before. Only a hash
// of its token is kept.
type KnownBrowser struct {
	TokenHash string `gorm:"primaryKey"`
	PersonID  int64
	At        when.Instant
}

// Admission is what is asked and stored about it.
type Admission store.Tx

func (t Admission) db() *gorm.DB { return store.Tx(t).DB() }

// PutSession stores a session.
func (t Admission) PutSession(s Session) error { return t.db().Create(&s).Error }

// SignedIn is what every request has to know of who asks.
type SignedIn struct {
	PersonID int64
	BoxID    int64     // their own
	Week     when.Week `gorm:"serializer:json"`
	CSRF     string
	Admin    bool
	Seen     when.Instant
}

// SignedIn finds who has begun a session that has not expired and was used since idle;
// store.ErrNotFound if nobody has, their access is paused, or they have left.
func (t Admission) SignedIn(hash string, now, idle when.Instant) (s SignedIn, err error) {
	err = t.db().Raw("SELECT s.person_id, (SELECT b.id FROM boxes b WHERE b.keeper = s.person_id) box_id, p.week, s.csrf, p.admin, s.seen FROM sessions s JOIN people p ON p.id = s.person_id WHERE s.token_hash = ? AND s.expires > ? AND s.seen > ? AND NOT p.paused AND (p.leaves = 0 OR p.leaves > ?)", hash, now, idle, now).Scan(&s).Error
	if err == nil && s.BoxID == 0 {
		err = store.ErrNotFound
	}
	return s, err
}

// DropSession ends a session.
func (t Admission) DropSession(hash string) error {
	return t.db().Where("token_hash = ?", hash).Delete(&Session{}).Error
}

// Sessions gives the sessions of a person, the last used first.
func (t Admission) Sessions(person int64) (out []Session, err error) {
	err = t.db().Where("person_id = ?", person).Order("seen DESC, token_hash").Find(&out).Error
	return out, err
}

// Wipe forgets the sessions and the invitations that have run out by now.
func (t Admission) Wipe(now when.Instant) error {
	if err := t.db().Where("expires <= ?", now).Delete(&Session{}).Error; err != nil {
		return err
	}
	return t.db().Where("expires <= ?", now).Delete(&Invitation{}).Error
}

// UseSession notes that a session was used.
func (t Admission) UseSession(hash string, at when.Instant) error {
	return t.db().Model(&Session{}).Where("token_hash = ?", hash).Update("seen", at).Error
}

// PutInvitation stores an invitation.
func (t Admission) PutInvitation(i Invitation) error { return t.db().Create(&i).Error }

// Invitation finds one that can still be used; store.ErrNotFound if it cannot.
func (t Admission) Invitation(hash string, now when.Instant) (i Invitation, err error) {
	err = sqlite.Plain(t.db().Where("token_hash = ? AND expires > ?", hash, now).Take(&i).Error)
	return i, err
}

// Invitations gives those that can still be used, the newest first.
func (t Admission) Invitations(now when.Instant) (out []Invitation, err error) {
	err = t.db().Where("expires > ?", now).Order("made DESC, token_hash").Find(&out).Error
	return out, err
}

// DropInvitation forgets an invitation; was says that there was one.
func (t Admission) DropInvitation(hash string) (was bool, err error) {
	r := t.db().Where("token_hash = ?", hash).Delete(&Invitation{})
	return r.RowsAffected > 0, r.Error
}

// PutRecoveryCodes replaces the recovery codes of a person.
func (t Admission) PutRecoveryCodes(person int64, hashes []string) error {
	if err := t.db().Where("person_id = ?", person).Delete(&RecoveryCode{}).Error; err != nil {
		return err
	}
	for _, h := range hashes {
		if err := t.db().Create(&RecoveryCode{person, h}).Error; err != nil {
			return err
		}
	}
	return nil
}

// UseRecoveryCode uses a recovery code of a person up; was says that it was one.
func (t Admission) UseRecoveryCode(person int64, hash string) (was bool, err error) {
	r := t.db().Where("person_id = ? AND code_hash = ?", person, hash).Delete(&RecoveryCode{})
	return r.RowsAffected > 0, r.Error
}

// RecoveryCodes is how many a person has left.
func (t Admission) RecoveryCodes(person int64) (n int64, err error) {
	err = t.db().Model(&RecoveryCode{}).Where("person_id = ?", person).Count(&n).Error
	return n, err
}

// KnowsBrowser says that a person has signed in before with a browser, by the
// hash of the token it was given.
func (t Admission) KnowsBrowser(person int64, hash string) (known bool, err error) {
	err = t.db().Raw("SELECT EXISTS (SELECT 1 FROM known_browsers WHERE person_id = ? AND token_hash = ?)", person, hash).Scan(&known).Error
	return known, err
}

// mostBrowsers is how many browsers of a person are known.
const mostBrowsers = 50

// KnowBrowser notes that a person has signed in with a browser; those of longest
// ago are forgotten.
func (t Admission) KnowBrowser(person int64, hash string, at when.Instant) error {
	if err := t.db().Create(&KnownBrowser{TokenHash: hash, PersonID: person, At: at}).Error; err != nil {
		return err
	}
	return t.db().Exec("DELETE FROM known_browsers WHERE person_id = ? AND token_hash NOT IN (SELECT token_hash FROM known_browsers WHERE person_id = ? ORDER BY at DESC LIMIT ?)", person, person, mostBrowsers).Error
}

// Passkey is one of a person (WebAuthn level 2): what is public of it.
type Passkey struct {
	ID         int64
	PersonID   int64
	Name       string
	Credential json.RawMessage
	Made       when.Instant
	Used       when.Instant // 0: never
}

// Passkeys gives those of a person, in the order in which they were added.
func (t Admission) Passkeys(person int64) (out []Passkey, err error) {
	err = t.db().Where("person_id = ?", person).Order("id").Find(&out).Error
	return out, err
}

// PutPasskey stores one, new or changed.
func (t Admission) PutPasskey(p *Passkey) error { return sqlite.Put(t.db(), p, p.ID) }

// DropPasskey forgets one of a person.
func (t Admission) DropPasskey(person, id int64) error {
	return t.db().Where("person_id = ? AND id = ?", person, id).Delete(&Passkey{}).Error
}
