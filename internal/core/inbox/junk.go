package inbox

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"ebbe/internal/core/when"
)

// JunkDegree is how strict the junk test is.
type JunkDegree string

// The degrees.
const (
	JunkOff     JunkDegree = "off" // only what was blocked is junk
	JunkCareful JunkDegree = "careful"
	JunkStrict  JunkDegree = "strict"
)

// Calls says that a message with that score, from 0 to 1, is called junk.
func (d JunkDegree) Calls(score float64) bool {
	switch d {
	case JunkCareful:
		return score >= 0.97
	case JunkStrict:
		return score >= 0.85
	}
	return false
}

// JunkWishes are what a person wants of the junk test. Senders are addresses, or domains
// with an @ before them, in lower case.
type JunkWishes struct {
	Degree    JunkDegree      `json:"degree"` // empty: careful
	Blocked   []string        `json:"blocked,omitempty"`
	Never     []string        `json:"never,omitempty"`     // whose mail is never junk, unless somebody else sends under their name
	To        []string        `json:"to,omitempty"`        // the person's own addresses, mail to which never is
	Languages []when.Language `json:"languages,omitempty"` // in which all mail is
	Scripts   []string        `json:"scripts,omitempty"`   // the same, such as Cyrillic
}

// At is how strict the test is to be.
func (w JunkWishes) At() JunkDegree {
	if w.Degree == "" {
		return JunkCareful
	}
	return w.Degree
}

// Scripts are those that can be told from another and not be wanted, by their names in
// Unicode.
var Scripts = []string{"Arabic", "Cyrillic", "Greek", "Han", "Hebrew", "Thai"}

const maxJunkList = 2000

var senderForm = regexp.MustCompile(`^[^\s<>,;:"()@]*@[^\s<>@,;:"()]+$`)

// Valid says in part of a sentence what is wrong with the wishes, or nil.
func (w JunkWishes) Valid() error {
	if d := w.At(); d != JunkOff && d != JunkCareful && d != JunkStrict {
		return errors.New("the junk test is off, careful or strict")
	}
	for _, list := range [][]string{w.Blocked, w.Never, w.To} {
		if len(list) > maxJunkList {
			return fmt.Errorf("there is room for %d senders in such a list: block a domain instead", maxJunkList)
		}
		for _, s := range list {
			if !senderForm.MatchString(s) || strings.ToLower(s) != s || len(s) > 254 {
				return fmt.Errorf("“%s” is no address, and no domain such as @shop.example", s)
			}
		}
	}
	for _, b := range w.Blocked {
		if slices.Contains(w.Never, b) {
			return fmt.Errorf("%s is blocked and never junk at once: remove one", b)
		}
	}
	for _, s := range w.Scripts {
		if !slices.Contains(Scripts, s) {
			return fmt.Errorf("%q letters cannot be told from others", s)
		}
	}
	return nil
}
