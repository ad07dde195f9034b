package mail

import (
	"regexp"
	"strings"
)

var (
	answersNobody = regexp.MustCompile(`^(owner-.*|.*-(owner|request|bounces?|bounce[-+=].*|errors?)|bounces?([-+=].*)?|(mailer-daemon|postmaster|majordomo|list-?serv|listmaster|abuse|nobody|undisclosed)([-+].*)?)@`)
	pathForm      = regexp.MustCompile(`^<?([^<>\s,;]+@[^<>\s,;]+)>?$`)
)

// AnswerTo is the address, in lower case, to which an automatic answer to the
// message with this header may go; "" if it may not get any (RFC 3834, section
// 2): machines, lists, bulk mail, reports and other automatic answers, senders
// who read no answers, and empty return paths. It is the Return-Path if there
// is one (section 4), else the one who wrote it.
func AnswerTo(h Header, from Address, kind Kind) string {
	if kind != Person && kind != Invitation {
		return ""
	}
	auto := strings.ToLower(h("Auto-Submitted"))
	switch precedence := strings.ToLower(h("Precedence")); {
	case auto != "" && auto != "no", precedence == "bulk", precedence == "list", precedence == "junk":
		return ""
	}
	for _, field := range []string{"List-Id", "List-Help", "List-Post", "List-Unsubscribe", "List-Owner", "List-Archive"} {
		if h(field) != "" {
			return ""
		}
	}
	to := from.Address
	if path := strings.ToLower(strings.TrimSpace(h("Return-Path"))); path != "" {
		m := pathForm.FindStringSubmatch(path)
		if m == nil { // "<>", or nothing that could be answered
			return ""
		}
		to = m[1]
	}
	for _, a := range []string{to, from.Address} {
		if !strings.Contains(a, "@") || machineAddress.MatchString(a) || answersNobody.MatchString(a) {
			return ""
		}
	}
	return to
}
