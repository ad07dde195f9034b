// Package plantest holds the statements that tests make the store run against
// what SQLite would do for them: none may walk over a table that grows with the
// archive, but for those that are named here, each with its reason.
package plantest

import (
	"database/sql"
	"database/sql/driver"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"

	_ "github.com/mattn/go-sqlite3" // the plans are SQLite's own

	"ebbe/internal/store"
)

// growing are the tables that grow with the archive and with the years.
var growing = []string{"messages", "originals", "conversations", "entries", "outgoings", "copies", "refs", "marks", "touches", "correspondents", "weighed", "tallies", "junk_tests", "junk_signs", "answers", "openings"}

// walks are the statements that may walk over one, each with its reason.
var walks = []struct{ like, reason string }{
	{"NOT EXISTS (SELECT 1 FROM originals", "ebbe check reads all there is"},
	{"NOT EXISTS (SELECT 1 FROM messages m WHERE m.id = ", "ebbe check reads all there is"},
	{"NOT EXISTS (SELECT 1 FROM conversations c WHERE c.id", "ebbe check reads all there is"},
	{"NOT EXISTS (SELECT 1 FROM words", "ebbe check reads all there is"},
	{"NOT EXISTS (SELECT 1 FROM folders", "ebbe check reads all there is"},
	{"FROM conversations c WHERE merged_to = 0 AND messages <>", "ebbe check reads all there is"},
	{"NOT IN (SELECT conversation_id FROM stale_answers)", "ebbe check reads all there is"},
	{"FROM conversations WHERE place NOT IN", "ebbe check reads all there is"},
	{"FROM messages WHERE held NOT IN", "ebbe check reads all there is"},
	{"FROM entries e WHERE kind = 'rule' AND NOT EXISTS", "ebbe check reads all there is"},
	{"FROM junk_tests j WHERE was NOT IN", "ebbe check reads all there is"},
	{"FROM conversations WHERE place = 'snoozed' AND merged_to = 0 AND return_at = 0", "ebbe check reads all there is"},
	{"FROM conversations c WHERE place = 'snoozed' AND return_at > 0", "ebbe check reads all there is"},
	{"FROM conversations c WHERE place IN ('bin', 'junk') AND merged_to = 0", "ebbe check reads all there is"},
	{"SELECT * FROM `weighed` WHERE box_id = ? AND weight > 0", "ebbe check reads all there is"},
	{"SELECT DISTINCT box_id FROM weighed", "ebbe check reads all there is"},
	{"SELECT * FROM `tallies` WHERE box_id = ?", "ebbe check reads all there is"},
	{"FROM weighed WHERE box_id = ? ORDER BY came DESC LIMIT ?) w", "the newest come first, and then it stops"},
	{"FROM weighed WHERE box_id = ? ORDER BY came DESC LIMIT 2000) w", "the newest come first, and then it stops"},
	{"SELECT COUNT(*) FROM outgoing_bytes", "ebbe check reads all there is"},
	{"SELECT COUNT(*) FROM outgoings o WHERE state NOT IN", "ebbe check reads all there is"},
	{"AND (c.merged_to = 0 AND c.place <> 'held') ORDER BY c.last_at DESC, c.id DESC LIMIT", "the newest first, and then it stops"},
	{"FROM conversations c WHERE title || note <> ''", "ebbe check reads all there is"},
	{"c.id NOT IN (SELECT x.conversation_id FROM messages x", "what does not say a word is nearly all there is"},
	{"SELECT k.* FROM folders f JOIN copies k", "what is in the bin and junk of one account is looked through, where that is wanted"},
	{"SELECT * FROM `messages` WHERE (box_id = ? OR ? = 0) AND id > ?", "export and check read all there is, page by page"},
	{"UPDATE messages SET own = 1, held = ''", "a new address of one's own is looked for in all mail, once"},
	{"UPDATE conversations SET traits = traits | ? WHERE box_id = ? AND id IN", "a new address of one's own is looked for in all mail, once"},
	{"c.traits & 64 = 0 OR m.files LIKE", "ebbe check reads all there is"},
	{"UPDATE conversations SET place = 'archived', since = ?", "a new address of one's own is looked for in all mail, once"},
	{"UPDATE messages SET own = 0", "an address that is not one's own after all is looked for in all mail, once"},
	{"INSERT OR REPLACE INTO correspondents", "an address that is not one's own after all is looked for in all mail, once"},
	{"UPDATE OR IGNORE marks SET person_id", "what was marked before there was anybody becomes the first person's, once"},
	{"UPDATE entries SET wall = 0", "what was done before there was anybody is counted anew, once"},
	{"UPDATE entries SET person_id", "what was done before there was anybody becomes the first person's, once"},
	{"DELETE FROM correspondents WHERE box_id = ? AND address IN", "a new address of one's own is no correspondent, once"},
	{"SELECT c.id, c.kind, c.account, c.reach", "a new address of one's own changes how mail is addressed, once, page by page"},
	{"SELECT rowid FROM people_words WHERE people_words MATCH", "the index of words gives the newest first and stops"},
	{"FROM (SELECT * FROM correspondents WHERE box_id = ? ORDER BY last_at", "it stops after as many as it needs"},
	{"SELECT json_group_array(", "whoever leaves is removed some rows at a time, and then it stops"},
	{"DELETE FROM answers WHERE box_id", "whoever leaves is removed, once"},
	{"DELETE FROM openings WHERE box_id", "whoever leaves is removed, once"},
	{"SELECT theirs.* FROM", "whoever asks for all that is theirs is given all of it"},
	{"DELETE FROM copies WHERE folder_id IN", "an account that is taken away is forgotten with all its places, once"},
}

// Recorder takes down statements.
type Recorder struct {
	mu   sync.Mutex
	seen map[string]string // each shape of a statement, with the first such
}

var lists = regexp.MustCompile(`\((\?,? ?)+\)(,\((\?,? ?)+\))*`)

// Note takes a statement down; it is what store.Options.Statements wants.
func (r *Recorder) Note(statement string) {
	shape := lists.ReplaceAllString(statement, "(?)")
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.seen == nil {
		r.seen = map[string]string{}
	}
	if _, known := r.seen[shape]; !known {
		r.seen[shape] = statement
	}
}

// Main runs the tests of a package, and then holds what they made the store run
// against its plans, with statistics and without.
func (r *Recorder) Main(m *testing.M) int {
	code := m.Run()
	found, err := r.Walks()
	if err != nil {
		fmt.Println("plans:", err)
		return 1
	}
	for _, w := range found {
		fmt.Println("walks over all of it:", w)
		code = 1
	}
	return code
}

// Walks gives the statements whose plan walks over a table that grows.
func (r *Recorder) Walks() (found []string, err error) {
	dir, err := os.MkdirTemp("", "ebbe-plans")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	s, err := store.Open(dir, store.Options{})
	if err != nil {
		return nil, err
	}
	s.Close()
	db, err := sql.Open("sqlite3", filepath.Join(dir, "ebbe.db"))
	if err != nil {
		return nil, err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	partial, err := parts(db)
	if err != nil {
		return nil, err
	}
	for _, statistics := range []bool{false, true} {
		if statistics {
			if err := fill(db); err != nil {
				return nil, err
			}
		}
		shapes := make([]string, 0, len(r.seen))
		for shape := range r.seen {
			shapes = append(shapes, shape)
		}
		slices.Sort(shapes)
		for _, shape := range shapes {
			steps, err := plan(db, r.seen[shape])
			if err != nil {
				return nil, fmt.Errorf("%w: %s", err, r.seen[shape])
			}
			sorted := slices.ContainsFunc(steps, func(step string) bool { return strings.Contains(step, "TEMP B-TREE") })
			for _, step := range steps {
				if !sorted && limited.MatchString(shape) { // it stops as soon as it has enough
					continue
				}
				if walked(r.seen[shape], step, partial) && !allowed(shape) {
					found = append(found, fmt.Sprintf("(statistics: %v) %s\n\tin %s", statistics, step, shape))
				}
			}
		}
	}
	return found, nil
}

func allowed(statement string) bool {
	return slices.ContainsFunc(walks, func(w struct{ like, reason string }) bool { return strings.Contains(statement, w.like) })
}

var limited = regexp.MustCompile(`ORDER BY (id|b\.due_at, b\.uid)( DESC)? LIMIT \d+$`)

var (
	scanned = regexp.MustCompile(`^SCAN (\S+)(?: USING (?:COVERING )?INDEX (\S+))?`)
	whole   = regexp.MustCompile(`^SEARCH (\S+) USING (?:COVERING )?INDEX (\S+) \((?:box_id|person_id)=\?\)`)
)

// walked says that a step of a plan visits all rows of a table that grows: by a
// scan, or by an index of which nothing is known but the box or the person. An
// index of a part of the table holds no more than that part.
func walked(statement, step string, partial map[string]bool) bool {
	for _, form := range []*regexp.Regexp{scanned, whole} {
		m := form.FindStringSubmatch(step)
		if m == nil || partial[m[2]] {
			continue
		}
		return slices.Contains(growing, tableOf(statement, m[1]))
	}
	return false
}

// tableOf is the table behind the name that a plan gives.
func tableOf(statement, name string) string {
	if m := regexp.MustCompile("(?i)(?:from|join|update|into|,)\\s+[`\"]?(\\w+)[`\"]?\\s+(?:as\\s+)?" + regexp.QuoteMeta(name) + `\b`).FindStringSubmatch(statement); m != nil {
		return m[1]
	}
	return name
}

func plan(db *sql.DB, statement string) (steps []string, err error) {
	conn, err := db.Conn(ctx)
	if err != nil {
		return nil, err
	}
	defer conn.Close()
	err = conn.Raw(func(c any) error {
		stmt, err := c.(driver.Conn).Prepare("EXPLAIN QUERY PLAN " + statement)
		if err != nil {
			return err
		}
		defer stmt.Close()
		args := make([]driver.NamedValue, stmt.NumInput())
		for i := range args {
			args[i] = driver.NamedValue{Ordinal: i + 1}
		}
		rows, err := stmt.(driver.StmtQueryContext).QueryContext(ctx, args)
		if err != nil {
			return err
		}
		defer rows.Close()
		row := make([]driver.Value, len(rows.Columns()))
		for rows.Next(row) == nil {
			text, _ := row[len(row)-1].(string)
			steps = append(steps, text)
		}
		return nil
	})
	return steps, err
}
