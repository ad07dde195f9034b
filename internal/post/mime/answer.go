package mime

import (
	"bytes"
	"strings"
	"time"

	"github.com/emersion/go-message"
	netmail "github.com/emersion/go-message/mail"
	"github.com/google/uuid"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/post/ical"
)

// AutoAnswer writes an automatic answer to m as RFC 3834, section 3, has it: it
// says that nobody wrote it, refers to what it answers, and is to be sent with
// an empty return path. It gives its subject and the message (RFC 5322).
func AutoAnswer(from, to mail.Address, m mail.Message, text string, at time.Time) (subject string, raw []byte, err error) {
	subject = "Auto: " + mail.Clean(m.Subject, maxLine)
	h := head(from, subject, newID(from.Address), at)
	answers(&h, to, m)
	plainHead(&h.Header)
	var out bytes.Buffer
	w, err := message.CreateWriter(&out, h.Header)
	if err == nil {
		err = closing(w, Letter{Text: text}.plain())
	}
	return subject, out.Bytes(), err
}

// GuestAnswer writes the answer to an invitation (RFC 5546, section 3.2.3, sent
// as RFC 6047 has it): words, and the calendar object that says the same to the
// organizer's program. It gives its subject, its words and the message.
func GuestAnswer(me mail.Address, e calendar.Event, answer calendar.Answer, words string, at time.Time) (subject, text string, raw []byte, err error) {
	verb := map[calendar.Answer]string{calendar.Yes: "Accepted", calendar.Maybe: "Perhaps", calendar.No: "Declined"}[answer]
	subject = verb + ": " + mail.Clean(e.Title, maxLine)
	text = map[calendar.Answer]string{calendar.Yes: "Yes, I will be there.", calendar.Maybe: "I may be there, but it is not sure yet.", calendar.No: "I am sorry, I cannot be there."}[answer]
	if words != "" {
		text = words
	}
	h := head(me, subject, newID(me.Address), at)
	h.SetAddressList("To", []*netmail.Address{addressee(e.Organizer)})
	h.SetContentType("multipart/mixed", nil)
	var wordsHead message.Header
	plainHead(&wordsHead)
	var object netmail.AttachmentHeader
	object.SetContentType("text/calendar", map[string]string{"method": "REPLY", "charset": "utf-8"})
	object.SetFilename("answer.ics")
	object.Set("Content-Transfer-Encoding", "base64")
	raw, err = parts(h, written{wordsHead, Letter{Text: text}.plain()}, written{object.Header, string(ical.Answer(e, me, answer, when.Of(at)))})
	return subject, text, raw, err
}

// written is one part of a message.
type written struct {
	head message.Header
	body string
}

// parts writes a message of several parts.
func parts(h netmail.Header, list ...written) ([]byte, error) {
	var out bytes.Buffer
	w, err := message.CreateWriter(&out, h.Header)
	for _, p := range list {
		if err == nil {
			err = part(w, p.head, []byte(p.body))
		}
	}
	if err == nil {
		err = w.Close()
	}
	return out.Bytes(), err
}

// newID makes a Message-ID in the domain of the address that sends (RFC 5322,
// section 3.6.4), without angle brackets.
func newID(from string) string {
	_, domain, ok := strings.Cut(from, "@")
	if !ok || domain == "" {
		domain = "localhost"
	}
	return uuid.NewString() + "@" + domain
}
