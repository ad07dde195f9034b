// Package say holds the small words that sentences for users are made with.
package say

import (
	"fmt"
	"strings"
)

// Plural is a number with its word: "1 message", "3 messages".
func Plural(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}

// Upper is s with its first letter, if that is one of ASCII, as a capital.
func Upper(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
