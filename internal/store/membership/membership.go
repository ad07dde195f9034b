// Package membership keeps who works in which box, and as what.
package membership

import (
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/sharing"
	"ebbe/internal/store/sqlite"
	"ebbe/internal/store/talk"
)

// Membership is what is asked and stored about it.
type Membership store.Tx

func (t Membership) db() *gorm.DB { return store.Tx(t).DB() }

// Standing is how a person stands to a box.
type Standing struct {
	BoxID   int64
	Name    string // the team's; of one's own box nothing that is shown
	Keeper  int64  // whose settings hold there
	Team    bool
	Role    together.Role
	Left    int // conversations left to decide that nobody else of the team has
	Unheard int // conversations of which there is something to hear
}

const (
	standing = "SELECT b.id box_id, p.name, b.keeper, p.team, m.role"
	stands   = " FROM members m JOIN boxes b ON b.id = m.box_id JOIN people p ON p.id = b.keeper LEFT JOIN balances l ON l.box_id = b.id WHERE m.person_id = ? AND (NOT p.team OR p.leaves = 0)"
	left     = ", COALESCE(l.left_to_decide, 0) - (SELECT COUNT(DISTINCT f.conversation_id) FROM follow_ups f JOIN conversations c ON c.id = f.conversation_id WHERE f.box_id = b.id AND f.open AND f.owner > 0 AND f.owner <> m.person_id AND c.place = 'inbox') \"left\"" +
		", (SELECT COUNT(DISTINCT k.conversation_id) FROM concerns k WHERE k.person_id = m.person_id AND k.box_id = b.id AND NOT k.heard) unheard"
)

// In is how a person stands to a box; store.ErrNotFound where they do not, be there such a
// box or not.
func (t Membership) In(person, box int64) (s Standing, err error) {
	err = t.db().Raw(standing+stands+" AND b.id = ?", person, box).Scan(&s).Error
	if err == nil && s.BoxID == 0 {
		err = store.ErrNotFound
	}
	return s, err
}

// Of gives the boxes a person works in, their own first, with what is left there.
func (t Membership) Of(person int64) (out []Standing, err error) {
	err = t.db().Raw(standing+left+stands+" ORDER BY p.team, p.name COLLATE NOCASE, b.id", person).Scan(&out).Error
	return out, err
}

// Teams gives all teams of this Ebbe, by name.
func (t Membership) Teams() (out []Standing, err error) {
	err = t.db().Raw("SELECT b.id box_id, p.name, b.keeper, p.team FROM people p JOIN boxes b ON b.keeper = p.id WHERE p.team AND p.leaves = 0 ORDER BY p.name COLLATE NOCASE, b.id").Scan(&out).Error
	return out, err
}

// Fellow is somebody who works in a team's box.
type Fellow struct {
	PersonID      int64
	Name, Address string
	Role          together.Role
	Since         when.Instant
}

// Fellows gives those who work in a team's box, by name.
func (t Membership) Fellows(box int64) (out []Fellow, err error) {
	err = t.db().Raw("SELECT m.person_id, p.name, p.address, m.role, m.since FROM members m JOIN people p ON p.id = m.person_id WHERE m.box_id = ? AND m.role <> ? ORDER BY p.name COLLATE NOCASE, p.id", box, together.Own).Scan(&out).Error
	return out, err
}

// Near is how a box and one of a member of its team stand to each other.
type Near struct {
	PersonID int64
	BoxID    int64 // the team's, around somebody's own box
	OwnBoxID int64 // the member's own, around a team's
}

// Around gives the teams' boxes around somebody's own box, and the members' own around a team's.
func (t Membership) Around(box int64) (out []Near, err error) {
	for _, q := range []string{
		"SELECT m.person_id, m.box_id FROM boxes o CROSS JOIN members m ON m.person_id = o.keeper CROSS JOIN boxes b ON b.id = m.box_id CROSS JOIN people p ON p.id = b.keeper WHERE o.id = ? AND p.team AND p.leaves = 0",
		"SELECT m.person_id, o.id own_box_id FROM boxes b CROSS JOIN people p ON p.id = b.keeper CROSS JOIN members m ON m.box_id = b.id CROSS JOIN boxes o ON o.keeper = m.person_id WHERE b.id = ? AND p.team AND p.leaves = 0",
	} {
		var rows []Near
		if err := t.db().Raw(q, box).Scan(&rows).Error; err != nil {
			return nil, err
		}
		out = append(out, rows...)
	}
	return out, nil
}

// Hand is a member with what turns look at.
type Hand struct {
	PersonID int64
	Given    when.Instant
	Minutes  int               // of what they have
	Delivery delivery.Settings `gorm:"serializer:json"` // of their own box: by it they are away
}

// Hands gives the members of a team, those who have been in it longest first.
func (t Membership) Hands(box int64) (out []Hand, err error) {
	err = t.db().Raw(`SELECT m.person_id, m.given, p.delivery, (SELECT COALESCE(SUM(f.minutes), 0) FROM follow_ups f WHERE f.box_id = m.box_id AND f.owner = m.person_id AND f.open AND f.owner > 0) minutes
		FROM members m JOIN people p ON p.id = m.person_id WHERE m.box_id = ? AND m.role <> ? ORDER BY m.since, m.person_id`, box, together.Own).Scan(&out).Error
	return out, err
}

// Give notes when members were given something, each for the last time.
func (t Membership) Give(box int64, last map[int64]when.Instant) error {
	for person, at := range last {
		if err := t.db().Model(&store.Member{}).Where("box_id = ? AND person_id = ?", box, person).Update("given", at).Error; err != nil {
			return err
		}
	}
	return nil
}

// Put makes somebody a member of a box, or changes as what.
func (t Membership) Put(m store.Member) error {
	return t.db().Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "box_id"}, {Name: "person_id"}}, DoUpdates: clause.AssignmentColumns([]string{"role"})}).Create(&m).Error
}

// Named says whether somebody writes from the address of a team by their own name.
func (t Membership) Named(box, person int64) (named bool, err error) {
	err = t.db().Raw("SELECT COALESCE((SELECT named FROM members WHERE box_id = ? AND person_id = ?), FALSE)", box, person).Row().Scan(&named)
	return named, err
}

// ByName has somebody write so from then on, or by the name of the team.
func (t Membership) ByName(box, person int64, named bool) error {
	return t.db().Model(&store.Member{}).Where("box_id = ? AND person_id = ?", box, person).Update("named", named).Error
}

// Drop has somebody be a member of a team no more. What they did stays, under their name
// where the team keeps it; what they share with it ends.
func (t Membership) Drop(box, person int64, now when.Instant) error {
	if err := t.former(box, person); err != nil {
		return err
	}
	if err := talk.Talk(t).Forget(box, person); err != nil {
		return err
	}
	if err := sharing.Sharings(t).Leave(box, person, now); err != nil {
		return err
	}
	if err := drafting.Drafts(t).ReturnDrafts(box, person); err != nil {
		return err
	}
	return t.db().Where("box_id = ? AND person_id = ?", box, person).Delete(&store.Member{}).Error
}

// Release gives back to nobody what somebody has of a team, and says how much that is.
func (t Membership) Release(box, person int64, now when.Instant) (n int, err error) {
	has, err := store.FollowUps(t).FollowUpsOwned(box, person)
	if err != nil {
		return 0, err
	}
	var free []followup.FollowUp
	for _, f := range has {
		free = append(free, f.Data.Give(0, 0, "", now))
	}
	return len(free), store.FollowUps(t).PutFollowUps(box, free)
}

// former keeps the name of a member who leaves, where the team does.
func (t Membership) former(box, person int64) error {
	return t.db().Exec("INSERT OR REPLACE INTO former_members(box_id, person_id, name) SELECT b.id, p.id, p.name FROM boxes b, people p WHERE b.id = ? AND b.keeps_names AND p.id = ?", box, person).Error
}

// KeepNames says whether a team keeps the names of those who leave it; those of whoever left
// before are forgotten with it.
func (t Membership) KeepNames(box int64, keep bool) error {
	if err := t.db().Model(&store.Box{}).Where("id = ?", box).Update("keeps_names", keep).Error; err != nil || keep {
		return err
	}
	return t.db().Exec("DELETE FROM former_members WHERE box_id = ?", box).Error
}

// KeepsNames says whether a team does.
func (t Membership) KeepsNames(box int64) (keeps bool, err error) {
	err = t.db().Model(&store.Box{}).Where("id = ?", box).Pluck("keeps_names", &keeps).Error
	return keeps, err
}

// Names gives by person what those are called who did something in a box: all of this Ebbe,
// and those who left the team and are named still.
func (t Membership) Names(box int64) (map[int64]string, error) {
	var rows []struct {
		ID   int64
		Name string
	}
	err := t.db().Raw("SELECT person_id id, name FROM former_members WHERE box_id = ? UNION ALL SELECT id, name FROM people WHERE NOT team", box).Scan(&rows).Error
	out := map[int64]string{}
	for _, r := range rows {
		out[r.ID] = r.Name
	}
	return out, err
}

// Depart is what becomes of the teams of somebody who leaves this Ebbe: they are named as the
// team wants it. Of a team that nobody else looks after, whoever has been in it longest does;
// one that has nobody else is removed as well, at that time by the clock of the machine.
func (t Membership) Depart(person int64, now when.Instant) error {
	all, err := t.Of(person)
	if err != nil {
		return err
	}
	for _, s := range all {
		if !s.Team {
			continue
		}
		if err := t.former(s.BoxID, person); err != nil {
			return err
		}
		if _, err := t.Release(s.BoxID, person, now); err != nil {
			return err
		}
		if err := drafting.Drafts(t).ReturnDrafts(s.BoxID, person); err != nil {
			return err
		}
		others, steward := []store.Member{}, false
		if err := t.db().Where("box_id = ? AND person_id <> ?", s.BoxID, person).Order("since, person_id").Find(&others).Error; err != nil {
			return err
		}
		for _, o := range others {
			steward = steward || o.Role == together.Steward
		}
		switch {
		case len(others) == 0:
			err = store.People(t).ChangePerson(s.Keeper, map[string]any{"leaves": now})
		case !steward:
			others[0].Role = together.Steward
			err = t.Put(others[0])
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// Make stores a team with a box of its own.
func (t Membership) Make(team *store.Person) (box int64, err error) {
	if box, err = store.People(t).MakeBox(""); err != nil {
		return 0, err
	}
	team.Team, team.Address = true, fmt.Sprintf("(team %d)", box) // nobody's, and no other's
	if err := sqlite.Put(t.db(), team, 0); err != nil {
		return 0, err
	}
	return box, t.db().Model(&store.Box{}).Where("id = ?", box).Update("keeper", team.ID).Error
}
