package main

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// What ships has its notice, what is for development alone has none, and nothing
// ships without a licence.
func TestPackagesOfTheFrontEnd(t *testing.T) {
	ui := t.TempDir()
	lay := func(path, text string) {
		file := filepath.Join(ui, path)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	lock := func(more string) {
		lay("package-lock.json", `{"packages": {"": {"version": "1"}, "node_modules/@a/shown": {"version": "1.2"}, "node_modules/@a/shown/node_modules/within": {"version": "3", "license": "MIT"},
			"node_modules/tailwindcss": {"version": "4", "dev": true}, "node_modules/checker": {"version": "5", "dev": true}, "node_modules/elsewhere": {"version": "6", "optional": true}`+more+`}}`)
	}
	lock("")
	lay("node_modules/@a/shown/LICENSE.md", "Free to use.\n")
	lay("node_modules/@a/shown/NOTICE", "Made by A.\n")
	lay("node_modules/@a/shown/README.md", "not a notice")
	lay("node_modules/@a/shown/node_modules/within/index.js", "")
	lay("node_modules/tailwindcss/LICENSE", "MIT License")
	lay("node_modules/checker/LICENSE", "MIT License")
	got, err := npmPackages(ui)
	require.NoError(t, err)
	require.ElementsMatch(t, []Notice{{"@a/shown", "1.2", "Free to use.\n\nMade by A."}, {"within", "3", "Licensed under MIT."}, {"tailwindcss", "4", "MIT License"}}, got)

	lock(`, "node_modules/bare": {"version": "7"}`)
	lay("node_modules/bare/index.js", "")
	_, err = npmPackages(ui)
	require.ErrorContains(t, err, "bare: no licence")
}
