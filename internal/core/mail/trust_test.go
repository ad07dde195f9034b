package mail

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatIsSaidOfTrust(t *testing.T) {
	own := []string{"skagvik.example"}
	top := "from mx.out.example (mx.out.example [192.0.2.1])"
	received := func(rest string) Trace { return Trace{"Received", top + rest} }
	results := func(rest string) Trace { return Trace{"Authentication-Results", "mx1.skagvik.example" + rest} }
	tls := received(" (using TLSv1.3 with cipher TLS_AES_256_GCM_SHA384) by mx1.skagvik.example with ESMTPS id 1; Tue, 24 Nov 2026 09:00:00 +0100")
	for name, c := range map[string]struct {
		trace []Trace
		p     Protection
		want  []string // with "!" before what is a doubt
	}{
		"nothing is known": {nil, Unprotected, []string{"Your server has not said whether it is from shop.example."}},
		"all is well": {[]Trace{results("; dkim=pass header.d=shop.example; spf=pass smtp.mailfrom=a@shop.example; dmarc=pass header.from=shop.example"), tls}, Unprotected, []string{
			"It is from shop.example: your server has checked that.",
			"Signed by shop.example, and unchanged since (DKIM).",
			"Sent by a server that may send for shop.example (SPF).",
			"It keeps to what shop.example says of its own mail (DMARC).",
			"It came to your server over an encrypted line (TLS 1.3)."}},
		"all is wrong": {[]Trace{results("; dkim=fail header.d=shop.example; spf=softfail smtp.mailfrom=a@shop.example; dmarc=fail header.from=shop.example"), {"X-Spam-Flag", "YES"}, received(" by mx1.skagvik.example with ESMTP id 1")}, Unprotected, []string{
			"!It may not be from shop.example: your server could not confirm it.",
			"!The signature of shop.example does not fit it: it was changed on its way, or is not from there (DKIM).",
			"!Sent by a server that may not send for shop.example (SPF).",
			"!It does not keep to what shop.example says of its own mail (DMARC).",
			"!It came to your server over a line that was not encrypted.",
			"!Your server calls it junk."}},
		"sent by somebody for them": {[]Trace{results("; dkim=pass header.d=mailer.example; spf=none"), received(" by mx1.skagvik.example with ESMTPS")}, Unprotected, []string{
			"Your server could not tell whether it is from shop.example.",
			"Signed by mailer.example, and unchanged since (DKIM).",
			"It came to your server over an encrypted line."}},
		"what a sender has written is not believed": {[]Trace{received(" by mx1.skagvik.example with LMTP"), {"Received", "from x by elsewhere.example with ESMTPS"}, results("; dmarc=pass header.from=shop.example")}, Unprotected, []string{
			"Your server has not said whether it is from shop.example."}},
		"the line that counts is the one from outside": {[]Trace{received(" by store.skagvik.example with ESMTPS"), received(" by mx1.skagvik.example with ESMTP"), {"Received", "from x by mx.out.example with ESMTPS"}}, Unprotected, []string{
			"Your server has not said whether it is from shop.example.",
			"!It came to your server over a line that was not encrypted."}},
		"what the other side calls itself is no line": {[]Trace{{"Received", "from TLSv1.3 (TLSv1.3 [192.0.2.1]) by mx1.skagvik.example with ESMTP id 1"}}, Unprotected, []string{
			"Your server has not said whether it is from shop.example.",
			"!It came to your server over a line that was not encrypted."}},
		"a protocol of its own": {[]Trace{received(" by mx1.skagvik.example with Own SMTP Server (version=TLS1_2, cipher=X) id 1")}, Unprotected, []string{
			"Your server has not said whether it is from shop.example.",
			"It came to your server over an encrypted line (TLS 1.2)."}},
		"a protocol of its own that says nothing": {[]Trace{{"Received", "from TLS1.3 by mx1.skagvik.example with Own id 1"}}, Unprotected, []string{"Your server has not said whether it is from shop.example."}},
		"a comment is no protocol": {[]Trace{received(" by mx1.skagvik.example (with ESMTPS) with ESMTP")}, PGPSigned, []string{
			"Your server has not said whether it is from shop.example.",
			"!It came to your server over a line that was not encrypted.",
			"It carries a signature of its writer (PGP), which Ebbe shows and does not check."}},
		"encrypted": {nil, SMIMEEncrypted, []string{"Your server has not said whether it is from shop.example.", "It is encrypted (S/MIME). Ebbe keeps it whole; a program that has your key can open it."}},
	} {
		var got []string
		for _, s := range Trust(c.trace, own, "shop.example", c.p) {
			got = append(got, strings.Repeat("!", map[bool]int{true: 1}[s.Doubt])+s.Text)
		}
		assert.Equal(t, c.want, got, name)
		for _, s := range Trust(c.trace, own, "shop.example", c.p) {
			assert.False(t, s.Sure && s.Doubt, s.Text)
			assert.False(t, s.Sure && strings.Contains(s.Text, "mailer.example"), "what stands for another speaks for nobody")
		}
	}
}

func FuzzTrust(f *testing.F) {
	f.Add("mx.skagvik.example; dmarc=pass (a (b)", "from a by mx.skagvik.example with ESMTPS")
	f.Fuzz(func(t *testing.T, results, received string) {
		// Whatever stands below a foreign server's field, no more is said than without it.
		foreign := Trace{"Received", "from a by elsewhere.example"}
		require.Equal(t, Trust(nil, []string{"skagvik.example"}, "shop.example", Unprotected),
			Trust([]Trace{foreign, {"Authentication-Results", results}, {"Received", received}}, []string{"skagvik.example"}, "shop.example", Unprotected))
		require.LessOrEqual(t, len(Trust([]Trace{{"Authentication-Results", results}, {"Received", received}}, []string{"skagvik.example"}, "shop.example", Unprotected)), 16)
	})
}
