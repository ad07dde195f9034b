package writing

import (
	"errors"
	"regexp"
	"slices"
	"strings"
)

// The blanks of a template, as they stand in it between square brackets.
const (
	BlankName     = "name"       // of the first person it goes to
	BlankSubject  = "subject"    // of what it answers, without Re:
	BlankToday    = "today"      // the day on which it is used
	BlankTomorrow = "tomorrow"   // the day after
	BlankWeek     = "in a week"  // seven days after
	BlankFree     = "free times" // two times at which the user's calendar is free
)

// Blanks lists them.
var Blanks = []string{BlankName, BlankSubject, BlankToday, BlankTomorrow, BlankWeek, BlankFree}

// Template is a text that is used again and again.
type Template struct {
	Name    string `json:"name"`
	Subject string `json:"subject"` // may be empty
	Text    string `json:"text"`
}

// The limits of a template, in bytes.
const (
	maxName = 100
	maxText = 20_000
)

// Valid says in a sentence for the user what is wrong with a template, or nil.
func (t Template) Valid() error {
	switch {
	case strings.TrimSpace(t.Name) == "":
		return errors.New("a template needs a name, by which it is found")
	case strings.TrimSpace(t.Text) == "":
		return errors.New("there is nothing in it")
	case len(t.Name) > maxName || len(t.Subject) > maxName*5 || len(t.Text) > maxText:
		return errors.New("it is too long: a name has room for 100 letters, a text for 20,000")
	}
	return nil
}

var bracketed = regexp.MustCompile(`\[[^\[\]\n]{1,20}\]`)

// Filled is the template with its blanks filled. A blank for which there is no
// value stays as it is, to be seen, and so does what is no blank.
func (t Template) Filled(values map[string]string) Template {
	fill := func(s string) string {
		return bracketed.ReplaceAllStringFunc(s, func(b string) string {
			name := strings.ToLower(b[1 : len(b)-1])
			if v := values[name]; v != "" && slices.Contains(Blanks, name) {
				return v
			}
			return b
		})
	}
	t.Subject, t.Text = fill(t.Subject), fill(t.Text)
	return t
}
