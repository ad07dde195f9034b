package mail

import (
	"slices"
	"strings"
)

// Trace is a field that a server has put on top of the header of a message on its way.
type Trace struct{ Name, Value string }

// TraceNames are the fields that Found reads: Received (RFC 5321, section 4.4),
// Authentication-Results (RFC 8601), and what filters write of junk.
var TraceNames = []string{"Received", "Authentication-Results", "X-Spam-Flag", "X-Spam-Status"}

// MaxTrace is how many of them are read, from the top.
const MaxTrace = 60

// Found is what the reader's own servers have found about a message.
type Found struct {
	Known bool `json:"known,omitempty"` // they have said something
	// Sender says whether the domain in From stands for the message: "pass" or "fail";
	// empty where they do not say.
	Sender string `json:"sender,omitempty"`
	Junk   bool   `json:"junk,omitempty"` // they call it junk
}

// FoundBy reads what the servers of these domains have found about a message from the
// domain in From, in the fields of its header from the top. Only fields above the first
// Received of a server that is not theirs can be theirs, whatever they say they are (RFC
// 8601, section 5): what stands below, anybody may have written.
func FoundBy(trace []Trace, own []string, from string) (f Found) {
	for _, t := range trusted(trace, own) {
		switch t.Name {
		case "Authentication-Results":
			_, results := authResults(t.Value)
			f.Known = true
			if f.Sender == "" {
				f.Sender = senderOf(results, from)
			}
		case "X-Spam-Flag", "X-Spam-Status":
			f.Known = true
			f.Junk = f.Junk || strings.HasPrefix(strings.ToLower(strings.TrimSpace(t.Value)), "yes")
		}
	}
	return f
}

// receivedBy is the server that wrote a Received field.
func receivedBy(value string) string {
	words := strings.Fields(withoutComments(value))
	for i, w := range words[:max(len(words)-1, 0)] {
		if strings.EqualFold(w, "by") {
			return strings.TrimSuffix(words[i+1], ";")
		}
	}
	return ""
}

// authResult is a method with its result and what was looked at.
type authResult struct {
	method, result string
	domains        []string // of header.from, header.d, header.i, smtp.mailfrom, policy.…
}

// authResults reads an Authentication-Results field (RFC 8601, section 2.2).
func authResults(value string) (id string, out []authResult) {
	parts := strings.Split(withoutComments(value), ";")
	if words := strings.Fields(parts[0]); len(words) > 0 {
		id = words[0]
	}
	for _, p := range parts[1:] {
		words := strings.Fields(strings.ReplaceAll(strings.ReplaceAll(p, " =", "="), "= ", "="))
		if len(words) == 0 || len(out) >= 20 {
			continue
		}
		method, result, ok := strings.Cut(strings.ToLower(words[0]), "=")
		if !ok {
			continue
		}
		method, _, _ = strings.Cut(method, "/") // its version
		r := authResult{method: method, result: result}
		for _, w := range words[1:] {
			if name, v, ok := strings.Cut(strings.ToLower(w), "="); ok && (name == "header.from" || name == "header.d" || name == "header.i" || name == "smtp.mailfrom") {
				v = strings.Trim(v, `"<>`)
				r.domains = append(r.domains, strings.TrimSuffix(v[strings.LastIndexByte(v, '@')+1:], "."))
			}
		}
		out = append(out, r)
	}
	return id, out
}

// senderOf says whether the results stand for a domain in From: by DMARC (RFC 7489), or
// else by a signature (RFC 6376) or a sending server (RFC 7208) of that domain.
func senderOf(results []authResult, from string) string {
	said := ""
	for _, r := range results {
		aligned := slices.ContainsFunc(r.domains, func(d string) bool { return ofOne(d, from) })
		switch {
		case r.method == "dmarc" && (r.result == "pass" || r.result == "fail") && (aligned || len(r.domains) == 0):
			return r.result
		case (r.method == "dkim" || r.method == "spf") && r.result == "pass" && aligned:
			said = "pass"
		case r.method == "spf" && r.result == "fail" && aligned && said == "":
			said = "fail"
		}
	}
	return said
}

// ofOne says whether two domains are the same, or one is below the other.
func ofOne(a, b string) bool {
	return a != "" && b != "" && (a == b || strings.HasSuffix(b, "."+a) || strings.HasSuffix(a, "."+b))
}

// withoutComments is a structured field without its comments and with what was quoted as
// it is (RFC 5322, section 3.2.2).
func withoutComments(value string) string {
	var b strings.Builder
	depth, quoted := 0, false
	for i := 0; i < len(value); i++ {
		c := value[i]
		switch {
		case c == '\\' && i+1 < len(value):
			i++
			if depth == 0 {
				b.WriteByte(value[i])
			}
		case c == '"' && depth == 0:
			quoted = !quoted
		case c == '(' && !quoted:
			depth++
		case c == ')' && !quoted && depth > 0:
			depth--
		case depth > 0:
		case quoted && (c == ';' || c == ' '):
			b.WriteByte('_')
		default:
			b.WriteByte(c)
		}
	}
	return b.String()
}
