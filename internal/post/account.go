package post

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"

	"ebbe/internal/core/mail"
)

// What a server is, as the core has it.
type (
	Server   = mail.Server
	Security = mail.Security
)

// The securities.
const (
	TLS      = mail.TLS
	StartTLS = mail.StartTLS
	Clear    = mail.Clear
)

func hostPort(s Server) string { return net.JoinHostPort(s.Host, strconv.Itoa(s.Port)) }

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
}

func (e *StepError) Error() string { return e.Text }
func (e *StepError) Unwrap() error { return e.Err }

// Find looks for the servers of an address by the SRV records of its domain
// (RFC 6186, RFC 8314). What is not announced there comes back empty.
func (n Network) Find(ctx context.Context, address string) (mailbox, sending Server) {
	ctx, cancel := context.WithTimeout(ctx, n.Patience)
	defer cancel()
	_, domain, _ := strings.Cut(address, "@")
	look := func(services map[string]Security, order ...string) Server {
		for _, s := range order {
			_, found, err := n.LookupSRV(ctx, s, "tcp", domain)
			if err == nil && len(found) > 0 && found[0].Target != "." {
				return Server{Host: strings.TrimSuffix(found[0].Target, "."), Port: int(found[0].Port), Security: services[s]}
			}
		}
		return Server{}
	}
	return look(map[string]Security{"imaps": TLS, "imap": StartTLS}, "imaps", "imap"),
		look(map[string]Security{"submissions": TLS, "submission": StartTLS}, "submissions", "submission")
}

// connect opens a line to a server, up to the point where TLS stands if it is
// spoken from the first byte.
func (n Network) connect(ctx context.Context, s Server) (net.Conn, error) {
	if s.Security == Clear && !local(s.Host) {
		return nil, &StepError{StepSecure, "Ebbe speaks without TLS only to this machine. Choose TLS or STARTTLS for " + s.Host + ".", nil}
	}
	ctx, cancel := context.WithTimeout(ctx, n.Patience)
	defer cancel()
	c, err := n.Dial(ctx, "tcp", hostPort(s))
	if err != nil {
		return nil, &StepError{StepConnect, fmt.Sprintf("%s does not answer (%s). Check the name and the port, and whether this machine is online.", hostPort(s), reason(err)), err}
	}
	if s.Security != TLS {
		return c, nil
	}
	t := tls.Client(c, n.config(s))
	if err := t.HandshakeContext(ctx); err != nil {
		_ = c.Close()
		return nil, secure(s, err)
	}
	return t, nil
}

func (n Network) config(s Server) *tls.Config {
	return &tls.Config{ServerName: s.Host, RootCAs: n.Roots, MinVersion: tls.VersionTLS12}
}

func local(host string) bool {
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// secure says why TLS could not be agreed on.
func secure(s Server, err error) error {
	var invalid x509.CertificateInvalidError
	var unknown x509.UnknownAuthorityError
	var name x509.HostnameError
	var record tls.RecordHeaderError
	text := fmt.Sprintf("%s and Ebbe could not agree on TLS (%s).", hostPort(s), reason(err))
	switch {
	case errors.As(err, &invalid) && invalid.Reason == x509.Expired:
		text = fmt.Sprintf("The certificate of %s has run out or is not valid yet, so the password was not sent. Tell whoever runs the server, and check the clock of this machine.", s.Host)
	case errors.As(err, &unknown):
		text = fmt.Sprintf("The certificate of %s was signed by nobody this machine trusts, so the password was not sent.", s.Host)
	case errors.As(err, &name):
		text = fmt.Sprintf("The certificate is not one for %s, so the password was not sent. Check the name of the server.", s.Host)
	case errors.As(err, &record):
		text = fmt.Sprintf("%s does not speak TLS from the first byte. Try STARTTLS, or another port.", hostPort(s))
	}
	return &StepError{StepSecure, text, err}
}

// reason is what went wrong on a line, shortly.
func reason(err error) string {
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

// refused says that a server did not let one sign in.
func refused(s Server, l Login, err error) error {
	var no *imap.Error
	var code *smtp.SMTPError
	said := ""
	switch {
	case errors.As(err, &no):
		said = no.Text
	case errors.As(err, &code):
		said = code.Message
	default:
		return &StepError{StepSignIn, fmt.Sprintf("%s ended the line while signing in (%s).", s.Host, reason(err)), err}
	}
	what := "password"
	if l.Token {
		what = "token"
	}
	return &StepError{StepSignIn, fmt.Sprintf("%s did not accept the name %s with this %s. It said: “%s”.", s.Host, l.Name, what, clean(said, 200)), err}
}

// tokenClient is the client's side of XOAUTH2: it gives the token at once.
type tokenClient struct{ Login }

func (t tokenClient) Start() (mech string, initial []byte, err error) {
	return "XOAUTH2", []byte("user=" + t.Name + "\x01auth=Bearer " + t.Secret + "\x01\x01"), nil
}

// Next answers the error that a server explains before it refuses.
func (t tokenClient) Next([]byte) ([]byte, error) { return []byte{}, nil }

var _ sasl.Client = tokenClient{}
