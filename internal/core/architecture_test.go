// Package core_test keeps the rooms of docs/architecture.md apart.
package core_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// allowed says what each room may import of Ebbe's own packages.
var allowed = map[string][]string{
	"internal/core":     {"ebbe/internal/core/"},
	"internal/store":    {"ebbe/internal/core/", "ebbe/internal/store"},
	"internal/post":     {"ebbe/internal/core/", "ebbe/internal/post"},
	"internal/problem":  {},
	"internal/identity": {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/problem", "ebbe/internal/secrets"},
	"internal/secrets":  {},
	"internal/journal":  {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/problem", "ebbe/internal/identity"},
	"internal/backoff":  {},
	"internal/outbox":   {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/post", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/journal", "ebbe/internal/backoff"},
	"internal/intake": {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/post", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/journal",
		"ebbe/internal/outbox"},
	"internal/mailsync": {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/post", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/journal", "ebbe/internal/backoff",
		"ebbe/internal/intake"},
	"internal/hatch":  {"ebbe/internal/core/", "ebbe/internal/post", "ebbe/internal/intake"},
	"internal/runner": {"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/journal", "ebbe/internal/backoff"},
	"internal/desk":   append([]string{"ebbe/internal/desk/"}, beneathDesk...),
	"internal/web":    {"ebbe/internal/core/", "ebbe/internal/desk", "ebbe/internal/store", "=ebbe/internal/post/texts", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/journal"},
	"demo":            {"ebbe/internal/"},
}

// beneathDesk is what every room of the desk may import.
var beneathDesk = []string{"ebbe/internal/core/", "ebbe/internal/store", "ebbe/internal/post", "ebbe/internal/problem", "ebbe/internal/identity", "ebbe/internal/secrets", "ebbe/internal/journal", "ebbe/internal/backoff",
	"ebbe/internal/outbox", "ebbe/internal/runner", "ebbe/internal/intake", "ebbe/internal/mailsync"}

// amongPost says which other rooms of the post each of them may import.
var amongPost = map[string][]string{"imap": {""}, "smtp": {""}, "ical": {}, "mime": {"/ical"}, "archive": {"", "/mime"}, "filetext": {"/mime"}, "fileshow": {}, "office": {}, "texts": {""}, "exchange": {"", "/texts"}}

// amongDesk says which other rooms of the desk each of them may import.
var amongDesk = map[string][]string{
	"finding": {"labelling", "queue"}, "files": {}, "figures": {"calendars", "learned"},
	"learned": {}, "received": {}, "told": {}, "persons": {}, "talk": {}, "teams": {}, "sharing": {}, "phones": {}, "queue": {"told"}, "labelling": {}, "importance": {},
	"deliveries": {"learned"},
	"followups":  {"labelling", "learned", "received", "talk", "told"},
	"dayline":    {"deliveries", "learned"},
	"inward":     {"followups", "received"},
	"calendars":  {"followups", "labelling", "queue", "received", "told"},
	"composing":  {"calendars", "followups", "queue", "received", "talk"},
	"decide":     {"composing", "followups", "importance", "labelling", "received", "talk"},
	"rules":      {"decide", "labelling"},
	"junk":       {"decide", "queue"},
	"kept":       {"decide", "deliveries", "followups", "rules"},

	"subscriptions": {"decide"},
	"accounts":      {"composing", "phones"},
	"leaving":       {"calendars"},
	"letters":       {"talk"},
	"review":        {"composing", "deliveries", "figures", "followups", "rules", "subscriptions"},
	"reading":       {"calendars", "composing", "junk", "queue", "sharing", "talk", "told"},
}

// forbidden are what the core must not know even though it is no room of ours:
// databases, networks, files, the web.
var forbidden = []string{"database/", "net/http", "net", "os", "io/fs", "path/filepath", "gorm.io/", "github.com/gin-gonic/", "log"}

// The arrows of docs/architecture.md: web knows desk; desk knows core, store
// and post; core knows nobody.
func TestArrowsBetweenRooms(t *testing.T) {
	seen := map[string]int{}
	rooms := maps.Clone(allowed)
	for room, others := range amongDesk {
		may := slices.Clone(beneathDesk)
		for _, o := range others {
			may = append(may, "ebbe/internal/desk/"+o)
		}
		rooms["internal/desk/"+room] = may
	}
	for room, others := range amongPost {
		may := []string{"ebbe/internal/core/"}
		for _, o := range others {
			may = append(may, "="+"ebbe/internal/post"+o)
		}
		rooms["internal/post/"+room] = may
	}
	for room, may := range rooms {
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
		if exact, ok := strings.CutPrefix(l, "="); ok { // that alone, and nothing below it
			if name == exact {
				return true
			}
			continue
		}
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

// What SQLite is asked stands in the rooms of the store, and nowhere else.
func TestOnlyTheStoreAsksTheDatabase(t *testing.T) {
	for _, root := range []string{"..", "../../demo", "../../cmd"} {
		require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || strings.HasPrefix(path, "../store") {
				return err
			}
			source, err := os.ReadFile(path)
			require.NoError(t, err)
			for _, way := range []string{".DB()", `"gorm.io/`, `"database/sql"`, "internal/store/sqlite"} {
				require.NotContainsf(t, string(source), way, "%s asks the database itself", path)
			}
			return nil
		}))
	}
}

// What is said to be tested is, by the test that is named.
func TestTheTestsThatAreNamedExist(t *testing.T) {
	there := map[string]bool{}
	for _, root := range []string{"../../cmd", "../../internal", "../../e2e"} {
		require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, "_test.go") {
				return err
			}
			source, err := os.ReadFile(path)
			require.NoError(t, err)
			for _, m := range regexp.MustCompile(`(?m)^func (Test\w+)\(`).FindAllStringSubmatch(string(source), -1) {
				there[m[1]] = true
			}
			return nil
		}))
	}
	docs, err := filepath.Glob("../../docs/*.md")
	require.NoError(t, err)
	named := 0
	for _, path := range docs {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		for _, m := range regexp.MustCompile("`(Test\\w+)`").FindAllStringSubmatch(string(text), -1) {
			named++
			require.Truef(t, there[m[1]], "%s names %s, which there is not", path, m[1])
		}
	}
	require.Greater(t, named, 40)
}

// A room is small enough to be known: no package has more than 4,000 lines, no
// type more than some 40 methods.
func TestRoomsAreSmall(t *testing.T) {
	lines, methods := map[string]int{}, map[string]int{}
	require.NoError(t, filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		source, err := os.ReadFile(path)
		require.NoError(t, err)
		lines[filepath.Dir(path)] += strings.Count(string(source), "\n")
		file, err := parser.ParseFile(token.NewFileSet(), path, source, parser.SkipObjectResolution)
		require.NoError(t, err)
		for _, d := range file.Decls {
			f, ok := d.(*ast.FuncDecl)
			if !ok || f.Recv == nil {
				continue
			}
			of := f.Recv.List[0].Type
			if star, ok := of.(*ast.StarExpr); ok {
				of = star.X
			}
			if index, ok := of.(*ast.IndexExpr); ok {
				of = index.X
			}
			methods[filepath.Dir(path)+"."+of.(*ast.Ident).Name]++
		}
		return nil
	}))
	for room, n := range lines {
		require.LessOrEqual(t, n, 4000, "lines in %s", room)
	}
	for of, n := range methods {
		require.LessOrEqual(t, n, 42, "methods of %s", of)
	}
}
