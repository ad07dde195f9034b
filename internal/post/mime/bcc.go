package mime

import "bytes"

// WithoutBcc is a message without the fields that name whom it went to unseen (Bcc, Resent-Bcc; RFC
// 5322, sections 3.6.3 and 3.6.6); all else is byte for byte what it was.
func WithoutBcc(raw []byte) []byte {
	end := len(raw)
	if at := blankLine.FindIndex(raw); at != nil {
		end = at[0]
	}
	var out []byte // nil as long as nothing was left out
	left, begin := false, 0
	for begin < end {
		next := end
		if n := bytes.IndexByte(raw[begin:end], '\n'); n >= 0 {
			next = begin + n + 1
		}
		line := raw[begin:next]
		if line[0] != ' ' && line[0] != '\t' { // else it goes on with the field before it (section 2.2.3)
			name, _, _ := bytes.Cut(line, []byte(":"))
			name = bytes.TrimRight(name, " \t")
			left = bytes.EqualFold(name, []byte("Bcc")) || bytes.EqualFold(name, []byte("Resent-Bcc"))
		}
		switch {
		case left && out == nil:
			out = append(make([]byte, 0, len(raw)), raw[:begin]...)
		case !left && out != nil:
			out = append(out, line...)
		}
		begin = next
	}
	if out == nil {
		return raw
	}
	return append(bytes.TrimRight(out, "\r\n"), raw[end:]...)
}
