package main

import (
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/netip"
	"os"
	"strings"
	"sync"
	"syscall"
	"time"

	"ebbe/internal/web"
)

// place is where Ebbe is served, and how.
type place struct {
	addr, data    string // data: the folder it runs with
	cert, certKey string // files; "": without TLS
	web.Options
}

// read reads what was said of names, proxies, and what is told of.
func (p *place) read(names, behind []string, level string) error {
	for _, n := range names {
		p.Hosts = append(p.Hosts, strings.ToLower(strings.TrimSpace(n)))
	}
	for _, text := range behind {
		prefix, err := netip.ParsePrefix(text)
		if err != nil {
			at, err := netip.ParseAddr(text)
			if err != nil {
				return fmt.Errorf("%q is no address and no network of a proxy: write it as 127.0.0.1 or 10.0.0.0/8", text)
			}
			prefix = netip.PrefixFrom(at, at.BitLen())
		}
		p.Behind = append(p.Behind, prefix)
	}
	if (p.cert == "") != (p.certKey == "") {
		return errors.New("for TLS both are needed: --tls-cert and --tls-key")
	}
	var l slog.Level
	if err := l.UnmarshalText([]byte(level)); err != nil {
		return fmt.Errorf("%q is nothing that can be told of: use debug, info, warn or error", level)
	}
	slog.SetLogLoggerLevel(l)
	return nil
}

// listen opens the port.
func (p *place) listen() (net.Listener, error) {
	var pair *keyPair
	if p.cert != "" {
		pair = &keyPair{cert: p.cert, key: p.certKey}
		if _, err := pair.get(nil); err != nil {
			return nil, fmt.Errorf("the certificate cannot be used: %w", err)
		}
	}
	l, err := net.Listen("tcp", p.addr)
	switch {
	case errors.Is(err, syscall.EADDRINUSE):
		return nil, fmt.Errorf("%s is in use by another program: stop it, or choose another port with --addr", p.addr)
	case err != nil:
		return nil, fmt.Errorf("cannot listen on %s: %w", p.addr, err)
	case pair != nil:
		return tls.NewListener(l, &tls.Config{MinVersion: tls.VersionTLS12, NextProtos: []string{"h2", "http/1.1"}, GetCertificate: pair.get}), nil
	}
	return l, nil
}

func (p *place) url(l net.Listener) string {
	if p.cert != "" {
		return "https://" + l.Addr().String()
	}
	return "http://" + l.Addr().String()
}

// outside is how Ebbe is reached from elsewhere, by the first name it answers at; "" where it is not
// said, or not reached by TLS.
func (p *place) outside() string {
	if len(p.Hosts) == 0 || p.cert == "" && len(p.Behind) == 0 {
		return ""
	}
	port := ""
	if _, n, err := net.SplitHostPort(p.addr); err == nil && len(p.Behind) == 0 && n != "443" {
		port = ":" + n
	}
	return "https://" + p.Hosts[0] + port
}

// keyPair is a certificate with its key, in two files that may be replaced while Ebbe
// runs.
type keyPair struct {
	cert, key string

	mu   sync.Mutex
	at   time.Time // of the file, when it was read
	pair *tls.Certificate
}

// get gives the certificate as it is now; one that cannot be read leaves the last in use.
func (k *keyPair) get(*tls.ClientHelloInfo) (*tls.Certificate, error) {
	k.mu.Lock()
	defer k.mu.Unlock()
	info, err := os.Stat(k.cert)
	if err == nil && k.pair != nil && info.ModTime().Equal(k.at) {
		return k.pair, nil
	}
	pair, err := tls.LoadX509KeyPair(k.cert, k.key)
	if err != nil {
		if k.pair == nil {
			return nil, err
		}
		slog.Error("the certificate was replaced by one that cannot be used; the one before stays in use", "file", k.cert, "error", err)
		return k.pair, nil
	}
	k.pair = &pair
	if info != nil {
		k.at = info.ModTime()
	}
	return k.pair, nil
}
