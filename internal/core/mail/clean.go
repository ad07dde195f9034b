package mail

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Scrub drops what no reader can use and some displays choke on: zero bytes,
// control characters, and the marks that turn the direction of writing.
func Scrub(s string) string {
	s = strings.ToValidUTF8(s, "\uFFFD")
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t' || r == '\r':
			return r
		case unicode.IsControl(r), r >= 0x202A && r <= 0x202E, r >= 0x2066 && r <= 0x2069:
			return -1
		}
		return r
	}, s)
}

// Clean makes one line of a header field, of at most n characters.
func Clean(s string, n int) string {
	s = strings.Join(strings.Fields(Scrub(s)), " ")
	if utf8.RuneCountInString(s) > n {
		s = string([]rune(s)[:n]) + "…"
	}
	return s
}
