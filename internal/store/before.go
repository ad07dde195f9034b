package store

import (
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
)

// Before is how the copies are called that are kept before an update: the schema's version
// stands in the place of the star.
const Before = "ebbe-before-update-from-*.db"

// keepBefore copies the database as a version left it, before anything of it is changed. One
// copy is kept: that before the last update.
func (s *Store) keepBefore(version string) error {
	dir := filepath.Dir(s.log)
	path := filepath.Join(dir, fmt.Sprintf("ebbe-before-update-from-%s.db", version))
	if _, err := os.Stat(path); err == nil { // the update was broken off
		return nil
	}
	part := path + ".part"
	_ = os.Remove(part)
	f, err := os.OpenFile(part, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err == nil {
		err = f.Close()
	}
	if err == nil {
		err = s.write.Exec("VACUUM INTO ?", part).Error
	}
	if err == nil {
		err = os.Rename(part, path)
	}
	if err != nil {
		_ = os.Remove(part)
		return fmt.Errorf("what is in %s could not be copied before the update, so nothing was changed: make room there, and start again: %w", dir, err)
	}
	kept, _ := filepath.Glob(filepath.Join(dir, Before)) // the pattern is right
	for _, old := range slices.DeleteFunc(kept, func(p string) bool { return p == path }) {
		_ = os.Remove(old)
	}
	slog.Info("a copy is kept of the data as they were before the update", "file", path)
	return nil
}

// overwritten is the version since which what is deleted is overwritten in the file.
const overwritten = "0017"
