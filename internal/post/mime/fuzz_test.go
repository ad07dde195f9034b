package mime

import (
	"strings"
	"testing"
	"unicode/utf8"
)

// Whatever bytes come: what is read of them is text, is no larger than they
// allow, and is the same each time.
func FuzzRead(f *testing.F) {
	for _, shape := range shapes {
		f.Add(shape(2000))
	}
	f.Add([]byte("From: a@b.example\nContent-Type: multipart/alternative; boundary=\"x\"\n\n--x\nContent-Type: text/html\n\n<p>hi\n--x--\n"))
	f.Add([]byte("From: a@b\nSubject: =?utf-8?q?=C3?= =?utf-8?q?=BC?=\n\n\xff"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		b, again := Read(raw), Read(raw)
		if b.Text != again.Text || b.HTML != again.HTML || b.Subject != again.Subject {
			t.Fatal("read twice, it is two messages")
		}
		for _, s := range []string{b.Text, b.HTML, b.Subject, b.From.Name, b.From.Address} {
			if !utf8.ValidString(s) {
				t.Fatalf("no text: %q", s)
			}
		}
		if utf8.RuneCountInString(b.Subject) > maxLine+1 || strings.ContainsAny(b.Subject, "\r\n") {
			t.Fatal("a subject is one line")
		}
		n := 0
		for _, p := range b.Parts {
			n += len(p.Content)
		}
		if n > len(raw)+100 {
			t.Fatalf("%d bytes of files in %d bytes", n, len(raw))
		}
	})
}

// Whatever HTML comes: nothing is left that runs or asks for anything, and what
// is safe stays as it is when it is made safe again.
func FuzzSanitise(f *testing.F) {
	for _, s := range []string{"<p>hi", "<b><p>x<p>y</b>", "<table><tr><td>x<td>y", "<img src=cid:a><a href='javascript:x'>y", "<div style='color:red;position:fixed'>z", strings.Repeat("<div>", 200) + "x", "<!--<p>-->x<![CDATA[y]]>", "<svg><style><img src=x onerror=alert(1)></style>"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, source string) {
		safe := Sanitise(source, false, false, func(string) string { return "" })
		low := strings.ToLower(safe.HTML)
		for _, bad := range []string{"<script", "<style", "<iframe", "<form", "<svg", "<object", "<link", "<meta", "<base"} {
			if strings.Contains(low, bad) {
				t.Fatalf("%s in %q", bad, safe.HTML)
			}
		}
		depth := 0
		for n := tree(safe.HTML); n != nil; n = n.FirstChild {
			depth++
		}
		if depth > deepest+10 {
			t.Fatalf("%d deep", depth)
		}
		TextOf(source)
	})
}
