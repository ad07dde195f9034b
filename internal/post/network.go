// Package post is how Ebbe reaches the servers of an account, whatever they
// speak. What they speak is in the rooms below it: imap, smtp, mime, ical,
// archive.
package post

import (
	"cmp"
	"context"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/emersion/go-sasl"

	"ebbe/internal/core/mail"
)

func HostPort(s mail.Server) string { return net.JoinHostPort(s.Host, strconv.Itoa(s.Port)) }

// Login is how one signs in to a server.
type Login struct {
	Name   string
	Secret string // a password, or a token
	Token  bool   // Secret is a token for XOAUTH2
}

// Network is how servers are reached and found.
type Network struct {
	Dial      func(ctx context.Context, network, address string) (net.Conn, error)
	Web       func(ctx context.Context, network, address string) (net.Conn, error) // to pages and services on the web; nil: Dial
	LookupSRV func(ctx context.Context, service, proto, name string) (string, []*net.SRV, error)
	Roots     *x509.CertPool // whom to trust; nil: whom this machine trusts
	Patience  time.Duration  // how long a server may take to answer
}

// Internet is the network of this machine.
func Internet() Network {
	return Network{Dial: (&net.Dialer{Timeout: 20 * time.Second}).DialContext, Web: (&net.Dialer{Timeout: 20 * time.Second, Control: public}).DialContext, LookupSRV: net.DefaultResolver.LookupSRV, Patience: 45 * time.Second}
}

// LongestReply is how many lines, and how long ones, a server may answer with
// before TLS.
const LongestReply = 100

// The steps in which a server is reached.
const (
	StepConnect = "connect" // reach it at all
	StepSecure  = "secure"  // agree on TLS
	StepGreet   = "greet"   // be greeted as this protocol has it
	StepSignIn  = "sign-in"
	StepFolders = "folders"
)

// StepError says which step of reaching a server failed, in a sentence for the
// user that says why and what to do.
type StepError struct {
	Step string
	Text string
	Err  error

	Fingerprint string       // of the certificate that nobody vouches for, SHA-256 in hex, if that is why
	Offer       *mail.Server // what would be right in its place, if that is known
}

func (e *StepError) Error() string { return e.Text }
func (e *StepError) Unwrap() error { return e.Err }

// Find looks for the servers of an address by the SRV records of its domain
// (RFC 6186, RFC 8314). What is not announced there comes back empty.
func (n Network) Find(ctx context.Context, address string) (mailbox, sending mail.Server) {
	ctx, cancel := context.WithTimeout(ctx, n.Patience)
	defer cancel()
	_, domain, _ := strings.Cut(address, "@")
	look := func(services map[string]mail.Security, order ...string) mail.Server {
		for _, s := range order {
			_, found, err := n.LookupSRV(ctx, s, "tcp", domain)
			if err == nil && len(found) > 0 && found[0].Target != "." {
				return mail.Server{Host: strings.TrimSuffix(found[0].Target, "."), Port: int(found[0].Port), Security: services[s]}
			}
		}
		return mail.Server{}
	}
	return look(map[string]mail.Security{"imaps": mail.TLS, "imap": mail.StartTLS}, "imaps", "imap"),
		look(map[string]mail.Security{"submissions": mail.TLS, "submission": mail.StartTLS}, "submissions", "submission")
}

// Connect opens a line to a server, up to the point where TLS stands if it is
// spoken from the first byte.
func (n Network) Connect(ctx context.Context, s mail.Server) (net.Conn, error) {
	if s.Security == mail.Clear && !local(s.Host) {
		return nil, &StepError{Step: StepSecure, Text: "Ebbe speaks without TLS only to this machine. Choose TLS or STARTTLS for " + s.Host + "."}
	}
	ctx, cancel := context.WithTimeout(ctx, n.Patience)
	defer cancel()
	c, err := n.Dial(ctx, "tcp", HostPort(s))
	if err != nil {
		return nil, &StepError{Step: StepConnect, Text: fmt.Sprintf("%s does not answer (%s). Check the name and the port, and whether this machine is online.", HostPort(s), Reason(err)), Err: err}
	}
	if s.Security != mail.TLS {
		return n.greeted(ctx, s, c)
	}
	t := tls.Client(c, n.Config(s))
	if err := t.HandshakeContext(ctx); err != nil {
		_ = c.Close()
		return nil, NoTLS(s, err)
	}
	return t, nil
}

// silence is after how long without a greeting it is found out whether a server
// waits for TLS instead.
const silence = 2 * time.Second

// begun is a line of which the first bytes have been read already.
type begun struct {
	net.Conn
	head []byte
}

// Begun is a line of which the first bytes have been read already.
func Begun(line net.Conn, head []byte) net.Conn { return &begun{line, head} }

func (b *begun) Read(into []byte) (int, error) {
	if len(b.head) > 0 {
		n := copy(into, b.head)
		b.head = b.head[n:]
		return n, nil
	}
	return b.Conn.Read(into)
}

// greeted waits for the first word of a server that is to greet in the clear. One
// that says nothing may be waiting for TLS: that is tried on a line of its own,
// while a server that takes its time is still waited for.
func (n Network) greeted(ctx context.Context, s mail.Server, c net.Conn) (net.Conn, error) {
	type word struct {
		head []byte
		err  error
	}
	first := make(chan word, 1)
	go func() {
		head := make([]byte, 1)
		k, err := c.Read(head)
		first <- word{head[:k], err}
	}()
	patience := time.NewTimer(min(silence, n.Patience/2))
	defer patience.Stop()
	for {
		select {
		case w := <-first:
			if len(w.head) == 0 {
				_ = c.Close()
				return nil, &StepError{Step: StepGreet, Text: fmt.Sprintf("%s ended the line without a word (%s). Check the port.", HostPort(s), Reason(w.err)), Err: w.err}
			}
			return &begun{c, w.head}, nil
		case <-patience.C:
			if n.speaksTLS(ctx, s) {
				_ = c.Close()
				right := s
				right.Security = mail.TLS
				return nil, &StepError{Step: StepSecure, Offer: &right, Text: fmt.Sprintf("%s speaks TLS from the first byte. Choose TLS for it.", HostPort(s))}
			}
		case <-ctx.Done():
			_ = c.Close()
			return nil, &StepError{Step: StepGreet, Text: fmt.Sprintf("%s is there, but says nothing. Check the port.", HostPort(s)), Err: ctx.Err()}
		}
	}
}

// speaksTLS says that a server takes part in a handshake, whatever comes of it.
func (n Network) speaksTLS(ctx context.Context, s mail.Server) bool {
	ctx, cancel := context.WithTimeout(ctx, 2*silence)
	defer cancel()
	c, err := n.Dial(ctx, "tcp", HostPort(s))
	if err != nil {
		return false
	}
	defer c.Close()
	err = tls.Client(c, n.Config(s)).HandshakeContext(ctx)
	var alert tls.AlertError
	var verify *tls.CertificateVerificationError
	return err == nil || errors.As(err, &alert) || errors.As(err, &verify)
}

var errOtherCertificate = errors.New("the certificate is another one than the one you trust")

// Config is how TLS is spoken with a server. Where one certificate is trusted by
// its fingerprint, that one is, and no other.
func (n Network) Config(s mail.Server) *tls.Config {
	c := &tls.Config{ServerName: s.Host, RootCAs: n.Roots, MinVersion: tls.VersionTLS12}
	if s.Trust != "" {
		c.InsecureSkipVerify = true // what is verified instead is below
		c.VerifyConnection = func(state tls.ConnectionState) error {
			if len(state.PeerCertificates) == 0 || !strings.EqualFold(fingerprint(state.PeerCertificates[0]), s.Trust) {
				return &tls.CertificateVerificationError{UnverifiedCertificates: state.PeerCertificates, Err: errOtherCertificate}
			}
			return nil
		}
	}
	return c
}

// fingerprint is the SHA-256 of a certificate, in hex.
func fingerprint(c *x509.Certificate) string {
	sum := sha256.Sum256(c.Raw)
	return hex.EncodeToString(sum[:])
}

func local(host string) bool {
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// NoTLS says why TLS could not be agreed on, and what can be done about it.
func NoTLS(s mail.Server, err error) error {
	var invalid x509.CertificateInvalidError
	var name x509.HostnameError
	var record tls.RecordHeaderError
	var verify *tls.CertificateVerificationError
	out := &StepError{Step: StepSecure, Err: err, Text: fmt.Sprintf("%s and Ebbe could not agree on TLS (%s).", HostPort(s), Reason(err))}
	if errors.As(err, &verify) && len(verify.UnverifiedCertificates) > 0 {
		leaf := verify.UnverifiedCertificates[0]
		out.Fingerprint = fingerprint(leaf)
		names := strings.Join(leaf.DNSNames[:min(len(leaf.DNSNames), 3)], ", ")
		switch {
		case errors.Is(err, errOtherCertificate):
			out.Text = fmt.Sprintf("%s shows another certificate than the one you trust, so the password was not sent. Ask whoever runs it whether that is right before you trust the new one.", s.Host)
		case errors.As(err, &invalid) && invalid.Reason == x509.Expired:
			out.Text = fmt.Sprintf("The certificate of %s has run out or is not valid yet, so the password was not sent. Tell whoever runs the server, and check the clock of this machine.", s.Host)
		case errors.As(err, &name):
			out.Text = fmt.Sprintf("The certificate is one for %s and not for %s, so the password was not sent. Correct the name of the server, or trust this certificate for this account.", mail.Clean(cmp.Or(names, "nobody"), 200), s.Host)
		default:
			out.Text = fmt.Sprintf("The certificate of %s was signed by nobody this machine trusts, so the password was not sent. If whoever runs it confirms its fingerprint, trust this certificate for this account.", s.Host)
		}
	}
	if errors.As(err, &record) {
		right := s
		right.Security = mail.StartTLS
		out.Offer = &right
		out.Text = fmt.Sprintf("%s does not speak TLS from the first byte. Try STARTTLS, or another port.", HostPort(s))
	}
	return out
}

// Reason is what went wrong on a line, shortly.
func Reason(err error) string {
	var op *net.OpError
	var dns *net.DNSError
	switch {
	case errors.Is(err, context.DeadlineExceeded):
		return "no answer in time"
	case errors.As(err, &dns):
		return "there is no such name"
	case errors.As(err, &op) && op.Err != nil:
		return op.Err.Error()
	}
	return err.Error()
}

// NotSignedIn says that a server did not let one sign in; said is what it said, ""
// if it ended the line.
func NotSignedIn(s mail.Server, l Login, said string, err error) error {
	if said == "" {
		return &StepError{Step: StepSignIn, Text: fmt.Sprintf("%s ended the line while signing in (%s).", s.Host, Reason(err)), Err: err}
	}
	what := "password"
	if l.Token {
		what = "token"
	}
	return &StepError{Step: StepSignIn, Text: fmt.Sprintf("%s did not accept the name %s with this %s. It said: “%s”.", s.Host, l.Name, what, mail.Clean(said, 200)), Err: err}
}

// TokenClient is the client's side of XOAUTH2: it gives the token at once.
type TokenClient struct{ Login }

func (t TokenClient) Start() (mech string, initial []byte, err error) {
	return "XOAUTH2", []byte("user=" + t.Name + "\x01auth=Bearer " + t.Secret + "\x01\x01"), nil
}

// Next answers the error that a server explains before it refuses.
func (t TokenClient) Next([]byte) ([]byte, error) { return []byte{}, nil }

var _ sasl.Client = TokenClient{}
