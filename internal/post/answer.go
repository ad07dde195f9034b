package post

import (
	"bytes"
	"time"

	"github.com/google/uuid"
	"github.com/jhillyerd/enmime/v2"

	"ebbe/internal/core/mail"
)

// AutoAnswer writes an automatic answer to m as RFC 3834, section 3, has it: it
// says that nobody wrote it, refers to what it answers, and is to be sent with
// an empty return path. It gives its subject and the message (RFC 5322).
func AutoAnswer(from, to mail.Address, m mail.Message, text string, at time.Time) (subject string, raw []byte, err error) {
	subject = "Auto: " + clean(m.Subject, maxLine)
	b := enmime.Builder().From(from.Name, from.Address).To(to.Name, to.Address).Subject(subject).Date(at).Text([]byte(text+"\n")).
		Header("Auto-Submitted", "auto-replied").Header("Message-ID", "<"+uuid.NewString()+"@ebbe.example>")
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
