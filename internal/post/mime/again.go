package mime

import (
	"bytes"
	"fmt"
	"strings"
	"time"
)

// Again is a message that is sent once more as another one: with its own
// Message-ID and Date, and everything else as it was.
func Again(raw []byte, id string, at time.Time) []byte {
	head := HeaderOf(raw)
	fresh := map[string]string{"message-id": "<" + id + ">", "date": at.Format("Mon, 02 Jan 2006 15:04:05 -0700")}
	var out bytes.Buffer
	skipping := false
	for line := range bytes.Lines(head) {
		if line[0] == ' ' || line[0] == '\t' {
			if !skipping {
				out.Write(line)
			}
			continue
		}
		name, _, _ := strings.Cut(string(line), ":")
		value, ok := fresh[strings.ToLower(strings.TrimSpace(name))]
		if skipping = ok; ok {
			fmt.Fprintf(&out, "%s: %s", name, value)
			if bytes.HasSuffix(line, []byte("\n")) { // the last line of the head ends with what follows
				out.WriteString("\r\n")
			}
			continue
		}
		out.Write(line)
	}
	out.Write(raw[len(head):])
	return out.Bytes()
}
