package main

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/desk"
	"ebbe/internal/journal"
	"ebbe/internal/web"
)

// No request of the screens is forgotten: each route has a sample, or the reason
// why it has none.
func TestEveryRequestIsMeasured(t *testing.T) {
	routes := web.Routes(desk.New(nil, &journal.SystemClock{}, false))
	require.Greater(t, len(routes), 100)
	known := map[string]bool{}
	for _, r := range routes {
		known[r] = true
		s, ok := samples[r]
		require.True(t, ok, "%s is not measured: add it to bench/requests.go", r)
		require.Equal(t, s.left == "", s.make != nil, r)
	}
	for name := range samples {
		require.True(t, known[name] || name == common, "%s is no route any more", name)
	}
}
