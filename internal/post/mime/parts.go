package mime

import (
	"bytes"
	"errors"
	"strings"

	"github.com/jhillyerd/enmime/v2"
	"github.com/jhillyerd/enmime/v2/mediatype"
)

// How far a message is taken apart (RFC 2046). Beyond that it is kept raw:
// nobody writes such a message by other than evil or broken means.
const (
	maxDepth = 10      // multiparts within multiparts
	maxParts = 1000    // parts in all
	maxField = 8 << 10 // bytes of a field that says what a part is
)

var (
	errDeep = errors.New("the message has parts within parts beyond all measure")
	errMany = errors.New("the message has more parts than anybody could read")
)

// node is a part of a message: a multipart with its children, or a leaf with
// its body, still in the encoding in which it was sent.
type node struct {
	header   header
	kind     string // media type, in lower case
	params   map[string]string
	children []*node
	body     []byte
}

// takeApart finds the parts of a message in one walk over its lines. A line
// that is a boundary of any multipart that is open ends all that is within that
// one, so nothing is looked at twice, closed or not.
func takeApart(raw []byte) (root *node, err error) {
	type open struct {
		node     *node
		boundary string
	}
	var stack []open
	var leaf *node // the part whose body is being read
	parts, begin := 0, 0
	end := func(at int) { // the line end before a boundary belongs to it (RFC 2046, section 5.1.1)
		if leaf != nil {
			leaf.body = bytes.TrimSuffix(bytes.TrimSuffix(raw[begin:max(begin, at)], []byte("\n")), []byte("\r"))
			leaf = nil
		}
	}
	enter := func(at int) (int, error) { // the part that begins at the byte at
		if parts++; parts > maxParts {
			return at, errMany
		}
		n := &node{}
		n.header, begin = headerAt(raw, at)
		n.describe(len(stack) > 0 && stack[len(stack)-1].node.kind == "multipart/digest")
		if root == nil {
			root = n
		} else {
			parent := stack[len(stack)-1].node
			parent.children = append(parent.children, n)
		}
		if strings.HasPrefix(n.kind, "multipart/") {
			boundary := strings.TrimRight(n.params["boundary"], " \t")
			if boundary == "" {
				boundary = guessBoundary(raw[begin:])
			}
			if boundary != "" {
				if len(stack) >= maxDepth {
					return at, errDeep
				}
				stack = append(stack, open{n, boundary})
				return begin, nil
			}
			n.kind = "text/plain" // it cannot be divided: whatever it holds is shown
		}
		leaf = n
		return begin, nil
	}
	at, err := enter(0)
	if err != nil {
		return nil, err
	}
	for at < len(raw) {
		line, next := raw[at:], len(raw)
		if n := bytes.IndexByte(line, '\n'); n >= 0 {
			line, next = line[:n], at+n+1
		}
		if len(line) > 2 && line[0] == '-' && line[1] == '-' {
			rest := bytes.TrimRight(line[2:], " \t\r")
			for i := range stack {
				after, ok := bytes.CutPrefix(rest, []byte(stack[i].boundary))
				if !ok || len(after) > 0 && string(after) != "--" {
					continue
				}
				end(at)
				if len(after) > 0 { // closed: what follows up to a boundary outside is nothing
					stack = stack[:i]
				} else if stack = stack[:i+1]; true {
					if next, err = enter(next); err != nil {
						return nil, err
					}
				}
				break
			}
		}
		at = next
	}
	if leaf != nil {
		leaf.body = raw[min(begin, len(raw)):]
	}
	return root, nil
}

// headerAt reads the header that begins at the byte at, and says where the body
// does. Where there is none, because a line that is no field comes first, all
// of it is the body.
func headerAt(raw []byte, at int) (header, int) {
	from := at
	for at < len(raw) {
		line, next := raw[at:], len(raw)
		if n := bytes.IndexByte(line, '\n'); n >= 0 {
			line, next = line[:n], at+n+1
		}
		if len(bytes.TrimRight(line, "\r")) == 0 {
			return readHeader(raw[from:at]), next
		}
		if at == from && !headerLine.Match(line[:min(len(line), 300)]) {
			return nil, from
		}
		if len(line) > 2 && line[0] == '-' && line[1] == '-' && !bytes.Contains(line, []byte(":")) { // a boundary: the empty line was left out
			return readHeader(raw[from:at]), at
		}
		at = next
	}
	return readHeader(raw[from:]), len(raw)
}

// describe reads what a part says it is (RFC 2045, section 5).
func (n *node) describe(inDigest bool) {
	said := n.header.first("Content-Type")
	n.kind = "text/plain"
	if inDigest { // RFC 2046, section 5.1.5
		n.kind = "message/rfc822"
	}
	if said == "" {
		return
	}
	kind, params := parameters(said)
	if strings.Contains(kind, "/") {
		n.kind, n.params = kind, params
	} else if kind != "text" && kind != "" {
		n.kind = "application/octet-stream"
	}
}

// parameters reads a value with parameters (RFC 2045, section 5.1; RFC 2231),
// as broken as real programs write it.
func parameters(said string) (value string, params map[string]string) {
	if len(said) > maxField {
		said = strings.ToValidUTF8(said[:maxField], "")
	}
	defer func() { // a field that the reader of fields gives up on says nothing
		if recover() != nil {
			value, params = "", nil
		}
	}()
	value, params, _, err := mediatype.ParseWithOptions(said, mediatype.ParseOptions{StripMediaTypeInvalidCharacters: true})
	if err != nil {
		value, _, _ = strings.Cut(said, ";")
		value = strings.TrimSpace(value)
	}
	return strings.ToLower(value), params
}

// guessBoundary finds the boundary of a multipart that does not name it: the
// first line that looks like one, near the beginning.
func guessBoundary(body []byte) string {
	for range 50 {
		line, rest, more := bytes.Cut(body, []byte("\n"))
		line = bytes.TrimRight(line, " \t\r")
		if after, ok := bytes.CutPrefix(line, []byte("--")); ok && len(after) > 2 && len(after) <= 70 && !bytes.ContainsAny(after, " \t") {
			return string(after)
		}
		if !more {
			break
		}
		body = rest
	}
	return ""
}

var decoder = enmime.NewParser(enmime.SkipMalformedParts(true), enmime.MaxStoredPartErrors(10), enmime.SetReadPartErrorPolicy(enmime.AllowCorruptTextPartErrorPolicy))

// content is the body of a leaf, out of the encoding in which it was sent (RFC
// 2045, section 6). What cannot be decoded to its end is given as far as it
// goes.
func (n *node) content() []byte {
	how, _, _ := strings.Cut(strings.ToLower(strings.TrimSpace(n.header.first("Content-Transfer-Encoding"))), " ")
	if how != "base64" && how != "quoted-printable" {
		return n.body
	}
	var b bytes.Buffer
	b.Grow(len(n.body) + 100)
	b.WriteString("Content-Type: application/octet-stream\r\nContent-Transfer-Encoding: " + how + "\r\n\r\n")
	b.Write(n.body)
	part, err := decodeLeaf(&b)
	if err != nil {
		return n.body
	}
	return part.Content
}

func decodeLeaf(b *bytes.Buffer) (p *enmime.Part, err error) {
	defer func() { // a decoder that gives up in the middle takes nothing else with it
		if said := recover(); said != nil {
			err = errors.New("the part cannot be decoded")
		}
	}()
	return decoder.ReadParts(b)
}

// text is the content of a leaf that is text, as UTF-8.
func (n *node) text() string { return inCharset(n.content(), n.params["charset"]) }

// disposition is whether a part is shown in place or is a file beside (RFC
// 2183), with the name of the file.
func (n *node) disposition() (how, name string) {
	how, params := parameters(n.header.first("Content-Disposition"))
	for _, name := range []string{params["filename"], n.params["name"], n.params["file"]} {
		if name != "" {
			return how, decodeWords(name)
		}
	}
	return how, ""
}
