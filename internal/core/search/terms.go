package search

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Limits of what is looked for.
const (
	MaxWords    = 20   // of a query are looked for
	MaxAsked    = 1000 // bytes of the words of a query
	leastBegins = 3    // letters, from which on a word is looked for as the beginning of words
)

// quotes are what stands around exact words, whichever way a keyboard has them.
const quotes = `"“”„«»`

// TermsOf reads what is looked for: each word must be there, as a word or the beginning of
// one, in any order; what stands between quotation marks as it is written; what follows a
// minus sign must not be there. A word of one or two letters is looked for whole. A
// quotation mark that is left open closes at the end. What is beyond MaxWords is not
// looked for.
func TermsOf(text string) (out []Term) {
	for i := 0; i < len(text) && len(out) < MaxWords; {
		r, n := utf8.DecodeRuneInString(text[i:])
		if unicode.IsSpace(r) {
			i += n
			continue
		}
		not := false
		if r == '-' || r == '−' {
			not, i = true, i+n
			if r, n = utf8.DecodeRuneInString(text[i:]); i >= len(text) || unicode.IsSpace(r) {
				continue
			}
		}
		var part string
		exact := strings.ContainsRune(quotes, r)
		if exact {
			i += n
			end := strings.IndexAny(text[i:], quotes)
			if end < 0 {
				end = len(text) - i
			}
			part = text[i : i+end]
			if i += end; i < len(text) {
				_, n := utf8.DecodeRuneInString(text[i:])
				i += n
			}
		} else {
			end := strings.IndexFunc(text[i:], func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(quotes, r) })
			if end < 0 {
				end = len(text) - i
			}
			part = text[i : i+end]
			i += end
		}
		if t, ok := termOf(part, exact); ok {
			t.Not = not
			out = append(out, t)
		}
	}
	return out
}

// termOf is the term of a part of what is looked for, if there are words in it.
func termOf(part string, exact bool) (t Term, ok bool) {
	t.Text, t.Words = strings.TrimSpace(part), tokens(part)
	if len(t.Words) == 0 {
		return t, false
	}
	last := t.Words[len(t.Words)-1]
	r, size := utf8.DecodeRuneInString(last)
	if isUnspaced(r) {
		// The run before it has it as its end already; alone, it begins pairs.
		if len(t.Words) > 1 && strings.HasSuffix(t.Words[len(t.Words)-2], last) && len(last) == size {
			t.Words = t.Words[:len(t.Words)-1]
		} else {
			t.Begins = true
		}
		return t, true
	}
	t.Begins = !exact && utf8.RuneCountInString(last) >= leastBegins
	return t, true
}

// Terms are what is looked for in subjects, people, file names and texts.
func (q Query) Terms() []Term { return TermsOf(q.Words) }

// SubjectTerms are what is looked for in subjects.
func (q Query) SubjectTerms() []Term { return TermsOf(q.Subject) }

// Sought says that something must be there: the terms are not all of what must not.
func Sought(terms []Term) bool {
	for _, t := range terms {
		if !t.Not {
			return true
		}
	}
	return false
}

// Says tells whether a text says all of the terms; in the subject alone, or anywhere in
// the message.
type Says func(terms []Term, subject bool) bool

// Saying is the Says of a text with that subject, its people and file names, and its
// body, as the index has them. What it needs is found when it is first asked.
func Saying(subject, people, body string) Says {
	var all, first index
	return func(terms []Term, onlySubject bool) bool {
		if first.parts == nil {
			first = indexOf(subject)
		}
		in := first
		if !onlySubject {
			if all.parts == nil {
				all = indexOf(subject, people, body)
			}
			in = all
		}
		for _, t := range terms {
			if in.has(t) == t.Not {
				return false
			}
		}
		return true
	}
}

// index is a text as the full-text index has it: the words of each part in their order.
type index struct {
	parts  [][]string
	sorted []string
}

func indexOf(parts ...string) (x index) {
	x.parts = [][]string{}
	for _, p := range parts {
		words := tokens(p)
		x.parts = append(x.parts, words)
		x.sorted = append(x.sorted, words...)
	}
	sortCompact(&x.sorted)
	return x
}

func (x index) has(t Term) bool {
	if len(t.Words) == 1 {
		return found(x.sorted, t.Words[0], t.Begins)
	}
	for _, words := range x.parts {
		for i := 0; i+len(t.Words) <= len(words); i++ {
			if t.at(words[i:]) {
				return true
			}
		}
	}
	return false
}

// at says that words begin with t.
func (t Term) at(words []string) bool {
	if len(words) < len(t.Words) {
		return false
	}
	for i, w := range t.Words {
		if words[i] != w && !(t.Begins && i == len(t.Words)-1 && strings.HasPrefix(words[i], w)) {
			return false
		}
	}
	return true
}

// found says that a word, or one that begins with it, is among sorted ones.
func found(sorted []string, word string, begins bool) bool {
	i, is := slices.BinarySearch(sorted, word)
	return is || begins && i < len(sorted) && strings.HasPrefix(sorted[i], word)
}

func sortCompact(words *[]string) {
	slices.Sort(*words)
	*words = slices.Compact(*words)
}
