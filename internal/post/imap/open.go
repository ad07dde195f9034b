package imap

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapclient"
	"github.com/emersion/go-sasl"

	"ebbe/internal/core/mail"
	"ebbe/internal/post"
)

// Open connects and signs in. Errors are of the type *StepError. The
// line is cut when the context ends.
func Open(ctx context.Context, n post.Network, s mail.Server, l post.Login) (m *Mailbox, err error) {
	reached, err := n.Connect(ctx, s)
	if err != nil {
		return nil, err
	}
	line := &post.Watched{Conn: reached}
	stop := context.AfterFunc(ctx, func() { _ = reached.Close() })
	defer line.Watch(n.Patience)()
	inner := net.Conn(line)
	if s.Security == mail.StartTLS {
		if inner, err = startTLSMailbox(line, s, n.Config(s)); err != nil {
			stop()
			_ = reached.Close()
			return nil, err
		}
	}
	g := &guard{Conn: inner}
	g.begin(maxReply, maxWord, 10*n.Patience)
	m = &Mailbox{line: line, guard: g, news: make(chan struct{}, 1), wait: n.Patience}
	tell := func() {
		select {
		case m.news <- struct{}{}:
		default:
		}
	}
	options := &imapclient.Options{UnilateralDataHandler: &imapclient.UnilateralDataHandler{
		Expunge: func(uint32) { tell() },
		Mailbox: func(*imapclient.UnilateralDataMailbox) { tell() },
		Fetch: func(f *imapclient.FetchMessageData) {
			for f.Next() != nil {
			}
			tell()
		},
	}}
	m.client = imapclient.New(g, options)
	m.end = func() { stop(); _ = m.client.Close(); _ = reached.Close() }
	excess := func(err error) error {
		if wrong := g.wrong(); wrong != nil {
			return &post.StepError{Step: StepServer, Text: s.Host + " does what no mailbox server may. " + wrong.Error(), Err: wrong}
		}
		return err
	}
	if err := m.client.WaitGreeting(); err != nil {
		m.end()
		return nil, excess(&post.StepError{Step: post.StepGreet, Text: fmt.Sprintf("%s answers, but not as a mailbox server does (%s). Check the port.", post.HostPort(s), post.Reason(err)), Err: err})
	}
	if l.Token {
		err = m.client.Authenticate(post.TokenClient{Login: l})
	} else if caps := m.client.Caps(); caps.Has(imap.AuthCap("PLAIN")) {
		err = m.client.Authenticate(sasl.NewPlainClient("", l.Name, l.Secret))
	} else {
		err = m.client.Login(l.Name, l.Secret).Wait()
	}
	if err != nil {
		m.end()
		return nil, excess(post.NotSignedIn(s, l, saidBy(err), err))
	}
	return m, nil
}

// saidBy is what a server said in refusing; "" if it ended the line.
func saidBy(err error) string {
	var no *imap.Error
	if errors.As(err, &no) {
		return cmp.Or(no.Text, "no")
	}
	return ""
}

// startTLSMailbox asks for TLS on a line in the clear (RFC 9051, section 6.2.1),
// and gives the line within it, as one that is greeted anew.
func startTLSMailbox(conn net.Conn, s mail.Server, c *tls.Config) (net.Conn, error) {
	in := bufio.NewReaderSize(conn, 4096)
	wrong := func(err error) error {
		return &post.StepError{Step: post.StepGreet, Text: fmt.Sprintf("%s answers, but not as a mailbox server does (%s). Check the port.", post.HostPort(s), post.Reason(err)), Err: err}
	}
	greeting, err := in.ReadSlice('\n')
	if err != nil {
		return nil, wrong(err)
	}
	if !bytes.HasPrefix(greeting, []byte("* OK")) {
		return nil, wrong(errors.New("it said “" + mail.Clean(string(greeting), 100) + "”"))
	}
	if _, err := conn.Write([]byte("S1 STARTTLS\r\n")); err != nil {
		return nil, wrong(err)
	}
	agreed := false
	for range post.LongestReply {
		line, err := in.ReadSlice('\n')
		if err != nil {
			return nil, wrong(err)
		}
		if rest, ok := bytes.CutPrefix(line, []byte("S1 ")); ok {
			if agreed = bytes.HasPrefix(bytes.ToUpper(rest), []byte("OK")); !agreed {
				return nil, &post.StepError{Step: post.StepSecure, Text: fmt.Sprintf("%s does not offer STARTTLS, so the password was not sent. Try TLS and another port; 993 is the usual one.", post.HostPort(s))}
			}
			break
		}
	}
	if !agreed || in.Buffered() > 0 {
		return nil, &post.StepError{Step: post.StepSecure, Text: fmt.Sprintf("Somebody has meddled with the line to %s, so the password was not sent.", post.HostPort(s))}
	}
	t := tls.Client(conn, c)
	if err := t.Handshake(); err != nil {
		return nil, post.NoTLS(s, err)
	}
	return post.Begun(t, []byte("* OK "+s.Host+"\r\n")), nil
}
