package mime

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
)

func crlf(s string) []byte { return []byte(strings.ReplaceAll(s, "\n", "\r\n")) }

func TestReadingWhatRealProgramsSend(t *testing.T) {
	for _, c := range []struct {
		name, raw string
		check     func(*testing.T, Body)
	}{
		{"nested multiparts", "From: Ann <ann@a.example>\nSubject: x\nContent-Type: multipart/mixed; boundary=A\n\n--A\nContent-Type: multipart/alternative; boundary=B\n\n--B\nContent-Type: text/plain\n\nplain\n--B\nContent-Type: text/html\n\n<p>html</p>\n--B--\n--A\nContent-Type: application/pdf; name=\"../../a.pdf\"\nContent-Disposition: attachment\n\npdf\n--A--\n", func(t *testing.T, b Body) {
			require.Equal(t, "plain", strings.TrimSpace(b.Text))
			require.Equal(t, "<p>html</p>", strings.TrimSpace(b.HTML))
			require.Equal(t, "_.._a.pdf", strings.TrimLeft(b.Files[0].Name, "."), "a file name is no path")
		}},
		{"encoded words and a comma in a name", "From: =?utf-8?q?Ay=C5=9Fe=2C_Institute?= <ayse@i.example>\nTo: \"Arnkvist, Solvei\" <s@m.example>, b@m.example\nSubject: =?iso-8859-1?q?Gr=FC=DFe?=\n =?utf-8?b?IOKAkyB2aWVsZQ==?=\n\nhi\n", func(t *testing.T, b Body) {
			require.Equal(t, mail.Address{Name: "Ayşe, Institute", Address: "ayse@i.example"}, b.From)
			require.Equal(t, []mail.Address{{Name: "Arnkvist, Solvei", Address: "s@m.example"}, {Address: "b@m.example"}}, b.To)
			require.Equal(t, "Grüße – viele", b.Subject)
		}},
		{"a comma left bare in an encoded name", "From: =?utf-8?q?Ay=C5=9Fe,_Institute?= =?utf-8?q?_of_tides?= <ayse@i.example>\nTo: =?utf-8?q?A,_B?= <a@b.example>, c@d.example\n\nhi\n", func(t *testing.T, b Body) {
			require.Equal(t, mail.Address{Name: "Ayşe, Institute of tides", Address: "ayse@i.example"}, b.From)
			require.Equal(t, []mail.Address{{Name: "A, B", Address: "a@b.example"}, {Address: "c@d.example"}}, b.To)
		}},
		{"an odd charset", "From: a@a.example\nContent-Type: text/plain; charset=windows-1251\n\n\xcf\xf0\xe8\xe2\xe5\xf2\n", func(t *testing.T, b Body) {
			require.Equal(t, "Привет", strings.TrimSpace(b.Text))
		}},
		{"a charset nobody knows", "From: a@a.example\nContent-Type: text/plain; charset=x-moon\n\nhello\n", func(t *testing.T, b Body) {
			require.Contains(t, b.Text, "hello")
		}},
		{"missing date, many references", "From: a@a.example\nReceived: from x by y; Tue, 24 Nov 2026 10:00:00 +0100\nMessage-ID: <m@a>\nReferences: <1@a> <2@a>\n\t<3@a>\nIn-Reply-To: <4@a> (Ann's message)\n\nhi\n", func(t *testing.T, b Body) {
			require.Equal(t, time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC), b.Date.Time())
			require.Equal(t, []string{"1@a", "2@a", "3@a"}, b.References, "In-Reply-To counts only where there are no References (RFC 5256)")
			require.Equal(t, "m@a", b.MessageID)
		}},
		{"no references, but what it answers", "From: a@a.example\nIn-Reply-To: Ann's of Tuesday <4@a> and <5@a>\n\nhi\n", func(t *testing.T, b Body) { require.Equal(t, []string{"4@a"}, b.References) }},
		{"six hundred boxes in boxes", "From: a@a.example\nContent-Type: text/html\n\n" + strings.Repeat("<div>", 600) + "deep down" + strings.Repeat("</div>", 600) + "<p>and after", func(t *testing.T, b Body) {
			shown := Sanitise(b.HTML, false, false, nil).HTML
			require.Contains(t, shown, "deep down")
			require.Contains(t, shown, "<p>and after</p>")
			require.Contains(t, TextOf(b.HTML), "deep down")
		}},
		{"a head that is not ended", "From: a@a.example\nContent-Type: text/html\n\n<html><head><title>T</title><style>p{}</style><body><p>Words &amp;lt; more", func(t *testing.T, b Body) {
			require.Equal(t, "Words &lt; more", TextOf(b.HTML))
			require.Contains(t, Sanitise(b.HTML, false, false, nil).HTML, "<p>Words &amp;lt; more</p>")
		}},
		{"a multipart without a boundary", "From: a@a.example\nContent-Type: multipart/mixed\n\nThe text.\n", func(t *testing.T, b Body) { require.Equal(t, "The text.", strings.TrimSpace(b.Text)) }},
		{"a multipart that does not name its boundary", "From: a@a.example\nContent-Type: multipart/mixed\n\n--xyz\nContent-Type: text/plain\n\nThe text.\n--xyz--\n", func(t *testing.T, b Body) {
			require.Equal(t, "The text.", strings.TrimSpace(b.Text))
		}},
		{"headers in raw Latin-1", "From: J\xf6rg Gr\xfcn <j@a.example>\nSubject: Gr\xfc\xdfe\n\nStra\xdfe\n", func(t *testing.T, b Body) {
			require.Equal(t, mail.Address{Name: "Jörg Grün", Address: "j@a.example"}, b.From)
			require.Equal(t, "Grüße", b.Subject)
			require.Equal(t, "Straße", strings.TrimSpace(b.Text))
		}},
		{"a character cut in two between encoded words", "From: a@a.example\nSubject: =?utf-8?q?Gr=C3?= =?utf-8?q?=BC=C3=9Fe?= and =?x-moon?q?odd?= more\n\nx\n", func(t *testing.T, b Body) { require.Equal(t, "Grüße and odd more", b.Subject) }},
		{"words before and after a file", "From: a@a.example\nContent-Type: multipart/mixed; boundary=A\n\n--A\n\nfirst\n--A\nContent-Type: image/png; name=x.png\nContent-Disposition: inline\n\npng\n--A\nContent-Type: text/html\n\n<p>second</p>\n--A--\n", func(t *testing.T, b Body) {
			require.Equal(t, "first\nsecond", b.Text)
			require.Contains(t, b.HTML, "first")
			require.Len(t, b.Files, 1)
		}},
		{"a part without the empty line before its words", "From: a@a.example\nContent-Type: multipart/mixed; boundary=A\n\n--A\njust words\n--A--\n", func(t *testing.T, b Body) { require.Equal(t, "just words", b.Text) }},
		{"folded types that hide how deep it goes", "From: a@a.example\nSubject: nested\n" + strings.Repeat("Content-Type:\n multipart/mixed; boundary=b\n\n--b\n", 3) + "\nx", func(t *testing.T, b Body) { require.False(t, b.Raw) }},
		{"a date nobody can read", "From: a@a.example\nDate: yesterday\n\nhi\n", func(t *testing.T, b Body) { require.Zero(t, b.Date) }},
		{"a broken From", "From: Ann Example ann@a.example>\nSubject: x\n\nhi\n", func(t *testing.T, b Body) { require.Equal(t, "ann@a.example", b.From.Address) }},
		{"a name that poses as an address", "From: \"director@museum.example\" <x@bad.example>\n\nhi\n", func(t *testing.T, b Body) { require.Equal(t, mail.Address{Address: "x@bad.example"}, b.From) }},
		{"zero bytes and marks of direction", "From: a@a.example\nSubject: a\x00b \u202Egpj.exe\n\nte\x00xt\n", func(t *testing.T, b Body) {
			require.Equal(t, "ab gpj.exe", b.Subject)
			require.NotContains(t, b.Text, "\x00")
		}},
		{"a boundary that never comes", "From: a@a.example\nContent-Type: multipart/mixed; boundary=A\n\njust text\n", func(t *testing.T, b Body) { require.NotEmpty(t, b.Text) }},
		{"an invitation", "From: a@a.example\nContent-Type: text/calendar; method=REQUEST\n\nBEGIN:VCALENDAR\nEND:VCALENDAR\n", func(t *testing.T, b Body) { require.Equal(t, mail.Invitation, b.Kind) }},
		{"a huge header", "From: a@a.example\nSubject: big\nX-Pad: " + strings.Repeat("x", maxHeader) + "\n\nhi\n", func(t *testing.T, b Body) {
			require.True(t, b.Raw)
			require.Equal(t, "big", b.Subject)
		}},
		{"no header at all", "hello, this is no mail", func(t *testing.T, b Body) {
			require.True(t, b.Raw)
			require.Contains(t, b.Text, "this is no mail")
		}},
		{"nothing", "", func(t *testing.T, b Body) { require.True(t, b.Raw) }},
	} {
		t.Run(c.name, func(t *testing.T) { c.check(t, Read(crlf(c.raw))) })
	}
}

func TestTenThousandNestedPartsAreKeptRaw(t *testing.T) {
	var b strings.Builder
	b.WriteString("From: a@a.example\nSubject: deep\n")
	for i := range 10_000 {
		fmt.Fprintf(&b, "Content-Type:\n multipart/mixed; boundary=b%d\n\n--b%d\n", i, i)
	}
	body := Read([]byte(b.String()))
	require.True(t, body.Raw)
	require.Equal(t, "deep", body.Subject)
	require.Equal(t, "a@a.example", body.From.Address)
}

func TestReadingNeverPanics(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		parts := rapid.SliceOf(rapid.SampledFrom([]string{"From: a@b\r\n", "Content-Type: multipart/mixed; boundary=x\r\n", "\r\n", "--x\r\n", "--x--", "Content-Transfer-Encoding: base64\r\n",
			"Content-Type: text/html; charset=\r\n", "=?utf-8?b?", "\x00\xff", "Subject: ", "<p>", ":", "References: <<>>\r\n"})).Draw(t, "parts")
		raw := []byte(strings.Join(parts, "") + string(rapid.SliceOf(rapid.Byte()).Draw(t, "noise")))
		Read(raw)
		Sanitise(string(raw), false, false, func(string) string { return "" })
	})
}

// Scripts, forms, refreshes, style sheets, SVG and foreign addresses: none of
// it is left, whatever the trick.
func TestHostileHTML(t *testing.T) {
	for _, source := range []string{
		`<script>alert(1)</script>`, `<img src=x onerror=alert(1)>`, `<svg onload=alert(1)><script>alert(1)</script></svg>`, `<svg><a xlink:href="javascript:alert(1)"><text>x</text></a></svg>`,
		`<math><mtext><table><mglyph><style><!--</style><img title="--&gt;&lt;img src=1 onerror=alert(1)&gt;">`, `<a href="javascript:alert(1)">x</a>`, `<a href=" &#14; javascript:alert(1)">x</a>`,
		`<a href="data:text/html,<script>alert(1)</script>">x</a>`, `<form action="https://bad.example"><input name=q><button>go</button></form>`, `<meta http-equiv=refresh content="0;url=https://bad.example">`,
		`<style>body{background:url(https://bad.example/x)}</style>`, `<link rel=stylesheet href="https://bad.example/x.css">`, `<div style="background:url(https://bad.example/x)">x</div>`,
		`<div style="background-image:url('https://bad.example/x')">x</div>`, `<div style="position:fixed;top:0;left:0;width:100%">x</div>`, `<iframe srcdoc="<script>alert(1)</script>"></iframe>`,
		`<object data="x.swf"></object><embed src=x>`, `<base href="https://bad.example">`, `<img src="https://bad.example/pixel.gif" width=1 height=1>`, `<img srcset="https://bad.example/x 2x">`,
		`<video poster="https://bad.example/x"><source src="https://bad.example/y"></video>`, `<table background="https://bad.example/x"><tr><td>x</table>`, `<body onload=alert(1)>x</body>`,
		`<img src="data:image/svg+xml;base64,PHN2ZyBvbmxvYWQ9YWxlcnQoMSk+">`, `<noscript><p title="</noscript><img src=x onerror=alert(1)>">`, `<a href="vbscript:x">x</a>`, `<p style="color:expression(alert(1))">x</p>`,
		`<img src="//bad.example/x">`, `<img src="/api/v1/take-back">`,
	} {
		got := Sanitise(source, false, false, func(string) string { return "" }).HTML
		low := strings.ToLower(got)
		for _, bad := range []string{"<script", "onerror=", "onload=", "javascript:", "vbscript:", "<form", "<input", "<button", "<meta", "<style", "<link", "<iframe", "<object", "<embed", "<base", "<svg", "<math", "url(", "position", "srcset", "<video", "background=", "bad.example", "expression", "svg+xml", "/api/", "data:text"} {
			require.NotContainsf(t, low, bad, "%s became %s", source, got)
		}
	}
}

func TestGoodHTMLStays(t *testing.T) {
	s := Sanitise(`<p style="color:#333333">Hello <b>you</b> <a href="https://a.example/x?y=1">there</a></p><img src="cid:logo@x" alt="logo"><img src="https://r.example/a.png" width="640" height="80"><blockquote>old</blockquote><table width="600"><tr><td>x</td></tr></table>`,
		false, false, func(id string) string { return "/images/" + id })
	require.Contains(t, s.HTML, `href="https://a.example/x?y=1"`)
	require.Contains(t, s.HTML, `title="https://a.example/x?y=1"`, "a link says where it goes")
	require.Contains(t, s.HTML, `rel="noopener noreferrer nofollow"`)
	require.Contains(t, s.HTML, `src="/images/logo@x"`)
	require.Contains(t, s.HTML, `<details><summary>Quoted text</summary><blockquote>old`)
	require.Contains(t, s.HTML, `max-width: 600px`)
	require.NotContains(t, s.HTML, "r.example")
	require.Equal(t, 1, s.Remote)
	require.Contains(t, Sanitise(`<img src="https://r.example/a.png">`, false, true, nil).HTML, "r.example", "remote images come when asked for")
}
