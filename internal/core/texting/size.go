// Package texting holds the rules of text messages: how long one is and in how many parts it goes,
// whose number is written how, who has had enough of them, and what a gateway has to say.
package texting

import (
	"strings"
	"unicode/utf16"
)

// Alphabet is in what the characters of a text are written on the air.
type Alphabet string

// The alphabets of 3GPP TS 23.038.
const (
	GSM7 Alphabet = "gsm-7" // seven bits for each of its characters, fourteen for a few (section 6.2.1)
	UCS2 Alphabet = "ucs-2" // sixteen bits for each unit of UTF-16, once any character is not in the other
)

// How many units go into a text, and into each part of one of several, which says in its head
// which part it is (3GPP TS 23.040, section 9.2.3.24.1).
var room = map[Alphabet]struct{ alone, part int }{GSM7: {160, 153}, UCS2: {70, 67}}

// MostParts is in how many parts a text goes at most: few telephones put more together.
const MostParts = 10

// basic are the characters of the default alphabet that take one unit, and further those that
// take two.
const (
	basic   = "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !\"#¤%&'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà"
	further = "\f^{}\\[~]|€"
)

var units = func() map[rune]int {
	out := map[rune]int{}
	for _, r := range basic {
		out[r] = 1
	}
	for _, r := range further {
		out[r] = 2
	}
	return out
}()

// AlphabetOf is in which a text is written.
func AlphabetOf(text string) Alphabet {
	for _, r := range text {
		if units[r] == 0 {
			return UCS2
		}
	}
	return GSM7
}

// unitsOf is how many units of an alphabet a character takes.
func (a Alphabet) unitsOf(r rune) int {
	if a == GSM7 {
		return units[r]
	}
	return max(1, utf16.RuneLen(r)) // what is no character goes as one that says so
}

// Size is how long a text is.
type Size struct {
	Alphabet Alphabet `json:"alphabet"`
	Units    int      `json:"units"`
	Parts    int      `json:"parts"`
	Left     int      `json:"left"` // units there are still room for in the last part
}

// Measure says how long a text is. No character is cut in two by the end of a part.
func Measure(text string) Size {
	a := AlphabetOf(text)
	s := Size{Alphabet: a, Parts: 1}
	for _, r := range text {
		s.Units += a.unitsOf(r)
	}
	if s.Left = room[a].alone - s.Units; s.Left >= 0 {
		return s
	}
	s.Left = room[a].part
	for _, r := range text {
		n := a.unitsOf(r)
		if n > s.Left {
			s.Parts, s.Left = s.Parts+1, room[a].part
		}
		s.Left -= n
	}
	return s
}

// Parts cuts a text into those in which it goes.
func Parts(text string) (out []string) {
	a := AlphabetOf(text)
	if Measure(text).Parts == 1 {
		return []string{text}
	}
	var part strings.Builder
	left := room[a].part
	for _, r := range text {
		n := a.unitsOf(r)
		if n > left {
			out = append(out, part.String())
			part.Reset()
			left = room[a].part
		}
		part.WriteRune(r)
		left -= n
	}
	return append(out, part.String())
}
