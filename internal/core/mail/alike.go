package mail

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// confusable are letters that are taken for others, as what they are taken for. They are
// those that matter in names of domains and of people; what Unicode lists besides (UTS 39)
// is rarely allowed there.
var confusable = strings.NewReplacer("rn", "m", "vv", "w", "cl", "d", "0", "o", "1", "l", "3", "e", "5", "s", "i", "l", "|", "l",
	"а", "a", "е", "e", "о", "o", "р", "p", "с", "c", "у", "y", "х", "x", "і", "l", "ј", "j", "ѕ", "s", "һ", "h", "ԁ", "d", "ɡ", "g", "ο", "o", "α", "a", "ν", "v", "ı", "l", "ß", "ss", "-", "")

// Looks is a text as it looks at a glance: what is easily taken for the same is the same.
func Looks(text string) string {
	var b strings.Builder
	for _, r := range norm.NFKD.String(strings.ToLower(text)) {
		if !unicode.Is(unicode.Mn, r) {
			b.WriteRune(r)
		}
	}
	return confusable.Replace(b.String())
}

// Alike says that a domain may be taken for another that the reader knows: it looks the
// same, or differs by one letter where both are long.
func Alike(domain, known string) bool {
	if domain == known || domain == "" || known == "" || strings.HasSuffix(domain, "."+known) || strings.HasSuffix(known, "."+domain) {
		return false
	}
	a, b := Looks(domain), Looks(known)
	return a == b || min(len(domain), len(known)) >= 10 && oneApart(a, b)
}

// oneApart says that two texts differ by one letter that is another, missing, too much,
// or in the place of its neighbour.
func oneApart(a, b string) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	if len(b)-len(a) > 1 {
		return false
	}
	i := 0
	for i < len(a) && a[i] == b[i] {
		i++
	}
	if len(a) < len(b) {
		return a[i:] == b[i+1:]
	}
	if i+1 < len(a) && a[i] == b[i+1] && a[i+1] == b[i] && a[i+2:] == b[i+2:] {
		return true
	}
	return i == len(a) || a[i+1:] == b[i+1:]
}
