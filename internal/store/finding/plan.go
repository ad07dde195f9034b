package finding

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"gorm.io/gorm"

	"ebbe/internal/core/search"
	"ebbe/internal/store/words"
)

// plan is how what must be there is found in an index: what few texts have is asked of the
// words; of what is common its beginnings, which say so without being put together.
type plan struct {
	index  words.Index
	match  string // asked of the words; "": nothing
	starts string // and of the beginnings; "": nothing
	fit    string // asked of the words for how well a text fits; "": all that match fit alike
	many   bool   // it is known that very many match
}

// plan makes one for the parts of what must be there, and what must not.
func (t Finding) plan(x words.Index, parts []words.Part, not string) (p plan, err error) {
	p.index = x
	var rare, rest []words.Part // rest is not told by its beginnings alone, or rare
	for _, part := range parts {
		common, err := t.common(x, part)
		if err != nil {
			return p, err
		}
		if !common {
			rare = append(rare, part)
		}
		if !common || !part.Whole {
			rest = append(rest, part)
		}
	}
	p.many = len(parts) == 1 && len(rare) == 0 && not == ""
	p.fit = words.All(rare) // a word that is in many texts says little of one, and counting it takes long
	if not != "" {
		p.match = "(" + words.All(parts) + ") NOT (" + not + ")"
		return p, nil
	}
	if p.match = words.All(rest); len(rest) < len(parts) {
		p.starts = words.AllStarts(parts)
	}
	return p, nil
}

// common says that a part stands in more of an index than is weighed, of whatever box.
func (t Finding) common(x words.Index, p words.Part) (bool, error) {
	if p.Starts != "" {
		if many, err := t.many(x.Starts, p.Starts); err != nil || !many || p.Whole {
			return many, err
		}
	}
	if p.Exact != "" {
		if many, err := t.many(x.Words, p.Exact); err != nil || many {
			return many, err
		}
	}
	return t.many(x.Words, p.Match)
}

func (t Finding) many(table, match string) (bool, error) {
	var n int
	err := t.db().Raw("SELECT COUNT(*) FROM (SELECT 1 FROM "+table+" WHERE "+table+" MATCH ? LIMIT ?)", match, Weighed+1).Scan(&n).Error
	return n > Weighed, err
}

// span is from one ID to another.
type span struct{ first, last int64 }

var everywhere = span{0, math.MaxInt64}

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
// more: there may be more than most, and not all of them are given.
func (t Finding) matching(p plan, s span, most int) (ids []int64, more bool, err error) {
	ask := func(table, match string, most int) (ids []int64, err error) {
		err = t.db().Raw("SELECT rowid FROM "+table+" WHERE "+table+" MATCH ? AND rowid BETWEEN ? AND ? ORDER BY rowid DESC LIMIT ?", match, s.first, s.last, most+1).Scan(&ids).Error
		return ids, err
	}
	switch {
	case p.starts == "":
		ids, err = ask(p.index.Words, p.match, most)
	case p.match == "":
		ids, err = ask(p.index.Starts, p.starts, most)
	default: // neither finds all of it alone, so more are asked for
		begun, err := ask(p.index.Starts, p.starts, 4*most)
		if err != nil || len(begun) > 4*most {
			return nil, true, err
		}
		if ids, err = ask(p.index.Words, p.match, 4*most); err != nil || len(ids) > 4*most {
			return nil, true, err
		}
		ids = both(ids, begun)
		return ids[:min(len(ids), most)], len(ids) > most, nil
	}
	if more = len(ids) > most; more {
		ids = ids[:most]
	}
	return ids, more, err
}

// both are the IDs that stand in both lists, of which each has the highest first.
func both(a, b []int64) (out []int64) {
	for _, id := range a {
		if _, has := slices.BinarySearchFunc(b, id, func(x, id int64) int { return cmp.Compare(id, x) }); has {
			out = append(out, id)
		}
	}
	return out
}

// matchingIn gives the texts among few that match a plan.
func (t Finding) matchingIn(p plan, few *gorm.DB) (ids []int64, err error) {
	first := true
	for _, part := range [][2]string{{p.index.Words, p.match}, {p.index.Starts, p.starts}} {
		if part[1] == "" {
			continue
		}
		var some []int64
		if err := t.db().Raw("SELECT rowid FROM "+part[0]+" WHERE "+part[0]+" MATCH ? AND +rowid IN (?) ORDER BY rowid DESC", part[1], few).Scan(&some).Error; err != nil {
			return nil, err
		}
		if first {
			ids, first = some, false
		} else {
			ids = both(ids, some)
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
