package reading

import (
	"cmp"
	"context"
	"fmt"
	"html"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
)

// Limits of what is handed out.
const (
	maxHeaderShown = 64 << 10 // bytes of the header of a message
	maxHandedOut   = 24 << 20 // bytes of the originals of a conversation; what is before them is named
)

// Source says what the header of a message says: whether it can be trusted, in sentences,
// and all of it as it came. It returns store.ErrNotFound.
func (d *Desk) Source(ctx context.Context, who identity.Who, id int64) (v SourceView, err error) {
	var raw []byte
	var own []string
	var m store.Message
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		if m, err = store.Messages(t).MessageRow(who.Box, id); err != nil {
			return err
		}
		if own, err = intake.OwnDomains(t, who.Box); err != nil {
			return err
		}
		raw, err = store.Messages(t).Original(id)
		return err
	})
	if err != nil {
		return v, err
	}
	header := mime.HeaderOf(raw)
	v.More = max(0, len(header)-maxHeaderShown)
	v.Header = mail.Scrub(strings.ToValidUTF8(string(header[:len(header)-v.More]), "�"))
	if m.MessageID != "" {
		v.Link = "mid:" + midEscaped(m.MessageID)
	}
	v.Said = []mail.Said{}
	if _, domain, ok := strings.Cut(m.FromAddr, "@"); ok && !m.Own {
		b := mime.Read(raw)
		v.Said = mail.Trust(b.Trace, own, domain, b.Protection)
	}
	return v, nil
}

// midEscaped is a Message-ID as a link by it has it (RFC 2392, section 2).
func midEscaped(id string) string {
	return strings.NewReplacer("%", "%25", "/", "%2F", "?", "%3F", "#", "%23", "\"", "%22", "<", "%3C", ">", "%3E", " ", "%20", "\\", "%5C").Replace(id)
}

// handed is a message as it is handed out.
type handed struct {
	store.Message
	body mime.Body
}

// handOut calls one for each message of a conversation, the earliest first; the earliest of
// a very large one are left out, and counted.
func (d *Desk) handOut(ctx context.Context, who identity.Who, id int64, begin func(name string, left int), one func(handed)) error {
	return d.store.Read(ctx, func(t store.Tx) error {
		row, err := store.Conversations(t).Opened(who.Box, who.Person, id)
		if err != nil {
			return err
		}
		messages, err := store.Messages(t).MessagesOf(who.Box, row.ID)
		if err != nil {
			return err
		}
		from, size := len(messages), 0
		for from > 0 && (from == len(messages) || size+messages[from-1].Size <= maxHandedOut) {
			from--
			size += messages[from].Size
		}
		begin(cmp.Or(row.Title, row.Subject), from)
		for _, m := range messages[from:] {
			raw, err := store.Messages(t).Original(m.ID)
			if err != nil {
				return err
			}
			one(handed{m, mime.Read(raw)})
		}
		return nil
	})
}

func (h handed) from() string { return person(mail.Address{Name: h.FromName, Address: h.FromAddr}) }

func person(a mail.Address) string {
	if a.Name == "" {
		return a.Address
	}
	return a.Name + " <" + a.Address + ">"
}

func people(list []mail.Address) string {
	var out []string
	for _, a := range list {
		out = append(out, person(a))
	}
	return strings.Join(out, ", ")
}

func (h handed) fileNames() string {
	var out []string
	for _, f := range h.Files {
		out = append(out, f.Name)
	}
	return strings.Join(out, ", ")
}

func (h handed) at(who identity.Who) string {
	return h.Date.In(who.Week.Location()).Format("Monday 2 January 2006, 15:04")
}

func (h handed) text() string {
	if h.body.Text == "" && h.body.HTML != "" {
		return mime.QuotedTextOf(h.body.HTML)
	}
	return h.body.Text
}

func leftOut(n int) string {
	if n == 1 {
		return "One earlier message is left out, as there is too much of them."
	}
	return fmt.Sprintf("%d earlier messages are left out, as there is too much of them.", n)
}

// Clean is a conversation as a page to print: its name, and each message with its people,
// files and words, nothing else. Images that came with a message are fetched from imagePath.
// It returns store.ErrNotFound.
func (d *Desk) Clean(ctx context.Context, who identity.Who, id int64, imagePath func(message int64, contentID string) string) (title string, page SafeHTML, err error) {
	var b strings.Builder
	field := func(name, value string) {
		if value != "" {
			fmt.Fprintf(&b, "<dt>%s</dt><dd>%s</dd>", name, html.EscapeString(value))
		}
	}
	err = d.handOut(ctx, who, id, func(name string, left int) {
		title = name
		fmt.Fprintf(&b, "<h1 dir=auto>%s</h1>", html.EscapeString(name))
		if left > 0 {
			fmt.Fprintf(&b, "<p class=left>%s</p>", leftOut(left))
		}
	}, func(h handed) {
		b.WriteString("<article><dl>")
		field("From", h.from())
		field("To", people(h.To))
		field("Copy", people(h.Cc))
		field("On", h.at(who))
		field("Files", h.fileNames())
		b.WriteString("</dl>")
		if h.body.HTML != "" && !h.body.Raw {
			safe := mime.Sanitise(h.body.HTML, false, false, func(contentID string) string { return imagePath(h.ID, contentID) })
			b.WriteString("<div>" + safe.HTML + "</div>")
		} else {
			for _, block := range mail.Fold(h.text()) {
				if block.Quoted {
					fmt.Fprintf(&b, "<blockquote class=text dir=auto>%s</blockquote>", html.EscapeString(block.Text))
				} else {
					fmt.Fprintf(&b, "<div class=text dir=auto>%s</div>", html.EscapeString(block.Text))
				}
			}
		}
		b.WriteString("</article>")
	})
	return title, SafeHTML{HTML: b.String()}, err
}

// Text is a conversation as plain text, with what its messages quote. It returns
// store.ErrNotFound.
func (d *Desk) Text(ctx context.Context, who identity.Who, id int64) (string, error) {
	var b strings.Builder
	err := d.handOut(ctx, who, id, func(name string, left int) {
		b.WriteString(name + "\n")
		if left > 0 {
			b.WriteString(leftOut(left) + "\n")
		}
	}, func(h handed) {
		b.WriteString("\n" + strings.Repeat("-", 60) + "\n")
		for _, f := range [][2]string{{"From", h.from()}, {"To", people(h.To)}, {"Copy", people(h.Cc)}, {"On", h.at(who)}, {"Files", h.fileNames()}} {
			if f[1] != "" {
				b.WriteString(f[0] + ": " + f[1] + "\n")
			}
		}
		b.WriteString("\n" + strings.TrimSpace(strings.ReplaceAll(h.text(), "\r\n", "\n")) + "\n")
	})
	return b.String(), err
}
