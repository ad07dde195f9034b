package office

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"errors"
	"io"
	"log"
	"math/big"
	mrand "math/rand/v2"
	"net"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapserver"
	"github.com/emersion/go-smtp"
)

// Faults is how the office misbehaves. Chances are between 0 and 1.
type Faults struct {
	Seed    uint64
	Cut     float64 // of each piece sent: that half of it goes and the line is cut
	Busy    float64 // of each sender: that they are told to come back later
	Twice   float64 // of each message taken: that each recipient here gets it two times
	Mute    float64 // of each message taken: that the line is cut before that is said
	Slow    float64 // of each piece sent: that it comes a moment late
	Files   bool    // what is sent it lays into the sent mail by itself, with a line of its own at its head
	Sizes   int64   // added to the size of each message when asked for it
	Plain   bool    // without MOVE, UIDPLUS and SPECIAL-USE
	Expired bool    // the certificate has run out
	Hang    bool    // connections are taken and nothing is ever said

	dice *mrand.Rand
}

var errCut = errors.New("the line was cut")

type wire struct {
	mu        sync.Mutex
	listeners map[string]net.Listener // by port
	conns     map[net.Conn]bool
	roots     *x509.CertPool
	closers   []io.Closer
}

// Misbehave sets the faults; the zero value ends them. Plain and Expired count
// from the next Start on.
func (o *Office) Misbehave(f Faults) {
	o.mu.Lock()
	defer o.mu.Unlock()
	f.dice = mrand.New(mrand.NewPCG(f.Seed, 1))
	o.fault = f
}

// strikes throws the dice for one fault.
func (o *Office) strikes(chance func(Faults) float64) bool {
	o.mu.Lock()
	defer o.mu.Unlock()
	return o.fault.dice != nil && o.fault.dice.Float64() < chance(o.fault)
}

// Start lets the office answer on the loopback address until Close.
func (o *Office) Start() error {
	w := &wire{listeners: map[string]net.Listener{}, conns: map[net.Conn]bool{}}
	o.mu.Lock()
	fault := o.fault
	o.wire = w
	o.mu.Unlock()
	config, roots, err := certificate(fault.Expired)
	if err != nil {
		return err
	}
	w.roots = roots
	quiet := log.New(io.Discard, "", 0)
	caps := imap.CapSet{imap.CapIMAP4rev1: {}}
	if !fault.Plain {
		caps = imap.CapSet{imap.CapIMAP4rev1: {}, imap.CapIMAP4rev2: {}, imap.CapUIDPlus: {}, imap.CapMove: {}, imap.CapSpecialUse: {}, imap.CapNamespace: {}, imap.CapESearch: {}, imap.CapListStatus: {}, imap.CapListExtended: {}, imap.CapLiteralPlus: {}}
	}
	boxes := imapserver.New(&imapserver.Options{Caps: caps, TLSConfig: config, Logger: quiet,
		NewSession: func(*imapserver.Conn) (imapserver.Session, *imapserver.GreetingData, error) {
			return &session{o: o}, nil, nil
		}})
	counters := smtp.NewServer(smtp.BackendFunc(func(c *smtp.Conn) (smtp.Session, error) { return &counter{o: o, conn: c}, nil }))
	counters.Domain, counters.TLSConfig, counters.ErrorLog, counters.MaxMessageBytes, counters.EnableSMTPUTF8 = "post.skagvik.example", config, quiet, Largest, true
	pages := &http.Server{Handler: http.HandlerFunc(o.serve), ErrorLog: quiet, ReadHeaderTimeout: 10 * time.Second}
	for _, port := range []string{"143", "993", "587", "465", "443"} {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return errors.Join(err, o.Close())
		}
		w.listeners[port] = l
		var in net.Listener = &faulty{l, o}
		if port == "993" || port == "465" || port == "443" {
			in = tls.NewListener(in, config)
		}
		switch port {
		case "143", "993":
			go func() { _ = boxes.Serve(in) }()
		case "443":
			go func() { _ = pages.Serve(in) }()
		default:
			go func() { _ = counters.Serve(in) }()
		}
	}
	w.closers = []io.Closer{boxes, counters, pages}
	return nil
}

// serve is the web part of the office: at every address that ends in /leave one
// leaves a list by a request of one line (RFC 8058).
func (o *Office) serve(w http.ResponseWriter, r *http.Request) {
	if !strings.HasSuffix(r.URL.Path, "/leave") {
		http.NotFound(w, r)
		return
	}
	if r.Method != http.MethodPost || r.PostFormValue("List-Unsubscribe") != "One-Click" {
		_, _ = io.WriteString(w, "Send List-Unsubscribe=One-Click to this address to leave the list.\n")
		return
	}
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.strict(r.Host) {
		http.Error(w, "not now", http.StatusServiceUnavailable)
		return
	}
	o.left = append(o.left, r.Host+r.URL.RequestURI())
	_, _ = io.WriteString(w, "You have left the list.\n")
}

// strict says that a list is one that lets nobody go, to see what happens then.
func (o *Office) strict(host string) bool { return strings.HasPrefix(host, "forever.") }

// Left gives the addresses at which lists were left.
func (o *Office) Left() []string {
	o.mu.Lock()
	defer o.mu.Unlock()
	return slices.Clone(o.left)
}

// Close ends all connections; the mail stays.
func (o *Office) Close() (err error) {
	o.mu.Lock()
	w, f := o.wire, o.log
	o.wire, o.log = nil, nil
	o.mu.Unlock()
	if w != nil {
		w.mu.Lock()
		for c := range w.conns {
			_ = c.Close()
		}
		w.mu.Unlock()
		for _, c := range w.closers {
			_ = c.Close()
		}
	}
	if f != nil {
		err = f.Close()
	}
	return err
}

// Dial connects to the office under any host name that ends in .example, at
// the standard ports of IMAP and submission; nothing else can be reached.
func (o *Office) Dial(ctx context.Context, network, address string) (net.Conn, error) {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return nil, err
	}
	o.mu.Lock()
	w := o.wire
	o.mu.Unlock()
	if w == nil || !strings.HasSuffix(host, ".example") || w.listeners[port] == nil {
		return nil, &net.OpError{Op: "dial", Net: network, Err: errors.New("connection refused")}
	}
	return (&net.Dialer{}).DialContext(ctx, "tcp", w.listeners[port].Addr().String())
}

// Roots are the certificates by which the office's own can be checked.
func (o *Office) Roots() *x509.CertPool {
	o.mu.Lock()
	defer o.mu.Unlock()
	return o.wire.roots
}

// LookupSRV answers like a name server that knows the services of one domain
// (RFC 6186): those of every .example domain that has an account here.
func (o *Office) LookupSRV(_ context.Context, service, _, domain string) (string, []*net.SRV, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	for address := range o.users {
		if _, at, _ := strings.Cut(address, "@"); at == domain {
			switch service {
			case "imaps":
				return "", []*net.SRV{{Target: "imap." + domain + ".", Port: 993}}, nil
			case "submissions":
				return "", []*net.SRV{{Target: "smtp." + domain + ".", Port: 465}}, nil
			}
		}
	}
	return "", nil, &net.DNSError{Err: "no such host", Name: domain, IsNotFound: true}
}

// certificate makes one for the names of the office, signed by itself.
func certificate(expired bool) (*tls.Config, *x509.CertPool, error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, nil, err
	}
	until := time.Now().AddDate(1, 0, 0)
	if expired {
		until = time.Now().AddDate(0, 0, -1)
	}
	c := &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: "The stand-in post office"}, NotBefore: until.AddDate(-2, 0, 0), NotAfter: until,
		IsCA: true, BasicConstraintsValid: true, KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}}
	for _, domain := range []string{"skagvikmuseum.example", "skagvikchoir.example", "skagvik.example"} {
		for _, host := range []string{"imap.", "smtp.", "post."} {
			c.DNSNames = append(c.DNSNames, host+domain)
		}
	}
	c.DNSNames = append(c.DNSNames, "*.example", "letter.theloandesk.example", "forever.skagvik.example")
	der, err := x509.CreateCertificate(rand.Reader, c, c, &key.PublicKey, key)
	if err != nil {
		return nil, nil, err
	}
	leaf, err := x509.ParseCertificate(der)
	if err != nil {
		return nil, nil, err
	}
	roots := x509.NewCertPool()
	roots.AddCert(leaf)
	return &tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{der}, PrivateKey: key}}}, roots, nil
}

// faulty hands out connections that misbehave as the office is told to.
type faulty struct {
	net.Listener
	o *Office
}

func (f *faulty) Accept() (net.Conn, error) {
	c, err := f.Listener.Accept()
	if err != nil {
		return nil, err
	}
	f.o.mu.Lock()
	w, hang := f.o.wire, f.o.fault.Hang
	f.o.mu.Unlock()
	if w == nil {
		_ = c.Close()
		return c, nil
	}
	w.mu.Lock()
	w.conns[c] = true
	w.mu.Unlock()
	return &line{c, f.o, w, hang}, nil
}

type line struct {
	net.Conn
	o    *Office
	w    *wire
	hang bool
}

func (l *line) Write(b []byte) (int, error) {
	if l.hang {
		return len(b), nil
	}
	if l.o.strikes(func(f Faults) float64 { return f.Slow }) {
		time.Sleep(15 * time.Millisecond)
	}
	if l.o.strikes(func(f Faults) float64 { return f.Cut }) {
		_, _ = l.Conn.Write(b[:len(b)/2])
		_ = l.Conn.Close()
		return 0, errCut
	}
	return l.Conn.Write(b)
}

func (l *line) Close() error {
	l.w.mu.Lock()
	delete(l.w.conns, l.Conn)
	l.w.mu.Unlock()
	return l.Conn.Close()
}
