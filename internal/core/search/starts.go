package search

import (
	"strings"
	"unicode/utf8"
)

// Of the words of a text its beginnings of so many letters are kept, too.
const (
	shortestStart = leastBegins
	longestStart  = 4
)

// Beginnings are the beginnings of three and four letters of all words of texts as Indexed
// gives them, each once, with a space between.
func Beginnings(indexed ...string) string {
	size := 0
	for _, text := range indexed {
		size += len(text)
	}
	seen := make(map[string]struct{}, size/4)
	var b strings.Builder
	b.Grow(size)
	for _, text := range indexed {
		begin, letters := 0, 0
		for i, r := range text {
			if !inWord(r) {
				letters = 0
				continue
			}
			if letters == 0 {
				begin = i
			}
			if letters++; letters < shortestStart || letters > longestStart {
				continue
			}
			start := text[begin : i+utf8.RuneLen(r)]
			if _, has := seen[start]; !has {
				seen[start] = struct{}{}
				b.WriteString(start)
				b.WriteByte(' ')
			}
		}
	}
	return b.String()
}

// Beginnings are those of its words that a text has in which t stands, none if they are too
// short; whole says that t stands in whatever has them.
func (t Term) Beginnings() (out []string, whole bool) {
	for i, w := range t.Words {
		n := utf8.RuneCountInString(w)
		if n < shortestStart {
			continue
		}
		start := w
		if n > longestStart {
			start = string([]rune(w)[:longestStart])
		}
		out = append(out, start)
		whole = i == 0 && len(t.Words) == 1 && t.Begins && n <= longestStart
	}
	return out, whole
}
