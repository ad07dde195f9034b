package mail

import (
	"regexp"
	"strings"
)

// Report is what a delivery report (RFC 3464), or a notification of what was
// done with a message (RFC 8098), says of one recipient.
type Report struct {
	Recipient string // address, lower case
	Action    string // failed, delayed, delivered, relayed or expanded; or displayed, deleted
	Status    string // enhanced status code (RFC 3463), as 5.1.1
	Said      string // what the other server said, shortly; may be empty
	Original  string // the Message-ID of what was not delivered; may be empty
}

// Failed says that the message will not reach this recipient.
func (r Report) Failed() bool { return r.Action == "failed" }

var statuses = []struct{ prefix, words string }{
	{"5.1.1", "there is no such address"},
	{"5.1.2", "there is no such domain"},
	{"5.1.10", "that address takes no mail"},
	{"5.1", "the address is not right"},
	{"5.2.1", "the mailbox is closed"},
	{"5.2.2", "the mailbox is full"},
	{"5.2.3", "the message is too large for that mailbox"},
	{"5.2", "the mailbox does not take it"},
	{"5.3.4", "the message is too large for that server"},
	{"5.4", "the other server could not be reached"},
	{"5.6", "the other server does not take messages of this form"},
	{"5.7", "the other server does not allow it"},
	{"4.2.2", "the mailbox is full, and it will be tried again"},
	{"4", "it could not be delivered yet, and will be tried again"},
}

// Words says in plain words what became of the message.
func (r Report) Words() string {
	switch r.Action {
	case "displayed":
		return r.Recipient + " has opened it."
	case "deleted":
		return r.Recipient + " has deleted it unread."
	}
	for _, s := range statuses {
		if r.Status == s.prefix || strings.HasPrefix(r.Status, s.prefix+".") {
			return r.Recipient + ": " + s.words + "."
		}
	}
	if r.Failed() {
		return r.Recipient + ": it was not delivered."
	}
	return r.Recipient + ": " + r.Action + "."
}

var (
	statusCode = regexp.MustCompile(`^[245]\.\d{1,3}\.\d{1,3}`)
	emptyLine  = regexp.MustCompile(`\r?\n[ \t]*\r?\n`)
	folded     = regexp.MustCompile(`\r?\n[ \t]+`)
)

// ReadReports reads the part message/delivery-status of a report: a group of
// fields about the message, then one for each recipient (RFC 3464, section 2).
func ReadReports(part string) (out []Report) {
	for _, group := range emptyLine.Split(strings.TrimSpace(part), 100) {
		r := Report{}
		for line := range strings.SplitSeq(folded.ReplaceAllString(group, " "), "\n") {
			field, value, _ := strings.Cut(strings.TrimSpace(line), ":")
			value = strings.TrimSpace(value)
			_, typed, ok := strings.Cut(value, ";")
			typed = strings.TrimSpace(typed)
			switch strings.ToLower(field) {
			case "final-recipient":
				if ok {
					r.Recipient = strings.ToLower(strings.Trim(typed, "<>"))
				}
			case "action":
				r.Action = strings.ToLower(value)
			case "status":
				r.Status = statusCode.FindString(value)
			case "diagnostic-code":
				if ok {
					r.Said = typed
				}
			}
		}
		if r.Recipient != "" {
			out = append(out, r)
		}
	}
	return out
}

// ReadDisposition reads the part message/disposition-notification: what was done
// with a message by whom it was for (RFC 8098, section 3.2).
func ReadDisposition(part string) (r Report, ok bool) {
	for line := range strings.SplitSeq(folded.ReplaceAllString(part, " "), "\n") {
		field, value, _ := strings.Cut(strings.TrimSpace(line), ":")
		value = strings.TrimSpace(value)
		switch strings.ToLower(field) {
		case "final-recipient":
			_, typed, _ := strings.Cut(value, ";")
			r.Recipient = strings.ToLower(strings.Trim(strings.TrimSpace(typed), "<>"))
		case "original-message-id":
			r.Original = strings.Trim(value, "<>")
		case "disposition":
			_, done, _ := strings.Cut(value, ";")
			done, _, _ = strings.Cut(done, "/")
			r.Action = strings.ToLower(strings.TrimSpace(done))
		}
	}
	return r, r.Recipient != "" && r.Action != ""
}
