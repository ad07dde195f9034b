package post_test

import (
	"bufio"
	"context"
	"io"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/post/mime"
	"ebbe/internal/post/office"
	"ebbe/internal/post/smtp"
)

var submission = mail.Server{Host: counter.Host, Port: 587, Security: mail.StartTLS}

// A certificate that nobody vouches for is named as that, for mailboxes and for
// sending, and can be trusted by its fingerprint: that one, and no other.
func TestACertificateIsTrustedByItsFingerprint(t *testing.T) {
	_, n := open(t, "", office.Faults{})
	_, other := open(t, "", office.Faults{})
	bare, elsewhere := post.Network{Dial: n.Dial, Patience: n.Patience}, post.Network{Dial: other.Dial, Patience: n.Patience}
	for name, c := range map[string]struct {
		server mail.Server
		try    func(post.Network, mail.Server) error
	}{
		"mailbox, TLS": {boxes, func(n post.Network, s mail.Server) error {
			m, err := imap.Open(t.Context(), n, s, login)
			if err == nil {
				m.Close()
			}
			return err
		}},
		"sending, TLS": {counter, tryCounter(t)}, "sending, STARTTLS": {submission, tryCounter(t)},
		"another name": {mail.Server{Host: "smtp.elsewhere.example", Port: 465, Security: mail.TLS}, tryCounter(t)},
	} {
		t.Run(name, func(t *testing.T) {
			network := bare
			if name == "another name" {
				network = n
			}
			err := c.try(network, c.server)
			var step *post.StepError
			require.ErrorAs(t, err, &step)
			require.Equal(t, post.StepSecure, step.Step)
			require.Contains(t, step.Text, "trust this certificate for this account")
			require.Len(t, step.Fingerprint, 64)
			trusted := c.server
			trusted.Trust = step.Fingerprint
			require.NoError(t, c.try(network, trusted))
			err = c.try(elsewhere, trusted)
			require.ErrorAs(t, err, &step)
			require.Contains(t, step.Text, "another certificate than the one you trust")
		})
	}
}

func tryCounter(t *testing.T) func(post.Network, mail.Server) error {
	return func(n post.Network, s mail.Server) error {
		c, err := smtp.Open(t.Context(), n, s, login)
		if err == nil {
			c.Close()
		}
		return err
	}
}

// TLS on a port that wants STARTTLS, and the reverse, are recognised, and what
// would be right is offered.
func TestTheOtherKindOfTLSIsRecognised(t *testing.T) {
	_, n := open(t, "", office.Faults{})
	n.Patience = time.Minute
	for _, c := range []struct {
		server mail.Server
		right  mail.Security
	}{
		{mail.Server{Host: boxes.Host, Port: 993, Security: mail.StartTLS}, mail.TLS}, {mail.Server{Host: counter.Host, Port: 465, Security: mail.StartTLS}, mail.TLS},
		{mail.Server{Host: boxes.Host, Port: 143, Security: mail.TLS}, mail.StartTLS}, {mail.Server{Host: counter.Host, Port: 587, Security: mail.TLS}, mail.StartTLS},
	} {
		var err error
		if c.server.Host == boxes.Host {
			_, err = imap.Open(t.Context(), n, c.server, login)
		} else {
			_, err = smtp.Open(t.Context(), n, c.server, login)
		}
		var step *post.StepError
		require.ErrorAs(t, err, &step)
		require.NotNil(t, step.Offer, step.Text)
		require.Equal(t, c.right, step.Offer.Security)
		require.Equal(t, c.server.Host, step.Offer.Host)
	}
}

// talk is a server that plays a script: lines it says, and after each what it
// hears.
func talk(t *testing.T, script ...string) (post.Network, <-chan string) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	heard := make(chan string, 100)
	t.Cleanup(func() { _ = l.Close() })
	go func() {
		c, err := l.Accept()
		if err != nil {
			return
		}
		defer c.Close()
		in := bufio.NewReader(c)
		for _, says := range script {
			_, _ = io.WriteString(c, says)
			line, err := in.ReadString('\n')
			if err != nil {
				return
			}
			heard <- strings.TrimSpace(line)
		}
	}()
	return post.Network{Dial: func(ctx context.Context, network, _ string) (net.Conn, error) {
		return (&net.Dialer{}).DialContext(ctx, network, l.Addr().String())
	}, Patience: 2 * time.Second}, heard
}

// Ebbe greets with an address literal, before TLS and without it, and says
// nothing more where STARTTLS was meddled with.
func TestHowAServerIsGreeted(t *testing.T) {
	n, heard := talk(t, "220 hello\r\n", "250-hello\r\n250 STARTTLS\r\n", "220 go on\r\n250 meddled\r\n")
	_, err := smtp.Open(t.Context(), n, mail.Server{Host: "localhost", Port: 587, Security: mail.StartTLS}, login)
	require.ErrorContains(t, err, "meddled with the line")
	require.Equal(t, "EHLO [127.0.0.1]", <-heard)
	require.Equal(t, "STARTTLS", <-heard)

	n, heard = talk(t, "220 hello\r\n", "250 AUTH PLAIN\r\n", "235 ok\r\n")
	_, err = smtp.Open(t.Context(), n, mail.Server{Host: "localhost", Port: 25, Security: mail.Clear}, login)
	require.NoError(t, err)
	require.Equal(t, "EHLO [127.0.0.1]", <-heard)

	n, heard = talk(t, "220 hello\r\n", "250 AUTH PLAIN\r\n")
	_, err = smtp.Open(t.Context(), n, mail.Server{Host: "localhost", Port: 587, Security: mail.StartTLS}, login)
	require.ErrorContains(t, err, "does not offer STARTTLS")
	<-heard
}

// What is not Markdown leaves as it was typed, in both parts.
func TestMarkdownLosesNoWords(t *testing.T) {
	for _, words := range []string{"Fill in <name> and <b>this</b>.", "<div>\nA block\n</div>", "[crate]: ring Jonas about it", "<!-- not for them -->", "2 < 3 & 4 > 1", "<script>alert(1)</script>", "<https://a.example/x>"} {
		raw, err := mime.Compose(mime.Letter{MessageID: "1@x.example", Date: at, From: mail.Address{Address: me}, To: []mail.Address{{Address: "a@b.example"}}, Text: words, Rich: true})
		require.NoError(t, err)
		b := mime.Read(raw)
		require.Equal(t, words, strings.ReplaceAll(strings.TrimSpace(b.Text), "\r\n", "\n"))
		rich := mime.TextOf(b.HTML)
		require.Equal(t, strings.Join(strings.Fields(strings.Trim(strings.ReplaceAll(words, "<https://a.example/x>", "https://a.example/x"), " ")), " "), strings.Join(strings.Fields(rich), " "))
		require.NotContains(t, b.HTML, "<script")
	}
}

// Hidden recipients are in the user's own copy, and what leaves has none.
func TestHiddenRecipientsAreInTheOwnCopyAlone(t *testing.T) {
	l := mime.Letter{MessageID: "1@x.example", Date: at, From: mail.Address{Address: me}, To: []mail.Address{{Address: "a@b.example"}}, Text: "Hello"}
	raw, err := mime.Compose(l)
	require.NoError(t, err)
	var many []mail.Address
	for _, name := range []string{"Jürgen, Tide", "Ann", strings.Repeat("Long ", 30)} {
		many = append(many, mail.Address{Name: strings.TrimSpace(name), Address: strings.ToLower(name[:3]) + "@c.example"})
	}
	many[0].Address = "j@c.example"
	own := mime.WithBcc(raw, many)
	require.NotContains(t, string(raw), "Bcc")
	require.Equal(t, many, mime.Read(own).Bcc)
	require.Equal(t, "Hello", strings.TrimSpace(mime.Read(own).Text))
	require.Equal(t, raw, mime.WithBcc(raw, nil))
}

// Everything Ebbe writes has a Message-ID in the domain it is sent from.
func TestMessageIDsCarryTheDomainOfTheirSender(t *testing.T) {
	_, raw, err := mime.AutoAnswer(mail.Address{Address: me}, mail.Address{Address: "a@b.example"}, mail.Message{Subject: "x"}, "Held.", at)
	require.NoError(t, err)
	require.Contains(t, mime.Read(raw).MessageID, "@skagvikmuseum.example")
	_, raw, err = mime.Receipt(mail.Address{Address: me}, mail.Message{ReceiptTo: "a@b.example"}, at)
	require.NoError(t, err)
	require.Contains(t, mime.Read(raw).MessageID, "@skagvikmuseum.example")
}
