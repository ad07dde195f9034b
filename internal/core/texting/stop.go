package texting

import (
	"slices"
	"strings"
	"unicode"
)

// Wish is what somebody says with a text that is one word.
type Wish string

// The wishes.
const (
	Nothing Wish = ""
	Stop    Wish = "stop"  // no more texts
	Resume  Wish = "start" // texts again
)

var (
	usualStops  = []string{"stop", "stopp", "stopall", "end", "quit", "cancel", "unsubscribe", "arrêt", "arret", "baja", "avslutt"}
	usualStarts = []string{"start", "unstop", "resume"}
)

// StopWords are the words of a line by which somebody has no more texts from it, besides the usual.
type StopWords []string

// Wish reads what somebody wants by a text.
func (w StopWords) Wish(text string) Wish {
	word := strings.ToLower(strings.TrimFunc(text, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsPunct(r) }))
	switch {
	case word == "":
		return Nothing
	case slices.Contains(usualStops, word), slices.ContainsFunc(w, func(own string) bool { return strings.EqualFold(strings.TrimSpace(own), word) }):
		return Stop
	case slices.Contains(usualStarts, word):
		return Resume
	}
	return Nothing
}
