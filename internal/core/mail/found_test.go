package mail

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatOwnServersHaveFound(t *testing.T) {
	own := []string{"skagvik.example"}
	ours := Trace{"Received", "from mx.out.example (mx.out.example [192.0.2.1]) by mx1.skagvik.example (made up) with ESMTPS id 1; Tue, 24 Nov 2026 09:00:00 +0100"}
	foreign := Trace{"Received", "from laptop by mx.out.example; Tue, 24 Nov 2026 08:59:00 +0100"}
	results := func(id, rest string) Trace { return Trace{"Authentication-Results", id + rest} }
	for name, c := range map[string]struct {
		trace []Trace
		found Found
	}{
		"nothing":                      {[]Trace{ours, foreign}, Found{}},
		"passed":                       {[]Trace{results("mx1.skagvik.example", " 1; spf=pass smtp.mailfrom=a@shop.example; dmarc=pass (p=none) header.from=shop.example"), ours}, Found{Known: true, Sender: "pass"}},
		"failed":                       {[]Trace{ours, results("skagvik.example", "; dmarc=fail header.from=shop.example"), foreign}, Found{Known: true, Sender: "fail"}},
		"only a signature":             {[]Trace{results("skagvik.example", "; dkim=pass header.d=shop.example header.i=@shop.example"), ours}, Found{Known: true, Sender: "pass"}},
		"a signature of another":       {[]Trace{results("skagvik.example", "; dkim=pass header.d=sender.example"), ours}, Found{Known: true}},
		"a server of another":          {[]Trace{results("skagvik.example", "; spf=pass smtp.mailfrom=bounce.mailer.example"), ours}, Found{Known: true}},
		"below a server not ours":      {[]Trace{ours, foreign, results("mx1.skagvik.example", "; dmarc=pass header.from=shop.example")}, Found{}},
		"of a server not ours":         {[]Trace{results("mx.out.example", "; dmarc=pass header.from=shop.example"), ours}, Found{}},
		"of one that sounds like ours": {[]Trace{results("evilskagvik.example", "; dmarc=pass header.from=shop.example"), ours}, Found{}},
		"in a comment":                 {[]Trace{results("skagvik.example", "; none (dmarc=pass header.from=shop.example)"), ours}, Found{Known: true}},
		"quoted":                       {[]Trace{results("skagvik.example", `; spf=fail reason="; dmarc=pass" smtp.mailfrom=shop.example`), ours}, Found{Known: true, Sender: "fail"}},
		"called junk":                  {[]Trace{{"X-Spam-Status", "Yes, score=12.1"}, ours}, Found{Known: true, Junk: true}},
		"called junk by a stranger":    {[]Trace{ours, foreign, {"X-Spam-Flag", "YES"}}, Found{}},
		"called no junk":               {[]Trace{{"X-Spam-Flag", "NO"}, ours}, Found{Known: true}},
		"nobody's Received":            {[]Trace{{"Received", "(nothing"}, results("skagvik.example", "; dmarc=pass header.from=shop.example")}, Found{}},
	} {
		assert.Equal(t, c.found, FoundBy(c.trace, own, "shop.example"), name)
	}
}

func FuzzFoundBy(f *testing.F) {
	f.Add(`mx.skagvik.example; dmarc=pass (a (b) "c") header.from="x;y"`)
	f.Add(`from a by b;`)
	f.Fuzz(func(t *testing.T, value string) {
		for _, name := range TraceNames {
			// Whatever it says: from below a foreign server nothing is believed.
			below := FoundBy([]Trace{{"Received", "from a by elsewhere.example"}, {name, value}}, []string{"skagvik.example"}, "shop.example")
			require.Equal(t, Found{}, below)
			FoundBy([]Trace{{name, value}}, []string{"skagvik.example"}, "shop.example")
		}
		require.LessOrEqual(t, len(withoutComments(value)), len(value))
	})
}

func TestDomainsThatLookAlike(t *testing.T) {
	for _, c := range []struct {
		domain, known string
		alike         bool
	}{
		{"skagvikrnuseum.example", "skagvikmuseum.example", true},
		{"skagv1kmuseum.example", "skagvikmuseum.example", true},
		{"skagvіkmuseum.example", "skagvikmuseum.example", true}, // a Cyrillic і
		{"skagvik-museum.example", "skagvikmuseum.example", true},
		{"skagvikmuseums.example", "skagvikmuseum.example", true},
		{"skagvikmsueum.example", "skagvikmuseum.example", true},
		{"skagvikmuseum.example", "skagvikmuseum.example", false},
		{"mail.skagvikmuseum.example", "skagvikmuseum.example", false},
		{"skagvik.example", "skagvikmuseum.example", false},
		{"abc.de", "abd.de", false},
		{"", "skagvikmuseum.example", false},
	} {
		assert.Equal(t, c.alike, Alike(c.domain, c.known), c.domain)
	}
	assert.Equal(t, Looks("Jonas Reyland"), Looks("jonas reyIand"), "a capital i for an l")
	assert.False(t, oneApart(strings.Repeat("a", 12), strings.Repeat("a", 14)))
}
