package store

import (
	"crypto/sha256"
	"encoding/hex"

	"gorm.io/gorm/clause"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// Person is somebody who signs in, or what a team is in their place.
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
	Team     bool              // nobody: what holds for the box of a team is kept with it
}

// OwnAddress is an address at which a person gets mail.
type OwnAddress struct {
	PersonID int64  `gorm:"primaryKey;autoIncrement:false"`
	Address  string `gorm:"primaryKey"`
	Account  string // what the person calls it
}

// Box holds conversations; a person's own, or one shared by its members.
type Box struct {
	ID         int64
	Name       string
	KeepsNames bool  `gorm:"default:true"` // of those who leave a team, beside what they wrote
	Keeper     int64 // whose settings hold there: its person, or the row of people that is the team's; 0: nobody has set it up
}

// Member says that a person may see a box, and what they may do there.
type Member struct {
	BoxID    int64 `gorm:"primaryKey;autoIncrement:false"`
	PersonID int64 `gorm:"primaryKey;autoIncrement:false"`
	Role     together.Role
	Since    when.Instant
	Given    when.Instant // when they were last given something; 0: never
	Named    bool         // they write from the team's address by their own name
}

// People is what is asked and stored about people, their boxes and sessions.
type People Tx

// People gives everybody who can sign in.
func (t People) People() (people []Person, err error) {
	err = t.db.Where("NOT team").Order("id").Find(&people).Error
	return people, err
}

// PersonByAddress finds who signs in with that address.
func (t People) PersonByAddress(address string) (p Person, err error) {
	err = sqlite.Plain(t.db.Where("address = ? AND NOT team", address).Take(&p).Error)
	return p, err
}

// PersonByID loads a person, or what is a team's in their place.
func (t People) PersonByID(id int64) (p Person, err error) {
	err = sqlite.Plain(t.db.Where("id = ?", id).Take(&p).Error)
	return p, err
}

// PutPerson stores a person, new or changed, with their addresses; the box is the own one of
// somebody new.
func (t People) PutPerson(p *Person, box int64, addresses []OwnAddress) error {
	fresh := p.ID == 0
	if err := sqlite.Put(t.db, p, p.ID); err != nil {
		return err
	}
	for _, a := range addresses {
		a.PersonID = p.ID
		if err := t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&a).Error; err != nil {
			return err
		}
	}
	if !fresh {
		return nil
	}
	if err := t.db.Model(&Box{}).Where("id = ? AND keeper = 0", box).Update("keeper", p.ID).Error; err != nil {
		return err
	}
	return t.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&Member{BoxID: box, PersonID: p.ID, Role: together.Own}).Error
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

// OwnAddresses gives the addresses at which a box gets mail: its person's, or the team's.
func (t People) OwnAddresses(box int64) (out []OwnAddress, err error) {
	err = t.db.Where("person_id = (SELECT keeper FROM boxes WHERE id = ?)", box).Order("rowid").Find(&out).Error
	return out, err
}

// DropOwnAddress has an address not be one of the person's any more.
func (t People) DropOwnAddress(person int64, address string) error {
	return t.db.Where("person_id = ? AND address = ?", person, address).Delete(&OwnAddress{}).Error
}

// BoxOf is the box that is a person's own, or a team's.
func (t People) BoxOf(person int64) (box int64, err error) {
	var b Box
	err = sqlite.Plain(t.db.Where("keeper = ?", person).Order("id").Take(&b).Error)
	return b.ID, err
}

// Keeper is whose settings hold for a box, and whose marks its servers know: its person, or
// what is a team's in their place; 0 if nobody has set it up.
func (t People) Keeper(box int64) (keeper int64, err error) {
	var b Box
	err = t.db.Where("id = ?", box).Limit(1).Find(&b).Error
	return b.Keeper, err
}

// Keepers gives everybody whose settings hold for a box: all people, and what is in their
// place of each team.
func (t People) Keepers() (people []Person, err error) {
	err = t.db.Order("id").Find(&people).Error
	return people, err
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
