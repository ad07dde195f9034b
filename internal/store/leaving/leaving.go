// Package leaving knows which rows of the whole database are whose: what is given out to a
// person who asks for all that is theirs, and what goes when they leave, so that nothing of
// it can be found in the file afterwards.
package leaving

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// Leaving is what is asked and stored about it.
type Leaving store.Tx

func (t Leaving) db() *gorm.DB { return store.Tx(t).DB() }

// Owner is whose rows they are: a person, and a box that is theirs alone.
type Owner struct{ Person, Box int64 }

// part is a table with rows of somebody's.
type part struct {
	table string
	by    string // the column that says whose a row is
	of    string // what that column names: a box, a person, or the key of rows of the table of this name
	key   string // another column, by which the rows of one owner are told apart
	// out says what is given out of it: all, all but some columns, or nothing, as it is
	// made of the rest, or stands in the files of mail.
	out out
}

type out struct {
	nothing bool
	without []string
}

var (
	all     = out{}
	nothing = out{nothing: true}
)

func without(columns ...string) out { return out{without: columns} }

const (
	box    = "a box"
	person = "a person"
)

// parts are all tables that hold anything of anybody's, in the order in which they are
// removed. Whatever falls to triggers (the indexes, files, facts) is not named.
var parts = []part{
	{"sessions", "person_id", person, "token_hash", without("token_hash", "csrf")},
	{"known_browsers", "person_id", person, "token_hash", without("token_hash")},
	{"recovery_codes", "person_id", person, "code_hash", nothing},
	{"passkeys", "person_id", person, "id", without("credential")},
	{"invitations", "made_by", person, "token_hash", without("token_hash")},
	{"requests", "person_id", person, "key", nothing},

	{"messages", "box_id", box, "id", without("hash")},
	{"copies", "message_id", "messages", "folder_id", all},
	{"unweighed", "message_id", "messages", "message_id", nothing},
	{"unread_files", "message_id", "messages", "message_id", nothing},
	{"weighed", "message_id", "messages", "message_id", all},
	{"junk_tests", "message_id", "messages", "message_id", without("signs")},

	{"carried", "box_id", box, "message_id", nothing},
	{"carried", "to_box_id", box, "message_id", nothing},
	{"sharings", "box_id", box, "id", all},
	{"sharings", "team_box_id", box, "id", all},
	{"comments", "box_id", box, "id", all},
	{"comment_files", "box_id", box, "id", all},
	{"followers", "box_id", box, "conversation_id", all},
	{"concerns", "box_id", box, "id", nothing},
	{"followers", "person_id", person, "conversation_id", all},
	{"concerns", "person_id", person, "id", nothing},
	{"letters", "person_id", person, "person_id", nothing},
	{"conversations", "box_id", box, "id", all},
	{"conversation_labels", "conversation_id", "conversations", "label_id", all},
	{"touches", "conversation_id", "conversations", "entry_id", all},
	{"unlearned", "conversation_id", "conversations", "conversation_id", nothing},
	{"unbegun", "conversation_id", "conversations", "conversation_id", nothing},
	{"refs", "box_id", box, "message_id", nothing},
	{"errands", "box_id", box, "conversation_id", all},

	{"things", "box_id", box, "id", all},
	{"follow_ups", "box_id", box, "uid", all},
	{"follow_up_labels", "box_id", box, "label_id", all},
	{"follow_ups_gone", "box_id", box, "uid", nothing},
	{"events", "box_id", box, "uid", all},
	{"open_between", "box_id", box, "address", nothing},
	{"postponeds", "box_id", box, "id", all},
	{"labels", "box_id", box, "id", all},
	{"rules", "box_id", box, "id", all},
	{"rule_runs", "rule_id", "rules", "id", all},
	{"offers", "box_id", box, "id", all},
	{"left_lists", "box_id", box, "list", all},
	{"correspondents", "box_id", box, "address", all},
	{"tallies", "box_id", box, "feature", all},
	{"weighed", "box_id", box, "message_id", nothing},
	{"junk_signs", "box_id", box, "sign", nothing},
	{"junk_tests", "box_id", box, "message_id", nothing},

	{"numbers", "box_id", box, "number", all},
	{"remarks", "box_id", box, "address", all},
	{"outgoings", "box_id", box, "id", all},
	{"outgoing_bytes", "outgoing_id", "outgoings", "outgoing_id", all},
	{"drafts", "person_id", person, "id", all},
	{"draft_files", "draft_id", "drafts", "id", all},
	{"draft_copies", "draft_id", "drafts", "message_id", nothing},
	{"templates", "person_id", person, "id", all},

	{"entries", "box_id", box, "id", all},
	{"sittings", "person_id", person, "id", all},
	{"readings", "person_id", person, "id", all},
	{"searches", "person_id", person, "asked", all},
	{"saved_lists", "person_id", person, "id", all},
	{"sites", "person_id", person, "id", all},
	{"notices", "person_id", person, "id", all},
	{"unaskeds", "person_id", person, "message_id", all},
	{"marks", "person_id", person, "conversation_id", all},

	{"accounts", "box_id", box, "id", without("secret", "hook")},
	{"folders", "account_id", "accounts", "id", all},
	{"copies", "folder_id", "folders", "uid", nothing},
	{"awaiteds", "folder_id", "folders", "message_id", nothing},
	{"happenings", "account_id", "accounts", "id", nothing},
	{"vanishings", "account_id", "accounts", "message_id", nothing},
	{"draft_copies", "account_id", "accounts", "message_id", nothing},

	{"documents", "box_id", box, "id", nothing},
	{"message_blocks", "box_id", box, "block", nothing},
	{"members", "box_id", box, "person_id", all},
	{"former_members", "box_id", box, "person_id", all},
	{"facts", "box_id", box, "id", all},
	{"stale_documents", "box_id", box, "uid", nothing},
	{"own_addresses", "person_id", person, "address", all},
}

// last are the rows that go when all else has gone: the person and the box themselves.
var last = []part{
	{"balances", "box_id", box, "left_to_decide", nothing},
	{"hour_tallies", "box_id", box, "wall", nothing},
	{"day_tallies", "box_id", box, "day", nothing},
	{"month_tallies", "box_id", box, "month", nothing},
	{"evenings", "box_id", box, "day", nothing},
	{"aways", "box_id", box, "id", nothing},
	{"refused", "box_id", box, "at", nothing},
	{"digs", "box_id", box, "begun", nothing},
	{"refused", "person_id", person, "at", nothing},
	{"answers", "box_id", box, "asked", nothing},
	{"answer_revisions", "box_id", box, "rev", nothing},
	{"openings", "box_id", box, "at", nothing},
	{"stale_answers", "box_id", box, "conversation_id", nothing},
	{"revisions", "box_id", box, "rev", nothing},
	{"members", "person_id", person, "box_id", nothing},
	{"boxes", "id", box, "name", all},
	{"people", "id", person, "name", without("password", "codes", "code_used", "feed", "inward", "tell")},
}

func (o Owner) of(p part) (int64, bool) {
	switch p.of {
	case box:
		return o.Box, true
	case person:
		return o.Person, true
	}
	return 0, false
}

// whose is the condition by which rows of a part are found of all rows of their owner's, with
// one place for the number of the owner.
func whose(p part) (condition string, root part) {
	if p.of == box || p.of == person {
		return p.by + " = ?", p
	}
	i := slices.IndexFunc(parts, func(o part) bool { return o.table == p.of })
	condition, root = whose(parts[i])
	return fmt.Sprintf("%s IN (SELECT %s FROM %s WHERE %s)", p.by, parts[i].key, p.of, condition), root
}

// Given are the tables of which anything is given out.
func Given() (tables []string) {
	for _, p := range slices.Concat(parts, last) {
		if !p.out.nothing {
			tables = append(tables, p.table)
		}
	}
	return tables
}

// Rows gives each row of a table that is given out to its owner, as columns by their names.
// What was packed is given as what it is; bytes that are no text are given as encoding/json
// gives them.
func (t Leaving) Rows(o Owner, table string, each func(row map[string]any) error) error {
	for _, p := range slices.Concat(parts, last) {
		if p.table == table && !p.out.nothing {
			condition, root := whose(p)
			owner, _ := o.of(root)
			return t.rowsOf(p, condition, owner, each)
		}
	}
	return store.ErrNotFound
}

func (t Leaving) rowsOf(p part, condition string, owner int64, each func(row map[string]any) error) error {
	rows, err := t.db().Raw("SELECT theirs.* FROM "+p.table+" theirs WHERE "+condition, owner).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return err
	}
	values, places := make([]any, len(columns)), make([]any, len(columns))
	for i := range values {
		places[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(places...); err != nil {
			return err
		}
		row := make(map[string]any, len(columns))
		for i, c := range columns {
			row[c] = Plain(values[i])
		}
		for _, c := range p.out.without {
			delete(row, c)
		}
		if err := each(row); err != nil {
			return err
		}
	}
	return rows.Err()
}

// Plain gives a value of the database as it was meant: unpacked, JSON as JSON.
func Plain(v any) any {
	raw, ok := v.([]byte)
	if text, is := v.(string); is {
		raw, ok = []byte(text), true
	}
	if !ok {
		return v
	}
	if bytes.HasPrefix(raw, []byte{0x1f, 0x8b}) { // RFC 1952, section 2.3.1
		if z, err := gzip.NewReader(bytes.NewReader(raw)); err == nil {
			if unpacked, err := io.ReadAll(z); err == nil {
				raw = unpacked
			}
		}
	}
	if len(raw) > 0 && strings.ContainsRune(`{["`, rune(raw[0])) && json.Valid(raw) {
		return json.RawMessage(raw)
	}
	if utf8.Valid(raw) {
		return string(raw)
	}
	return raw
}

// Begin shuts the door behind whoever leaves: from here on nobody signs in as them, their
// accounts are used no more, nothing goes out, and nothing comes up.
func (t Leaving) Begin(o Owner) error {
	store.Tx(t).Durably()
	return t.each(o, []string{
		"UPDATE people SET paused = TRUE, admin = FALSE, password = '', codes = NULL, feed = '', inward = '', tell = '' WHERE id = @person",
		"DELETE FROM sessions WHERE person_id = @person",
		"UPDATE accounts SET paused = TRUE, secret = x'' WHERE box_id = @box",
		"DELETE FROM outgoing_bytes WHERE outgoing_id IN (SELECT id FROM outgoings WHERE box_id = @box AND state NOT IN ('sent', 'withdrawn'))",
		"DELETE FROM outgoings WHERE box_id = @box AND state NOT IN ('sent', 'withdrawn')",
		"DELETE FROM errands WHERE box_id = @box",
		"UPDATE drafts SET person_id = @person WHERE box_id = @box", // what the members of a team were writing goes with its box
		"DELETE FROM things WHERE box_id = @box",
	})
}

func (t Leaving) each(o Owner, statements []string) error {
	for _, q := range statements {
		if err := t.db().Exec(q, map[string]any{"person": o.Person, "box": o.Box}).Error; err != nil {
			return err
		}
	}
	return nil
}

// atOnce is how many rows go in one step, so that others who write do not wait.
const atOnce = 200

// Step removes some of what is left of whoever leaves, children first, and overwrites it;
// more says that there is more to do.
func (t Leaving) Step(o Owner) (more bool, err error) {
	if err := t.overwrite(); err != nil {
		return false, err
	}
	for _, p := range parts {
		owner, root := o.of(p)
		if !root {
			continue
		}
		var keys string
		if err := t.db().Raw("SELECT json_group_array("+p.key+") FROM (SELECT "+p.key+" FROM "+p.table+" WHERE "+p.by+" = ? LIMIT ?)", owner, atOnce).Scan(&keys).Error; err != nil {
			return false, err
		}
		if keys == "[]" {
			continue
		}
		if p.table == "messages" {
			if err := mailboxes.DropOriginals(store.Tx(t), keys); err != nil {
				return false, err
			}
		}
		if err := t.dropUnder(p, listed, keys); err != nil {
			return false, err
		}
		by := p.by
		if p.alone() {
			by = "+" + by // so that it is found by its key
		}
		return true, t.db().Exec("DELETE FROM "+p.table+" WHERE "+by+" = ? AND "+p.key+" IN "+listed, owner, keys).Error
	}
	for _, p := range last {
		owner, _ := o.of(p)
		if err := t.db().Exec("DELETE FROM "+p.table+" WHERE "+p.by+" = ?", owner).Error; err != nil {
			return false, err
		}
	}
	return false, nil
}

// listed are the keys in a list in JSON.
const listed = "(SELECT value FROM json_each(?))"

// alone says that a key is that of one row, whoever's it is.
func (p part) alone() bool { return p.key == "id" || p.table == "weighed" || p.table == "junk_tests" }

// dropUnder removes what belongs to the rows of a part with some keys, the innermost first.
func (t Leaving) dropUnder(p part, keys string, list string) error {
	for _, c := range parts {
		if c.of != p.table {
			continue
		}
		if err := t.dropUnder(c, fmt.Sprintf("(SELECT %s FROM %s WHERE %s IN %s)", c.key, c.table, c.by, keys), list); err != nil {
			return err
		}
		if err := t.db().Exec("DELETE FROM "+c.table+" WHERE "+c.by+" IN "+keys, list).Error; err != nil {
			return err
		}
	}
	return nil
}

// overwrite has what is deleted from here on be overwritten with zeroes wherever it lies, until
// the program ends.
func (t Leaving) overwrite() error {
	var now int
	return t.db().Raw("PRAGMA secure_delete = ON").Row().Scan(&now)
}

// Indexes are those of words, in which what was deleted stands until they are merged.
var Indexes = []string{"words", "starts", "document_words", "document_starts", "people_words"}

const mergedAtOnce = 64 // pages

// Merge goes on writing an index of words anew without what was deleted; first begins it.
// more says that there is more to do.
func (t Leaving) Merge(index string, first bool) (more bool, err error) {
	if err := t.overwrite(); err != nil {
		return false, err
	}
	pages := mergedAtOnce
	if first {
		pages = -pages // of all of it, to begin with (FTS5, section 6.7)
	}
	var before, after int64
	if err := t.db().Raw("SELECT total_changes()").Scan(&before).Error; err != nil {
		return false, err
	}
	if err := t.db().Exec(fmt.Sprintf("INSERT INTO %[1]s(%[1]s, rank) VALUES ('merge', ?)", index), pages).Error; err != nil {
		return false, err
	}
	err = t.db().Raw("SELECT total_changes()").Scan(&after).Error
	return after-before >= 2, err // the statement itself is one
}

// Due gives who leaves by now, in the order in which they do, and when the next one will; 0:
// nobody.
func (t Leaving) Due(now when.Instant) (due []Owner, next when.Instant, err error) {
	var rows []struct {
		ID     int64
		Leaves when.Instant
	}
	if err := t.db().Raw("SELECT id, leaves FROM people WHERE leaves > 0 ORDER BY leaves, id").Scan(&rows).Error; err != nil {
		return nil, 0, err
	}
	for _, r := range rows {
		if r.Leaves > now {
			return due, r.Leaves, nil
		}
		b, err := store.People(t).BoxOf(r.ID)
		if err != nil {
			return nil, 0, err
		}
		due = append(due, Owner{r.ID, b})
	}
	return due, 0, nil
}

// Backup is a copy of everything that was written to a file.
type Backup struct {
	Path string `gorm:"primaryKey"`
	At   when.Instant
}

// mostBackups is how many of the last are known.
const mostBackups = 200

// NoteBackup notes that a copy was written.
func (t Leaving) NoteBackup(b Backup) error {
	if err := t.db().Exec("INSERT INTO backups(path, at) VALUES (?, ?) ON CONFLICT DO UPDATE SET at = excluded.at", b.Path, b.At).Error; err != nil {
		return err
	}
	return t.db().Exec("DELETE FROM backups WHERE path NOT IN (SELECT path FROM backups ORDER BY at DESC, path LIMIT ?)", mostBackups).Error
}

// Backups gives the copies that were written since, the newest first.
func (t Leaving) Backups(since when.Instant) (out []Backup, err error) {
	err = t.db().Where("at >= ?", since).Order("at DESC, path").Find(&out).Error
	return out, err
}

// Letter is a message as it goes into a file of mail.
type Letter struct {
	ID   int64
	From string
	Date when.Instant
}

// After is where a walk over conversations stands.
type After struct {
	Since when.Instant
	ID    int64
}

// Letters gives the messages of the next conversations of a box in a place, the oldest
// first; more says that there may be others, after next.
func (t Leaving) Letters(box int64, place inbox.Place, after After) (out []Letter, next After, more bool, err error) {
	var walked []After
	err = t.db().Raw("SELECT since, id FROM conversations WHERE box_id = ? AND place = ? AND (since, id) > (?, ?) ORDER BY since, id LIMIT ?", box, place, after.Since, after.ID, atOnce).Scan(&walked).Error
	if err != nil || len(walked) == 0 {
		return nil, after, false, err
	}
	ids := make([]int64, len(walked))
	for i, w := range walked {
		ids[i] = w.ID
	}
	err = t.db().Raw("SELECT id, from_addr \"from\", date FROM messages WHERE conversation_id IN ? ORDER BY conversation_id, date, id", ids).Scan(&out).Error
	return out, walked[len(walked)-1], true, err
}

// Tables are those that hold anything of anybody's.
func Tables() []string {
	names := map[string]bool{"originals": true}
	for _, p := range slices.Concat(parts, last) {
		names[p.table] = true
	}
	return slices.Sorted(maps.Keys(names))
}
