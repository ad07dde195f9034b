package post

import (
	"bytes"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jhillyerd/enmime/v2"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// AutoAnswer writes an automatic answer to m as RFC 3834, section 3, has it: it
// says that nobody wrote it, refers to what it answers, and is to be sent with
// an empty return path. It gives its subject and the message (RFC 5322).
func AutoAnswer(from, to mail.Address, m mail.Message, text string, at time.Time) (subject string, raw []byte, err error) {
	subject = "Auto: " + clean(m.Subject, maxLine)
	b := enmime.Builder().From(from.Name, from.Address).To(to.Name, to.Address).Subject(subject).Date(at).Text([]byte(text+"\n")).
		Header("Auto-Submitted", "auto-replied").Header("Message-ID", "<"+newID(from.Address)+">")
	if m.MessageID != "" {
		b = b.Header("In-Reply-To", "<"+m.MessageID+">").Header("References", "<"+m.MessageID+">")
	}
	part, err := b.Build()
	if err != nil {
		return subject, nil, err
	}
	var out bytes.Buffer
	err = part.Encode(&out)
	return subject, out.Bytes(), err
}

// GuestAnswer writes the answer to an invitation (RFC 5546, section 3.2.3, sent
// as RFC 6047 has it): words, and the calendar object that says the same to the
// organizer's program. It gives its subject, its words and the message.
func GuestAnswer(me mail.Address, e calendar.Event, answer calendar.Answer, words string, at time.Time) (subject, text string, raw []byte, err error) {
	verb := map[calendar.Answer]string{calendar.Yes: "Accepted", calendar.Maybe: "Perhaps", calendar.No: "Declined"}[answer]
	subject = verb + ": " + clean(e.Title, maxLine)
	text = map[calendar.Answer]string{calendar.Yes: "Yes, I will be there.", calendar.Maybe: "I may be there, but it is not sure yet.", calendar.No: "I am sorry, I cannot be there."}[answer]
	if words != "" {
		text = words
	}
	ics := answerCalendar(e, me, answer, when.Of(at))
	part, err := enmime.Builder().From(me.Name, me.Address).To(e.Organizer.Name, e.Organizer.Address).Subject(subject).Date(at).Text([]byte(text+"\n")).
		Header("Message-ID", "<"+newID(me.Address)+">").AddAttachment(ics, "text/calendar; method=REPLY; charset=utf-8", "answer.ics").Build()
	if err != nil {
		return subject, text, nil, err
	}
	var out bytes.Buffer
	err = part.Encode(&out)
	return subject, text, out.Bytes(), err
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
