package web

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/desk"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	mailpost "ebbe/internal/post"
	"ebbe/internal/store"
	"ebbe/internal/store/plantest"
)

// statements is what the tests of this package made the store run.
var statements plantest.Recorder

func TestMain(m *testing.M) { os.Exit(statements.Main(m)) }

type visitor struct {
	t      *testing.T
	url    string
	client *http.Client
	token  string
	store  *store.Store
}

func visit(t *testing.T) (*visitor, *desk.Desk) {
	t.Helper()
	s, err := store.Open(t.TempDir(), store.Options{Statements: statements.Note})
	require.NoError(t, err)
	d := desk.New(s, &journal.SystemClock{}, false)
	srv := httptest.NewServer(Handler(d, Options{}))
	t.Cleanup(func() { srv.Close(); s.Close() })
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &visitor{t: t, url: srv.URL, client: &http.Client{Jar: jar}, store: s}, d
}

func (v *visitor) do(method, path string, body any, header ...string) (*http.Response, string) {
	v.t.Helper()
	raw, err := json.Marshal(body)
	require.NoError(v.t, err)
	req, err := http.NewRequest(method, v.url+path, bytes.NewReader(raw))
	require.NoError(v.t, err)
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set(csrfHeader, v.token)
	for i := 0; i < len(header); i += 2 {
		req.Header.Set(header[i], header[i+1])
	}
	res, err := v.client.Do(req)
	require.NoError(v.t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(v.t, err)
	return res, string(text)
}

func (v *visitor) setUp() {
	v.t.Helper()
	res, text := v.do("POST", "/api/v1/setup", identity.Signup{Name: "Solvei", Address: "solvei@m.example", Password: "long enough", Zone: "Europe/Oslo"})
	require.Equal(v.t, 200, res.StatusCode, text)
	_, text = v.do("GET", "/api/v1/session", nil)
	var s Session
	require.NoError(v.t, json.Unmarshal([]byte(text), &s))
	require.Equal(v.t, "in", s.State)
	v.token = s.CSRF
}

// open are the routes that one asks before one has signed in.
var open = map[string]bool{"/api/v1/session": true, "/api/v1/setup": true, "/api/v1/sign-in": true, "/api/v1/demo/sign-in": true, "/api/v1/recover": true, "/api/v1/sign-in/passkey": true, "/api/v1/invited": true, "/api/v1/join": true}

func TestNothingIsSeenOrDoneWithoutSigningIn(t *testing.T) {
	v, d := visit(t)
	asked := 0
	for _, route := range engine(d, Options{}).Routes() {
		if open[route.Path] || !strings.HasPrefix(route.Path, "/api/") {
			continue
		}
		res, text := v.do(route.Method, strings.NewReplacer(":id", "1", ":n", "0", ":uid", "x", "*mid", "x", "*cid", "x").Replace(route.Path), nil)
		require.Equalf(t, 401, res.StatusCode, "%s %s: %s", route.Method, route.Path, text)
		asked++
	}
	require.Greater(t, asked, 20)
}

func TestRequestsOfOtherSitesAreRefused(t *testing.T) {
	v, _ := visit(t)
	v.setUp()
	good := v.token
	v.token = "guess"
	res, text := v.do("POST", "/api/v1/take-back", nil)
	require.Equal(t, 403, res.StatusCode)
	require.Contains(t, text, "nothing was done")
	v.token = good
	res, _ = v.do("POST", "/api/v1/take-back", nil, "Sec-Fetch-Site", "cross-site")
	require.Equal(t, 403, res.StatusCode)
	res, _ = v.do("POST", "/api/v1/take-back", nil, "Content-Type", "text/plain")
	require.Equal(t, 403, res.StatusCode, "a form of another site cannot send JSON")
	res, text = v.do("POST", "/api/v1/take-back", nil)
	require.Equal(t, 422, res.StatusCode, text)
	require.Equal(t, "application/problem+json", res.Header.Get("Content-Type"))
	require.Contains(t, text, "There is nothing left to take back.")
	res, _ = v.do("POST", "/api/v1/sign-out", nil)
	require.Equal(t, 200, res.StatusCode)
	res, _ = v.do("GET", "/api/v1/inbox", nil)
	require.Equal(t, 401, res.StatusCode)
}

// What the queue is filtered by, and which slips are wanted, comes in addresses:
// what cannot be read is refused, and no address reaches what is held.
func TestTheInboxIsFilteredByItsAddress(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	in := d.Intake.Begin(context.Background(), 1, intake.Options{})
	for _, from := range []string{"a@x.example", "b@x.example"} {
		require.NoError(t, in.Add(mailpost.Item{Raw: []byte("From: " + from + "\nSubject: hello\nMessage-ID: <" + from + ">\n\ntext\n")}))
	}
	_, err := in.Close()
	require.NoError(t, err)
	where := func(q string) string { return "/api/v1/inbox?where=" + url.QueryEscape(q) }
	for path, want := range map[string]string{
		"/api/v1/inbox":                                  `"shown":2,"left":2`,
		"/api/v1/inbox?group=sender":                     `"key":"b@x.example"`,
		where(`{"from":"a@x.example"}`):                  `"shown":1,"left":2`,
		where(`{"from":"a@x.example' OR 1=1 --"}`):       `"shown":0,"left":2`,
		"/api/v1/matching?where=%7B%22unread%22:true%7D": `{"count":2,"starred":0}`,
		"/api/v1/slips?ids=2,x,1,-4,999":                 `"id":2`,
		"/api/v1/alike/1?by=shape":                       `[1]`,
	} {
		res, text := v.do("GET", path, nil)
		require.Equal(t, 200, res.StatusCode, path)
		require.Contains(t, text, want, path)
	}
	for _, q := range []string{`{"from":1}`, `{`, `{"place":"held"}`, `{"starred":true,"unstarred":true}`} {
		res, text := v.do("GET", where(q), nil)
		require.Equal(t, 422, res.StatusCode, q)
		require.Contains(t, text, "could not read what to look for")
	}
	many := make([]int64, 200_000)
	for i := range many {
		many[i] = int64(i + 1)
	}
	res, text := v.do("POST", "/api/v1/decisions", map[string]any{"kind": "archive", "conversations": many, "seen": "inbox"})
	require.Equal(t, 200, res.StatusCode, text)
	require.Contains(t, text, `"count":2`)
	res, text = v.do("POST", "/api/v1/decisions", map[string]any{"kind": "dance", "conversations": []int64{1}})
	require.Equal(t, 422, res.StatusCode)
	require.Contains(t, text, "does not know that decision")
}

func TestMessagesAreServedSafely(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	in := d.Intake.Begin(context.Background(), 1, intake.Options{})
	require.NoError(t, in.Add(mailpost.Item{Raw: []byte("From: a@bad.example\nSubject: x\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=B\n\n--B\nContent-Type: text/html\n\n<p>hi</p><script>alert(1)</script><img src=\"https://bad.example/x.png\">\n--B\nContent-Type: text/html; name=\"evil.html\"\nContent-Disposition: attachment; filename=\"evil.html\"\n\n<script>alert(1)</script>\n--B--\n")}))
	_, err := in.Close()
	require.NoError(t, err)

	res, text := v.do("GET", "/api/v1/messages/1/body", nil)
	require.Equal(t, 200, res.StatusCode)
	require.Contains(t, text, "<p>hi</p>")
	require.NotContains(t, text, "alert")
	require.NotContains(t, text, "bad.example")
	policy := res.Header.Get("Content-Security-Policy")
	require.Contains(t, policy, "default-src 'none'")
	require.Contains(t, policy, "sandbox allow-same-origin")
	require.NotContains(t, policy, "script")
	require.NotContains(t, policy, "https:")
	res, _ = v.do("GET", "/api/v1/messages/1/body?remote=1", nil)
	require.Contains(t, res.Header.Get("Content-Security-Policy"), "img-src 'self' data: http: https:")

	res, text = v.do("GET", "/api/v1/messages/1/files/0", nil)
	require.Equal(t, "application/octet-stream", res.Header.Get("Content-Type"))
	require.Equal(t, "attachment; filename=evil.html", res.Header.Get("Content-Disposition"))
	require.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
	require.Contains(t, text, "alert", "a file is given unchanged")
	d.Files.Reads = func(_ context.Context, name, kind string, content []byte) (string, error) {
		return "<script>alert(1)</script>", nil
	}
	res, text = v.do("GET", "/api/v1/messages/1/files/0/page", nil)
	require.Contains(t, text, "&lt;script&gt;alert(1)&lt;/script&gt;")
	require.NotContains(t, text, "<script")
	policy = res.Header.Get("Content-Security-Policy")
	require.Contains(t, policy, "default-src 'none'; connect-src 'none'; img-src data:;")
	require.True(t, strings.HasSuffix(policy, "; sandbox"), "no script, and an origin that is nobody's: %s", policy)
	require.NotContains(t, policy, "script")
	require.NotContains(t, policy, "self' ")
	res, _ = v.do("GET", "/api/v1/pdf-reader", nil)
	policy = res.Header.Get("Content-Security-Policy")
	require.Contains(t, policy, "default-src 'none'; connect-src 'none'; script-src 'self' 'wasm-unsafe-eval';")
	require.True(t, strings.HasSuffix(policy, "; sandbox allow-scripts"), policy)
	require.NotContains(t, policy, "allow-same-origin")
	res, _ = v.do("GET", "/api/v1/messages/1/files/7", nil)
	require.Equal(t, 404, res.StatusCode)
	res, _ = v.do("GET", "/api/v1/messages/2", nil)
	require.Equal(t, 404, res.StatusCode)
}

func TestPagesForbidForeignCode(t *testing.T) {
	v, _ := visit(t)
	res, page := v.do("GET", "/", nil)
	policy := res.Header.Get("Content-Security-Policy")
	require.Contains(t, policy, "default-src 'none'; script-src 'self'; style-src 'self'")
	require.NotContains(t, policy, "unsafe")
	nonce := regexp.MustCompile(`'nonce-([A-Z2-7]{26})'`).FindStringSubmatch(policy)
	require.NotNil(t, nonce, policy)
	require.Contains(t, page, `content="`+nonce[1]+`"`)
	again, _ := v.do("GET", "/", nil)
	require.NotEqual(t, policy, again.Header.Get("Content-Security-Policy"), "each answer has a nonce of its own")
	require.Equal(t, "DENY", res.Header.Get("X-Frame-Options"))
	res, text := v.do("GET", "/api/v1/nothing", nil)
	require.NotContains(t, res.Header.Get("Content-Security-Policy"), "nonce")
	require.Equal(t, 404, res.StatusCode)
	require.Contains(t, text, "urn:ebbe:problem:not-found")
}
