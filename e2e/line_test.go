package e2e

import (
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
)

// line stands between a browser and the program: what goes over it is counted, and
// can be held up, answered otherwise, or cut.
type line struct {
	url string

	mu     sync.Mutex
	asked  []string // method and path of what came, in order
	rules  []rule
	behind *httputil.ReverseProxy
}

// rule is what becomes of requests to which it applies, instead of being passed on.
type rule struct {
	applies func(r *http.Request) bool
	answer  func(w http.ResponseWriter, r *http.Request, pass func())
}

// between puts a line before a program.
func between(t *testing.T, s *server) *line {
	t.Helper()
	to, err := url.Parse(s.url)
	require.NoError(t, err)
	l := &line{behind: &httputil.ReverseProxy{
		Rewrite:       func(r *httputil.ProxyRequest) { r.SetURL(to); r.Out.Host = r.In.Host },
		FlushInterval: -1,
		ErrorHandler:  func(w http.ResponseWriter, _ *http.Request, _ error) { panic(http.ErrAbortHandler) }, // the line is cut, as it is without this one
	}}
	srv := httptest.NewServer(l)
	srv.Config.ErrorLog = nil
	t.Cleanup(func() { srv.CloseClientConnections(); srv.Close() })
	l.url = srv.URL
	return l
}

func (l *line) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	l.mu.Lock()
	l.asked = append(l.asked, r.Method+" "+strings.TrimPrefix(r.URL.Path, "/api/v1"))
	var answer func(http.ResponseWriter, *http.Request, func())
	for _, rule := range l.rules {
		if rule.applies(r) {
			answer = rule.answer
			break
		}
	}
	l.mu.Unlock()
	pass := func() { l.behind.ServeHTTP(w, r) }
	if answer == nil {
		pass()
		return
	}
	answer(w, r, pass)
}

// to says that requests with that method whose path begins so are answered like
// that; what is given ends it.
func (l *line) to(method, prefix string, answer func(w http.ResponseWriter, r *http.Request, pass func())) (end func()) {
	l.mu.Lock()
	defer l.mu.Unlock()
	over := false
	l.rules = append(l.rules, rule{func(r *http.Request) bool {
		return !over && r.Method == method && strings.HasPrefix(r.URL.Path, prefix)
	}, answer})
	return func() {
		l.mu.Lock()
		defer l.mu.Unlock()
		over = true
	}
}

// cut drops a request as if the line were broken.
func cut(http.ResponseWriter, *http.Request, func()) { panic(http.ErrAbortHandler) }

// status answers with an error that says nothing.
func status(code int) func(http.ResponseWriter, *http.Request, func()) {
	return func(w http.ResponseWriter, _ *http.Request, _ func()) { w.WriteHeader(code) }
}

// text answers with that, as if it were right.
func text(body string) func(http.ResponseWriter, *http.Request, func()) {
	return func(w http.ResponseWriter, _ *http.Request, _ func()) {
		w.Header().Set("Content-Type", "application/json")
		_, _ = w.Write([]byte(body))
	}
}

// since gives what was asked from the n-th request on.
func (l *line) since(n int) []string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return append([]string{}, l.asked[n:]...)
}
