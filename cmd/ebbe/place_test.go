package main

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"io"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/desk"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// certificate writes a certificate with its key, good until then.
func certificate(t *testing.T, dir string, serial int64, until time.Time) (cert, key string) {
	t.Helper()
	k, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	c := &x509.Certificate{SerialNumber: big.NewInt(serial), NotAfter: until, DNSNames: []string{"localhost"}}
	der, err := x509.CreateCertificate(rand.Reader, c, c, &k.PublicKey, k)
	require.NoError(t, err)
	raw, err := x509.MarshalPKCS8PrivateKey(k)
	require.NoError(t, err)
	cert, key = filepath.Join(dir, "cert.pem"), filepath.Join(dir, "key.pem")
	require.NoError(t, os.WriteFile(key, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: raw}), 0o600))
	require.NoError(t, os.WriteFile(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600))
	at := time.Unix(1_800_000_000+serial, 0) // each is of another time
	require.NoError(t, os.Chtimes(cert, at, at))
	return cert, key
}

// A certificate that is replaced is taken without a restart; one that cannot be used leaves
// the last in place.
func TestACertificateIsReplaced(t *testing.T) {
	dir := t.TempDir()
	p := place{addr: "127.0.0.1:0"}
	p.cert, p.certKey = certificate(t, dir, 1, time.Now().Add(time.Hour))
	l, err := p.listen()
	require.NoError(t, err)
	defer l.Close()
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			_ = c.(*tls.Conn).Handshake()
			c.Close()
		}
	}()
	serial := func() int64 {
		c, err := tls.Dial("tcp", l.Addr().String(), &tls.Config{InsecureSkipVerify: true})
		require.NoError(t, err)
		defer c.Close()
		return c.ConnectionState().PeerCertificates[0].SerialNumber.Int64()
	}
	require.EqualValues(t, 1, serial())
	certificate(t, dir, 2, time.Now().Add(time.Hour))
	require.EqualValues(t, 2, serial())
	require.NoError(t, os.WriteFile(p.cert, []byte("broken"), 0o600))
	require.EqualValues(t, 2, serial())
	require.Contains(t, p.url(l), "https://")

	require.False(t, lookAtCertificate(p.cert, p.certKey, time.Now()).Fine)
	certificate(t, dir, 3, time.Now().Add(60*24*time.Hour))
	require.True(t, lookAtCertificate(p.cert, p.certKey, time.Now()).Fine)
	require.False(t, lookAtCertificate(p.cert, p.certKey, time.Now().Add(50*24*time.Hour)).Fine)
	_, err = (&place{addr: "127.0.0.1:0", cert: "none", certKey: "none"}).listen()
	require.ErrorContains(t, err, "cannot be used")
}

// What is said of where Ebbe stands is read, or refused in a sentence.
func TestWhereItStands(t *testing.T) {
	p := place{}
	require.NoError(t, p.read([]string{" Mail.Skagvik.example"}, []string{"10.0.0.0/8", "::1"}, "warn"))
	require.Equal(t, []string{"mail.skagvik.example"}, p.Hosts)
	require.Len(t, p.Behind, 2)
	require.ErrorContains(t, (&place{}).read(nil, []string{"proxy"}, "info"), "no address")
	require.ErrorContains(t, (&place{}).read(nil, nil, "all"), "debug, info")
	require.ErrorContains(t, (&place{cert: "x"}).read(nil, nil, "info"), "both are needed")
}

// Metrics are told to this machine alone, and name nobody.
func TestWhatIsWatched(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	defer s.Close()
	m := newMetrics(desk.New(s, &journal.SystemClock{}, false))
	ctx, end := context.WithCancel(context.Background())
	defer end()
	for _, wide := range []string{"0.0.0.0:0", ":0", "192.0.2.1:0", "nonsense"} {
		require.ErrorContains(t, m.serve(ctx, wide), "of this machine alone")
	}
	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	addr := free.Addr().String()
	free.Close()
	require.NoError(t, m.serve(ctx, addr))
	m.took("GET", "/api/v1/queue", 200, 30*time.Millisecond)
	res, err := http.Get("http://" + addr + "/metrics")
	require.NoError(t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	for _, want := range []string{"ebbe_agenda_late_seconds 0", "ebbe_outbox_waiting 0", `ebbe_request_seconds_bucket{method="GET",route="/api/v1/queue",status="200",le="0.05"} 1`, "go_goroutines"} {
		require.Contains(t, string(text), want)
	}
}
