// Package words keeps the indexes of words (FTS5 of SQLite), and says what is asked of
// them.
package words

import (
	"slices"
	"strings"

	"gorm.io/gorm"

	"ebbe/internal/core/search"
)

// Index is an index of words. Each text stands in two tables: in one with all of its words
// and where they stand; in the other with the beginnings of its words alone
// (search.Beginnings), so that what is being typed, and what is common, is found without
// putting together all words that begin so.
type Index struct {
	Words  string // the table of words: body, subject, people
	Starts string // the table of beginnings
	List   string // the table of the words that stand in it
}

// The indexes.
var (
	Messages  = Index{"words", "starts", "spelled"}
	Documents = Index{"document_words", "document_starts", "document_spelled"} // of texts besides them
)

// Longer gives the words of an index that begin so and are longer, in their order; more:
// there are more than most, and not all of them are given. It goes from one word to the next
// that is after it, whatever number of texts have it.
func (x Index) Longer(db *gorm.DB, begin string, most int) (longer []string, more bool, err error) {
	err = db.Raw("WITH RECURSIVE next(term) AS (SELECT (SELECT term FROM "+x.List+" WHERE term >= @from AND term < @to ORDER BY term LIMIT 1)"+
		" UNION ALL SELECT (SELECT s.term FROM "+x.List+" s WHERE s.term >= next.term || char(1) AND s.term < @to ORDER BY s.term LIMIT 1) FROM next WHERE next.term IS NOT NULL LIMIT @most)"+
		" SELECT term FROM next WHERE term IS NOT NULL",
		map[string]any{"from": begin + "\x01", "to": begin + "\U0010ffff", "most": most + 1}).Scan(&longer).Error
	return longer, len(longer) > most, err
}

// Entry is a text as it was written.
type Entry struct {
	ID                    int64
	Subject, People, Body string
}

// Row is a text as it goes into an index.
type Row struct {
	Entry
	subject, people, body, starts string
}

// Row makes one; that takes longer than much else of what comes in, and needs nothing of
// the database.
func (e Entry) Row() Row {
	r := Row{Entry: e, subject: search.Indexed(e.Subject), people: search.Indexed(e.People), body: search.Indexed(e.Body)}
	r.starts = search.Beginnings(r.subject, r.people, r.body)
	return r
}

// atOnce is how many texts go into an index by one statement.
const atOnce = 100

// Put puts texts into an index that are not yet in it.
func (x Index) Put(db *gorm.DB, rows []Row) error {
	for chunk := range slices.Chunk(rows, atOnce) {
		words, starts := make([]any, 0, 4*len(chunk)), make([]any, 0, 2*len(chunk))
		for _, r := range chunk {
			words = append(words, r.ID, r.body, r.subject, r.people)
			starts = append(starts, r.ID, r.starts)
		}
		if err := db.Exec("INSERT INTO "+x.Words+"(rowid, body, subject, people) VALUES "+strings.TrimSuffix(strings.Repeat("(?,?,?,?),", len(chunk)), ","), words...).Error; err != nil {
			return err
		}
		if err := db.Exec("INSERT INTO "+x.Starts+"(rowid, beginnings) VALUES "+strings.TrimSuffix(strings.Repeat("(?,?),", len(chunk)), ","), starts...).Error; err != nil {
			return err
		}
	}
	return nil
}

// Drop takes the texts out of an index whose IDs a query gives.
func (x Index) Drop(db *gorm.DB, which string, args ...any) error {
	for _, table := range []string{x.Words, x.Starts} {
		if err := db.Exec("DELETE FROM "+table+" WHERE rowid IN ("+which+")", args...).Error; err != nil {
			return err
		}
	}
	return nil
}
