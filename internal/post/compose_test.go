package post_test

import (
	"bytes"
	"io"
	"mime/multipart"
	"mime/quotedprintable"
	netmail "net/mail"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
	"ebbe/internal/post/mime"
)

var letter = mime.Letter{MessageID: "1@skagvikmuseum.example", Date: at, From: mail.Address{Name: "Solvei Arnkvist", Address: me},
	To: []mail.Address{{Name: "Níkos Pávlou", Address: "pavlou@thalassa-archive.example"}}, Cc: []mail.Address{{Address: "jonas@skagvikmuseum.example"}},
	Subject: "Re: Die Uhr für Kreta", InReplyTo: "b@x.example", References: []string{"a@x.example", "b@x.example"}, Text: "Yes."}

func TestAMessageLeavesAsTheStandardsHaveIt(t *testing.T) {
	l := letter
	l.Text, l.Signature, l.Below, l.Rich = "**Yes**, on [Friday](https://a.example).\n\n<script>alert(1)</script>", "Solvei", "On Tuesday, Níkos wrote:\n> When?\n", true
	l.Files = []mime.Part{{File: mail.File{Name: "Übersicht.pdf", Type: "application/pdf"}, Content: []byte("%PDF-1.4")}}
	raw, err := mime.Compose(l)
	require.NoError(t, err)
	for line := range bytes.SplitSeq(raw, []byte("\r\n")) {
		require.LessOrEqual(t, len(line), 998)
		require.NotContains(t, string(line), "\n", "lines end as RFC 5322 has it")
		for _, c := range line {
			require.Less(t, c, byte(0x80), "the message is safe for any server")
		}
	}
	b := mime.Read(raw)
	require.Equal(t, l.Subject, b.Subject)
	require.Equal(t, mail.Address{Name: "Níkos Pávlou", Address: "pavlou@thalassa-archive.example"}, b.To[0])
	require.Equal(t, []string{"a@x.example", "b@x.example"}, b.References)
	require.Equal(t, "1@skagvikmuseum.example", b.MessageID)
	require.Equal(t, "Übersicht.pdf", b.Files[0].Name)
	require.Equal(t, "%PDF-1.4", string(b.Parts[0].Content))
	require.Contains(t, b.HTML, "<strong>Yes</strong>")
	require.Contains(t, b.HTML, `<blockquote type="cite">When?</blockquote>`)
	require.NotContains(t, b.HTML, "<script>")
	require.Contains(t, b.Text, "**Yes**")
	require.Contains(t, b.Text, "-- \r\nSolvei")
	require.Equal(t, mail.Person, b.Kind)
}

func TestNothingOfAMessageBecomesAHeader(t *testing.T) {
	l := letter
	l.Subject = "Crate\r\nBcc: spy@x.example"
	l.To = []mail.Address{{Name: "A\r\nX-Mark: 1", Address: "a@x.example\r\nBcc: spy@x.example"}}
	raw, err := mime.Compose(l)
	require.NoError(t, err)
	m, err := netmail.ReadMessage(bytes.NewReader(raw))
	require.NoError(t, err)
	require.Empty(t, m.Header.Get("Bcc"))
	require.Empty(t, m.Header.Get("X-Mark"))
}

// unflowed reads format=flowed back, as RFC 3676, section 4.2, has a reader do.
func unflowed(s string) string {
	var out strings.Builder
	for line := range strings.SplitSeq(strings.TrimSuffix(s, "\r\n"), "\r\n") {
		marks := len(line) - len(strings.TrimLeft(line, ">"))
		rest := strings.TrimPrefix(line[marks:], " ")
		if strings.HasSuffix(rest, " ") && rest != "-- " {
			out.WriteString(rest)
		} else {
			out.WriteString(rest + "\n")
		}
	}
	return strings.TrimSuffix(out.String(), "\n")
}

// Whatever is written arrives as it was, apart from spaces at the ends of lines.
func TestFlowedTextArrivesAsItWasWritten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.SliceOfN(rapid.SampledFrom([]string{"tide", "From ", ">", " ", "\n", "ø", "a-very-long-word-without-any-space-in-it-that-goes-on-and-on-for-more-than-a-line-has-room", ".", "--"}), 1, 60)
		text := strings.Join(words.Draw(t, "words"), " ")
		var lines []string
		for line := range strings.SplitSeq(text, "\n") {
			lines = append(lines, strings.TrimRight(line, " "))
		}
		text = strings.TrimRight(strings.Join(lines, "\n"), "\n")
		l := letter
		l.Text = text
		raw, err := mime.Compose(l)
		require.NoError(t, err)
		_, body, _ := bytes.Cut(raw, []byte("\r\n\r\n"))
		plain, err := io.ReadAll(quotedprintable.NewReader(bytes.NewReader(body)))
		require.NoError(t, err)
		for line := range strings.SplitSeq(string(plain), "\r\n") {
			if strings.Contains(line, " ") {
				require.LessOrEqual(t, len([]rune(line)), 130)
			}
		}
		require.Equal(t, text, unflowed(string(plain)))
	})
}

func TestAReportSaysWhatBecameOfWhichMessage(t *testing.T) {
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	raw := "From: mailer-daemon@a.example\r\nTo: " + me + "\r\nSubject: Returned\r\nContent-Type: multipart/report; report-type=delivery-status; boundary=" + w.Boundary() + "\r\n\r\n"
	for kind, text := range map[string]string{
		"text/plain":              "It came back.",
		"message/delivery-status": "Reporting-MTA: dns; a.example\r\n\r\nFinal-Recipient: rfc822; Nobody@b.example\r\nAction: failed\r\nStatus: 5.1.1 (unknown)\r\nDiagnostic-Code: smtp; 550\r\n 5.1.1 no such person\r\n",
		"text/rfc822-headers":     "Message-ID: <77@skagvikmuseum.example>\r\nSubject: Crate\r\n",
	} {
		p, err := w.CreatePart(map[string][]string{"Content-Type": {kind}})
		require.NoError(t, err)
		_, _ = io.WriteString(p, text)
	}
	require.NoError(t, w.Close())
	m := mime.Read(append([]byte(raw), b.Bytes()...))
	require.Equal(t, mail.Bounce, m.Kind)
	require.Equal(t, []mail.Report{{Recipient: "nobody@b.example", Action: "failed", Status: "5.1.1", Said: "550 5.1.1 no such person", Original: "77@skagvikmuseum.example"}}, m.Reports)
	require.Equal(t, "nobody@b.example: there is no such address.", m.Reports[0].Words())
	require.Contains(t, m.References, "77@skagvikmuseum.example")
}
