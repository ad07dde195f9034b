// Command notices writes the notices of everything that ships with Ebbe, as JSON:
// of the Go modules that are built into the program, of Go itself, and of the
// packages and fonts of the front end. It is run by the build and fails where
// something would ship without its licence.
package main

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
)

// Notice is what is said of one thing that ships.
type Notice struct {
	Name    string `json:"name"`
	Version string `json:"version"`
	Text    string `json:"text"` // its licence and its own notices, as they come with it
}

// built are packages that are only needed to build the front end, and of which
// something ends up in what is built.
var built = []string{"tailwindcss"}

// ships are folders of packages of which files ship that others have made, with their own
// licences in them.
var ships = map[string][]string{"pdfjs-dist": {"cmaps", "standard_fonts", "wasm"}}

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "notices <the folder of Ebbe> <the file to write>")
		os.Exit(2)
	}
	if err := write(os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "the notices could not be written:", err)
		os.Exit(1)
	}
}

func write(root, file string) error {
	modules, err := goModules(root)
	if err != nil {
		return err
	}
	packages, err := npmPackages(filepath.Join(root, "ui"))
	if err != nil {
		return err
	}
	all := append(modules, packages...)
	slices.SortFunc(all, func(a, b Notice) int {
		return cmp.Or(strings.Compare(a.Name, b.Name), strings.Compare(a.Version, b.Version))
	})
	raw, err := json.Marshal(slices.Compact(all))
	if err != nil {
		return err
	}
	return os.WriteFile(file, raw, 0o644)
}

// goModules are those of which something is built into the program, and Go.
func goModules(root string) ([]Notice, error) {
	cmd := exec.Command("go", "list", "-deps", "-tags", "sqlite_fts5", "-f", "{{with .Module}}{{if not .Main}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/ebbe")
	cmd.Dir, cmd.Stderr = root, os.Stderr
	out, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("go list: %w", err)
	}
	env, err := exec.Command("go", "env", "GOROOT", "GOVERSION").Output()
	if err != nil {
		return nil, fmt.Errorf("go env: %w", err)
	}
	about := strings.Fields(string(env))
	itself := Notice{Name: "Go", Version: strings.TrimPrefix(about[1], "go")}
	itself.Text, _ = licence(about[0]) // some systems lay it elsewhere
	all := []Notice{itself}
	known := map[string]bool{}
	for line := range strings.Lines(string(out)) {
		parts := strings.Split(strings.TrimSpace(line), "\t")
		if len(parts) != 3 || known[parts[0]] {
			continue
		}
		known[parts[0]] = true
		text, err := licence(parts[2])
		if err != nil {
			return nil, fmt.Errorf("%s: %w", parts[0], err)
		}
		all = append(all, Notice{parts[0], parts[1], text})
		if all[0].Text == "" && strings.HasPrefix(parts[0], "golang.org/x/") {
			all[0].Text = text // it is of the same authors, under the same licence
		}
	}
	return all, nil
}

// npmPackages are those of the lock file that are not for development alone.
func npmPackages(ui string) (all []Notice, err error) {
	raw, err := os.ReadFile(filepath.Join(ui, "package-lock.json"))
	if err != nil {
		return nil, err
	}
	var lock struct {
		Packages map[string]struct {
			Version, License    string
			Dev, Optional, Peer bool
		}
	}
	if err := json.Unmarshal(raw, &lock); err != nil {
		return nil, err
	}
	for path, p := range lock.Packages {
		name, packaged := afterLast(path, "node_modules/")
		if !packaged || p.Dev && !slices.Contains(built, name) || strings.HasPrefix(name, "@types/") {
			continue
		}
		dir := filepath.Join(ui, path)
		if _, err := os.Stat(dir); os.IsNotExist(err) && (p.Optional || p.Peer) {
			continue // not wanted on this machine, so it does not ship
		}
		text, err := licence(dir)
		if err != nil && p.License != "" { // it names its licence and comes without the text
			text, err = "Licensed under "+p.License+".", nil
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		for _, folder := range ships[name] {
			more, err := licence(filepath.Join(dir, folder))
			if err != nil {
				return nil, fmt.Errorf("%s: %w", name, err)
			}
			text += "\n\n" + more
		}
		all = append(all, Notice{name, p.Version, text})
	}
	return all, nil
}

// afterLast is what follows the last sep in text.
func afterLast(text, sep string) (after string, found bool) {
	i := strings.LastIndex(text, sep)
	if i < 0 {
		return "", false
	}
	return text[i+len(sep):], true
}

var named = regexp.MustCompile(`(?i)^(licen[cs]e|copying|notice|patents)([-._].*)?$`)

// licence is the text of all such files of a folder.
func licence(dir string) (string, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return "", err
	}
	var text []string
	for _, e := range entries {
		if !named.MatchString(e.Name()) || e.IsDir() {
			continue
		}
		raw, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return "", err
		}
		text = append(text, string(bytes.TrimSpace(bytes.ToValidUTF8(raw, nil))))
	}
	if len(text) == 0 {
		return "", fmt.Errorf("no licence in %s", dir)
	}
	return strings.Join(text, "\n\n"), nil
}
