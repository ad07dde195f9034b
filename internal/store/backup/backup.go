// Package backup copies the whole database while others write, and makes a data
// folder of such a copy.
package backup

import (
	"context"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// What a backup says of itself, among the values kept about the whole database.
const (
	metaCopied = "copied" // when it was made
	metaKey    = "key"    // the key of the secrets, in hex, if it goes with the backup
	metaPrint  = "print"  // by which that key is told from others
)

// Errors of Write and Restore. Their texts are sentences for the user.
var (
	ErrThere     = errors.New("that is there already, and nothing is written over: name another")
	ErrNoBackup  = errors.New("that is no backup of Ebbe: nothing was changed")
	ErrBadBackup = errors.New("this backup is damaged: nothing was changed; take an older one")
)

// Write writes a consistent copy of the database into a file that does not exist
// yet, while others go on writing, and checks it. With a key, that goes into it; print says
// which one opens what is sealed in it.
func Write(ctx context.Context, s *store.Store, path string, at when.Instant, print string, key []byte) (err error) {
	if _, err := os.Stat(path); err == nil {
		return fmt.Errorf("%s: %w", path, ErrThere)
	}
	part := path + ".part"
	if err := os.Remove(part); err != nil && !errors.Is(err, os.ErrNotExist) { // of one that was broken off
		return err
	}
	defer func() {
		if err != nil {
			_ = os.Remove(part)
		}
	}()
	f, err := os.OpenFile(part, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return fmt.Errorf("the backup cannot be written: %w", err)
	}
	if err := f.Close(); err != nil {
		return err
	}
	if err := s.CopyTo(ctx, part); err != nil {
		return fmt.Errorf("the backup could not be written whole: %w", err)
	}
	err = inCopy(ctx, part, func(db *sql.DB) error {
		values := map[string]string{metaCopied: fmt.Sprint(int64(at)), metaPrint: print}
		if key != nil {
			values[metaKey] = hex.EncodeToString(key)
		}
		for name, value := range values {
			if _, err := db.ExecContext(ctx, "INSERT INTO meta(name, value) VALUES (?, ?) ON CONFLICT DO UPDATE SET value = excluded.value", name, value); err != nil {
				return err
			}
		}
		return whole(ctx, db)
	})
	if err != nil {
		return fmt.Errorf("the backup could not be written whole: %w", err)
	}
	if err := syncFile(part); err != nil {
		return err
	}
	return os.Rename(part, path)
}

// Contents are what a backup says of itself.
type Contents struct {
	Copied           when.Instant
	Version          string // of the schema
	People, Messages int
	Sealed           int    // secrets that are sealed in it
	Print            string // by which the key that opens them is told from others; "": it is not known
	WithKey          bool   // that key is in it
}

// Look reads what a backup says of itself, and checks it. It is left as it is.
func Look(ctx context.Context, path string) (c Contents, err error) {
	if _, err := os.Stat(path); err != nil {
		return c, fmt.Errorf("the backup cannot be read: %w", err)
	}
	err = inFile(ctx, path, "mode=ro&immutable=1", func(db *sql.DB) error {
		if err := db.QueryRowContext(ctx, "SELECT value FROM meta WHERE name = ?", metaCopied).Scan(&c.Copied); err != nil {
			return ErrNoBackup
		}
		for _, q := range []struct {
			text string
			into any
		}{
			{"SELECT MAX(id) FROM migrations", &c.Version},
			{"SELECT COUNT(*) FROM people", &c.People},
			{"SELECT COUNT(*) FROM messages", &c.Messages},
			{"SELECT COUNT(*) FROM accounts WHERE length(secret) > 0", &c.Sealed},
			{"SELECT COALESCE((SELECT value FROM meta WHERE name = 'print'), '')", &c.Print},
			{"SELECT EXISTS (SELECT 1 FROM meta WHERE name = 'key')", &c.WithKey},
		} {
			if err := db.QueryRowContext(ctx, q.text).Scan(q.into); err != nil {
				return ErrBadBackup
			}
		}
		if err := whole(ctx, db); err != nil {
			return ErrBadBackup
		}
		return nil
	})
	return c, err
}

// Restore makes a data folder of a backup. The folder must hold no database yet.
// It gives the time at which the backup was made, and the key that was in it, if
// one was.
func Restore(ctx context.Context, path, dir string) (copied when.Instant, key []byte, err error) {
	to := filepath.Join(dir, "ebbe.db")
	if _, err := os.Stat(to); err == nil {
		return 0, nil, fmt.Errorf("%s: %w", to, ErrThere)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return 0, nil, fmt.Errorf("the data folder %s cannot be made: %w", dir, err)
	}
	part := to + ".part"
	defer os.Remove(part)
	if err := copyFile(path, part); err != nil {
		return 0, nil, fmt.Errorf("the backup cannot be read: %w", err)
	}
	err = inCopy(ctx, part, func(db *sql.DB) error {
		if err := db.QueryRowContext(ctx, "SELECT value FROM meta WHERE name = ?", metaCopied).Scan(&copied); err != nil {
			return ErrNoBackup
		}
		var text string
		switch err := db.QueryRowContext(ctx, "SELECT value FROM meta WHERE name = ?", metaKey).Scan(&text); {
		case errors.Is(err, sql.ErrNoRows):
		case err != nil:
			return err
		default:
			if key, err = hex.DecodeString(text); err != nil {
				return ErrBadBackup
			}
		}
		if err := whole(ctx, db); err != nil {
			return ErrBadBackup
		}
		if _, err := db.ExecContext(ctx, "DELETE FROM meta WHERE name IN (?, ?)", metaKey, metaPrint); err != nil {
			return err
		}
		_, err := db.ExecContext(ctx, "INSERT INTO meta(name, value) VALUES ('resting', ?) ON CONFLICT DO UPDATE SET value = excluded.value", fmt.Sprint(int64(copied)))
		return err
	})
	if err == nil {
		err = syncFile(part)
	}
	if err != nil {
		return 0, nil, err
	}
	return copied, key, os.Rename(part, to)
}

// inCopy opens a database file by itself, without a log beside it.
func inCopy(ctx context.Context, path string, f func(*sql.DB) error) error {
	return inFile(ctx, path, "_journal_mode=DELETE&_foreign_keys=on&mode=rw&_secure_delete=on", f)
}

func inFile(ctx context.Context, path, how string, f func(*sql.DB) error) error {
	db, err := sql.Open("sqlite3", "file:"+(&urlPath{path}).String()+"?"+how)
	if err != nil {
		return err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	if err := db.PingContext(ctx); err != nil {
		return ErrNoBackup
	}
	return f(db)
}

// urlPath is a path within the address of a database.
type urlPath struct{ path string }

func (u *urlPath) String() string {
	return strings.NewReplacer("%", "%25", "?", "%3f", "#", "%23").Replace(u.path)
}

// whole says that a database file is sound.
func whole(ctx context.Context, db *sql.DB) error {
	var said string
	if err := db.QueryRowContext(ctx, "PRAGMA integrity_check(1)").Scan(&said); err != nil {
		return err
	}
	if said != "ok" {
		return errors.New(said)
	}
	return nil
}

func syncFile(path string) error {
	f, err := os.OpenFile(path, os.O_RDWR, 0)
	if err != nil {
		return err
	}
	defer f.Close()
	return f.Sync()
}

func copyFile(from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	if _, err := io.Copy(out, in); err != nil {
		out.Close()
		return err
	}
	return out.Close()
}
