package together

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// What a comment may be at most.
const (
	LongestComment = 8000 // bytes
	MostEdits      = 20   // earlier versions that are kept of one
)

// Named is somebody by a name.
type Named struct {
	ID   int64
	Name string
}

// Mention is a place in a text at which somebody is named with an @ before.
type Mention struct {
	Person     int64
	Begin, End int // bytes of the text, the @ with them
}

// Mentions finds who of some people is named in a text, each place once: an @ that begins a
// word, and after it the whole name, or the first of it where only one of them is called so.
// Of several names that fit, the longest counts. Capital letters make no difference.
func Mentions(text string, people []Named) (out []Mention) {
	calls := callsOf(people)
	for at := 0; at < len(text); {
		i := strings.IndexByte(text[at:], '@')
		if i < 0 {
			break
		}
		at += i
		before, _ := utf8.DecodeLastRuneInString(text[:at])
		begin := at
		at++
		if inWord(before) {
			continue // of an address
		}
		best := Mention{Begin: begin}
		for call, person := range calls {
			end := at + len(call)
			if end <= best.End || end > len(text) || !strings.EqualFold(text[at:end], call) {
				continue
			}
			if after, _ := utf8.DecodeRuneInString(text[end:]); inWord(after) {
				continue
			}
			best.Person, best.End = person, end
		}
		if best.Person != 0 {
			out, at = append(out, best), best.End
		}
	}
	return out
}

// Uncalled gives the names that stand in pieces as if somebody was called by them, where nobody is:
// an @ that begins a word, and the word after it.
func Uncalled(pieces []Piece) (names []string) {
	for _, p := range pieces {
		names = append(names, Uncalled(p.Pieces)...)
		for at, r := range p.Text {
			before, _ := utf8.DecodeLastRuneInString(p.Text[:at])
			if p.Kind != Plain || r != '@' || inWord(before) {
				continue
			}
			name := p.Text[at+1:]
			if end := strings.IndexFunc(name, func(r rune) bool { return !unicode.IsLetter(r) && r != '-' }); end >= 0 {
				name = name[:end]
			}
			if name != "" && !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
	}
	return names
}

// callsOf are the names by which some people can be meant, each of one of them.
func callsOf(people []Named) map[string]int64 {
	const several = -1
	calls := map[string]int64{}
	call := func(name string, id int64) {
		if has, ok := calls[name]; ok && has != id {
			id = several
		}
		if name != "" {
			calls[name] = id
		}
	}
	for _, p := range people {
		whole := strings.Join(strings.Fields(p.Name), " ")
		first, _, more := strings.Cut(whole, " ")
		call(strings.ToLower(whole), p.ID)
		if more {
			call(strings.ToLower(first), p.ID)
		}
	}
	for name, id := range calls {
		if id == several {
			delete(calls, name)
		}
	}
	return calls
}

func inWord(r rune) bool {
	return r != utf8.RuneError && (unicode.IsLetter(r) || unicode.IsDigit(r) || r == '_' || r == '@')
}
