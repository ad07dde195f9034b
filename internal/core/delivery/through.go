package delivery

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"ebbe/internal/core/when"
)

// By is by what an entry lets mail through.
type By string

// What mail can be let through by.
const (
	BySender  By = "sender"  // the address it is from
	ByDomain  By = "domain"  // the domain it is from, and those below it
	ByOwn     By = "own"     // the own address it is to
	ByWords   By = "words"   // words in its subject or text, in this order
	ByWritten By = "written" // from somebody the reader wrote to in the last days
	ByWaited  By = "waited"  // it answers what the reader waits for

	ByImportance By = "importance" // it is important, as far as was learned
	ByCode       By = "code"       // it brings a code for signing in
)

// Exception lets mail through whatever the plan says.
type Exception struct {
	ID    string `json:"id"`
	By    By     `json:"by"`
	Value string `json:"value"` // the address, domain or words; empty for the last two kinds
	Days  int    `json:"days"`  // for ByWritten
}

// Says is what the entry lets through, as the subject of a sentence.
func (e Exception) Says() string {
	switch e.By {
	case ByDomain:
		return "mail from @" + e.Value
	case ByOwn:
		return "mail to " + e.Value
	case ByWords:
		return "mail that says “" + e.Value + "”"
	case ByWritten:
		return fmt.Sprintf("mail from whom you wrote to in the last %d days", e.Days)
	case ByWaited:
		return "an answer you wait for"
	case ByImportance:
		return "mail that is very important to you"
	case ByCode:
		return "a code for signing in"
	}
	return "mail from " + e.Value
}

// Arriving is what the rules of delivery look at in a message.
type Arriving struct {
	Stream  Stream
	From    string   // address, lower case
	To      []string // of To and Cc, lower case
	Subject string
	Text    string
	Written when.Instant // when the reader last wrote to the sender, or 0
	Waited  bool         // it answers what the reader waits for

	Important bool   // as far as was learned
	Code      bool   // it brings a code for signing in
	Ruled     string // what is noted as the entry that lets it through, if a rule does
}

const day = when.Instant(24 * 3_600_000)

// lets is the first entry that lets m through at t, or nil.
func (s Settings) lets(m Arriving, t when.Instant) *Exception {
	var said []string // read once, and only if it is needed
	for i, e := range s.Through {
		on := false
		switch e.By {
		case BySender:
			on = m.From == e.Value
		case ByDomain:
			_, domain, _ := strings.Cut(m.From, "@")
			on = domain == e.Value || strings.HasSuffix(domain, "."+e.Value)
		case ByOwn:
			on = slices.Contains(m.To, e.Value)
		case ByWords:
			if said == nil {
				said = append(append(wordsOf(m.Subject), ""), wordsOf(m.Text)...)
			}
			on = contains(said, wordsOf(e.Value))
		case ByWritten:
			on = m.Written > 0 && m.Written >= t-when.Instant(e.Days)*day
		case ByWaited:
			on = m.Waited
		case ByImportance:
			on = m.Important
		case ByCode:
			on = m.Code
		}
		if on {
			return &s.Through[i]
		}
	}
	return nil
}

// wordsOf are the words of a text in lower case.
func wordsOf(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) })
}

func contains(said, words []string) bool {
	for i := 0; i+len(words) <= len(said) && len(words) > 0; i++ {
		if slices.Equal(said[i:i+len(words)], words) {
			return true
		}
	}
	return false
}
