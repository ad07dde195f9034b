// Package phoning keeps what is known of telephone numbers: whose they are, and who wants no texts
// any more.
package phoning

import (
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Numbers is what is asked and stored about them, each of one box.
type Numbers store.Tx

func (t Numbers) db() *gorm.DB { return store.Tx(t).DB() }

// Number is what is known of one in a box.
type Number struct {
	BoxID    int64          `gorm:"primaryKey;autoIncrement:false"`
	Number   texting.Number `gorm:"primaryKey"`
	Name     string         // whose it is
	Address  string         // their mail address, in lower case; empty: not known
	Stopped  when.Instant   // since when they want no texts; 0: they do not mind
	Answered when.Instant   // when a line has last answered them by itself
}

// Of is what is known of a number; the zero value but for its name if nothing is.
func (t Numbers) Of(box int64, number texting.Number) (n Number, err error) {
	err = t.db().Where("box_id = ? AND number = ?", box, number).Limit(1).Find(&n).Error
	n.BoxID, n.Number = box, number
	return n, err
}

// Among gives what is known of these numbers.
func (t Numbers) Among(box int64, numbers []texting.Number) (map[texting.Number]Number, error) {
	var rows []Number
	err := t.db().Where("box_id = ? AND number IN ?", box, numbers).Find(&rows).Error
	out := map[texting.Number]Number{}
	for _, n := range rows {
		out[n.Number] = n
	}
	return out, err
}

// With gives the numbers of whoever has that mail address.
func (t Numbers) With(box int64, address string) (out []Number, err error) {
	err = t.db().Where("box_id = ? AND address = ? AND address <> ''", box, address).Order("number").Find(&out).Error
	return out, err
}

// Named gives the numbers of which it is known whose they are, by name, up to n.
func (t Numbers) Named(box int64, n int) (out []Number, err error) {
	err = t.db().Where("box_id = ? AND name <> ''", box).Order("name COLLATE NOCASE, number").Limit(n).Find(&out).Error
	return out, err
}

// Put stores what is known of a number.
func (t Numbers) Put(n Number) error {
	return t.db().Clauses(clause.OnConflict{UpdateAll: true}).Create(&n).Error
}

// Call has a number be known by a name, with what is of it in these conversations.
func (t Numbers) Call(box int64, number texting.Number, name string, conversations []int64) error {
	given := map[string]any{"name": name, "box": box, "address": number.Address(), "in": conversations}
	for _, q := range []string{
		"UPDATE conversations SET from_name = @name WHERE id IN @in AND +box_id = @box AND from_addr = @address",
		"UPDATE messages SET from_name = @name WHERE conversation_id IN @in AND +box_id = @box AND +from_addr = @address",
		"UPDATE correspondents SET name = @name WHERE box_id = @box AND address = @address",
	} {
		if err := t.db().Exec(q, given).Error; err != nil {
			return err
		}
	}
	return nil
}

// Here says which texts with these Message-IDs are in a box already, and of each whether it is held.
func (t Numbers) Here(box int64, ids []string) (map[string]bool, error) {
	var rows []struct {
		MessageID string
		Held      bool
	}
	err := t.db().Raw("SELECT message_id, held <> '' held FROM messages WHERE box_id = ? AND message_id IN ?", box, ids).Scan(&rows).Error
	out := map[string]bool{}
	for _, r := range rows {
		out[r.MessageID] = r.Held
	}
	return out, err
}

// Along gives all addresses of whoever has that one: it itself first, then the mail address of whoever
// has the number it stands for, and those that stand for their numbers.
func (t Numbers) Along(box int64, address string) ([]string, error) {
	out := []string{address}
	add := func(a string) {
		if a != "" && !slices.Contains(out, a) {
			out = append(out, a)
		}
	}
	with := address
	if number, ok := texting.NumberOf(address); ok {
		n, err := t.Of(box, number)
		if err != nil || n.Address == "" {
			return out, err
		}
		with = n.Address
		add(with)
	}
	numbers, err := t.With(box, with)
	for _, n := range numbers {
		add(n.Number.Address())
	}
	return out, err
}
