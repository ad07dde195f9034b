package mail

import (
	"regexp"
	"strings"
)

var attribution = regexp.MustCompile(`(?i)^(on .{5,200} wrote:|am .{5,200} schrieb.*:|le .{5,200} a écrit\s?:|den .{5,200} skrev.*:|.{3,80} wrote on .{5,80}:|-{2,}\s*(original message|forwarded message|ursprüngliche nachricht)\s*-{2,})$`)

// Fold splits a plain text into what its sender wrote and what they quoted:
// lines after ">" and everything below a line that announces the original.
func Fold(text string) []Block {
	lines := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	var blocks []Block
	add := func(line string, quoted bool) {
		if n := len(blocks); n > 0 && blocks[n-1].Quoted == quoted {
			blocks[n-1].Text += "\n" + line
			return
		}
		blocks = append(blocks, Block{line, quoted})
	}
	rest := false // everything below is the original message
	for i, line := range lines {
		t := strings.TrimSpace(line)
		quoted := rest || strings.HasPrefix(t, ">")
		if !quoted && attribution.MatchString(t) {
			next := ""
			for _, l := range lines[i+1:] {
				if next = strings.TrimSpace(l); next != "" {
					break
				}
			}
			rest = strings.HasPrefix(t, "--")
			quoted = rest || strings.HasPrefix(next, ">")
		}
		if t == "" && len(blocks) > 0 {
			quoted = blocks[len(blocks)-1].Quoted && !rest || rest
		}
		add(line, quoted)
	}
	out := blocks[:0]
	for _, b := range blocks {
		b.Text = strings.Trim(b.Text, "\n")
		if strings.TrimSpace(b.Text) != "" {
			out = append(out, b)
		}
	}
	return out
}
