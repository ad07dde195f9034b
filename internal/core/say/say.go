// Package say holds the small words that sentences for users are made with.
package say

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Plural is a number with its word: "1 message", "3 messages".
func Plural(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}

// Upper is s with a capital as its first letter; what begins otherwise, as with a
// quotation mark, stays as it is.
func Upper(s string) string {
	first, n := utf8.DecodeRuneInString(s)
	if n == 0 || first == utf8.RuneError {
		return s
	}
	return string(unicode.ToUpper(first)) + s[n:]
}

// List is several names in a sentence: "Jonas, Priya and Tomasz".
func List(names []string) string {
	n := len(names)
	if n < 2 {
		return strings.Join(names, "")
	}
	return strings.Join(names[:n-1], ", ") + " and " + names[n-1]
}
