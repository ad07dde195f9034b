package search

import (
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Message is what can be asked of one message, as it comes in or as it came.
type Message struct {
	From     string   // address, lower case
	To       []string // addresses that got it, copies included, lower case
	Account  string   // the own address at which it came, or ""
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
	Listed   func(list int64) bool // its conversation is on that saved list; nil: that cannot be told yet
}

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
		q.Answers && !m.Answers,
		q.Saved != 0 && (m.Listed == nil || !m.Listed(q.Saved)),
		q.Writer != "" && !slices.Contains(People(q.Writer), m.From),
		q.To != "" && !m.went(q.To),
		q.With != "" && !slices.Contains(People(q.With), m.From) && !m.went(q.With),
		q.Since > 0 && when.Of(m.At) < q.Since,
		q.Until > 0 && when.Of(m.At) >= q.Until:
		return false
	}
	if words := q.Terms(); len(words) > 0 && !m.Says(words, false) {
		return false
	}
	words := q.SubjectTerms()
	return len(words) == 0 || m.Says(words, true)
}

// went says that m went to one of the people.
func (m Message) went(to string) bool {
	return slices.ContainsFunc(People(to), func(a string) bool { return slices.Contains(m.To, a) })
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
