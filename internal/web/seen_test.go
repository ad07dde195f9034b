package web

import (
	"context"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/desk"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// A request that is broken off, as each letter that is typed on breaks off the search for
// those before, is no fault: it is told apart from what the program could not do.
func TestABrokenOffRequestIsNoFault(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{Statements: statements.Note})
	require.NoError(t, err)
	defer s.Close()
	var ended []int
	h := Handler(desk.New(s, &journal.SystemClock{}, false), Options{Took: func(_, _ string, status int, _ time.Duration) { ended = append(ended, status) }})
	gone, leave := context.WithCancel(t.Context())
	ask := func(ctx context.Context) {
		h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequestWithContext(ctx, "GET", "http://127.0.0.1/api/v1/session", nil))
	}
	ask(gone)
	leave()
	ask(gone)
	require.Equal(t, []int{200, brokenOff}, ended)
}
