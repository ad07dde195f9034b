package store

import (
	"crypto/sha256"
	"encoding/hex"

	"gorm.io/gorm/clause"

	"ebbe/internal/core/when"
)

// People gives everybody who can sign in.
func (t Tx) People() (people []Person, err error) {
	err = t.db.Order("id").Find(&people).Error
	return people, err
}

// PersonByAddress finds who signs in with that address.
func (t Tx) PersonByAddress(address string) (p Person, err error) {
	err = plain(t.db.Where("address = ?", address).Take(&p).Error)
	return p, err
}

// PersonByID loads a person.
func (t Tx) PersonByID(id int64) (p Person, err error) {
	err = plain(t.db.Where("id = ?", id).Take(&p).Error)
	return p, err
}

// PutPerson stores a person, new or changed, with their addresses, and makes
// them a member of the box.
func (t Tx) PutPerson(p *Person, box int64, addresses []OwnAddress) error {
	if err := put(t, p, p.ID); err != nil {
		return err
	}
	for _, a := range addresses {
		a.PersonID = p.ID
		if err := t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&a).Error; err != nil {
			return err
		}
	}
	return t.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&Member{BoxID: box, PersonID: p.ID}).Error
}

// OwnAddresses gives the addresses of the members of a box.
func (t Tx) OwnAddresses(box int64) (out []OwnAddress, err error) {
	err = t.db.Where("person_id IN (SELECT person_id FROM members WHERE box_id = ?)", box).Order("rowid").Find(&out).Error
	return out, err
}

// BoxOf is the box a person works in.
func (t Tx) BoxOf(person int64) (box int64, err error) {
	var m Member
	err = plain(t.db.Where("person_id = ?", person).Order("box_id").Take(&m).Error)
	return m.BoxID, err
}

// MemberOf is the person whose marks a box carries; 0 if nobody has set it up.
func (t Tx) MemberOf(box int64) (person int64, err error) {
	var m Member
	err = t.db.Where("box_id = ?", box).Order("person_id").Limit(1).Find(&m).Error
	return m.PersonID, err
}

// PutSession stores a session.
func (t Tx) PutSession(s Session) error { return t.db.Create(&s).Error }

// SessionByHash finds a session that has not expired.
func (t Tx) SessionByHash(hash string, now when.Instant) (s Session, err error) {
	err = plain(t.db.Where("token_hash = ? AND expires > ?", hash, now).Take(&s).Error)
	return s, err
}

// DropSession ends a session.
func (t Tx) DropSession(hash string) error {
	return t.db.Where("token_hash = ?", hash).Delete(&Session{}).Error
}

// Meta reads a value kept about the whole database; "" if there is none.
func (t Tx) Meta(name string) (string, error) {
	var m Meta
	err := t.db.Where("name = ?", name).Limit(1).Find(&m).Error
	return m.Value, err
}

// SetMeta stores such a value.
func (t Tx) SetMeta(name, value string) error {
	return t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&Meta{Name: name, Value: value}).Error
}

// KnowsBrowser says that a person has signed in before with a browser, by the
// hash of the token it was given.
func (t Tx) KnowsBrowser(person int64, hash string) (known bool, err error) {
	err = t.db.Raw("SELECT EXISTS (SELECT 1 FROM known_browsers WHERE person_id = ? AND token_hash = ?)", person, hash).Scan(&known).Error
	return known, err
}

// mostBrowsers is how many browsers of a person are known.
const mostBrowsers = 50

// KnowBrowser notes that a person has signed in with a browser; those of longest
// ago are forgotten.
func (t Tx) KnowBrowser(person int64, hash string, at when.Instant) error {
	if err := t.db.Create(&KnownBrowser{TokenHash: hash, PersonID: person, At: at}).Error; err != nil {
		return err
	}
	return t.db.Exec("DELETE FROM known_browsers WHERE person_id = ? AND token_hash NOT IN (SELECT token_hash FROM known_browsers WHERE person_id = ? ORDER BY at DESC LIMIT ?)", person, person, mostBrowsers).Error
}

// HashOf is the form in which a secret is kept that the program only has to
// recognise: its SHA-256 in hex. The secrets are random and long, so nothing more
// is needed.
func HashOf(secret string) string {
	h := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(h[:])
}
