package post

import (
	"bytes"
	"fmt"
	"mime"
	"strings"
	"time"

	"ebbe/internal/core/mail"
)

// Receipt writes the notification that a message was opened (RFC 8098, section
// 3), sent because the reader chose to.
func Receipt(me mail.Address, m mail.Message, at time.Time) (subject string, raw []byte) {
	subject = "Opened: " + clean(m.Subject, maxLine)
	id := newID(me.Address)
	boundary := "receipt-" + id[:8]
	var b bytes.Buffer
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\r\n", args...) }
	line("From: %s", addressee(me))
	line("To: <%s>", m.ReceiptTo)
	line("Subject: %s", mime.QEncoding.Encode("utf-8", subject))
	line("Date: %s", at.Format("Mon, 02 Jan 2006 15:04:05 -0700"))
	line("Message-ID: <%s>", id)
	if m.MessageID != "" {
		line("In-Reply-To: <%s>", m.MessageID)
		line("References: <%s>", m.MessageID)
	}
	line("Auto-Submitted: auto-replied")
	line("MIME-Version: 1.0")
	line("Content-Type: multipart/report; report-type=disposition-notification; boundary=%q", boundary)
	line("")
	line("--%s", boundary)
	line("Content-Type: text/plain; charset=us-ascii")
	line("")
	line("Your message has been opened. That does not say that it was read with care.")
	line("--%s", boundary)
	line("Content-Type: message/disposition-notification")
	line("")
	line("Reporting-UA: ebbe")
	line("Final-Recipient: rfc822; %s", me.Address)
	if m.MessageID != "" {
		line("Original-Message-ID: <%s>", m.MessageID)
	}
	line("Disposition: manual-action/MDN-sent-manually; displayed")
	line("")
	line("--%s--", boundary)
	return subject, b.Bytes()
}

// receiptTo is where a notification of opening is wanted: the one address of
// Disposition-Notification-To (RFC 8098, section 2.1), if it is a plain one.
func receiptTo(field string) string {
	list := addresses(field)
	if len(list) != 1 || strings.ContainsAny(list[0].Address, "\r\n<>\" ") || !strings.Contains(list[0].Address, "@") {
		return ""
	}
	return list[0].Address
}
