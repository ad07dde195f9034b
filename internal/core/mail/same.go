package mail

import (
	"strings"
	"unicode"
)

// SameText says that two messages with one Message-ID say the same: the text of
// one is all in the other's, as in the copy that a list has put its footer below.
// White space, quotation marks and the way lines are broken do not count.
func SameText(a, b string) bool {
	a, b = bare(a), bare(b)
	if a == "" || b == "" {
		return a == b
	}
	return strings.Contains(a, b) || strings.Contains(b, a)
}

func bare(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsSpace(r) || r == '>' {
			return -1
		}
		return r
	}, s)
}
