package mail

import (
	"regexp"
	"strings"
)

// Inward is what mail to an address of Ebbe's own is for: a follow-up, or a note
// to oneself that comes back.
type Inward struct {
	Key     string // whose address it is
	Note    bool
	Project string // of the follow-up; may be empty
	When    string // when the note comes back, as a phrase; may be empty
}

var inward = regexp.MustCompile(`^(todo|note)-([a-z2-7]{8,26})(?:\+(.{1,80}))?$`)

var isoDay = regexp.MustCompile(`\d{4}-\d{2}-\d{2}`)

// ReadInward reads what stands before the at sign of such an address:
// "todo-<key>", "todo-<key>+<project>", "note-<key>+<time>". Dashes and
// underscores stand for spaces, as in "note-<key>+fri-9"; a date as 2026-11-27
// stays one.
func ReadInward(local string) (in Inward, ok bool) {
	m := inward.FindStringSubmatch(strings.ToLower(local))
	if m == nil {
		return in, false
	}
	words := strings.NewReplacer("-", " ", "_", " ").Replace(m[3])
	if day := isoDay.FindString(m[3]); day != "" {
		words = strings.Replace(words, strings.ReplaceAll(day, "-", " "), day, 1)
	}
	words = strings.Join(strings.Fields(words), " ")
	in = Inward{Key: m[2], Note: m[1] == "note"}
	if in.Note {
		in.When = words
	} else {
		in.Project = words
	}
	return in, true
}
