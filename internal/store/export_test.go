package store

import (
	"gorm.io/gorm"

	"ebbe/internal/core/agenda"
	"ebbe/internal/core/inbox"
)

// Raw is the side of a store that writes, for tests that look at the tables
// themselves.
func (s *Store) Raw() *gorm.DB { return s.write }

// Log is where the write-ahead log of a store lies.
func (s *Store) Log() string { return s.log }

// Migrations are the steps between the versions of the schema.
var Migrations = migrations

// Versions are the files of the schema.
var Versions = versions

// SetThing puts what a conversation waits for on the agenda.
func (t Agenda) SetThing(box int64, kind inbox.Kind, conversation int64, at agenda.Thing) error {
	return t.setThing(box, kind, conversation, "", at, true)
}

// Regroup lets messages go from one conversation to another.
func (t Conversations) Regroup(box int64, r inbox.Regrouping) error { return t.regroup(box, r) }
