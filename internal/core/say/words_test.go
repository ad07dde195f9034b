package say_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// What the program says has one verb for one thing: Save, Cancel, Delete, Remove.
func TestOneVerbForOneThing(t *testing.T) {
	other := regexp.MustCompile(`(?i)\b(stored (yet|anew)|nothing was stored|thrown? away|taken away|take it away|dropped|narrowed|forgotten|stands here|all again|leave it as it was)\b`)
	sentence := regexp.MustCompile(`^[A-Z“%].*[a-z] [a-z].*[.?]$|^[a-z]+ [a-z ]+:?$`)
	seen := 0
	require.NoError(t, filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.SkipObjectResolution)
		require.NoError(t, err, path)
		ast.Inspect(file, func(n ast.Node) bool {
			lit, is := n.(*ast.BasicLit)
			if !is || lit.Kind != token.STRING {
				return true
			}
			text, err := strconv.Unquote(lit.Value)
			require.NoError(t, err)
			if sentence.MatchString(text) {
				seen++
				require.NotRegexp(t, other, text, path)
			}
			return true
		})
		return nil
	}))
	require.Greater(t, seen, 300, "the sentences are found")
}
