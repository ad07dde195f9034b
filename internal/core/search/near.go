package search

import (
	"slices"
	"unicode"
)

const (
	leastNear = 4  // letters of a word of which others are thought of
	mostNear  = 24 // letters
)

// Near are the words one slip of the hand away from word (Damerau, 1964): a letter too
// many, one missing, one for another, two the wrong way round. word is folded; what is too
// short, too long or of a script with other letters than those of an alphabet has none.
func Near(word string) (out []string) {
	letters := []rune(word)
	if len(letters) < leastNear || len(letters) > mostNear {
		return nil
	}
	alphabet := alphabetOf(letters)
	if alphabet == nil {
		return nil
	}
	add := func(w []rune) {
		if s := string(w); s != word {
			out = append(out, s)
		}
	}
	for i := range letters {
		if i+1 < len(letters) {
			w := slices.Clone(letters)
			w[i], w[i+1] = w[i+1], w[i]
			add(w)
		}
	}
	for i := range letters {
		add(slices.Delete(slices.Clone(letters), i, i+1))
		for _, r := range alphabet {
			w := slices.Clone(letters)
			w[i] = r
			add(w)
		}
	}
	for i := 0; i <= len(letters); i++ {
		for _, r := range alphabet {
			add(slices.Insert(slices.Clone(letters), i, r))
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

var alphabets = []struct {
	of      *unicode.RangeTable
	letters []rune
}{
	{unicode.Latin, []rune("abcdefghijklmnopqrstuvwxyz")},
	{unicode.Greek, []rune("αβγδεζηθικλμνξοπρστυφχψω")},
	{unicode.Cyrillic, []rune("абвгдежзийклмнопрстуфхцчшщъыьэюяіїєґў")},
}

func alphabetOf(word []rune) []rune {
	for _, a := range alphabets {
		if !slices.ContainsFunc(word, func(r rune) bool { return !unicode.Is(a.of, r) }) {
			return a.letters
		}
	}
	return nil
}
