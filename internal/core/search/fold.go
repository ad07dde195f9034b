package search

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// spelled are letters that no decomposition of Unicode takes apart, as they are spelled
// without them.
var spelled = map[rune]string{
	'ß': "ss", 'ẞ': "ss", 'ø': "o", 'Ø': "o", 'æ': "ae", 'Æ': "ae", 'œ': "oe", 'Œ': "oe", 'đ': "d", 'Đ': "d", 'ð': "d", 'Ð': "d",
	'ł': "l", 'Ł': "l", 'þ': "th", 'Þ': "th", 'ħ': "h", 'Ħ': "h", 'ı': "i", 'ŀ': "l", 'ŧ': "t", 'Ŧ': "t", 'ŋ': "n", 'Ŋ': "n", 'ς': "σ",
}

// Fold is a text without case, accents and other differences of writing: full width
// (Unicode Standard Annex 15, NFKD), ß and ss, ø, æ, ł, đ. What is looked for and what
// is looked through are folded alike.
func Fold(text string) string {
	if ascii(text) {
		return strings.ToLower(text)
	}
	var b strings.Builder
	b.Grow(len(text))
	for _, r := range norm.NFKD.String(text) {
		if s, ok := spelled[r]; ok {
			b.WriteString(s)
		} else if !unicode.Is(unicode.Mn, r) {
			b.WriteRune(unicode.ToLower(r))
		}
	}
	return b.String()
}

func ascii(text string) bool {
	for i := range len(text) {
		if text[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// unspaced are the scripts that put no spaces between words.
var unspaced = []*unicode.RangeTable{unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Thai, unicode.Lao, unicode.Khmer, unicode.Myanmar}

func isUnspaced(r rune) bool {
	return r >= 0x0E00 && (unicode.In(r, unspaced...) || r == 'ー') && inWord(r)
}

// inWord says that r is part of a word, as the tokenizer of the index has it (SQLite's
// unicode61: letters and numbers).
func inWord(r rune) bool {
	if r < utf8.RuneSelf {
		return 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z' || '0' <= r && r <= '9'
	}
	return unicode.IsLetter(r) || unicode.IsNumber(r)
}

// Indexed is a text as it goes into the index: folded, with a space between words of
// which the script has none. A run of such characters becomes its pairs and, so that its
// end is found alone, too, its last character: 東京都 is 東京 京都 都.
func Indexed(text string) string {
	text = Fold(text)
	if ascii(text) {
		return text
	}
	var b strings.Builder
	b.Grow(len(text) + len(text)/2)
	var run []rune
	flush := func() {
		if len(run) == 0 {
			return
		}
		b.WriteByte(' ')
		for i := range run {
			b.WriteString(string(run[i:min(i+2, len(run))]))
			b.WriteByte(' ')
		}
		run = run[:0]
	}
	for _, r := range text {
		if isUnspaced(r) {
			run = append(run, r)
			continue
		}
		flush()
		b.WriteRune(r)
	}
	flush()
	return b.String()
}

// tokens are the words of a text as the index has them, in their order.
func tokens(text string) []string {
	return strings.FieldsFunc(Indexed(text), func(r rune) bool { return !inWord(r) })
}
