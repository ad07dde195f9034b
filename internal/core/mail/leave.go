package mail

import (
	"net/url"
	"strings"
)

// Leaving is how one can leave the list that a message came from, by its own
// header (RFC 2369, section 3.2). What is not offered is empty.
type Leaving struct {
	Post    string  // address on the web to which one request leaves the list (RFC 8058)
	Page    string  // page on the web on which one can leave it oneself
	Mail    Address // to whom a message leaves it
	Subject string  // of that message
	Text    string  // of that message
}

// Offered says that there is any way.
func (l Leaving) Offered() bool { return l.Post != "" || l.Page != "" || l.Mail.Address != "" }

// maxListID is how long the name of a list may be, in bytes (RFC 2919, section 3).
const maxListID = 255

// ListID reads the header field List-Id (RFC 2919): what stands between angle brackets,
// in lower case; "" if there is none.
func ListID(h Header) string {
	field := h("List-Id")
	from, to := strings.LastIndexByte(field, '<'), strings.LastIndexByte(field, '>')
	if from < 0 || to < from {
		return ""
	}
	id := strings.ToLower(strings.Join(strings.Fields(field[from+1:to]), ""))
	if len(id) > maxListID {
		return ""
	}
	return id
}

// LeavingOf reads the header fields List-Unsubscribe and List-Unsubscribe-Post.
// Only addresses with https count for a request of Ebbe's own, as RFC 8058
// section 3.1 wants it.
func LeavingOf(h Header) (l Leaving) {
	oneClick := strings.EqualFold(strings.ReplaceAll(h("List-Unsubscribe-Post"), " ", ""), "List-Unsubscribe=One-Click")
	rest := h("List-Unsubscribe")
	for {
		_, after, ok := strings.Cut(rest, "<")
		if !ok {
			return l
		}
		one, more, ok := strings.Cut(after, ">")
		if !ok {
			return l
		}
		rest = more
		u, err := url.Parse(strings.Join(strings.Fields(one), ""))
		if err != nil {
			continue
		}
		switch scheme := strings.ToLower(u.Scheme); {
		case scheme == "mailto" && l.Mail.Address == "":
			to, err := url.PathUnescape(u.Opaque)
			if err != nil || strings.Count(to, "@") != 1 || strings.ContainsAny(to, " ,;<>\r\n") {
				continue
			}
			q := u.Query()
			l.Mail.Address = strings.ToLower(to)
			l.Subject, l.Text = oneLine(q.Get("subject")), strings.TrimSpace(q.Get("body"))
		case (scheme == "https" || scheme == "http") && u.Host != "" && u.User == nil && l.Page == "":
			l.Page = u.String()
			if oneClick && scheme == "https" {
				l.Post = l.Page
			}
		}
	}
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }
