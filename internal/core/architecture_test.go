// Package core_test keeps the rooms of docs/architecture.md apart.
package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// allowed says what each room may import of Ebbe's own packages.
var allowed = map[string][]string{
	"internal/core":     {"ebbe/internal/core/"},
	"internal/store":    {"ebbe/internal/core/", "ebbe/internal/store"},
	"internal/post":     {"ebbe/internal/core/"},
	"internal/problem":  {},
	"internal/identity": {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/problem"},
	"internal/journal":  {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/problem", "ebbe/internal/identity"},
	"internal/backoff":  {},
	"internal/outbox":   {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/post", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/journal", "ebbe/internal/backoff"},
	"internal/intake": {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/post", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/journal",
		"ebbe/internal/outbox"},
	"internal/mailsync": {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/post", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/journal", "ebbe/internal/backoff",
		"ebbe/internal/intake"},
	"internal/runner": {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/journal", "ebbe/internal/backoff"},
	"internal/desk": {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/post", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/journal", "ebbe/internal/backoff",
		"ebbe/internal/outbox", "ebbe/internal/runner", "ebbe/internal/intake", "ebbe/internal/mailsync"},
	"internal/web": {"ebbe/internal/core/", "ebbe/internal/desk", "ebbe/internal/store", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/journal"},
	"demo":         {"ebbe/internal/"},
}

// forbidden are what the core must not know even though it is no room of ours:
// databases, networks, files, the web.
var forbidden = []string{"database/", "net/http", "net", "os", "io/fs", "path/filepath", "gorm.io/", "github.com/gin-gonic/", "log"}

// The arrows of docs/architecture.md: web knows desk; desk knows core, store
// and post; core knows nobody.
func TestArrowsBetweenRooms(t *testing.T) {
	seen := map[string]int{}
	for room, may := range allowed {
		root := filepath.Join("../..", room)
		require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
			require.NoError(t, err)
			seen[room]++
			for _, i := range file.Imports {
				name, _ := strconv.Unquote(i.Path.Value)
				if strings.HasPrefix(name, "ebbe/") {
					require.Truef(t, oneOf(name, may), "%s imports %s, which its room must not know", path, name)
				} else if room == "internal/core" && name != "net/url" { // which only reads
					require.Falsef(t, oneOf(name, forbidden), "%s imports %s: the core has no database, network, files or web", path, name)
				}
			}
			return nil
		}))
		require.NotZero(t, seen[room], "the room %s has moved", room)
	}
}

func oneOf(name string, list []string) bool {
	for _, l := range list {
		if name == l || strings.HasPrefix(name, l) && (strings.HasSuffix(l, "/") || strings.HasPrefix(name, l+"/")) {
			return true
		}
	}
	return false
}

// The rules of the job take the time as a value: nothing in the core may ask
// the machine for it.
func TestTheCoreNeverReadsTheClock(t *testing.T) {
	require.NoError(t, filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		source, err := os.ReadFile(path)
		require.NoError(t, err)
		for _, call := range []string{"time.Now(", "time.Since(", "time.Until(", "time.Local"} {
			require.NotContainsf(t, string(source), call, "%s asks the machine for the time", path)
		}
		return nil
	}))
}
