// Package smtp hands messages over to the server that sends for an account
// (message submission, RFC 6409), and takes in what is sent to Ebbe itself (RFC
// 5321).
package smtp

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/netip"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"

	"ebbe/internal/core/mail"
	"ebbe/internal/post"
)

// ErrUncertain says that a message was handed over whole and the line ended
// before the server said whether it has taken it. Nobody can know without
// looking elsewhere.
var ErrUncertain = errors.New("the line ended while the message was being handed over")

// Refusal is a recipient whom a server did not take.
type Refusal struct {
	Address string `json:"address"`
	Text    string `json:"text"`  // what the server said
	Later   bool   `json:"later"` // it may take them later (a 4yz reply, RFC 5321 section 4.2.1)
}

// Handed is what became of the recipients of a message.
type Handed struct {
	Taken   []string
	Refused []Refusal
	Receipt string // by which name the gateway of a telephone line tells of it
}

// Counter is a line to the server that sends for an account (message
// submission, RFC 6409).
type Counter struct {
	client *smtp.Client
	line   *post.Watched
	server mail.Server
	wait   time.Duration
	stop   func() bool
}

// Open connects and signs in. Errors are of the type *StepError. The
// line is cut when the context ends.
func Open(ctx context.Context, n post.Network, s mail.Server, l post.Login) (*Counter, error) {
	reached, err := n.Connect(ctx, s)
	if err != nil {
		return nil, err
	}
	conn := &post.Watched{Conn: reached}
	defer conn.Watch(n.Patience)()
	c := &Counter{server: s, line: conn, wait: n.Patience, stop: context.AfterFunc(ctx, func() { _ = conn.Close() })}
	line := net.Conn(conn)
	if s.Security == mail.StartTLS {
		if line, err = startTLS(conn, s, n.Config(s)); err != nil {
			c.stop()
			_ = conn.Close()
			return nil, err
		}
	}
	c.client = smtp.NewClient(line)
	c.client.CommandTimeout, c.client.SubmissionTimeout = n.Patience, 4*n.Patience
	if err := c.client.Hello(hello(conn.LocalAddr())); err != nil {
		c.Close()
		return nil, notSending(s, err)
	}
	var auth sasl.Client = sasl.NewPlainClient("", l.Name, l.Secret)
	switch {
	case l.Token:
		auth = post.TokenClient{Login: l}
	case !c.client.SupportsAuth("PLAIN") && c.client.SupportsAuth("LOGIN"):
		auth = sasl.NewLoginClient(l.Name, l.Secret)
	}
	if err := c.client.Auth(auth); err != nil {
		c.Close()
		var no *smtp.SMTPError
		said := ""
		if errors.As(err, &no) {
			said = cmp.Or(no.Message, "no")
		}
		return nil, post.NotSignedIn(s, l, said, err)
	}
	return c, nil
}

func notSending(s mail.Server, err error) error {
	return &post.StepError{Step: post.StepGreet, Text: fmt.Sprintf("%s answers, but not as a sending server does (%s). Check the port.", post.HostPort(s), post.Reason(err)), Err: err}
}

// hello is the name by which Ebbe greets a server: the address it comes from, as
// this machine has no name that others need know (RFC 5321, section 4.1.4).
func hello(from net.Addr) string {
	host, _, err := net.SplitHostPort(from.String())
	ip, perr := netip.ParseAddr(host)
	switch {
	case err != nil || perr != nil:
		return "[127.0.0.1]"
	case ip.Unmap().Is4():
		return "[" + ip.Unmap().String() + "]"
	}
	return "[IPv6:" + ip.WithZone("").String() + "]"
}

// startTLS asks for TLS on a line in the clear (RFC 3207), and gives the line
// within it, as one that is greeted anew. What a server has sent in the clear
// after it agreed was sent by somebody else, and is an error.
func startTLS(conn net.Conn, s mail.Server, c *tls.Config) (net.Conn, error) {
	in := bufio.NewReaderSize(conn, 4096)
	reply := func() (code string, lines []string, err error) {
		for range post.LongestReply {
			line, err := in.ReadSlice('\n')
			if err != nil {
				return "", nil, err
			}
			text := strings.TrimRight(string(line), "\r\n")
			if len(text) < 3 {
				return "", nil, errors.New("it said “" + mail.Clean(text, 100) + "”")
			}
			if lines = append(lines, text[min(4, len(text)):]); len(text) == 3 || text[3] == ' ' {
				return text[:3], lines, nil
			}
		}
		return "", nil, errors.New("its answer has no end")
	}
	ask := func(what, want string) ([]string, error) {
		if what != "" {
			if _, err := conn.Write([]byte(what + "\r\n")); err != nil {
				return nil, err
			}
		}
		code, lines, err := reply()
		if err == nil && code != want {
			err = errors.New("it said “" + mail.Clean(code+" "+strings.Join(lines, " "), 200) + "”")
		}
		return lines, err
	}
	if _, err := ask("", "220"); err != nil {
		return nil, notSending(s, err)
	}
	offers, err := ask("EHLO "+hello(conn.LocalAddr()), "250")
	if err != nil {
		return nil, notSending(s, err)
	}
	if !slices.ContainsFunc(offers, func(o string) bool { return strings.EqualFold(strings.TrimSpace(o), "STARTTLS") }) {
		return nil, &post.StepError{Step: post.StepSecure, Text: fmt.Sprintf("%s does not offer STARTTLS, so the password was not sent. Try TLS and another port; 465 is the usual one.", post.HostPort(s))}
	}
	if _, err := ask("STARTTLS", "220"); err != nil {
		return nil, notSending(s, err)
	}
	if in.Buffered() > 0 {
		return nil, &post.StepError{Step: post.StepSecure, Text: fmt.Sprintf("Somebody has meddled with the line to %s, so the password was not sent.", post.HostPort(s))}
	}
	t := tls.Client(conn, c)
	if err := t.Handshake(); err != nil {
		return nil, post.NoTLS(s, err)
	}
	return post.Begun(t, []byte("220 "+s.Host+"\r\n")), nil
}

// Close ends the line.
func (c *Counter) Close() {
	c.stop()
	_ = c.client.Close()
}

// Hand hands a message (RFC 5322) over for some recipients. Those whom the
// server refuses do not keep it from the others. Just before the server is told
// that the message is whole, final is called; if it fails, nothing has gone.
// After it, an error that is ErrUncertain means that nobody knows; with any
// other error nothing was taken.
func (c *Counter) Hand(from string, to []string, raw []byte, final func(taken []string) error) (h Handed, err error) {
	defer c.line.Watch(4 * c.wait)() // the last word of a server may take its time
	wide := !ascii(from)
	for _, a := range to {
		wide = wide || !ascii(a)
	}
	o := &smtp.MailOptions{Size: int64(len(raw)), UTF8: wide}
	if ok, _ := c.client.Extension("SMTPUTF8"); wide && !ok {
		return h, &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 6, 7}, Message: "this server does not send to addresses with letters beyond plain ones (SMTPUTF8)"}
	}
	if most, ok := c.client.MaxMessageSize(); ok && most > 0 && len(raw) > most {
		return h, &smtp.SMTPError{Code: 552, EnhancedCode: smtp.EnhancedCode{5, 3, 4}, Message: fmt.Sprintf("the message has %d MB, and this server takes at most %d", len(raw)>>20, most>>20)}
	}
	if err := c.client.Mail(from, o); err != nil {
		return h, err
	}
	for _, a := range to {
		err := c.client.Rcpt(a, nil)
		var code *smtp.SMTPError
		switch {
		case err == nil:
			h.Taken = append(h.Taken, a)
		case errors.As(err, &code):
			h.Refused = append(h.Refused, Refusal{a, mail.Clean(code.Message, 300), code.Temporary()})
		default:
			return Handed{}, err
		}
	}
	if len(h.Taken) == 0 {
		return h, nil
	}
	w, err := c.client.Data()
	if err == nil {
		_, err = bytes.NewReader(raw).WriteTo(w)
	}
	if err != nil {
		return Handed{}, err
	}
	if err := final(h.Taken); err != nil {
		c.Close()
		return Handed{}, err
	}
	if _, err = w.CloseWithResponse(); err != nil {
		var code *smtp.SMTPError
		if !errors.As(err, &code) {
			err = fmt.Errorf("%w: %w", ErrUncertain, err)
		}
		return Handed{}, err
	}
	return h, nil
}

// Final says whether an error of handing over is one that trying again does
// not change, and in what words the server said so.
func Final(err error) (text string, final bool) {
	var code *smtp.SMTPError
	if errors.As(err, &code) {
		return mail.Clean(code.Message, 300), !code.Temporary()
	}
	return post.Reason(err), false
}

func ascii(s string) bool {
	for _, r := range s {
		if r >= utf8.RuneSelf {
			return false
		}
	}
	return true
}
