package sqlite

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
)

// Private makes the data folder and all that lies in it readable to its owner
// alone, also where it was made by somebody else.
func Private(dir string) error {
	if err := os.Chmod(dir, 0o700); err != nil {
		return fmt.Errorf("the data folder %s cannot be kept from others: %w", dir, err)
	}
	db := filepath.Join(dir, "ebbe.db") // made here, so that SQLite makes what lies beside it alike
	f, err := os.OpenFile(db, os.O_CREATE|os.O_RDWR, 0o600)
	if err == nil {
		err = f.Close()
	}
	entries, rerr := os.ReadDir(dir)
	if err = errors.Join(err, rerr); err != nil {
		return fmt.Errorf("the data folder %s cannot be kept from others: %w", dir, err)
	}
	for _, e := range entries {
		if e.Type().IsRegular() {
			if err := os.Chmod(filepath.Join(dir, e.Name()), 0o600); err != nil && !errors.Is(err, os.ErrNotExist) {
				return fmt.Errorf("%s cannot be kept from others: %w", e.Name(), err)
			}
		}
	}
	return nil
}
