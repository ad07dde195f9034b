package search

import (
	"slices"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Message is what can be asked of one message, as it comes in or as it came.
type Message struct {
	From     string // address, lower case
	Account  string // the own address at which it came, or ""
	Kind     mail.Kind
	Reach    mail.Reach
	List     string // its List-Id (RFC 2919)
	Files    []mail.File
	Size     int
	Level    Level
	Stream   string // a delivery.Stream
	Language when.Language
	At       time.Time // when it came, on the clocks of its reader
	Stranger bool      // nothing had come from its sender before
	Answers  bool      // it answers what the reader wrote
	Awaited  bool      // the reader waits for something from its sender
	Says     Says
}

// Says tells whether a text says all of the words, each as the beginning of a word; in
// the subject alone, or anywhere in the message.
type Says func(words []string, subject bool) bool

// Holds says that a message is what q asks for: all that q asks of one, that is. What
// can only be asked of a conversation (where it is, labels, stars) is not looked at.
func (q Query) Holds(m Message) bool {
	_, domain, _ := strings.Cut(m.From, "@")
	minutes := m.At.Hour()*60 + m.At.Minute()
	switch {
	case q.From != "" && m.From != q.From,
		q.Domain != "" && domain != q.Domain && !strings.HasSuffix(domain, "."+q.Domain),
		q.Account != "" && m.Account != q.Account,
		q.Kind != "" && m.Kind != q.Kind,
		q.Reach != "" && m.Reach != q.Reach,
		q.List != "" && m.List != q.List,
		q.Files && len(m.Files) == 0,
		q.FilesOf != "" && !slices.ContainsFunc(m.Files, q.FilesOf.Is),
		q.Larger > 0 && m.Size <= q.Larger,
		q.Level != "" && m.Level != q.Level,
		q.Stream != "" && m.Stream != q.Stream,
		q.Language != "" && m.Language != q.Language,
		q.Days != 0 && q.Days&(1<<int(m.At.Weekday())) == 0,
		q.Begin != q.End && !within(minutes, q.Begin, q.End),
		q.Stranger && !m.Stranger,
		q.Answers && !m.Answers:
		return false
	}
	if words := q.Terms(); len(words) > 0 && !m.Says(words, false) {
		return false
	}
	words := terms(q.Subject)
	return len(words) == 0 || m.Says(words, true)
}

// within says that a time of day lies in [from, to), which may go over midnight.
func within(at, from, to int) bool {
	if from < to {
		return from <= at && at < to
	}
	return at >= from || at < to
}

// Level is how important something is, as a condition.
type Level string

// The levels.
const (
	High   Level = "high"   // its gauge stands full
	Middle Level = "middle" // in between
	Low    Level = "low"
)

// LevelOf is the level of an importance in thousandths. Its bounds are those by which
// the store groups the inbox.
func LevelOf(mille int) Level {
	switch {
	case mille >= 800:
		return High
	case mille >= 400:
		return Middle
	}
	return Low
}

// FileKind is a kind of files.
type FileKind string

// The kinds of files.
const (
	Pictures  FileKind = "pictures"
	PDFs      FileKind = "pdf"
	Texts     FileKind = "texts"  // written with an office program, or plain
	Tables    FileKind = "tables" // spreadsheets
	Calendars FileKind = "calendar"
	Archives  FileKind = "archives"
)

// FileKinds lists them with the media types (RFC 6838) and the endings of names by
// which they are known.
var FileKinds = map[FileKind][]string{
	Pictures:  {"image/"},
	PDFs:      {"application/pdf", ".pdf"},
	Texts:     {"text/plain", "text/rtf", "application/rtf", "application/msword", "application/vnd.oasis.opendocument.text", "application/vnd.openxmlformats-officedocument.wordprocessingml", ".docx", ".doc", ".odt", ".txt", ".rtf"},
	Tables:    {"text/csv", "application/vnd.ms-excel", "application/vnd.oasis.opendocument.spreadsheet", "application/vnd.openxmlformats-officedocument.spreadsheetml", ".xlsx", ".xls", ".ods", ".csv"},
	Calendars: {"text/calendar", ".ics"},
	Archives:  {"application/zip", "application/gzip", "application/x-tar", "application/x-7z-compressed", ".zip", ".gz", ".tar", ".tgz", ".7z"},
}

// Is says that a file is of that kind.
func (k FileKind) Is(f mail.File) bool {
	kind, name := strings.ToLower(f.Type), strings.ToLower(f.Name)
	return slices.ContainsFunc(FileKinds[k], func(sign string) bool {
		if strings.HasPrefix(sign, ".") {
			return strings.HasSuffix(name, sign)
		}
		return strings.HasPrefix(kind, sign)
	})
}

// Saying is the Says of a text with that subject, its people and file names, and its
// body, as the index of words has them: letters and digits, without case and accents.
// What it needs is found when it is first asked.
func Saying(subject, people, body string) Says {
	var all, first []string
	return func(words []string, onlySubject bool) bool {
		if first == nil {
			first = folded(subject)
		}
		in := first
		if !onlySubject {
			if all == nil {
				all = slices.Concat(first, folded(people), folded(body))
				slices.Sort(all)
				all = slices.Compact(all)
			}
			in = all
		}
		for _, w := range words {
			w = Fold(w)
			if i, found := slices.BinarySearch(in, w); !found && (i == len(in) || !strings.HasPrefix(in[i], w)) {
				return false
			}
		}
		return true
	}
}

// folded are the words of a text, folded and in order.
func folded(text string) []string {
	words := strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) && !unicode.Is(unicode.M, r) })
	out := make([]string, 0, len(words)+1)
	for _, w := range words {
		out = append(out, Fold(w))
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Fold is a word without case and accents.
func Fold(word string) string {
	plain := true
	for i := range len(word) {
		plain = plain && word[i] < 0x80
	}
	if plain {
		return strings.ToLower(word)
	}
	return strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Mn, r) {
			return -1
		}
		return unicode.ToLower(r)
	}, norm.NFD.String(word))
}
