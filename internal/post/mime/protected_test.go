package mime

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/base64"
	"math/big"
	"testing"
	"time"

	"github.com/smallstep/pkcs7"
	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
)

// wrapped is a part with a signature around it (RFC 8551, section 3.5.2).
func wrapped(t testing.TB, part string) []byte {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	of := &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: "Halvard Lindqvist"}, NotAfter: time.Date(2040, 1, 1, 0, 0, 0, 0, time.UTC)}
	raw, err := x509.CreateCertificate(rand.Reader, of, of, key.Public(), key)
	require.NoError(t, err)
	cert, err := x509.ParseCertificate(raw)
	require.NoError(t, err)
	s, err := pkcs7.NewSignedData([]byte(part))
	require.NoError(t, err)
	s.SetDigestAlgorithm(pkcs7.OIDDigestAlgorithmSHA256)
	require.NoError(t, s.AddSigner(cert, key, pkcs7.SignerInfoConfig{}))
	out, err := s.Finish()
	require.NoError(t, err)
	return out
}

func TestProtectedMessages(t *testing.T) {
	signed := base64.StdEncoding.EncodeToString(wrapped(t, "Content-Type: multipart/mixed; boundary=i\n\n--i\nContent-Type: text/plain; charset=utf-8\n\nThe clause stands, søndag.\n--i\nContent-Type: text/csv\nContent-Disposition: attachment; filename=crates.csv\n\na,b\n--i--\n"))
	p7m := func(kind, content string) string {
		return "Content-Type: application/pkcs7-mime; " + kind + "name=smime.p7m\nContent-Transfer-Encoding: base64\nContent-Disposition: attachment; filename=smime.p7m\n\n" + content + "\n"
	}
	for name, c := range map[string]struct {
		raw   string
		is    mail.Protection
		text  string
		files int
	}{
		"plain":                     {"Content-Type: text/plain\n\nHello\n", mail.Unprotected, "Hello", 0},
		"signed beside":             {"Content-Type: multipart/signed; protocol=\"application/pkcs7-signature\"; micalg=sha-256; boundary=b\n\n--b\nContent-Type: text/plain\n\nHello\n--b\nContent-Type: application/pkcs7-signature; name=smime.p7s\nContent-Transfer-Encoding: base64\n\nAAAA\n--b--\n", mail.SMIMESigned, "Hello", 1},
		"signed beside, PGP":        {"Content-Type: multipart/signed; protocol=\"application/pgp-signature\"; boundary=b\n\n--b\nContent-Type: text/plain\n\nHello\n--b\nContent-Type: application/pgp-signature; name=signature.asc\n\nAAAA\n--b--\n", mail.PGPSigned, "Hello", 1},
		"a signature around it":     {p7m("smime-type=signed-data; ", signed), mail.SMIMESigned, "The clause stands, søndag.", 2},
		"the same, not said":        {p7m("", signed), mail.SMIMESigned, "The clause stands, søndag.", 2},
		"encrypted":                 {p7m("smime-type=enveloped-data; ", "MIIB"), mail.SMIMEEncrypted, "", 1},
		"a broken signature":        {p7m("smime-type=signed-data; ", "MIIB"), mail.SMIMEEncrypted, "", 1},
		"a signature that is cut":   {p7m("smime-type=signed-data; ", signed[:len(signed)/8*4]), mail.SMIMEEncrypted, "", 1},
		"encrypted, PGP":            {"Content-Type: multipart/encrypted; protocol=\"application/pgp-encrypted\"; boundary=b\n\n--b\nContent-Type: application/pgp-encrypted\n\nVersion: 1\n--b\nContent-Type: application/octet-stream; name=encrypted.asc\n\nAAAA\n--b--\n", mail.PGPEncrypted, "", 2},
		"encrypted in its text":     {"Content-Type: text/plain\n\n-----BEGIN PGP MESSAGE-----\n\nAAAA\n-----END PGP MESSAGE-----\n", mail.PGPEncrypted, "-----BEGIN PGP MESSAGE-----\n\nAAAA\n-----END PGP MESSAGE-----", 0},
		"signed in its text":        {"Content-Type: text/plain\n\n-----BEGIN PGP SIGNED MESSAGE-----\nHash: SHA256\n\nHello\n-----BEGIN PGP SIGNATURE-----\nAAAA\n-----END PGP SIGNATURE-----\n", mail.PGPSigned, "-----BEGIN PGP SIGNED MESSAGE-----\nHash: SHA256\n\nHello\n-----BEGIN PGP SIGNATURE-----\nAAAA\n-----END PGP SIGNATURE-----", 0},
		"somebody writes about it":  {"Content-Type: text/plain\n\nIt begins with -----BEGIN PGP MESSAGE-----\n", mail.Unprotected, "It begins with -----BEGIN PGP MESSAGE-----", 0},
		"a signature within a part": {"Content-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nHello\n--b\n" + p7m("smime-type=signed-data; ", signed) + "--b--\n", mail.Unprotected, "Hello", 1},
	} {
		b := Read([]byte("From: Halvard <h@x.example>\nSubject: Clause\nMIME-Version: 1.0\n" + c.raw))
		require.Equal(t, c.is, b.Protection, name)
		require.Equal(t, c.text, trimmed(b.Text), name)
		require.Len(t, b.Parts, c.files, name)
		require.False(t, b.Raw, name)
	}
}

func trimmed(s string) string {
	for len(s) > 0 && (s[len(s)-1] == '\n' || s[len(s)-1] == '\r') {
		s = s[:len(s)-1]
	}
	return s
}

func FuzzUnwrapped(f *testing.F) {
	f.Add(wrapped(f, "Content-Type: text/plain\n\nHello\n"))
	f.Add([]byte("\x30\x80\x06\x09\x2a\x86\x48\x86\xf7\x0d\x01\x07\x02\xa0\x80"))
	f.Fuzz(func(_ *testing.T, content []byte) { unwrapped(content) })
}
