package sqlite

import (
	"errors"
	"strings"

	"github.com/mattn/go-sqlite3"
	"gorm.io/gorm"
)

// Errors that callers tell apart. Their texts are sentences for the user.
var (
	ErrNotFound = errors.New("that is not here")
	ErrFull     = errors.New("the disk is full: what was stored before is safe, nothing of this step was; make room and try again")
	ErrLocked   = errors.New("another program is writing to this data folder and does not let go: nothing of this step was stored; close it and try again")
	ErrDamaged  = errors.New("the file ebbe.db in this data folder is not a database Ebbe can read: nothing was changed; put a backup in its place")
)

// Plain turns what SQLite says into the errors of this package.
func Plain(err error) error {
	var e sqlite3.Error
	switch {
	case err == nil:
		return nil
	case errors.Is(err, gorm.ErrRecordNotFound):
		return ErrNotFound
	case errors.As(err, &e):
		switch e.Code {
		case sqlite3.ErrFull:
			return ErrFull
		case sqlite3.ErrIoErr:
			if strings.Contains(e.Error(), "full") {
				return ErrFull
			}
		case sqlite3.ErrBusy, sqlite3.ErrLocked:
			return ErrLocked
		case sqlite3.ErrNotADB, sqlite3.ErrCorrupt:
			return ErrDamaged
		}
	}
	return err
}
