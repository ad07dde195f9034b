package e2e

import (
	"bytes"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"fmt"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"ebbe/internal/post/office"
)

// gated is a mailbox server on the loopback address that lets no message through
// before it is told to, by a program in between that reads along.
func gated(t *testing.T, o *office.Office) (port, roots string, open func()) {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	c := &x509.Certificate{SerialNumber: big.NewInt(1), NotAfter: time.Now().Add(time.Hour), DNSNames: []string{"localhost"}, IsCA: true, BasicConstraintsValid: true,
		KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}}
	der, err := x509.CreateCertificate(rand.Reader, c, c, &key.PublicKey, key)
	require.NoError(t, err)
	roots = filepath.Join(t.TempDir(), "roots.pem")
	require.NoError(t, os.WriteFile(roots, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600))
	l, err := tls.Listen("tcp", "127.0.0.1:0", &tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{der}, PrivateKey: key}}})
	require.NoError(t, err)
	t.Cleanup(func() { l.Close() })
	opened := make(chan struct{})
	open = sync.OnceFunc(func() { close(opened) })
	t.Cleanup(open)
	relay := func(from, to net.Conn, holds bool) {
		defer from.Close()
		defer to.Close()
		part := make([]byte, 4096)
		for {
			n, err := from.Read(part)
			if holds && bytes.Contains(part[:n], []byte("BODY[")) {
				<-opened
			}
			if _, failed := to.Write(part[:n]); err != nil || failed != nil {
				return
			}
		}
	}
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			plain, err := o.Dial(context.Background(), "tcp", "imap.skagvik.example:993")
			if err != nil {
				c.Close()
				continue
			}
			up := tls.Client(plain, &tls.Config{InsecureSkipVerify: true}) // the office's own, which the test has started
			go relay(c, up, false)
			go relay(up, c, true)
		}
	}()
	_, port, err = net.SplitHostPort(l.Addr().String())
	require.NoError(t, err)
	return port, roots, open
}

// The mail of the first account is watched as it comes in, and then decided.
func TestTheFirstAccountComesIn(t *testing.T) {
	o, err := office.Open("", time.Now)
	require.NoError(t, err)
	require.NoError(t, o.Start())
	t.Cleanup(func() { require.NoError(t, o.Close()) })
	o.AddAccount("solvei@skagvik.example", "low tide")
	for i := range 30 {
		raw := fmt.Sprintf("From: Jonas Reyland <jonas@skagvik.example>\r\nTo: solvei@skagvik.example\r\nSubject: Crate %d\r\nMessage-ID: <crate-%d@skagvik.example>\r\n\r\nIt stands in the dry dock.\r\n", i, i)
		o.Put("solvei@skagvik.example", office.Inbox, time.Now().Add(-time.Duration(i)*time.Hour), []byte(raw))
	}
	port, roots, opens := gated(t, o)
	t.Setenv("SSL_CERT_FILE", roots)
	s := run(t, "serve", "--data", t.TempDir())
	p := open(t, s.url, 1280, 800)
	p.signUp("Solvei Arnkvist", "solvei@skagvik.example")
	p.see("[data-testid=begin]")
	p.does("Connect an account")
	p.until("document.activeElement?.id === 'address'")
	p.write("solvei@skagvik.example")
	p.press(input.Enter)
	for field, value := range map[string]string{"#mailbox-host": "localhost", "#mailbox-port": port, "#secret": "low tide"} {
		p.see(field).MustSelectAllText().MustInput(value)
	}
	p.does("Connect")
	p.reads("[data-testid=begin]", "Looking at skagvik.example")
	opens()
	p.see("[data-slip]")
	p.leftIs(30)
	p.reads("[data-testid=first-steps]", "let it come back later")
	require.True(t, strings.HasPrefix(p.text("[data-testid=subject]"), "Crate"))
	p.press(input.Digit2).leftIs(29)
}
