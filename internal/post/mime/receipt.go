package mime

import (
	"strings"
	"time"

	"github.com/emersion/go-message"

	"ebbe/internal/core/mail"
)

// Receipt writes the notification that a message was opened (RFC 8098, section
// 3), sent because the reader chose to.
func Receipt(me mail.Address, m mail.Message, at time.Time) (subject string, raw []byte, err error) {
	subject = "Opened: " + mail.Clean(m.Subject, maxLine)
	h := head(me, subject, newID(me.Address), at)
	answers(&h, mail.Address{Address: m.ReceiptTo}, m)
	h.SetContentType("multipart/report", map[string]string{"report-type": "disposition-notification"})
	var words, report message.Header
	words.SetContentType("text/plain", map[string]string{"charset": "us-ascii"})
	report.SetContentType("message/disposition-notification", nil)
	fields := "Reporting-UA: ebbe\r\nFinal-Recipient: rfc822; " + me.Address + "\r\n"
	if m.MessageID != "" {
		fields += "Original-Message-ID: <" + m.MessageID + ">\r\n"
	}
	raw, err = parts(h, written{words, "Your message has been opened. That does not say that it was read with care.\r\n"},
		written{report, fields + "Disposition: manual-action/MDN-sent-manually; displayed\r\n"})
	return subject, raw, err
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
