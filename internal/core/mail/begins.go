package mail

import (
	"strings"
	"unicode"
)

// MaxBegins is how many characters the beginning of a text has at most.
const MaxBegins = 140

// longestGreeting is how many characters a line that only greets has at most.
const longestGreeting = 40

// Begins is the beginning of what the sender of a plain text has to say, in one
// line of at most MaxBegins characters: without what they quote, a greeting in a
// line of its own, and characters that only fill. Empty if there is nothing.
func Begins(text string) string {
	const enough = 8 << 10 // bytes in which a beginning is looked for
	if len(text) > enough {
		text = strings.ToValidUTF8(text[:enough], "")
	}
	for _, b := range Fold(text) {
		if b.Quoted {
			continue
		}
		if own := inOneLine(b.Text); own != "" {
			return own
		}
	}
	return ""
}

func inOneLine(text string) string {
	var words []string
	greeted, runes := "", 0
	for line := range strings.Lines(text) {
		of := strings.Fields(strings.Map(shown, line))
		if len(of) == 0 {
			continue
		}
		if of[0] == "--" && len(of) == 1 { // the signature (RFC 3676, section 4.3)
			break
		}
		if len(words) == 0 && greeted == "" && greets(of) {
			greeted = strings.Join(of, " ")
			continue
		}
		for _, w := range of {
			words, runes = append(words, w), runes+len([]rune(w))+1
		}
		if runes > MaxBegins {
			break
		}
	}
	if len(words) == 0 {
		return cutAt(greeted)
	}
	return cutAt(strings.Join(words, " "))
}

// greets says whether a line does nothing but greet: it is short, ends with a comma
// or an exclamation mark, and has a few words.
func greets(words []string) bool {
	last := words[len(words)-1]
	return len(words) <= 5 && len([]rune(strings.Join(words, " "))) <= longestGreeting && (strings.HasSuffix(last, ",") || strings.HasSuffix(last, "!"))
}

// shown drops what is not seen: controls, what only joins, parts or fills.
func shown(r rune) rune {
	switch {
	case unicode.IsSpace(r):
		return ' '
	case unicode.IsControl(r), unicode.Is(unicode.Cf, r), r == '\u034f', r == '\u115f', r == '\u1160', r == '\u2800', r == '\u3164':
		return -1
	}
	return r
}

// cutAt cuts a line to MaxBegins characters, at the end of a word if one ends in
// its last third.
func cutAt(line string) string {
	runes := []rune(line)
	if len(runes) <= MaxBegins {
		return line
	}
	cut := string(runes[:MaxBegins-1])
	if i := strings.LastIndexByte(cut, ' '); i > len(cut)*2/3 {
		cut = cut[:i]
	}
	return strings.TrimRight(cut, " ,;:") + "…"
}
