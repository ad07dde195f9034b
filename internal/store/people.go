package store

import (
	"crypto/sha256"
	"encoding/hex"

	"gorm.io/gorm/clause"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// Person is somebody who signs in.
type Person struct {
	ID       int64
	Name     string
	Address  string    // by which they sign in, lower case
	Password string    // argon2id, as its own encoded form; empty in the demo
	Week     when.Week `gorm:"serializer:json"`
	Theme    string
	Created  when.Instant
	Habits   inbox.Habits      `gorm:"serializer:json"`
	Site     int64             // the place they are at, or 0
	Delivery delivery.Settings `gorm:"serializer:json"`
	FollowUp followup.Settings `gorm:"serializer:json"`
	Feed     string            // hash of the secret part of the address of their calendar feed; empty: there is none
	Inward   string            // hash of the secret part of their addresses into Ebbe; empty: there is none
	Admin    bool              // they look after the people of this Ebbe
	Paused   bool              // they cannot sign in
	Codes    []byte            // the sealed secret of their codes by the time (RFC 6238); empty: there is none
	CodeUsed int64             // the last step of time of which a code was used
	Tell     string            // what they are told when they sign in next
	Leaves   when.Instant      // by the clock of the machine, when they leave with all that is theirs; 0: they stay
}

// OwnAddress is an address at which a person gets mail.
type OwnAddress struct {
	PersonID int64  `gorm:"primaryKey;autoIncrement:false"`
	Address  string `gorm:"primaryKey"`
	Account  string // what the person calls it
}

// Box holds conversations; a person's own, or one shared by its members.
type Box struct {
	ID   int64
	Name string
}

// Member says that a person may see a box.
type Member struct {
	BoxID    int64 `gorm:"primaryKey;autoIncrement:false"`
	PersonID int64 `gorm:"primaryKey;autoIncrement:false"`
}

// People is what is asked and stored about people, their boxes and sessions.
type People Tx

// People gives everybody who can sign in.
func (t People) People() (people []Person, err error) {
	err = t.db.Order("id").Find(&people).Error
	return people, err
}

// PersonByAddress finds who signs in with that address.
func (t People) PersonByAddress(address string) (p Person, err error) {
	err = sqlite.Plain(t.db.Where("address = ?", address).Take(&p).Error)
	return p, err
}

// PersonByID loads a person.
func (t People) PersonByID(id int64) (p Person, err error) {
	err = sqlite.Plain(t.db.Where("id = ?", id).Take(&p).Error)
	return p, err
}

// PutPerson stores a person, new or changed, with their addresses, and makes
// them a member of the box.
func (t People) PutPerson(p *Person, box int64, addresses []OwnAddress) error {
	if err := sqlite.Put(t.db, p, p.ID); err != nil {
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

// FirstBox is the box of mail that was imported before anybody was there, and of
// whoever comes first.
const FirstBox = 1

// MakeBox makes a box.
func (t People) MakeBox(name string) (box int64, err error) {
	b := Box{Name: name}
	err = t.db.Create(&b).Error
	return b.ID, err
}

// OwnAddresses gives the addresses of the members of a box.
func (t People) OwnAddresses(box int64) (out []OwnAddress, err error) {
	err = t.db.Where("person_id IN (SELECT person_id FROM members WHERE box_id = ?)", box).Order("rowid").Find(&out).Error
	return out, err
}

// DropOwnAddress has an address not be one of the person's any more.
func (t People) DropOwnAddress(person int64, address string) error {
	return t.db.Where("person_id = ? AND address = ?", person, address).Delete(&OwnAddress{}).Error
}

// BoxOf is the box a person works in.
func (t People) BoxOf(person int64) (box int64, err error) {
	var m Member
	err = sqlite.Plain(t.db.Where("person_id = ?", person).Order("box_id").Take(&m).Error)
	return m.BoxID, err
}

// MemberOf is the person whose marks a box carries; 0 if nobody has set it up.
func (t People) MemberOf(box int64) (person int64, err error) {
	var m Member
	err = t.db.Where("box_id = ?", box).Order("person_id").Limit(1).Find(&m).Error
	return m.PersonID, err
}

// ChangePerson stores columns of a person.
func (t People) ChangePerson(person int64, columns map[string]any) error {
	return t.db.Model(&Person{}).Where("id = ?", person).Updates(columns).Error
}

// HashOf is the form in which a secret is kept that the program only has to
// recognise: its SHA-256 in hex. The secrets are random and long, so nothing more
// is needed.
func HashOf(secret string) string {
	h := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(h[:])
}

// PersonByFeed finds whose calendar feed has that secret address; ErrNotFound while their
// access is paused.
func (t People) PersonByFeed(secret string) (p Person, err error) {
	if secret == "" {
		return p, ErrNotFound
	}
	err = sqlite.Plain(t.db.Where("feed = ? AND NOT paused", HashOf(secret)).Take(&p).Error)
	return p, err
}

// PersonByInward finds whose addresses into Ebbe have that secret part.
func (t People) PersonByInward(key string) (p Person, err error) {
	err = sqlite.Plain(t.db.Where("inward = ? AND inward <> ''", HashOf(key)).Take(&p).Error)
	return p, err
}

// Field is what words can mean in a field of the person's that looks that way.
func (p Person) Field(way when.Way, now when.Instant) when.Field {
	return when.Field{Way: way, Round: p.Delivery.NextRound(now, p.Week.Location()), Someday: p.Week.MonthDay(p.Habits.SomedayOn(), now)}
}
