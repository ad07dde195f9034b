package mime

import (
	"bytes"
	"encoding/base64"
	"io"
	"mime/quotedprintable"
	"net/textproto"
	"regexp"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/htmlindex"
)

// field is one field of a header (RFC 5322, section 2.2), unfolded. Its value
// is UTF-8, with its encoded words (RFC 2047) as they came.
type field struct {
	name  string // in canonical form
	value string
}

// header is the header of a message or of a part, in the order in which its
// fields stand.
type header []field

// all gives the values of a field.
func (h header) all(name string) (out []string) {
	name = textproto.CanonicalMIMEHeaderKey(name)
	for _, f := range h {
		if f.name == name {
			out = append(out, f.value)
		}
	}
	return out
}

// first gives the first value of a field, or "".
func (h header) first(name string) string {
	name = textproto.CanonicalMIMEHeaderKey(name)
	for _, f := range h {
		if f.name == name {
			return f.value
		}
	}
	return ""
}

// maxFields is how many fields of a header are read: no program that sends mail
// comes near it.
const maxFields = 5000

// readHeader reads the fields of a header. Lines that are none are passed over:
// a mark of an mbox, or what a broken program has left between.
func readHeader(raw []byte) (h header) {
	var value bytes.Buffer
	name := ""
	flush := func() {
		if name != "" && len(h) < maxFields {
			h = append(h, field{name, strings.TrimSpace(inUTF8(value.Bytes()))})
		}
		name = ""
		value.Reset()
	}
	for len(raw) > 0 {
		line := raw
		if n := bytes.IndexByte(raw, '\n'); n >= 0 {
			line, raw = raw[:n], raw[n+1:]
		} else {
			raw = nil
		}
		line = bytes.TrimSuffix(line, []byte("\r"))
		if len(line) > 0 && (line[0] == ' ' || line[0] == '\t') {
			if name != "" { // RFC 5322, section 2.2.3
				value.WriteByte(' ')
				value.Write(bytes.TrimLeft(line, " \t"))
			}
			continue
		}
		flush()
		before, after, ok := bytes.Cut(line, []byte(":"))
		if before = bytes.TrimRight(before, " \t"); ok && isFieldName(before) {
			name = textproto.CanonicalMIMEHeaderKey(string(before))
			value.Write(after)
		}
	}
	flush()
	return h
}

func isFieldName(b []byte) bool {
	for _, c := range b {
		if c <= ' ' || c >= 0x7F || c == ':' {
			return false
		}
	}
	return len(b) > 0 && len(b) < 200
}

// inUTF8 reads bytes that do not say what they are: as UTF-8 where they are,
// else as what programs send that know no better, windows-1252.
func inUTF8(b []byte) string {
	if utf8.Valid(b) {
		return string(b)
	}
	out, err := charmap.Windows1252.NewDecoder().Bytes(b)
	if err != nil {
		return strings.ToValidUTF8(string(b), "\uFFFD")
	}
	return string(out)
}

var encodedWord = regexp.MustCompile(`=\?([^?\s]{1,60})\?([bBqQ])\?([^?]*)\?=`)

// decodeWords decodes the encoded words of a field (RFC 2047, section 2), also
// where a character was cut in two between words. What cannot be decoded stays
// as it is.
func decodeWords(s string) string {
	if !strings.Contains(s, "=?") {
		return s
	}
	var out strings.Builder
	var run bytes.Buffer // decoded bytes of adjacent words of one charset
	charset, last := "", 0
	flush := func() {
		if charset != "" {
			out.WriteString(inCharset(run.Bytes(), charset))
		}
		run.Reset()
		charset = ""
	}
	for _, at := range encodedWord.FindAllStringSubmatchIndex(s, -1) {
		between := s[last:at[0]]
		set, _, _ := strings.Cut(strings.ToLower(s[at[2]:at[3]]), "*") // RFC 2231, section 5: without its language
		content, ok := decodeWord(s[at[4]], s[at[6]:at[7]])
		if !ok {
			continue
		}
		if charset != set || strings.TrimSpace(between) != "" {
			flush()
			if last == 0 || strings.TrimSpace(between) != "" { // white space between two words counts for nothing
				out.WriteString(between)
			}
		}
		charset, last = set, at[1]
		run.Write(content)
	}
	flush()
	out.WriteString(s[last:])
	return out.String()
}

func decodeWord(how byte, text string) ([]byte, bool) {
	if how == 'b' || how == 'B' {
		raw, err := base64.RawStdEncoding.DecodeString(strings.TrimRight(strings.ReplaceAll(text, " ", ""), "="))
		return raw, err == nil
	}
	raw, err := io.ReadAll(quotedprintable.NewReader(strings.NewReader(strings.ReplaceAll(text, "_", "=20"))))
	return raw, err == nil
}

// inCharset reads bytes that are said to be in a charset. What is said is not
// believed where it cannot be right, or where the bytes are UTF-8 all the same:
// text in another charset is that by no accident.
func inCharset(b []byte, charset string) string {
	charset = strings.ToLower(strings.Trim(charset, ` "'`))
	_, after, nested := strings.Cut(charset, "=") // charset="charset=utf-8"
	if nested {
		charset = after
	}
	switch charset {
	case "", "utf-8", "utf8", "us-ascii", "ascii", "iso-8859-1", "windows-1252", "latin1":
		return inUTF8(b)
	}
	e, err := htmlindex.Get(charset)
	if err != nil || e == encoding.Replacement {
		return inUTF8(b)
	}
	out, err := e.NewDecoder().Bytes(b)
	if err != nil {
		return inUTF8(b)
	}
	return string(out)
}
