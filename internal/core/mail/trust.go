package mail

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// Protection is how a message is protected by itself, whatever its way.
type Protection string

// The protections: S/MIME (RFC 8551) and OpenPGP (RFC 9580, RFC 3156).
const (
	Unprotected    Protection = ""
	SMIMESigned    Protection = "smime-signed"
	SMIMEEncrypted Protection = "smime-encrypted"
	PGPSigned      Protection = "pgp-signed"
	PGPEncrypted   Protection = "pgp-encrypted"
)

// Said is a sentence about how far a message can be trusted.
type Said struct {
	Text  string `json:"text"`
	Sure  bool   `json:"sure"`  // it speaks for it
	Doubt bool   `json:"doubt"` // it speaks against it
}

// Trust says in sentences what the reader's own servers have found about a message from the
// domain in From, how it came to them, and how it is protected. It believes the same fields
// as FoundBy, and no others.
func Trust(trace []Trace, own []string, from string, p Protection) (out []Said) {
	const against, neither, inFavour = -1, 0, 1
	say := func(speaks int, format string, args ...any) {
		out = append(out, Said{Text: fmt.Sprintf(format, args...), Sure: speaks == inFavour, Doubt: speaks == against})
	}
	var results []authResult
	border := "" // the Received of their server that took it in from outside
	theirs := trusted(trace, own)
	for _, t := range theirs {
		switch t.Name {
		case "Authentication-Results":
			_, r := authResults(t.Value)
			results = append(results, r...)
		case "Received":
			border = t.Value
		}
	}
	switch sender := senderOf(results, from); {
	case sender == "pass":
		say(inFavour, "It is from %s: your server has checked that.", from)
	case sender == "fail":
		say(against, "It may not be from %s: your server could not confirm it.", from)
	case len(results) == 0:
		say(neither, "Your server has not said whether it is from %s.", from)
	default:
		say(neither, "Your server could not tell whether it is from %s.", from)
	}
	for _, r := range results[:min(len(results), 12)] {
		by := from
		if len(r.domains) > 0 && r.domains[0] != "" {
			by = r.domains[0]
		}
		passes := neither // what stands for another domain speaks for nobody
		if ofOne(by, from) {
			passes = inFavour
		}
		fails := r.result == "fail" || r.result == "permerror" || r.result == "softfail"
		switch {
		case r.method == "dkim" && r.result == "pass":
			say(passes, "Signed by %s, and unchanged since (DKIM).", by)
		case r.method == "dkim" && fails:
			say(against, "The signature of %s does not fit it: it was changed on its way, or is not from there (DKIM).", by)
		case r.method == "spf" && r.result == "pass":
			say(passes, "Sent by a server that may send for %s (SPF).", by)
		case r.method == "spf" && fails:
			say(against, "Sent by a server that may not send for %s (SPF).", by)
		case r.method == "dmarc" && r.result == "pass":
			say(passes, "It keeps to what %s says of its own mail (DMARC).", by)
		case r.method == "dmarc" && fails:
			say(against, "It does not keep to what %s says of its own mail (DMARC).", by)
		}
	}
	if border != "" {
		switch how, version := lineOf(border); how {
		case "encrypted":
			say(inFavour, "It came to your server over an encrypted line%s.", version)
		case "plain":
			say(against, "It came to your server over a line that was not encrypted.")
		}
	}
	if FoundBy(trace, own, from).Junk {
		say(against, "Your server calls it junk.")
	}
	switch p {
	case SMIMESigned:
		say(neither, "It carries a signature of its writer (S/MIME), which Ebbe shows and does not check.")
	case PGPSigned:
		say(neither, "It carries a signature of its writer (PGP), which Ebbe shows and does not check.")
	case SMIMEEncrypted:
		say(neither, "It is encrypted (S/MIME). Ebbe keeps it whole; a program that has your key can open it.")
	case PGPEncrypted:
		say(neither, "It is encrypted (PGP). Ebbe keeps it whole; a program that has your key can open it.")
	}
	return out
}

// trusted are the fields of a trace that servers of these domains have written, from the
// top: those above the first Received of another (RFC 8601, section 5).
func trusted(trace []Trace, own []string) (out []Trace) {
	theirs := func(host string) bool {
		host = strings.TrimSuffix(strings.ToLower(host), ".")
		return slices.ContainsFunc(own, func(d string) bool { return d != "" && (host == d || strings.HasSuffix(host, "."+d)) })
	}
	for _, t := range trace[:min(len(trace), MaxTrace)] {
		switch t.Name {
		case "Received":
			if !theirs(receivedBy(t.Value)) {
				return out
			}
		case "Authentication-Results":
			if id, _ := authResults(t.Value); !theirs(id) {
				continue
			}
		}
		out = append(out, t)
	}
	return out
}

var (
	withProtocol = regexp.MustCompile(`(?i)\bwith\s+(\S+)`)
	tlsVersion   = regexp.MustCompile(`(?i)\bTLS\s?v?_?(1[._][0-3])\b`)
)

// lineOf reads from a Received field over what line a message came: "encrypted", with the
// version of TLS as words, or "plain" (RFC 3848, RFC 8314); empty where it does not say, as
// for mail that has left no machine.
func lineOf(received string) (how, version string) {
	if m := tlsVersion.FindStringSubmatch(received); m != nil {
		version = " (TLS " + strings.ReplaceAll(m[1], "_", ".") + ")"
	}
	protocol := ""
	if m := withProtocol.FindStringSubmatch(withoutComments(received)); m != nil {
		protocol = strings.ToUpper(strings.TrimSuffix(m[1], ";"))
	}
	switch {
	case slices.Contains([]string{"ESMTPS", "ESMTPSA", "UTF8SMTPS", "UTF8SMTPSA", "HTTPS"}, protocol):
		return "encrypted", version
	case slices.Contains([]string{"SMTP", "ESMTP", "ESMTPA", "UTF8SMTP", "UTF8SMTPA", "HTTP"}, protocol):
		return "plain", "" // whatever stands beside it: before “by” there is what the other side has called itself
	}
	if at := strings.LastIndex(strings.ToLower(received), " by "); at >= 0 && tlsVersion.MatchString(received[at:]) {
		return "encrypted", version
	}
	return "", ""
}
