package search

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Word is a word of what somebody typed, or what stands between quotation marks.
type Word struct {
	Text     string // without them
	Low      string // in lower case
	Quoted   bool
	Comma    bool // one stands after it
	From, To int  // where it stands, in bytes
}

// Cut cuts a text that stands at an offset into its words. A quotation mark that is left
// open closes at the end.
func Cut(text string, at int) (out []Word) {
	for i := 0; i < len(text); {
		r, size := utf8.DecodeRuneInString(text[i:])
		switch {
		case unicode.IsSpace(r):
			i += size
		case r == ',' || r == ';':
			if len(out) > 0 {
				out[len(out)-1].Comma = true
			}
			i += size
		case strings.ContainsRune(quotes, r):
			from := i
			i += size
			end := strings.IndexAny(text[i:], quotes)
			if end < 0 {
				end = len(text) - i
			}
			w := Word{Text: strings.TrimSpace(text[i : i+end]), Quoted: true, From: at + from}
			if i += end; i < len(text) {
				_, n := utf8.DecodeRuneInString(text[i:])
				i += n
			}
			w.Low, w.To = strings.ToLower(w.Text), at+i
			out = append(out, w)
		default:
			from := i
			for i < len(text) {
				r, n := utf8.DecodeRuneInString(text[i:])
				if unicode.IsSpace(r) || r == ',' || r == ';' || strings.ContainsRune(quotes, r) {
					break
				}
				i += n
			}
			w := Word{Text: text[from:i], From: at + from, To: at + i}
			w.Low = strings.ToLower(w.Text)
			out = append(out, w)
		}
	}
	return out
}

// Quotes are the characters between which exact words stand.
const Quotes = quotes

// Phrase is a condition that is said in a few words.
type Phrase struct {
	Words []string
	Set   func(*Query)
	Means string // of a message: "has files"
}

// Said is the phrase of these words, with spaces between.
func Said(words string, set func(*Query), means string) Phrase {
	return Phrase{strings.Fields(words), set, means}
}

// Phrases are conditions that mean the same in a search and in a rule.
var Phrases = []Phrase{
	Said("to me alone", func(q *Query) { q.Reach = mail.Alone }, "is to you alone"),
	Said("to me and others", func(q *Query) { q.Reach = mail.Named }, "is to you and others"),
	Said("copied to me", func(q *Query) { q.Reach = mail.Copied }, "is a copy for you"),
	Said("from people", func(q *Query) { q.Kind = mail.Person }, "is from a person"),
	Said("from a person", func(q *Query) { q.Kind = mail.Person }, "is from a person"),
	Said("from lists", func(q *Query) { q.Kind = mail.List }, "is from a list"),
	Said("from a list", func(q *Query) { q.Kind = mail.List }, "is from a list"),
	Said("from machines", func(q *Query) { q.Kind = mail.Notice }, "is a notice"),
	Said("with files", func(q *Query) { q.Files = true }, "has files"),
	Said("with pictures", func(q *Query) { q.FilesOf = Pictures }, "has pictures"),
	Said("with pdfs", func(q *Query) { q.FilesOf = PDFs }, "has a PDF"),
	Said("with pdf", func(q *Query) { q.FilesOf = PDFs }, "has a PDF"),
	Said("with a pdf", func(q *Query) { q.FilesOf = PDFs }, "has a PDF"),
	Said("with texts", func(q *Query) { q.FilesOf = Texts }, "has a text as a file"),
	Said("with tables", func(q *Query) { q.FilesOf = Tables }, "has a table"),
	Said("with archives", func(q *Query) { q.FilesOf = Archives }, "has an archive"),
}

// Languages are the languages in which mail can be asked for, by their names.
var Languages = map[string]when.Language{"english": when.English, "german": when.German, "french": when.French, "spanish": when.Spanish, "italian": when.Italian, "dutch": when.Dutch,
	"danish": when.Danish, "norwegian": when.Norwegian, "swedish": when.Swedish, "portuguese": when.Portuguese, "polish": when.Polish}

// Larger reads how large something has to be, from words of which the first is a number
// of bytes: "5 mb", "5mb". n is how many of them say it; 0: they say no size.
func Larger(number, unit string) (bytes, n int, means string) {
	n = 2
	if cut := strings.TrimLeft(number, "0123456789."); cut != "" {
		number, unit, n = strings.TrimSuffix(number, cut), cut, 1
	}
	size, err := strconv.ParseFloat(number, 64)
	factor := map[string]float64{"kb": 1 << 10, "mb": 1 << 20, "gb": 1 << 30}[unit]
	if err != nil || factor == 0 || size <= 0 || size*factor > 1<<40 {
		return 0, 0, ""
	}
	return int(size * factor), n, "is larger than " + number + " " + strings.ToUpper(unit)
}

// Called are those of some people who are meant by a name: whose names have all of its
// words, or whose address has it if no name does.
func Called(people []mail.Address, name string) (out []mail.Address) {
	words := strings.Fields(Fold(name))
	for _, a := range people {
		parts := strings.Fields(Fold(a.Name))
		if !slices.ContainsFunc(words, func(w string) bool {
			return !slices.ContainsFunc(parts, func(p string) bool { return strings.HasPrefix(p, w) })
		}) {
			out = append(out, a)
		}
	}
	if len(out) == 0 && len(words) == 1 {
		for _, a := range people {
			if strings.Contains(a.Address, words[0]) {
				out = append(out, a)
			}
		}
	}
	return out
}
