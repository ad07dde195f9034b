// Package mime reads whatever is sent as mail (RFC 5322, RFC 2045 to 2049) and
// never fails, makes its HTML safe to show, and writes what Ebbe sends.
package mime

import (
	"bytes"
	"io"
	"mime"
	netmail "net/mail"
	"regexp"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Limits on what is taken apart. Beyond them a message is kept raw.
const (
	maxHeader = 1 << 20   // bytes of its header
	maxBody   = 200 << 20 // bytes of the whole
	maxRefs   = 100       // References kept
	maxLine   = 1000      // characters of a subject or name
)

// Reader is the version of Read: it grows when Read can take apart what it kept
// raw before, and whoever kept a message raw with a smaller one reads it again.
const Reader = 2

// Part is a part of a message that can be fetched by itself.
type Part struct {
	mail.File
	ContentID string // without angle brackets (RFC 2392)
	Content   []byte
}

// Body is a message with the contents of its parts: the files in the order of
// mail.Message.Files, and the parts its HTML shows inline.
type Body struct {
	mail.Message
	Parts      []Part
	Inline     []Part
	Protection mail.Protection
	Trace      []mail.Trace // what servers on its way have put on top, from the top
}

// Read takes a message apart, in time and memory that grow with its size and
// with nothing else. It never fails: what cannot be read as MIME comes back with
// Raw set and the original as its text.
func Read(raw []byte) Body {
	head := HeaderOf(raw)
	if len(head) == 0 || len(head) > maxHeader || len(raw) > maxBody {
		return KeptRaw(raw)
	}
	whole := raw
	if bytes.IndexByte(raw, 0) >= 0 {
		whole = bytes.ReplaceAll(raw, []byte{0}, nil) // no text of a message may hold them (RFC 5322, section 4)
	}
	root, err := takeApart(whole)
	if err != nil {
		return KeptRaw(raw)
	}
	h := root.header
	b := Body{Message: fields(h)}
	get := h.clean
	var c contents
	c.gather(root)
	var within *node
	if b.Protection, within = protectionOf(root, c.plain()); within != nil {
		c.gather(within)
	}
	b.Text, b.HTML = mail.Scrub(c.plain()), mail.Scrub(c.html())
	calendar := false
	for _, f := range c.files {
		calendar = calendar || f.Type == "text/calendar"
		if f.ContentID != "" && strings.HasPrefix(f.Type, "image/") && (!f.attached || strings.Contains(b.HTML, "cid:"+f.ContentID)) {
			b.Inline = append(b.Inline, f.Part)
			continue
		}
		b.Files, b.Parts = append(b.Files, f.File), append(b.Parts, f.Part)
	}
	b.Kind = mail.KindOf(get, b.From, b.Subject, calendar)
	if b.Kind == mail.Bounce || root.kind == "multipart/report" {
		b.Reports = reports(root, &b.Message)
	}
	b.AnswerTo = mail.AnswerTo(get, b.From, b.Kind)
	b.List = mail.ListID(get)
	for _, f := range h {
		if len(b.Trace) < mail.MaxTrace && slices.Contains(mail.TraceNames, f.name) {
			b.Trace = append(b.Trace, mail.Trace{Name: f.name, Value: f.value})
		}
	}
	b.Leave, b.ReceiptTo = mail.LeavingOf(get), receiptTo(get("Disposition-Notification-To"))
	if len(b.Text) == 0 && len(b.HTML) == 0 && len(b.Parts) == 0 && len(raw) > len(head)+4 {
		b.Text = asText(raw[len(head):])
	}
	return b
}

// Words is the text of a message, made of its HTML where it has but that.
func (b Body) Words() string {
	if strings.TrimSpace(b.Text) == "" && b.HTML != "" {
		return TextOf(b.HTML)
	}
	return b.Text
}

// found is a file of a message.
type found struct {
	Part
	attached bool // it was sent as a file beside, rather than to be shown in place
}

// section is a piece of the words of a message: the same in one or both forms.
type section struct{ text, html string }

// contents are the words of a message in their order, and its files.
type contents struct {
	sections []section
	files    []found
}

// gather sorts what is below a part into words and files. Of alternatives (RFC
// 2046, section 5.1.4) the plain and the rich form make one section.
func (c *contents) gather(n *node) {
	if n.children == nil && strings.HasPrefix(n.kind, "multipart/") {
		return
	}
	if n.kind == "multipart/alternative" {
		var forms contents
		for _, child := range n.children {
			forms.gather(child)
		}
		var s section
		for _, form := range forms.sections {
			if s.text == "" {
				s.text = form.text
			}
			if form.html != "" {
				s.html = form.html
			}
		}
		if s != (section{}) {
			c.sections = append(c.sections, s)
		}
		c.files = append(c.files, forms.files...)
		return
	}
	if n.children != nil {
		for _, child := range n.children {
			c.gather(child)
		}
		return
	}
	how, name := n.disposition()
	words := how != "attachment" && (name == "" || how == "inline" || how == "")
	switch {
	case words && n.kind == "text/plain" && (name == "" || how == "inline" && len(c.sections) == 0):
		if text := n.text(); strings.TrimSpace(text) != "" {
			c.sections = append(c.sections, section{text: text})
		}
	case words && n.kind == "text/html" && name == "":
		if text := n.text(); strings.TrimSpace(text) != "" {
			c.sections = append(c.sections, section{html: text})
		}
	default:
		content := n.content()
		id := strings.Trim(strings.TrimSpace(n.header.first("Content-ID")), "<>")
		c.files = append(c.files, found{Part{File: mail.File{Name: fileName(n.kind, name), Type: n.kind, Size: len(content)}, ContentID: id, Content: content}, how == "attachment"})
	}
}

// plain is the plain form of the words; "" if there is none of any of them.
func (c *contents) plain() string {
	return c.words(func(s section) string { return s.text }, func(s section) string { return TextOf(s.html) })
}

// html is the rich form of the words; "" if there is none of any of them.
func (c *contents) html() string {
	return c.words(func(s section) string { return s.html }, func(s section) string { return PlainHTML(s.text) })
}

// words are those of all sections in one form, for which the other form stands in
// where a section has but that; "" if none has the one.
func (c *contents) words(form, other func(section) string) string {
	if !slices.ContainsFunc(c.sections, func(s section) bool { return form(s) != "" }) {
		return ""
	}
	var out []string
	for _, s := range c.sections {
		text := form(s)
		if text == "" {
			text = other(s)
		}
		if text != "" {
			out = append(out, text)
		}
	}
	return strings.Join(out, "\n")
}

// reports reads what a delivery report says (RFC 3464, RFC 6522), and makes the
// message it is about an ancestor of it.
func reports(root *node, m *mail.Message) (out []mail.Report) {
	original := ""
	var look func(n *node)
	look = func(n *node) {
		switch n.kind {
		case "message/delivery-status":
			out = append(out, mail.ReadReports(inUTF8(n.content()))...)
		case "message/disposition-notification":
			if r, ok := mail.ReadDisposition(inUTF8(n.content())); ok {
				original = r.Original
				out = append(out, r)
			}
		case "message/rfc822", "text/rfc822-headers", "message/rfc822-headers":
			h, _ := headerAt(n.content(), 0)
			if ids := messageIDs(h.first("Message-ID")); len(ids) > 0 && original == "" {
				original = ids[0]
			}
		}
		for _, child := range n.children {
			look(child)
		}
	}
	look(root)
	for i := range out {
		out[i].Original, out[i].Said = original, mail.Clean(out[i].Said, 300)
	}
	if original != "" && !slices.Contains(m.References, original) {
		m.References = append(m.References, original)
	}
	return out
}

// clean gives the first value of a field, decoded, as one line of at most
// maxLine characters.
func (h header) clean(name string) string {
	value := h.first(name)
	if most := 32 * maxLine; len(value) > most { // encoded, a line is longer than it is
		value = strings.ToValidUTF8(value[:most], "")
	}
	return mail.Clean(decodeWords(value), maxLine)
}

// fields reads the header of a message. What it answers is said by References,
// and only where there are none by In-Reply-To (RFC 5256, section 3).
func fields(h header) mail.Message {
	m := mail.Message{Subject: h.clean("Subject"), Date: date(h.clean("Date"), h.all("Received"))}
	if ids := messageIDs(h.first("Message-ID")); len(ids) > 0 {
		m.MessageID = ids[0]
	}
	seen := map[string]bool{m.MessageID: true}
	refer := func(ids []string) {
		for _, id := range ids {
			if !seen[id] {
				seen[id] = true
				m.References = append(m.References, id)
			}
		}
	}
	if refer(messageIDs(strings.Join(h.all("References"), " "))); len(m.References) == 0 {
		if ids := messageIDs(h.first("In-Reply-To")); len(ids) > 0 {
			refer(ids[:1])
		}
	}
	if n := len(m.References); n > maxRefs {
		m.References = append(m.References[:1:1], m.References[n-maxRefs+1:]...)
	}
	if from := addresses(strings.Join(h.all("From"), ", ")); len(from) > 0 {
		m.From = from[0]
	} else if sender := addresses(strings.Join(h.all("Sender"), ", ")); len(sender) > 0 {
		m.From = sender[0]
	}
	m.To, m.Cc = addresses(strings.Join(h.all("To"), ", ")), addresses(strings.Join(h.all("Cc"), ", "))
	m.Bcc = addresses(strings.Join(h.all("Bcc"), ", "))
	m.ReplyTo = addresses(strings.Join(h.all("Reply-To"), ", "))
	return m
}

// maxRawText is how many bytes of a message that is kept raw are its text.
const maxRawText = 1 << 20

// KeptRaw is a message of which only the header is read, as far as it can be.
func KeptRaw(raw []byte) Body {
	head := HeaderOf(raw)
	h := readHeader(head[:min(len(head), maxHeader)])
	b := Body{Message: fields(h)}
	b.Raw, b.Kind = true, mail.KindOf(h.clean, b.From, b.Subject, false)
	b.Text = asText(raw[:min(len(raw), maxRawText)])
	return b
}

var blankLine = regexp.MustCompile(`\r?\n\r?\n`)

var headerLine = regexp.MustCompile(`^(>?From .*\r?\n)?[!-9;-~]+[ \t]*:`)

// HeaderOf is the part of raw before the first empty line, if its first line
// has the look of a header field at all.
func HeaderOf(raw []byte) []byte {
	head := raw
	if at := blankLine.FindIndex(raw); at != nil {
		head = raw[:at[0]]
	}
	if !headerLine.Match(head[:min(len(head), 4096)]) {
		return nil
	}
	return head
}

// asText shows bytes as text.
func asText(raw []byte) string { return mail.Scrub(inUTF8(raw)) }

var (
	angled  = regexp.MustCompile(`<([^<>\s]{1,250})>`)
	plainID = regexp.MustCompile(`^[^<>\s@]{1,200}@[^<>\s@]{1,200}$`)
	inAddr  = regexp.MustCompile(`^[^\s<>@,;"]+@[^\s<>@,;"]+$`)
	// An encoded word or a quoted name may hold what would else end it.
	anyAddr = regexp.MustCompile(`((?:=\?[^?\s]+\?[bBqQ]\?[^?]*\?=|"[^"]*"|[^<>,;])*?)<?\b([^\s<>@,;"=?]+@[^\s<>@,;"]+)>?`)
)

func messageIDs(field string) (ids []string) {
	for _, m := range angled.FindAllStringSubmatch(field, -1) {
		ids = append(ids, m[1])
	}
	if ids == nil && plainID.MatchString(strings.TrimSpace(field)) {
		ids = []string{strings.TrimSpace(field)}
	}
	return ids
}

// maxAddresses is how many bytes of an address list are read, some 5,000 people.
const maxAddresses = 256 << 10

// addresses reads an address list (RFC 5322, section 3.4), and finds what it
// can in one that is broken.
func addresses(field string) (out []mail.Address) {
	if strings.TrimSpace(field) == "" {
		return nil
	}
	field = mail.Scrub(field)
	if len(field) > maxAddresses {
		field = strings.ToValidUTF8(field[:maxAddresses], "")
	}
	p := netmail.AddressParser{WordDecoder: &mime.WordDecoder{CharsetReader: func(charset string, r io.Reader) (io.Reader, error) {
		raw, err := io.ReadAll(r)
		return strings.NewReader(inCharset(raw, charset)), err
	}}}
	if list, err := p.ParseList(field); err == nil {
		for _, a := range list {
			out = append(out, mail.Address{Name: nameOf(a.Name, a.Address), Address: strings.ToLower(a.Address)})
		}
		return out
	}
	for _, m := range anyAddr.FindAllStringSubmatch(field, 100) {
		out = append(out, mail.Address{Name: nameOf(decodeWords(strings.TrimSpace(m[1])), m[2]), Address: strings.ToLower(m[2])})
	}
	if out == nil {
		out = []mail.Address{{Name: mail.Clean(decodeWords(field), 200)}}
	}
	return out
}

func nameOf(name, address string) string {
	name = mail.Clean(strings.Trim(strings.TrimSpace(name), `"'`), 200)
	if strings.EqualFold(name, address) {
		return ""
	}
	if inAddr.MatchString(name) { // a name that poses as another address
		return ""
	}
	return name
}

// date reads the Date field, or where it is missing or absurd, the newest
// Received field.
func date(field string, received []string) when.Instant {
	try := func(s string) when.Instant {
		t, err := netmail.ParseDate(strings.TrimSpace(s))
		if err != nil {
			for _, layout := range []string{time.RFC3339, "Mon, 2 Jan 2006 15:04:05", "2 Jan 2006 15:04", "2006-01-02 15:04:05", "Mon Jan _2 15:04:05 2006"} {
				if t, err = time.Parse(layout, strings.TrimSpace(s)); err == nil {
					break
				}
			}
		}
		if err != nil || t.Year() < 1975 || t.Year() > 2100 {
			return 0
		}
		return when.Of(t)
	}
	if d := try(field); d != 0 || len(received) == 0 {
		return d
	}
	r := received[0]
	return try(r[strings.LastIndexByte(r, ';')+1:])
}

var pathMark = regexp.MustCompile(`[/\\:*?"<>|]+`)

// FileName makes a name under which a file can be saved anywhere; "" if
// nothing of it is left.
func FileName(name string) string {
	return strings.Trim(pathMark.ReplaceAllString(mail.Clean(name, 150), "_"), ". ")
}

// fileName is a name under which a part of that type can be saved anywhere, as
// near to what it is called as may be.
func fileName(kind, called string) string {
	if name := FileName(called); name != "" {
		return name
	}
	switch kind {
	case "text/calendar":
		return "invitation.ics"
	case "message/rfc822":
		return "message.eml"
	}
	ext := ".bin"
	if e, err := mime.ExtensionsByType(kind); err == nil && len(e) > 0 {
		ext = e[0]
	}
	return "file" + ext
}
