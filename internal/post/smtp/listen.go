package smtp

import (
	"context"
	"errors"
	"io"
	"log"
	"net"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Taker takes mail that comes for addresses of Ebbe's own. An error of Allows
// or Take that is a Refused is told to the sender in its words; any other means
// that they are to try again later.
type Taker interface {
	Allows(ctx context.Context, to string) error
	Take(ctx context.Context, to string, raw []byte) error
}

// Refused says why mail is not taken and never will be, in a sentence for the
// sender.
type Refused string

func (r Refused) Error() string { return string(r) }

// The limits of mail that comes in by itself.
const (
	LargestIn  = 25 << 20 // bytes of a message
	mostIn     = 60       // messages an hour, from one machine and to one address
	mostAtOnce = 20       // recipients of one message
)

// Listener takes mail by SMTP (RFC 5321) until it is closed.
type Listener struct {
	Addr   string
	server *smtp.Server
	taker  Taker
	now    func() time.Time
	mu     sync.Mutex
	counts map[string]int // of this hour
	hour   int64
}

// Listen takes mail at an address and port for the hosts it is sent to, and
// gives it to the taker.
func Listen(addr, host string, now func() time.Time, t Taker) (*Listener, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, err
	}
	in := &Listener{Addr: l.Addr().String(), taker: t, now: now, counts: map[string]int{}}
	s := smtp.NewServer(smtp.BackendFunc(func(c *smtp.Conn) (smtp.Session, error) { return &incoming{l: in, c: c}, nil }))
	s.Domain, s.MaxMessageBytes, s.MaxRecipients, s.EnableSMTPUTF8 = host, LargestIn, mostAtOnce, true
	s.ReadTimeout, s.WriteTimeout = 2*time.Minute, time.Minute
	s.ErrorLog = log.New(io.Discard, "", 0)
	in.server = s
	go func() { _ = s.Serve(l) }() // it ends with Close
	return in, nil
}

// Close ends taking mail in.
func (l *Listener) Close() error { return l.server.Close() }

// spend counts one message and says whether it was still allowed.
func (l *Listener) spend(who string) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if h := l.now().Unix() / 3600; h != l.hour {
		l.hour = h
		clear(l.counts)
	}
	l.counts[who]++
	return l.counts[who] <= mostIn
}

type incoming struct {
	l  *Listener
	c  *smtp.Conn
	to []string
}

func (s *incoming) Reset() { s.to = nil }

func (s *incoming) Logout() error { return nil }

func (s *incoming) Mail(string, *smtp.MailOptions) error { s.to = nil; return nil }

func (s *incoming) Rcpt(to string, _ *smtp.RcptOptions) error {
	host, _, _ := net.SplitHostPort(s.c.Conn().RemoteAddr().String())
	if !s.l.spend("from "+host) || !s.l.spend("to "+strings.ToLower(to)) {
		return &smtp.SMTPError{Code: 450, EnhancedCode: smtp.EnhancedCode{4, 7, 1}, Message: "Too much mail has come within this hour. Try again in the next one."}
	}
	if err := s.answer(s.l.taker.Allows(context.Background(), to), smtp.EnhancedCode{5, 1, 1}); err != nil {
		return err
	}
	s.to = append(s.to, to)
	return nil
}

func (s *incoming) Data(r io.Reader) error {
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	for _, to := range s.to {
		if err := s.answer(s.l.taker.Take(context.Background(), to, raw), smtp.EnhancedCode{5, 6, 0}); err != nil {
			return err
		}
	}
	return nil
}

// answer is what the sender is told of an error.
func (s *incoming) answer(err error, code smtp.EnhancedCode) error {
	var refused Refused
	switch {
	case err == nil:
		return nil
	case errors.As(err, &refused):
		return &smtp.SMTPError{Code: 550, EnhancedCode: code, Message: string(refused)}
	}
	return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "It could not be stored just now. Try again later."}
}
