package store

import (
	"slices"
	"strings"
	"unicode"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// Correspondent counts what has gone back and forth with one address.
type Correspondent struct {
	BoxID      int64  `gorm:"primaryKey;autoIncrement:false"`
	Address    string `gorm:"primaryKey"`
	Name       string
	Received   int // messages from them
	Sent       int // messages to them
	FirstAt    when.Instant
	LastAt     when.Instant
	AnsweredAt when.Instant // when the reader last wrote to them
}

// Correspondents is what is asked about people one writes with.
type Correspondents Tx

// Writers are the addresses that wrote or were written to in a conversation.
func (t Correspondents) Writers(conversation int64) (out []string, err error) {
	var rows []Message
	err = t.db.Select("from_addr", "to", "cc").Where("conversation_id = ?", conversation).Order("date DESC").Limit(50).Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.FromAddr)
		for _, a := range append(r.To, r.Cc...) {
			out = append(out, a.Address)
		}
	}
	return out, err
}

// WroteIn says that an address wrote in a conversation.
func (t Correspondents) WroteIn(conversation int64, address string) (wrote bool, err error) {
	err = t.db.Raw("SELECT EXISTS (SELECT 1 FROM messages WHERE conversation_id = ? AND from_addr = ?)", conversation, address).Scan(&wrote).Error
	return wrote, err
}

// Correspondent tells what has gone back and forth with an address; the zero
// value if nothing has.
func (t Correspondents) Correspondent(box int64, address string) (c Correspondent, err error) {
	err = t.db.Where("box_id = ? AND address = ?", box, address).Limit(1).Find(&c).Error
	return c, err
}

// Recent gives the people the user writes to and hears from, those of whom
// something came or went last first.
func (t Correspondents) Recent(box int64, n int) (out []mail.Address, err error) {
	err = t.db.Raw(`SELECT name, address FROM (SELECT name, address, 1 written, last_at FROM (SELECT * FROM correspondents WHERE box_id = @box AND sent > 0 ORDER BY answered_at DESC LIMIT @n) WHERE name <> ''
		UNION ALL SELECT name, address, 0, last_at FROM (SELECT * FROM correspondents WHERE box_id = @box ORDER BY last_at DESC LIMIT @n) WHERE name <> '' AND sent = 0) ORDER BY written DESC, last_at DESC LIMIT @n`, map[string]any{"box": box, "n": n}).Scan(&out).Error
	return out, err
}

// Addresses gives the names by which addresses are known in a box.
func (t Correspondents) Addresses(box int64, addresses []string) (map[string]string, error) {
	out := map[string]string{}
	for chunk := range slices.Chunk(addresses, sqlite.AtOnce) {
		var rows []Correspondent
		if err := t.db.Select("name, address").Where("box_id = ? AND address IN ?", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.Address] = r.Name
		}
	}
	return out, nil
}

// known is among how many people a beginning is completed: of those written to
// the ones written to last, of the others the ones heard of first last.
const known = 500

// Complete gives people whose names or addresses have words that begin like that, those
// written to lately and often first. Machines are left out, as nobody writes to
// them.
func (t Correspondents) Complete(box int64, begins string, now when.Instant, n int) (out []mail.Address, err error) {
	like := escapeLike(begins)
	match := `"@"`
	for i, w := range strings.FieldsFunc(begins, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) }) {
		if i == 0 {
			match = ""
		}
		match += `"` + w + `"* `
	}
	err = t.db.Raw(`SELECT name, address FROM (
			SELECT rowid FROM (SELECT rowid FROM correspondents WHERE box_id = @box AND sent > 0 AND (address LIKE @at ESCAPE '\' OR name LIKE @at ESCAPE '\' OR name LIKE @in ESCAPE '\') ORDER BY answered_at DESC LIMIT @known)
			UNION SELECT rowid FROM (SELECT rowid FROM people_words WHERE people_words MATCH @match ORDER BY rowid DESC LIMIT @known)) w
		CROSS JOIN correspondents c ON c.rowid = w.rowid AND c.box_id = @box
		WHERE sent > 0 OR NOT (address LIKE 'no-reply%' OR address LIKE 'noreply%' OR address LIKE 'notices@%' OR address LIKE 'mailer-daemon@%')
		ORDER BY (sent * 3.0 + received) / (1.0 + MAX(0, @now - MAX(answered_at, last_at / 2)) / 2592000000.0) DESC, sent DESC, address LIMIT @n`,
		map[string]any{"box": box, "at": like + "%", "in": "% " + like + "%", "now": now, "n": n, "known": known, "match": match}).Scan(&out).Error
	return out, err
}

// Sender is an address with what lies in the inbox from it.
type Sender struct {
	Address    string
	Name       string
	Count      int
	Unread     int
	Starred    int
	People     int // of them from a person, not a list or a machine
	Newest     when.Instant
	Oldest     when.Instant
	AnsweredAt when.Instant // when the reader last wrote there; 0 if never
}

// Senders gives up to n of those who have something in the inbox, most first,
// after the one with that number and address.
func (t Correspondents) Senders(box, person int64, after *Cursor, address string, n int) (out []Sender, err error) {
	inner := Search(t).Matching(box, person, search.Query{Place: inbox.Inbox}, true).
		Select(`c.from_addr address, MAX(c.from_name) name, COUNT(*) count, SUM(COALESCE(m.unread, 0)) unread, SUM(COALESCE(m.starred, 0)) starred,
			SUM(c.kind = 'person') people, MAX(c.since) newest, MIN(c.since) oldest`).Group("c.from_addr")
	db := t.db.Table("(?) s", inner).Joins("LEFT JOIN correspondents k ON k.box_id = ? AND k.address = s.address", box).
		Select("s.*, COALESCE(k.answered_at, 0) answered_at")
	if after != nil {
		db = db.Where("(-s.count, s.address) > (?, ?)", -after.ID, address)
	}
	err = db.Order("-s.count, s.address").Limit(n).Scan(&out).Error
	return out, err
}

func escapeLike(s string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(s)
}
