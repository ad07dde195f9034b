package words

import (
	"slices"
	"strings"

	"ebbe/internal/core/search"
)

// Sought is what a query says of words, as questions to the full-text indexes; empty where
// it says nothing.
type Sought struct {
	Messages  string // have all that must be there, and nothing that must not
	Without   string // what no message must have, if nothing must be there
	Documents string // as Messages, of texts besides them
	Terms     []Part // of what must be there, each by itself
	Around    []Part // as Terms, of the subject and the people of a message
	Not       []Part // what must not be there, each by itself
}

// Part is one thing that must be there.
type Part struct {
	Match  string // asked of the words
	Starts string // asked of the beginnings; what matches has them; "": nothing can be asked
	Whole  bool   // and what has them matches
	Exact  string // asked of the words: as Match, of whole words alone; "": nothing else than Match
	Begins string // how words begin of which any is meant; "": not by that alone, or what has Starts has them
	column string // where it is asked for; "": anywhere
}

// Spelled is the part with the words themselves in the place of how they begin. They are
// read one after another then; all words that begin so would be put together first.
func (p Part) Spelled(words []string) Part {
	p.Match = in(p.column, `"`+strings.Join(append([]string{p.Begins}, words...), `" OR "`)+`"`)
	return p
}

func in(column, match string) string {
	if column == "" || match == "" {
		return match
	}
	return column + " : (" + match + ")"
}

// SoughtBy reads what q says of words. Who wrote a message or got it is asked of the words
// of its people, too, which makes few of many; whoever asks holds that against the
// addresses.
func SoughtBy(q search.Query) (s Sought) {
	must, not := MatchTerms(q.Terms())
	_, notInSubject := MatchTerms(q.SubjectTerms())
	s.Terms = partsOf(q.Terms(), "", false)
	if s.Documents = must; must != "" && not != "" {
		s.Documents = "(" + must + ") NOT (" + not + ")"
	}
	s.Around = partsOf(q.SubjectTerms(), "subject", false)
	if len(s.Around) > 0 || notInSubject != "" || q.Within == search.MessageDocument {
		s.Documents = "" // they have other titles
	}
	for _, named := range []string{q.Writer, q.To, q.With} {
		var people []string
		for _, a := range search.People(named) {
			if m, _ := MatchTerms(search.TermsOf("\"" + a + "\"")); m != "" {
				people = append(people, m)
			}
		}
		if len(people) > 0 {
			s.Around = append(s.Around, Part{Match: "people : (" + strings.Join(people, " OR ") + ")"})
		}
	}
	s.Not = append(partsOf(q.Terms(), "", true), partsOf(q.SubjectTerms(), "subject", true)...)
	none := Any(s.Not)
	if s.Messages = All(append(slices.Clone(s.Terms), s.Around...)); s.Messages == "" {
		s.Without = none
	} else if none != "" {
		s.Messages = "(" + s.Messages + ") NOT (" + none + ")"
	}
	return s
}

// partsOf are the terms that must be there, or must not; in a column, or anywhere.
func partsOf(terms []search.Term, column string, not bool) (out []Part) {
	for _, t := range terms {
		if t.Not != not {
			continue
		}
		p := Part{Match: in(column, match(t)), column: column}
		begins, whole := t.Beginnings()
		for i, b := range begins {
			begins[i] = `"` + b + `"`
		}
		p.Starts, p.Whole = strings.Join(begins, " AND "), whole && column == ""
		if t.Begins {
			t.Begins = false
			p.Exact = in(column, match(t))
			if len(t.Words) == 1 && p.Starts != "" && !p.Whole {
				p.Begins = t.Words[0]
			}
		}
		out = append(out, p)
	}
	return out
}

// All is the question for what has all of the parts.
func All(parts []Part) string {
	var all []string
	for _, p := range parts {
		all = append(all, p.Match)
	}
	return strings.Join(all, " AND ")
}

// Any is the question for what has any of the parts.
func Any(parts []Part) string {
	var some []string
	for _, p := range parts {
		some = append(some, p.Match)
	}
	return strings.Join(some, " OR ")
}

// AllStarts is the question to the beginnings for what has those of all of the parts.
func AllStarts(parts []Part) string {
	var all []string
	for _, p := range parts {
		if p.Starts != "" {
			all = append(all, p.Starts)
		}
	}
	return strings.Join(all, " AND ")
}

func match(t search.Term) string {
	m := `"` + strings.Join(t.Words, " ") + `"`
	if t.Begins {
		m += "*"
	}
	return m
}

// MatchTerms are the questions to a full-text index for what has all of the terms that
// must be there, and for what has any that must not; "" without any.
func MatchTerms(terms []search.Term) (must, not string) {
	var all, none []string
	for _, t := range terms {
		if t.Not {
			none = append(none, match(t))
		} else {
			all = append(all, match(t))
		}
	}
	return strings.Join(all, " AND "), strings.Join(none, " OR ")
}
