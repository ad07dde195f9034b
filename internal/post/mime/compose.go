package mime

import (
	"bytes"
	"fmt"
	"html"
	"io"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-message"
	netmail "github.com/emersion/go-message/mail"
	"github.com/emersion/go-message/textproto"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/util"

	"ebbe/internal/core/mail"
)

// Letter is a message the user has written, before it is put into the form in
// which it leaves.
type Letter struct {
	MessageID  string // without angle brackets
	Date       time.Time
	From       mail.Address
	To, Cc     []mail.Address // hidden recipients are in the envelope only
	Subject    string
	InReplyTo  string
	References []string
	Text       string // the user's own words
	Rich       bool   // the words are Markdown, and leave as HTML too
	Below      string // the quoted or passed-on message, below the words
	Signature  string
	Files      []Part
	Receipt    bool // the user asks to be told when it was read (RFC 8098)
}

// Compose writes a message: RFC 5322 and MIME, plain text in format=flowed
// (RFC 3676), with an HTML version of it if it is rich (multipart/alternative,
// RFC 2046 section 5.1.4), and its files.
func Compose(l Letter) ([]byte, error) {
	h := head(l.From, l.Subject, l.MessageID, l.Date)
	for _, field := range []struct {
		name string
		list []mail.Address
	}{{"To", l.To}, {"Cc", l.Cc}} {
		var list []*netmail.Address
		for _, a := range field.list {
			list = append(list, addressee(a))
		}
		if list != nil {
			h.SetAddressList(field.name, list)
		}
	}
	if l.InReplyTo != "" {
		h.SetMsgIDList("In-Reply-To", []string{l.InReplyTo})
	}
	if len(l.References) > 0 {
		h.SetMsgIDList("References", l.References)
	}
	if l.Receipt {
		h.SetAddressList("Disposition-Notification-To", []*netmail.Address{addressee(l.From)})
	}
	var out bytes.Buffer
	if err := l.body(&out, h); err != nil {
		return nil, fmt.Errorf("the message could not be put into its form: %w", err)
	}
	return out.Bytes(), nil
}

// head begins the header of a message.
func head(from mail.Address, subject, id string, at time.Time) (h netmail.Header) {
	h.SetDate(at)
	h.SetAddressList("From", []*netmail.Address{addressee(from)})
	h.SetSubject(mail.Clean(subject, maxLine))
	h.SetMessageID(id)
	return h
}

// answers makes a header one of an answer that a program gives to m (RFC 3834,
// section 3.1.5).
func answers(h *netmail.Header, to mail.Address, m mail.Message) {
	h.SetAddressList("To", []*netmail.Address{addressee(to)})
	h.Set("Auto-Submitted", "auto-replied")
	if m.MessageID != "" {
		h.SetMsgIDList("In-Reply-To", []string{m.MessageID})
		h.SetMsgIDList("References", []string{m.MessageID})
	}
}

func addressee(a mail.Address) *netmail.Address {
	return &netmail.Address{Name: mail.Clean(a.Name, 200), Address: mail.Clean(a.Address, 320)}
}

func (l Letter) body(out io.Writer, h netmail.Header) error {
	if len(l.Files) == 0 && !l.Rich {
		plainHead(&h.Header)
		w, err := message.CreateWriter(out, h.Header)
		if err != nil {
			return err
		}
		return closing(w, l.plain())
	}
	if len(l.Files) == 0 {
		h.SetContentType("multipart/alternative", nil)
		w, err := message.CreateWriter(out, h.Header)
		if err != nil {
			return err
		}
		if err := l.versions(w); err != nil {
			return err
		}
		return w.Close()
	}
	h.SetContentType("multipart/mixed", nil)
	w, err := message.CreateWriter(out, h.Header)
	if err != nil {
		return err
	}
	if err := l.words(w); err != nil {
		return err
	}
	for _, f := range l.Files {
		var fh netmail.AttachmentHeader
		kind := f.Type
		if kind == "" || strings.HasPrefix(kind, "multipart/") || strings.HasPrefix(kind, "message/") {
			kind = "application/octet-stream"
		}
		fh.SetContentType(kind, nil)
		fh.SetFilename(f.Name)
		fh.Set("Content-Transfer-Encoding", "base64")
		if err := part(w, fh.Header, f.Content); err != nil {
			return err
		}
	}
	return w.Close()
}

func closing(w *message.Writer, text string) error {
	if _, err := io.WriteString(w, text); err != nil {
		return err
	}
	return w.Close()
}

func part(w *message.Writer, h message.Header, content []byte) error {
	p, err := w.CreatePart(h)
	if err != nil {
		return err
	}
	if _, err := p.Write(content); err != nil {
		return err
	}
	return p.Close()
}

// words is the text of a message that has files: plain, or both versions.
func (l Letter) words(w *message.Writer) error {
	var h message.Header
	if !l.Rich {
		plainHead(&h)
		return part(w, h, []byte(l.plain()))
	}
	h.SetContentType("multipart/alternative", nil)
	p, err := w.CreatePart(h)
	if err != nil {
		return err
	}
	if err := l.versions(p); err != nil {
		return err
	}
	return p.Close()
}

func (l Letter) versions(w *message.Writer) error {
	var h message.Header
	plainHead(&h)
	if err := part(w, h, []byte(l.plain())); err != nil {
		return err
	}
	var hh message.Header
	hh.SetContentType("text/html", map[string]string{"charset": "utf-8"})
	hh.Set("Content-Transfer-Encoding", "quoted-printable")
	rich, err := l.html()
	if err != nil {
		return err
	}
	return part(w, hh, []byte(strings.ReplaceAll(rich, "\n", "\r\n")))
}

func plainHead(h *message.Header) {
	h.SetContentType("text/plain", map[string]string{"charset": "utf-8", "format": "flowed"})
	h.Set("Content-Transfer-Encoding", "quoted-printable")
}

// plain is the plain version, as format=flowed has it: a line that ends in a
// space goes on in the next one, and what could be mistaken is stuffed with a
// space (RFC 3676, section 4).
func (l Letter) plain() string {
	var b strings.Builder
	flow := func(text string, quoted bool) {
		for line := range strings.SplitSeq(strings.TrimRight(strings.ReplaceAll(text, "\r\n", "\n"), "\n"), "\n") {
			marks := ""
			if quoted {
				rest := strings.TrimLeft(line, ">")
				marks = line[:len(line)-len(rest)]
				line = strings.TrimPrefix(rest, " ")
			}
			flowLine(&b, marks, strings.TrimRight(line, " \t"))
		}
	}
	if l.Text != "" {
		flow(l.Text, false)
	}
	if l.Signature != "" {
		b.WriteString("\r\n-- \r\n")
		flow(l.Signature, false)
	}
	if l.Below != "" {
		b.WriteString("\r\n")
		flow(l.Below, true)
	}
	return b.String()
}

// flowed is how many characters a line of format=flowed has at most.
const flowed = 76

func flowLine(b *strings.Builder, marks, line string) {
	lead := marks
	if marks != "" {
		lead += " "
	}
	for first := true; first || line != ""; first = false {
		piece := line
		if runes := []rune(line); len(runes) > flowed-len(lead) {
			cut := strings.LastIndexByte(string(runes[:flowed-len(lead)]), ' ')
			if cut <= 0 { // a word longer than a line stays whole
				cut = 1 + strings.IndexByte(line[1:], ' ')
			}
			if next := strings.IndexByte(line[cut+1:], ' '); cut > 0 && line[:cut+1] == "-- " { // that alone would begin a signature
				if cut += next + 1; next < 0 {
					cut = 0
				}
			}
			if cut > 0 {
				piece = line[:cut+1]
			}
		}
		line = line[len(piece):]
		out := piece
		if marks == "" && (strings.HasPrefix(piece, " ") || strings.HasPrefix(piece, ">") || strings.HasPrefix(piece, "From ")) {
			out = " " + piece
		}
		if out == "" {
			b.WriteString(marks + "\r\n")
		} else {
			b.WriteString(lead + out + "\r\n")
		}
	}
}

// markdown reads CommonMark without what would make words of the user's vanish:
// HTML and definitions of links are text like any other.
var markdown = goldmark.New(goldmark.WithParser(parser.NewParser(
	parser.WithBlockParsers(slices.DeleteFunc(parser.DefaultBlockParsers(), func(v util.PrioritizedValue) bool {
		return reflect.TypeOf(v.Value) == reflect.TypeOf(parser.NewHTMLBlockParser())
	})...),
	parser.WithInlineParsers(slices.DeleteFunc(parser.DefaultInlineParsers(), func(v util.PrioritizedValue) bool {
		return reflect.TypeOf(v.Value) == reflect.TypeOf(parser.NewRawHTMLParser())
	})...),
)), goldmark.WithExtensions(extension.Strikethrough, extension.Table, extension.Linkify))

// WithBcc is the user's own copy of a message that has gone out: with its hidden
// recipients, whom nobody else learns of (RFC 5322, section 3.6.3).
func WithBcc(raw []byte, bcc []mail.Address) []byte {
	if len(bcc) == 0 {
		return raw
	}
	var h netmail.Header
	var list []*netmail.Address
	for _, a := range bcc {
		list = append(list, addressee(a))
	}
	h.SetAddressList("Bcc", list)
	var field bytes.Buffer
	if err := textproto.WriteHeader(&field, h.Header.Header); err != nil {
		return raw
	}
	return slices.Concat(bytes.TrimSuffix(field.Bytes(), []byte("\r\n")), raw)
}

// html is the rich version: the words as Markdown has them, without any HTML of
// their own.
func (l Letter) html() (string, error) {
	var b bytes.Buffer
	b.WriteString("<!doctype html>\n<html><body>\n")
	if err := markdown.Convert([]byte(l.Text), &b); err != nil {
		return "", err
	}
	if l.Signature != "" {
		b.WriteString("<p>-- <br>\n" + lines(l.Signature) + "</p>\n")
	}
	if l.Below != "" {
		b.WriteString(below(l.Below))
	}
	b.WriteString("</body></html>\n")
	return b.String(), nil
}

func lines(text string) string {
	return strings.ReplaceAll(html.EscapeString(strings.TrimSpace(text)), "\n", "<br>\n")
}

// below shows quoted lines in a blockquote, and what is not quoted as it is.
func below(text string) string {
	var b strings.Builder
	var run []string
	quoted := false
	flush := func() {
		if len(run) == 0 {
			return
		}
		if quoted {
			b.WriteString("<blockquote type=\"cite\">" + lines(strings.Join(run, "\n")) + "</blockquote>\n")
		} else {
			b.WriteString("<p>" + lines(strings.Join(run, "\n")) + "</p>\n")
		}
		run = nil
	}
	for line := range strings.SplitSeq(strings.TrimRight(text, "\n"), "\n") {
		q := strings.HasPrefix(line, ">")
		if q != quoted {
			flush()
			quoted = q
		}
		if q {
			line = strings.TrimPrefix(strings.TrimPrefix(line, ">"), " ")
		}
		run = append(run, line)
	}
	flush()
	return b.String()
}
