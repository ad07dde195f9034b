package delivery

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"ebbe/internal/core/when"
)

// The blanks of an automatic answer.
const (
	BlankNext    = "next delivery" // when mail comes in next
	BlankContact = "contact"       // the contact of the plan
	BlankName    = "name"          // of whoever wrote
)

var blank = regexp.MustCompile(`\[([^\[\]\n]*)\]`)

// answerable says what is wrong with the text of an automatic answer, or nil.
func answerable(text string) error {
	if len(text) > maxText {
		return fmt.Errorf("the answer is too long: there is room for %d letters", maxText)
	}
	for _, m := range blank.FindAllStringSubmatch(text, -1) {
		switch m[1] {
		case BlankNext, BlankContact, BlankName:
		default:
			return fmt.Errorf("the blank [%s] cannot be filled: there are [%s], [%s] and [%s]", m[1], BlankNext, BlankContact, BlankName)
		}
	}
	return nil
}

// Fill puts values into the blanks of a text.
func Fill(text string, values map[string]string) string {
	return strings.TrimSpace(blank.ReplaceAllStringFunc(text, func(b string) string { return values[b[1:len(b)-1]] }))
}

// Asking is what a message says about whether it may be answered automatically.
type Asking struct {
	Arriving
	AnswerTo string // where an automatic answer may go: mail.AnswerTo
	Named    bool   // an own address of the reader is in To or Cc (RFC 3834, section 2)
	Own      bool   // AnswerTo is an own address
}

// Reply is an automatic answer. Hold tells the hold it belongs to: whoever has
// heard once in a hold hears nothing more in it.
type Reply struct {
	Hold    string
	To      string
	Text    string // with its blanks
	Contact string
}

// Answer is the automatic answer that a held message gets at t, if any: only
// people get one, who wrote to the reader by name, and only where a text was
// written for this hold, by hand or of the plan. That nobody gets it twice is
// for whoever keeps the list of those who have heard.
func (s Settings) Answer(m Asking, v Verdict, t when.Instant) (r Reply, ok bool) {
	if v.In || m.Stream != StreamPeople || m.AnswerTo == "" || m.Own || !m.Named {
		return r, false
	}
	p := s.Plan()
	switch {
	case s.Hand.at(t) == ModeHold && s.Hand.Answer != "":
		r = Reply{Hold: "hand-" + strconv.FormatInt(int64(s.Hand.From), 10), Text: s.Hand.Answer}
	case s.Hand.at(t) == ModePlan && p != nil && p.Answer != "":
		r = Reply{Hold: "plan-" + p.ID + "-" + strconv.FormatInt(int64(s.Since), 10), Text: p.Answer}
	default:
		return r, false
	}
	if p != nil {
		r.Contact = p.Contact
	}
	r.To = m.AnswerTo
	return r, true
}
