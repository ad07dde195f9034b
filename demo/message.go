package demo

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"mime"
	"mime/quotedprintable"
	"strings"
	"time"

	"golang.org/x/text/encoding"
)

// message is a message of the made-up world before it is written as MIME.
type message struct {
	at      time.Time
	from    person
	to      []person
	cc      []person
	subject string
	text    string
	html    string
	files   []file
	headers []string // further fields, ready to write
	charset encoding.Encoding
	cname   string // its name
	id      string
	refs    []string
}

type person struct{ name, address string }

func (p person) String() string {
	if p.name == "" {
		return p.address
	}
	return mime.QEncoding.Encode("utf-8", p.name) + " <" + p.address + ">"
}

type file struct {
	name, kind string
	content    []byte
}

// bytes writes the message as RFC 5322 and MIME have it.
func (m message) bytes() []byte {
	var b bytes.Buffer
	field := func(name, value string) {
		if value != "" {
			fmt.Fprintf(&b, "%s: %s\r\n", name, value)
		}
	}
	field("From", m.from.String())
	field("To", list(m.to))
	field("Cc", list(m.cc))
	field("Subject", mime.QEncoding.Encode("utf-8", m.subject))
	field("Date", m.at.Format("Mon, 02 Jan 2006 15:04:05 -0700"))
	field("Message-ID", "<"+m.id+">")
	if n := len(m.refs); n > 0 {
		field("In-Reply-To", "<"+m.refs[n-1]+">")
		field("References", "<"+strings.Join(m.refs, ">\r\n <")+">")
	}
	for _, h := range m.headers {
		b.WriteString(h + "\r\n")
	}
	b.WriteString("MIME-Version: 1.0\r\n")
	body := m.body()
	if len(m.files) == 0 {
		b.WriteString(body)
		return b.Bytes()
	}
	mixed := "mixed-" + m.id[:8]
	fmt.Fprintf(&b, "Content-Type: multipart/mixed; boundary=%q\r\n\r\n--%s\r\n%s\r\n", mixed, mixed, body)
	for _, f := range m.files {
		kind := f.kind
		if strings.HasPrefix(kind, "text/calendar") {
			kind += "; charset=utf-8; method=REQUEST"
		}
		fmt.Fprintf(&b, "--%s\r\nContent-Type: %s\r\nContent-Disposition: attachment; filename=%q\r\nContent-Transfer-Encoding: base64\r\n\r\n%s\r\n",
			mixed, kind, f.name, wrap64(f.content))
	}
	fmt.Fprintf(&b, "--%s--\r\n", mixed)
	return b.Bytes()
}

// body is the text with its own header fields: plain, or plain and HTML.
func (m message) body() string {
	if m.html == "" {
		return m.part("text/plain", m.text)
	}
	alt := "alt-" + m.id[:8]
	return fmt.Sprintf("Content-Type: multipart/alternative; boundary=%q\r\n\r\n--%s\r\n%s\r\n--%s\r\n%s\r\n--%s--\r\n",
		alt, alt, m.part("text/plain", m.text), alt, m.part("text/html", m.html), alt)
}

func (m message) part(kind, text string) string {
	text = strings.ReplaceAll(text, "\n", "\r\n")
	name, encoded := "utf-8", []byte(text)
	if m.charset != nil {
		if e, err := m.charset.NewEncoder().Bytes(encoded); err == nil {
			name, encoded = m.cname, e
		}
	}
	if m.cname == "iso-2022-jp" {
		return fmt.Sprintf("Content-Type: %s; charset=%s\r\nContent-Transfer-Encoding: base64\r\n\r\n%s", kind, name, wrap64(encoded))
	}
	var q bytes.Buffer
	w := quotedprintable.NewWriter(&q)
	_, _ = w.Write(encoded)
	_ = w.Close()
	return fmt.Sprintf("Content-Type: %s; charset=%s\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n%s\r\n", kind, name, q.String())
}

func wrap64(content []byte) string {
	s := base64.StdEncoding.EncodeToString(content)
	var b strings.Builder
	for len(s) > 76 {
		b.WriteString(s[:76] + "\r\n")
		s = s[76:]
	}
	b.WriteString(s)
	return b.String()
}

func list(people []person) string {
	s := make([]string, len(people))
	for i, p := range people {
		s[i] = p.String()
	}
	return strings.Join(s, ", ")
}
