package mail

import (
	"regexp"
	"strings"
)

// Header gives the first value of a header field by name, or "".
type Header func(name string) string

var (
	machineAddress = regexp.MustCompile(`^(no-?reply|do-?not-?reply|donotreply|notifications?|notices?|alerts?|automat(ed|ic)|system|robot|bot|mailer|updates?|status|monitor)([-+._].*)?@`)
	paidFor        = regexp.MustCompile(`(?i)\b(receipt|your order|order (confirmation|no|number|#)|payment (received|confirmation)|invoice paid|booking confirmed|your tickets?)\b`)
)

// KindOf says what kind of message has this header. It looks at the standard
// fields only: List-* (RFC 2369, RFC 2919), Auto-Submitted (RFC 3834),
// Precedence, and the media type of reports and invitations.
func KindOf(h Header, from Address, subject string, calendar bool) Kind {
	auto := strings.ToLower(h("Auto-Submitted"))
	precedence := strings.ToLower(h("Precedence"))
	machine := auto != "" && auto != "no" || machineAddress.MatchString(from.Address)
	content := strings.ToLower(h("Content-Type"))
	opened := strings.Contains(content, "disposition-notification") // RFC 8098
	report := strings.HasPrefix(content, "multipart/report") && !opened
	switch {
	case report, h("X-Failed-Recipients") != "", strings.HasPrefix(from.Address, "mailer-daemon@"):
		return Bounce
	case calendar:
		return Invitation
	case machine && paidFor.MatchString(subject):
		return Receipt
	case h("List-Id") != "", h("List-Unsubscribe") != "", h("List-Post") != "", precedence == "bulk", precedence == "list":
		return List
	case machine, opened, precedence == "junk":
		return Notice
	}
	return Person
}
