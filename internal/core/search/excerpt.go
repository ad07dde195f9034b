package search

import (
	"strings"
	"unicode/utf8"
)

// Span is where something stands in a text, in bytes.
type Span struct{ From, To int }

// token is a word of a text as the index has it, with where it stands.
type token struct {
	word string
	Span
}

// placed are the tokens of a text with their places, of at most the first max bytes.
func placed(text string, max int) (out []token) {
	if len(text) > max {
		text = strings.ToValidUTF8(text[:max], "")
	}
	from, run := -1, []Span{} // of the word, and of the characters of a run of which the script has no spaces
	word := func(to int) {
		if from >= 0 {
			for _, w := range tokens(text[from:to]) { // one, but for letters that Unicode takes apart into words
				out = append(out, token{w, Span{from, to}})
			}
			from = -1
		}
	}
	pairs := func() {
		for i, s := range run {
			last := run[min(i+1, len(run)-1)]
			out = append(out, token{Fold(text[s.From:last.To]), Span{s.From, last.To}})
		}
		run = run[:0]
	}
	for i, r := range text {
		size := utf8.RuneLen(r)
		if r == utf8.RuneError {
			size = 1
		}
		folded, _ := utf8.DecodeRuneInString(Fold(string(r)))
		switch {
		case isUnspaced(folded):
			word(i)
			run = append(run, Span{i, i + size})
		case len(run) > 0 && Fold(string(r)) == "": // a mark on the character before
			run[len(run)-1].To = i + size
		case inWord(r) || from >= 0 && Fold(string(r)) == "":
			pairs()
			if from < 0 {
				from = i
			}
		default:
			pairs()
			word(i)
		}
	}
	pairs()
	word(len(text))
	return out
}

// lookedThrough is how many bytes of a text are looked through for what is to be marked.
const lookedThrough = 1 << 18

// hit is where a term stands.
type hit struct {
	Span
	term int
}

func hits(text string, terms []Term) (out []hit) {
	all := placed(text, lookedThrough)
	words := make([]string, len(all))
	for i, t := range all {
		words[i] = t.word
	}
	for i := range all {
		for n, t := range terms {
			if !t.Not && t.at(words[i:]) {
				out = append(out, hit{Span{all[i].From, all[i+len(t.Words)-1].To}, n})
			}
		}
	}
	return out
}

// Marks are the places in a text where the terms stand, in their order, none within
// another.
func Marks(text string, terms []Term) (out []Span) {
	for _, h := range hits(text, terms) {
		if n := len(out); n > 0 && h.From < out[n-1].To {
			out[n-1].To = max(out[n-1].To, h.To)
			continue
		}
		out = append(out, h.Span)
	}
	return out
}

// Excerpt is the part of a text, of about width bytes, that has most of the terms, with
// the terms marked; from the beginning of the text if it has none. Spaces and line breaks
// become single spaces.
func Excerpt(text string, terms []Term, width int) (out []Piece, has int) {
	text = strings.Join(strings.Fields(text), " ")
	all := hits(text, terms)
	best, from := 0, 0
	for i, h := range all {
		seen := map[int]bool{}
		for _, x := range all[i:] {
			if x.To > h.From+width {
				break
			}
			seen[x.term] = true
		}
		if len(seen) > best {
			best, from = len(seen), h.From
		}
	}
	lead := width / 4
	start := 0
	if best > 0 && from > lead {
		start = from - lead
		if i := strings.IndexByte(text[start:from], ' '); i >= 0 {
			start += i + 1
		}
		for !utf8.RuneStart(text[start]) {
			start++
		}
	}
	end := len(text)
	if start+width < len(text) {
		end = start + width
		if i := strings.LastIndexByte(text[start:end], ' '); i > width/2 {
			end = start + i
		}
		for !utf8.RuneStart(text[end]) {
			end--
		}
	}
	at := start
	add := func(to int, marked bool) {
		if to > at {
			out = append(out, Piece{text[at:to], marked})
			at = to
		}
	}
	for _, s := range Marks(text[:end], terms) {
		if s.From >= start {
			add(s.From, false)
			add(s.To, true)
		}
	}
	add(end, false)
	if start > 0 {
		out = append([]Piece{{Text: "…"}}, out...)
	}
	if end < len(text) {
		out = append(out, Piece{Text: "…"})
	}
	return out, best
}
