package accounts

import (
	"context"

	"ebbe/internal/core/when"
	"ebbe/internal/secrets"
	"ebbe/internal/store/backup"
)

// Backup writes a copy of everything into a file, while the program goes on, and checks it.
// It says by which key its secrets are sealed; that key goes with it only if that is
// wanted: then whoever has the file can use the accounts.
func (d *Desk) Backup(ctx context.Context, path string, key secrets.Key, withKey bool) error {
	var with []byte
	if withKey {
		with = key[:]
	}
	return backup.Write(ctx, d.store, path, d.Journal.Now(), key.Print(), with)
}

// Look says what a backup says of itself.
func Look(ctx context.Context, path string) (backup.Contents, error) { return backup.Look(ctx, path) }

// Restore makes a data folder of a backup, and says when that was made and
// whether the passwords of the accounts can be used.
func Restore(ctx context.Context, path, dir string) (copied when.Instant, withKey bool, err error) {
	copied, key, err := backup.Restore(ctx, path, dir)
	if err != nil || key == nil {
		return copied, false, err
	}
	return copied, true, secrets.Keep(dir, secrets.Key(key))
}
