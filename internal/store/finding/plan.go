package finding

import (
	"cmp"
	"database/sql"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gorm.io/gorm"

	"ebbe/internal/core/search"
	"ebbe/internal/store/words"
)

// plan is how what must be there is found in an index: what can be read one after another
// is asked of the words; of what is common its beginnings, which say so without being put
// together.
type plan struct {
	index     words.Index
	match     string // asked of the words; "": nothing
	starts    string // and of the beginnings; "": nothing
	not       string // asked of the words, for what must not match; "": nothing
	notStarts string // and of the beginnings; "": nothing
	fit       string // asked of the words for how well a text fits; "": all that match fit alike
	many      bool   // it is known that very many match
}

// spelled is how many words may begin like one for it to be asked for by them.
const spelled = 64

// plan makes one for the parts of what must be there, and of what must not.
func (t Finding) plan(x words.Index, parts, not []words.Part) (p plan, err error) {
	p.index = x
	var rare, read, without, withoutStarts []words.Part // read are those that the words are asked for
	begun := false
	for _, part := range parts {
		common, one, err := t.common(x, part)
		if err != nil {
			return p, err
		}
		switch {
		case !common:
			rare = append(rare, part)
			read = append(read, one)
		case part.Whole:
			begun = true
		default:
			begun = begun || one.Match == part.Match && part.Begins != "" // all that begins so is put together
			read = append(read, one)
		}
	}
	for _, part := range not {
		common, one, err := t.common(x, part)
		switch {
		case err != nil:
			return p, err
		case common && part.Whole:
			withoutStarts = append(withoutStarts, words.Part{Match: part.Starts})
		default:
			without = append(without, one)
		}
	}
	p.many = len(parts) == 1 && len(rare) == 0
	p.fit = words.All(rare) // a word that is in many texts says little of one, and counting it takes long
	p.match, p.not, p.notStarts = words.All(read), words.Any(without), words.Any(withoutStarts)
	if begun {
		p.starts = words.AllStarts(parts)
	}
	return p, nil
}

// common says that a part stands in more of an index than is weighed, of whatever box, and
// gives it with the words that begin so where they are few.
func (t Finding) common(x words.Index, p words.Part) (common bool, one words.Part, err error) {
	if p.Starts != "" {
		if many, err := t.many(x.Starts, p.Starts); err != nil || !many || p.Whole {
			return many, p, err
		}
	}
	if p.Begins != "" {
		longer, more, err := x.Longer(t.db(), p.Begins, spelled)
		if err != nil {
			return false, p, err
		}
		if !more {
			one = p.Spelled(longer)
			common, err = t.many(x.Words, one.Match)
			return common, one, err
		}
	}
	if p.Exact != "" {
		if many, err := t.many(x.Words, p.Exact); err != nil || many {
			return many, p, err
		}
	}
	common, err = t.many(x.Words, p.Match)
	return common, p, err
}

func (t Finding) many(table, match string) (bool, error) {
	var n int
	err := t.db().Raw("SELECT COUNT(*) FROM (SELECT 1 FROM "+table+" WHERE "+table+" MATCH ? LIMIT ?)", match, Weighed+1).Scan(&n).Error
	return n > Weighed, err
}

// span is from one ID to another.
type span struct{ first, last int64 }

var everywhere = span{0, math.MaxInt64}

// of gives those of some IDs, the highest first, that are in the span.
func (s span) of(ids []int64) []int64 {
	from, _ := slices.BinarySearchFunc(ids, s.last, func(x, id int64) int { return cmp.Compare(id, x) })
	to, _ := slices.BinarySearchFunc(ids, s.first-1, func(x, id int64) int { return cmp.Compare(id, x) })
	return ids[from:to]
}

// all gives all texts that match a plan; more: there may be more than most, and not all of
// them are given. What is known to be many is not counted: of the beginning of a word that
// is longer than those that are kept, all of its words would be put together for it.
func (t Finding) all(p plan, most int) (ids []int64, more bool, err error) {
	if p.many {
		return nil, true, nil
	}
	return t.matching(p, everywhere, most)
}

// matching gives the texts in a span that match a plan, those with the highest IDs first;
// more: there may be more than most, and they are not given.
func (t Finding) matching(p plan, s span, most int) (ids []int64, more bool, err error) {
	table, match := p.index.Words, p.match
	if match == "" {
		table, match = p.index.Starts, p.starts
	}
	ids, err = t.ids("SELECT rowid id FROM "+table+" WHERE "+table+" MATCH ? AND rowid BETWEEN ? AND ? ORDER BY rowid DESC LIMIT ?", match, s.first, s.last, most+1)
	if err != nil || len(ids) > most {
		return nil, true, err
	}
	if p.match != "" {
		if ids, err = t.among(p.index.Starts, p.starts, ids, true); err != nil {
			return nil, false, err
		}
	}
	if ids, err = t.among(p.index.Words, p.not, ids, false); err != nil {
		return nil, false, err
	}
	ids, err = t.among(p.index.Starts, p.notStarts, ids, false)
	return ids, false, err
}

// ids gives the numbers that a query gives, in its order. There are thousands of them in many
// places: SQLite gives them in one text, as each row by itself takes longer than finding it.
func (t Finding) ids(query string, args ...any) ([]int64, error) {
	var text sql.NullString
	if err := t.db().Raw("SELECT group_concat(id) FROM ("+query+")", args...).Row().Scan(&text); err != nil || text.String == "" {
		return nil, err
	}
	return numbers(text.String)
}

// numbers reads numbers between commas.
func numbers(text string) ([]int64, error) {
	out := make([]int64, 0, strings.Count(text, ",")+1)
	for part := range strings.SplitSeq(text, ",") {
		n, err := strconv.ParseInt(part, 10, 64)
		if err != nil {
			return nil, err
		}
		out = append(out, n)
	}
	return out, nil
}

// among gives those of some texts, the highest ID first, that match, or that do not.
func (t Finding) among(table, match string, ids []int64, matches bool) ([]int64, error) {
	if match == "" || len(ids) == 0 {
		return ids, nil
	}
	has, err := t.ids("SELECT rowid id FROM "+table+" WHERE "+table+" MATCH ? AND rowid BETWEEN ? AND ? AND +rowid IN (SELECT value FROM json_each(?)) ORDER BY rowid DESC", match, ids[len(ids)-1], ids[0], inJSON(ids))
	if matches || err != nil {
		return has, err
	}
	return slices.DeleteFunc(ids, func(id int64) bool { return holds(has, id) }), nil
}

// holds says that an ID stands in a list that has the highest first.
func holds(ids []int64, id int64) bool {
	_, has := slices.BinarySearchFunc(ids, id, func(x, id int64) int { return cmp.Compare(id, x) })
	return has
}

// matchingIn gives the texts among few that match a plan.
func (t Finding) matchingIn(p plan, few *gorm.DB) (ids []int64, err error) {
	if err := few.Order("m.id DESC").Scan(&ids).Error; err != nil {
		return nil, err
	}
	return t.matchingAmong(p, ids)
}

// matchingAmong gives those of some texts, the highest ID first, that match a plan.
func (t Finding) matchingAmong(p plan, ids []int64) (_ []int64, err error) {
	for _, part := range []struct {
		table, match string
		matches      bool
	}{{p.index.Words, p.match, true}, {p.index.Starts, p.starts, true}, {p.index.Words, p.not, false}, {p.index.Starts, p.notStarts, false}} {
		if ids, err = t.among(part.table, part.match, ids, part.matches); err != nil {
			return nil, err
		}
	}
	return ids, nil
}

// weigh says of places in an index how well they fit (BM25); people is what people weigh.
func (t Finding) weigh(p plan, people float64, places []Place) error {
	if p.fit == "" || len(places) == 0 {
		return nil
	}
	x := p.index.Words
	rows, err := t.db().Raw("SELECT rowid, "+fmt.Sprintf("-bm25(%s, %g, %g, %g)", x, search.BodyWeight, search.SubjectWeight, people)+" FROM "+x+" WHERE "+x+" MATCH ?", p.fit).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	fits := map[int64]float64{}
	for rows.Next() {
		var id int64
		var fit float64
		if err := rows.Scan(&id, &fit); err != nil {
			return err
		}
		fits[id] = fit
	}
	for i := range places {
		id := places[i].Message
		if places[i].Document > 0 {
			id = places[i].Document
		}
		places[i].Text = fits[id]
	}
	return rows.Err()
}

func inJSON(ids []int64) string {
	raw, _ := json.Marshal(ids) // numbers always can be
	return string(raw)
}
