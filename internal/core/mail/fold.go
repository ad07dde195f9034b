package mail

import (
	"regexp"
	"strings"
)

var attribution = regexp.MustCompile(`(?i)^(on .{5,200} wrote:|am .{5,200} schrieb.*:|le .{5,200} a écrit\s?:|den .{5,200} skrev.*:|.{3,80} wrote on .{5,80}:|-{2,}\s*(original message|forwarded message|ursprüngliche nachricht)\s*-{2,})$`)

// announces says that a line announces a quotation. Few lines end as one that does, and
// what comes in is read thousands a second.
func announces(line string) bool {
	return (strings.HasSuffix(line, ":") || strings.HasSuffix(line, "--")) && len(line) <= longestAttribution && attribution.MatchString(line)
}

// longestAttribution is how many bytes a line that announces a quotation has at
// most.
const longestAttribution = 400

// OwnWords is what the sender of a text wrote, without what they quote.
func OwnWords(text string) string {
	var own []string
	for _, b := range Fold(text) {
		if !b.Quoted {
			own = append(own, b.Text)
		}
	}
	return strings.Join(own, "\n\n")
}

// Fold splits a plain text into what its sender wrote and what they quoted:
// lines after ">" and everything below a line that announces the original. It
// looks at each line once.
func Fold(text string) []Block {
	lines := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	above := quotedBelow(lines)
	var out []Block
	begin, now, rest := 0, false, false // rest: everything below is the original message
	flush := func(end int) {
		block := strings.Trim(strings.Join(lines[begin:end], "\n"), "\n")
		if strings.TrimSpace(block) != "" {
			out = append(out, Block{Text: block, Quoted: now})
		}
		begin = end
	}
	for i, line := range lines {
		t := strings.TrimSpace(line)
		quoted := rest || strings.HasPrefix(t, ">")
		if !quoted && announces(t) {
			rest = strings.HasPrefix(t, "--")
			quoted = rest || above[i]
		}
		if t == "" && !rest { // an empty line goes with what is above it
			quoted = now
		}
		if quoted != now {
			flush(i)
			now = quoted
		}
	}
	flush(len(lines))
	return out
}

// quotedBelow says for each line whether the next one that is not empty is
// quoted.
func quotedBelow(lines []string) []bool {
	out := make([]bool, len(lines))
	next := false
	for i := len(lines) - 1; i >= 0; i-- {
		out[i] = next
		if t := strings.TrimSpace(lines[i]); t != "" {
			next = strings.HasPrefix(t, ">")
		}
	}
	return out
}
