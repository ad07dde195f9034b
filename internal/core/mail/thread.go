package mail

import (
	"regexp"
	"strings"

	"ebbe/internal/core/when"
)

var replyPrefix = regexp.MustCompile(`(?i)^\s*(?:(?:re|fwd?|aw|wg|sv|vs|antw|odp|rif|tr|fs|vb)\s*(?:\[\d+\])?\s*[:：]|\[[^\]]{1,40}\])\s*`)
var replyMark = regexp.MustCompile(`(?i)^\s*(?:re|aw|sv|vs|antw|odp|rif)\s*(?:\[\d+\])?\s*[:：]`)

// BaseSubject is the subject without the marks of replies, forwards and lists,
// in lower case with single spaces (after RFC 5256, section 2.1).
func BaseSubject(subject string) string {
	s := subject
	for {
		next := replyPrefix.ReplaceAllString(s, "")
		if next == s || strings.TrimSpace(next) == "" {
			break
		}
		s = next
	}
	return strings.ToLower(strings.Join(strings.Fields(s), " "))
}

var number = regexp.MustCompile(`[0-9]+([.,:/-][0-9]+)*`)

// Shape is the base subject with a # for each number: two messages of a sender
// that differ only in a date, an order or a measured value have the same.
func Shape(subject string) string { return number.ReplaceAllString(BaseSubject(subject), "#") }

// Title is what a conversation is called after a message of it: its subject
// without the marks of replies.
func Title(subject string) string {
	for {
		next := replyMark.ReplaceAllString(subject, "")
		if next == subject || strings.TrimSpace(next) == "" {
			return strings.TrimSpace(subject)
		}
		subject = next
	}
}

// IsReply says that the subject is marked as that of an answer.
func IsReply(subject string) bool { return replyMark.MatchString(subject) }

// SubjectWindow is how long after the last message of a conversation a reply
// without any References may still join it by its subject.
const SubjectWindow = when.Instant(30 * 24 * 3600 * 1000)

// JoinsBySubject is the careful fallback for programs that send no References:
// a message joins a conversation of the same base subject only if it is marked
// as a reply, refers to nothing, comes from a person, and its writer took part
// (or the reader wrote last) within SubjectWindow.
func JoinsBySubject(m Message, base string, last when.Instant, people []string) bool {
	if len(m.References) > 0 || !IsReply(m.Subject) || m.Kind != Person || len(base) < 4 || BaseSubject(m.Subject) != base {
		return false
	}
	if m.Date == 0 || m.Date < last-SubjectWindow || m.Date > last+SubjectWindow {
		return false
	}
	for _, p := range people {
		if p == m.From.Address {
			return true
		}
	}
	return false
}
