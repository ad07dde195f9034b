package web

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// request is one as it would come over the wire from this machine.
func request(method, path, body string) (*http.Request, *httptest.ResponseRecorder) {
	r := httptest.NewRequest(method, path, strings.NewReader(body))
	r.Host = "127.0.0.1:8420"
	r.Header.Set("Content-Type", "application/json")
	return r, httptest.NewRecorder()
}

// asks makes one request to a handler as it would come over the wire.
func asks(h http.Handler, method, host string, header ...string) int {
	r := httptest.NewRequest(method, "/api/v1/session", strings.NewReader("{}"))
	if method == "POST" {
		r = httptest.NewRequest(method, "/api/v1/sign-in", strings.NewReader(`{"address":"a@m.example","password":"x"}`))
	}
	r.Host = host
	for i := 0; i < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	return w.Code
}

// A page elsewhere that has its own name stand for this machine reaches nothing,
// and no page of another origin changes anything, signing in included.
func TestOtherNamesAndOtherOrigins(t *testing.T) {
	_, d := visit(t)
	h := Handler(d, Options{Hosts: []string{"mail.skagvik.example"}})
	for host, want := range map[string]int{"127.0.0.1:8420": 200, "localhost:8420": 200, "[::1]:8420": 200, "192.168.1.5:8420": 200, "mail.skagvik.example": 200, "MAIL.skagvik.example.:443": 200,
		"evil.example": 421, "evil.example:8420": 421, "mail.skagvik.example.evil.example": 421, "127.0.0.1.evil.example": 421, "": 421} {
		require.Equal(t, want, asks(h, "GET", host), host)
	}
	const json, here = "application/json", "127.0.0.1:8420"
	for _, c := range []struct {
		want   int
		header []string
	}{
		{401, []string{"Content-Type", json}},
		{401, []string{"Content-Type", json, "Origin", "http://127.0.0.1:8420"}},
		{401, []string{"Content-Type", json + "; charset=utf-8", "Origin", "http://127.0.0.1:8420", "Sec-Fetch-Site", "same-origin"}},
		{403, []string{"Content-Type", json, "Origin", "http://127.0.0.1:9999"}},
		{403, []string{"Content-Type", json, "Origin", "http://evil.example"}},
		{403, []string{"Content-Type", json, "Origin", "null"}},
		{403, []string{"Content-Type", json, "Sec-Fetch-Site", "cross-site"}},
		{403, []string{"Content-Type", "application/jsonx"}},
		{403, []string{"Content-Type", "application/json-seq"}},
		{403, []string{"Content-Type", "text/plain"}},
		{403, nil},
	} {
		require.Equal(t, c.want, asks(h, "POST", here, c.header...), "%v", c.header)
	}
}

// Two of Ebbe on one machine do not sign each other out: their cookies have
// different names.
func TestCookiesCarryTheInstance(t *testing.T) {
	names := map[string]bool{}
	for range 2 {
		v, _ := visit(t)
		v.setUp()
		res, _ := v.do("POST", "/api/v1/sign-in", identity.Signup{Address: "solvei@m.example", Password: "long enough"})
		for _, c := range res.Cookies() {
			require.True(t, c.HttpOnly)
			require.Equal(t, http.SameSiteStrictMode, c.SameSite)
			names[c.Name] = true
		}
	}
	require.Len(t, names, 2)
}

// The data folder and all in it is its owner's alone, whoever made it.
func TestTheDataFolderIsPrivate(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	require.NoError(t, os.Mkdir(dir, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "ebbe.key"), make([]byte, 32), 0o644))
	s, err := store.Open(dir, store.Options{})
	require.NoError(t, err)
	defer s.Close()
	info, err := os.Stat(dir)
	require.NoError(t, err)
	require.Equal(t, os.FileMode(0o700), info.Mode().Perm())
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(entries), 3)
	for _, e := range entries {
		info, err := e.Info()
		require.NoError(t, err)
		require.Equal(t, os.FileMode(0o600), info.Mode().Perm(), e.Name())
	}
}
