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
	Not       string // what must not be there
}

// Part is one thing that must be there.
type Part struct {
	Match  string // asked of the words
	Starts string // asked of the beginnings; what matches has them; "": nothing can be asked
	Whole  bool   // and what has them matches
	Exact  string // asked of the words: as Match, of whole words alone; "": nothing else than Match
}

// SoughtBy reads what q says of words. Who wrote a message or got it is asked of the words
// of its people, too, which makes few of many; whoever asks holds that against the
// addresses.
func SoughtBy(q search.Query) (s Sought) {
	must, not := MatchTerms(q.Terms())
	_, notInSubject := MatchTerms(q.SubjectTerms())
	s.Terms = partsOf(q.Terms(), "")
	if s.Documents = must; must != "" && not != "" {
		s.Documents = "(" + must + ") NOT (" + not + ")"
	}
	s.Around = partsOf(q.SubjectTerms(), "subject")
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
	var none []string
	if not != "" {
		none = append(none, not)
	}
	if notInSubject != "" {
		none = append(none, "subject : ("+notInSubject+")")
	}
	s.Not = strings.Join(none, " OR ")
	if s.Messages = All(append(slices.Clone(s.Terms), s.Around...)); s.Messages == "" {
		s.Without = s.Not
	} else if s.Not != "" {
		s.Messages = "(" + s.Messages + ") NOT (" + s.Not + ")"
	}
	return s
}

// partsOf are the terms that must be there; in a column, or anywhere.
func partsOf(terms []search.Term, column string) (out []Part) {
	for _, t := range terms {
		if t.Not {
			continue
		}
		p := Part{Match: match(t)}
		begins, whole := t.Beginnings()
		for i, b := range begins {
			begins[i] = `"` + b + `"`
		}
		p.Starts, p.Whole = strings.Join(begins, " AND "), whole && column == ""
		if t.Begins {
			t.Begins = false
			p.Exact = match(t)
		}
		if column != "" {
			p.Match = column + " : (" + p.Match + ")"
			p.Exact = "" // it may be common elsewhere
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
