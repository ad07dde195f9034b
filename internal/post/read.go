// Package post brings mail in and out: MIME as real programs send it, mbox,
// .eml and Maildir, and HTML that is safe to show.
package post

import (
	"bytes"
	"fmt"
	"io"
	"mime"
	netmail "net/mail"
	"net/textproto"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/jhillyerd/enmime/v2"
	"golang.org/x/text/encoding/htmlindex"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Limits on what is taken apart. Beyond them a message is kept raw.
const (
	maxParts  = 300      // multiparts within one message
	maxHeader = 1 << 20  // bytes of its header
	maxBody   = 64 << 20 // bytes of the whole
	maxRefs   = 100      // References kept
	maxLine   = 1000     // characters of a subject or name
)

var parser = enmime.NewParser(
	enmime.SkipMalformedParts(true),
	enmime.DisableTextConversion(true),
	enmime.MultipartWOBoundaryAsSinglePart(true),
	enmime.StripMediaTypeInvalidCharacters(true),
	enmime.MaxStoredPartErrors(10),
	enmime.SetReadPartErrorPolicy(enmime.AllowCorruptTextPartErrorPolicy),
)

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
	Parts  []Part
	Inline []Part
}

// Read takes a message apart. It never fails: what cannot be read as MIME comes
// back with Raw set and the original as its text.
func Read(raw []byte) Body {
	head := headerOf(raw)
	if len(head) > maxHeader || len(raw) > maxBody || multiparts(raw) > maxParts {
		return keptRaw(raw, head)
	}
	env, err := readEnvelope(raw)
	if err != nil {
		return keptRaw(raw, head)
	}
	get := func(name string) string { return clean(env.GetHeader(name), maxLine) }
	raws := func(name string) []string { return env.Root.Header.Values(name) }
	b := Body{Message: fields(get, raws)}
	b.Text, b.HTML = scrub(env.Text), scrub(env.HTML)
	calendar := false
	add := func(p *enmime.Part, inline bool) {
		name := fileName(p)
		calendar = calendar || p.ContentType == "text/calendar"
		part := Part{File: mail.File{Name: name, Type: p.ContentType, Size: len(p.Content)}, ContentID: p.ContentID, Content: p.Content}
		if inline && p.ContentID != "" && strings.HasPrefix(p.ContentType, "image/") {
			b.Inline = append(b.Inline, part)
			return
		}
		b.Files, b.Parts = append(b.Files, part.File), append(b.Parts, part)
	}
	for _, p := range env.Attachments {
		add(p, strings.Contains(b.HTML, "cid:"+p.ContentID))
	}
	for _, p := range env.Inlines {
		add(p, true)
	}
	for _, p := range env.OtherParts {
		add(p, true)
	}
	b.Kind = mail.KindOf(get, b.From, b.Subject, calendar)
	if b.Kind == mail.Bounce || strings.HasPrefix(strings.ToLower(get("Content-Type")), "multipart/report") {
		b.Reports = reports(env.Root, &b.Message)
	}
	b.AnswerTo = mail.AnswerTo(get, b.From, b.Kind)
	b.Leave, b.ReceiptTo = mail.LeavingOf(get), receiptTo(get("Disposition-Notification-To"))
	if len(b.Text) == 0 && len(b.HTML) == 0 && len(b.Parts) == 0 && len(raw) > len(head)+4 {
		b.Text = asText(raw[len(head):])
	}
	return b
}

// reports reads what a delivery report says (RFC 3464, RFC 6522), and makes the
// message it is about an ancestor of it.
func reports(root *enmime.Part, m *mail.Message) (out []mail.Report) {
	original := ""
	for p := range parts(root) {
		switch p.ContentType {
		case "message/delivery-status":
			out = append(out, mail.ReadReports(string(p.Content))...)
		case "message/disposition-notification":
			if r, ok := mail.ReadDisposition(string(p.Content)); ok {
				original = r.Original
				out = append(out, r)
			}
		case "message/rfc822", "text/rfc822-headers", "message/rfc822-headers":
			if h, err := netmail.ReadMessage(bytes.NewReader(append(bytes.Clone(p.Content), "\r\n\r\n"...))); err == nil && original == "" {
				if ids := messageIDs(h.Header.Get("Message-ID")); len(ids) > 0 {
					original = ids[0]
				}
			}
		}
	}
	for i := range out {
		out[i].Original, out[i].Said = original, clean(out[i].Said, 300)
	}
	if original != "" && !slices.Contains(m.References, original) {
		m.References = append(m.References, original)
	}
	return out
}

// parts walks over a message and all its parts.
func parts(p *enmime.Part) func(yield func(*enmime.Part) bool) {
	return func(yield func(*enmime.Part) bool) {
		for ; p != nil; p = p.NextSibling {
			if !yield(p) {
				return
			}
			for q := range parts(p.FirstChild) {
				if !yield(q) {
					return
				}
			}
		}
	}
}

// readEnvelope shields Ebbe from a parser that gives up in the middle.
func readEnvelope(raw []byte) (env *enmime.Envelope, err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("reading MIME: %v", p)
		}
	}()
	if len(headerOf(raw)) == 0 {
		return nil, io.ErrUnexpectedEOF
	}
	if bytes.IndexByte(raw, 0) >= 0 {
		raw = bytes.ReplaceAll(raw, []byte{0}, nil) // no text of a message may hold them (RFC 5322, section 4)
	}
	return parser.ReadEnvelope(bytes.NewReader(raw))
}

// fields reads the header: get gives a field decoded, all gives every field of
// a name as it was sent.
func fields(get func(string) string, all func(string) []string) mail.Message {
	m := mail.Message{Subject: get("Subject"), Date: date(get("Date"), all("Received"))}
	if ids := messageIDs(get("Message-ID")); len(ids) > 0 {
		m.MessageID = ids[0]
	}
	seen := map[string]bool{m.MessageID: true}
	for _, field := range []string{strings.Join(all("References"), " "), get("In-Reply-To")} {
		for _, id := range messageIDs(field) {
			if !seen[id] {
				seen[id] = true
				m.References = append(m.References, id)
			}
		}
	}
	if n := len(m.References); n > maxRefs {
		m.References = append(m.References[:1:1], m.References[n-maxRefs+1:]...)
	}
	if from := addresses(strings.Join(all("From"), ", ")); len(from) > 0 {
		m.From = from[0]
	} else if sender := addresses(strings.Join(all("Sender"), ", ")); len(sender) > 0 {
		m.From = sender[0]
	}
	m.To, m.Cc = addresses(strings.Join(all("To"), ", ")), addresses(strings.Join(all("Cc"), ", "))
	m.ReplyTo = addresses(strings.Join(all("Reply-To"), ", "))
	return m
}

// keptRaw is a message of which only the header is read, as far as it can be.
func keptRaw(raw, head []byte) Body {
	h, _ := netmail.ReadMessage(bytes.NewReader(append(bytes.Clone(head[:min(len(head), maxHeader)]), "\r\n\r\n"...)))
	header := textproto.MIMEHeader{}
	if h != nil {
		header = textproto.MIMEHeader(h.Header)
	}
	all := header.Values
	get := func(name string) string { return clean(decodeWords(header.Get(name)), maxLine) }
	b := Body{Message: fields(get, all)}
	b.Raw, b.Kind = true, mail.KindOf(get, b.From, b.Subject, false)
	b.Text = asText(raw[:min(len(raw), 1<<20)])
	return b
}

// decodeWords decodes the encoded words of a field (RFC 2047); what cannot be
// decoded stays as it is.
func decodeWords(s string) string {
	d := mime.WordDecoder{CharsetReader: charsetReader}
	if decoded, err := d.DecodeHeader(s); err == nil {
		return decoded
	}
	return s
}

func charsetReader(charset string, r io.Reader) (io.Reader, error) {
	e, err := htmlindex.Get(charset)
	if err != nil {
		return nil, err
	}
	return e.NewDecoder().Reader(r), nil
}

var blankLine = regexp.MustCompile(`\r?\n\r?\n`)
var headerLine = regexp.MustCompile(`^(>?From .*\r?\n)?[!-9;-~]+[ \t]*:`)

// headerOf is the part of raw before the first empty line, if its first line
// has the look of a header field at all.
func headerOf(raw []byte) []byte {
	head := raw
	if at := blankLine.FindIndex(raw); at != nil {
		head = raw[:at[0]]
	}
	if !headerLine.Match(head[:min(len(head), 4096)]) {
		return nil
	}
	return head
}

var multipartType = regexp.MustCompile(`(?im)^content-type:[ \t]*(multipart/|message/rfc822)`)

func multiparts(raw []byte) int { return len(multipartType.FindAllIndex(raw, maxParts+1)) }

// asText shows bytes as text: as UTF-8 where they are, else byte by byte.
func asText(raw []byte) string {
	if !utf8.Valid(raw) {
		r := make([]rune, len(raw))
		for i, c := range raw {
			r[i] = rune(c)
		}
		return scrub(string(r))
	}
	return scrub(string(raw))
}

// scrub drops what no reader can use and some displays choke on: zero bytes,
// control characters, and the marks that turn the direction of writing.
func scrub(s string) string {
	s = strings.ToValidUTF8(s, "\uFFFD")
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t' || r == '\r':
			return r
		case unicode.IsControl(r), r >= 0x202A && r <= 0x202E, r >= 0x2066 && r <= 0x2069:
			return -1
		}
		return r
	}, s)
}

// clean makes one line of a header field, of at most n characters.
func clean(s string, n int) string {
	s = strings.Join(strings.Fields(scrub(s)), " ")
	if utf8.RuneCountInString(s) > n {
		s = string([]rune(s)[:n]) + "…"
	}
	return s
}

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

// addresses reads an address list (RFC 5322, section 3.4), and finds what it
// can in one that is broken.
func addresses(field string) (out []mail.Address) {
	if strings.TrimSpace(field) == "" {
		return nil
	}
	field = scrub(field)
	p := netmail.AddressParser{WordDecoder: &mime.WordDecoder{CharsetReader: charsetReader}}
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
		out = []mail.Address{{Name: clean(decodeWords(field), 200)}}
	}
	return out
}

func nameOf(name, address string) string {
	name = clean(strings.Trim(strings.TrimSpace(name), `"'`), 200)
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
	return strings.Trim(pathMark.ReplaceAllString(clean(name, 150), "_"), ". ")
}

// fileName is a name under which a part can be saved anywhere.
func fileName(p *enmime.Part) string {
	if name := FileName(p.FileName); name != "" {
		return name
	}
	switch {
	case p.ContentType == "text/calendar":
		return "invitation.ics"
	case p.ContentType == "message/rfc822":
		return "message.eml"
	}
	ext := ".bin"
	if e, err := mime.ExtensionsByType(p.ContentType); err == nil && len(e) > 0 {
		ext = e[0]
	}
	return "file" + ext
}
