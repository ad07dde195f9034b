package mail

import (
	"strings"
	"unicode"
)

// Quotable is what some texts say, as runs of words, so that it is known again however its
// lines are broken and marked.
type Quotable struct {
	runs map[string]bool
}

const (
	runLength  = 5      // words
	maxQuoted  = 20_000 // words of a text that are looked at
	mostlyThat = 0.6    // part of the runs of a quotation that has to stand in another text
)

// Add takes in a text, quoted lines included.
func (q *Quotable) Add(text string) {
	if q.runs == nil {
		q.runs = map[string]bool{}
	}
	for _, r := range runsOf(text) {
		q.runs[r] = true
	}
}

// Has says whether most of what is quoted stands in those texts. What has hardly any
// words stands anywhere.
func (q *Quotable) Has(quoted string) bool {
	runs := runsOf(quoted)
	n := 0
	for _, r := range runs {
		if q.runs[r] {
			n++
		}
	}
	return float64(n) >= mostlyThat*float64(len(runs))
}

// runsOf are the runs of words of a text, without the marks of quoted lines and the lines
// that announce a quotation.
func runsOf(text string) (out []string) {
	var words []string
	for line := range strings.SplitSeq(text, "\n") {
		line = strings.TrimLeft(line, "> \t")
		if announces(strings.TrimSpace(line)) {
			continue
		}
		for _, w := range strings.FieldsFunc(strings.ToLower(line), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) }) {
			if words = append(words, w); len(words) >= maxQuoted {
				break
			}
		}
	}
	for i := 0; i+runLength <= len(words); i++ {
		out = append(out, strings.Join(words[i:i+runLength], " "))
	}
	return out
}
