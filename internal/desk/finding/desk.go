// Package finding is about finding: conversations by what they and their files say, what
// counts beside them narrow them by, and the files that are read for it.
package finding

import (
	"context"

	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Reads reads the text of a file, as filetext.Read does.
type Reads func(ctx context.Context, name, kind string, content []byte) (string, error)

// Desk is where things are found.
type Desk struct {
	Reads Reads // nil: files are not read

	journal *journal.Journal
	store   *store.Store
	intake  *intake.Intake
	stirred chan struct{}
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, i *intake.Intake) *Desk {
	return &Desk{journal: j, store: s, intake: i, stirred: make(chan struct{}, 1)}
}

// Stir says that there may be files to be read.
func (d *Desk) Stir() {
	select {
	case d.stirred <- struct{}{}:
	default:
	}
}
