// Package store keeps everything in one SQLite database: schema versions,
// queries, and the full-text index. It is the only room that knows SQL.
//
// Each group of tables is a type over a transaction, in a file of its own. A
// question that is limited to a box, a person or an account takes it as its first
// argument. One that takes none is limited to nothing: the IDs it takes are those
// of what the caller has loaded through a box, a person or an account before, or
// it is asked by what works for everybody (the agenda, the outbox, checks).
//
// Instants are milliseconds since 1970 in UTC; what was meant as a time on the
// clock has the wall-clock time and its zone beside it (when.Moment). Sizes are
// bytes. Whatever is given by its ID and is not there is ErrNotFound; besides,
// every method can fail with the errors below, which say in a sentence what has
// become of the step.
package store

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"sync/atomic"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"

	"ebbe/internal/store/sqlite"
)

// Errors that callers tell apart. Their texts are sentences for the user.
var (
	ErrNotFound = sqlite.ErrNotFound
	ErrFull     = sqlite.ErrFull
	ErrLocked   = sqlite.ErrLocked
	ErrDamaged  = sqlite.ErrDamaged
	ErrNewer    = errors.New("this data folder was written by a newer Ebbe: nothing was changed; start that newer version")
)

// Store is an open database. Readers never wait for the one writer.
type Store struct {
	write  *gorm.DB
	read   *gorm.DB
	pools  []*sqlite.Conns // the one that writes, and those that read
	log    string          // the write-ahead log, beside the database
	synced func()
	writes atomic.Int64
}

// Written is how often this program has written: whoever reads afterwards sees all of that.
func (s *Store) Written() int64 { return s.writes.Load() }

// PageSize is how many rows a page of a list has.
const PageSize = 100

// Options are what tests set to meet the limits of a machine.
type Options struct {
	BusyMillis int // how long to wait for another writer; 5000 if zero
	MaxPages   int // size at which the disk counts as full; unlimited if zero

	Synced     func()           // is told after each commit that no power cut can undo; may be nil
	Statements func(sql string) // is told of each statement, as it is prepared; may be nil
}

// Open opens or creates the database in the folder dir.
func Open(dir string, o Options) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be made: %w", dir, err)
	}
	if err := sqlite.Private(dir); err != nil {
		return nil, err
	}
	if o.BusyMillis == 0 {
		o.BusyMillis = 5000
	}
	dsn := fmt.Sprintf("file:%s?_journal_mode=WAL&_synchronous=NORMAL&_foreign_keys=on&_busy_timeout=%d&_cache_size=-16000", filepath.Join(dir, "ebbe.db"), o.BusyMillis)
	s := &Store{log: filepath.Join(dir, "ebbe.db-wal"), synced: o.Synced}
	var err error
	if tell := o.Statements; tell != nil {
		o.Statements = func(sql string) {
			if s.read != nil { // what migrations run once is no statement of the program
				tell(sql)
			}
		}
	}
	side := func(dsn, begin string, n int) (*gorm.DB, error) {
		db, pool, err := sqlite.Open(dsn, begin, n, o.Statements)
		if err == nil {
			s.pools = append(s.pools, pool)
		}
		return db, err
	}
	if s.write, err = side(dsn, "BEGIN IMMEDIATE", 1); err != nil {
		return nil, sqlite.Plain(err)
	}
	pragmas := []string{"secure_delete = FAST", "journal_size_limit = 67108864", "wal_autocheckpoint = 4000"} // 64 MB; pages of 4 kB: what is written again and again goes into the database once
	if o.MaxPages > 0 {
		pragmas = append(pragmas, fmt.Sprintf("max_page_count = %d", o.MaxPages))
	}
	for _, p := range pragmas {
		if _, err := s.pools[0].Number(context.Background(), "PRAGMA "+p); err != nil {
			s.Close()
			return nil, sqlite.Plain(err)
		}
	}
	if err := s.migrate(); err != nil {
		s.Close()
		return nil, sqlite.Plain(err)
	}
	if s.read, err = side(dsn+"&_query_only=on", "BEGIN", 4); err != nil {
		s.Close()
		return nil, sqlite.Plain(err)
	}
	return s, nil
}

// Close closes the database.
func (s *Store) Close() {
	for _, pool := range s.pools {
		pool.Close()
	}
}

// migrate brings the schema up to date, once a copy of what there was has been kept beside
// it. A database with a version this program does not know is left untouched.
func (s *Store) migrate() error {
	from := "" // which version
	if s.write.Migrator().HasTable("migrations") {
		var ids []string
		if err := s.write.Raw("SELECT id FROM migrations").Scan(&ids).Error; err != nil {
			return err
		}
		known := map[string]bool{}
		for _, m := range migrations() {
			known[m.ID] = true
		}
		for _, id := range ids {
			if !known[id] {
				return ErrNewer
			}
		}
		if len(ids) > 0 && len(ids) < len(known) {
			from = slices.Max(ids)
			if err := s.keepBefore(from); err != nil {
				return err
			}
		}
	}
	o := *gormigrate.DefaultOptions
	o.UseTransaction = true
	if err := gormigrate.New(s.write, &o, migrations()).Migrate(); err != nil {
		return err
	}
	if from != "" && from < overwritten {
		if err := s.WriteAnew(context.Background()); err != nil { // all works as well
			slog.Warn("what was deleted before this update may still lie in the file of the database", "error", err)
		}
	}
	return s.Write(context.Background(), Tx.finish)
}

// Tx is a view of the database: inside Write a transaction, inside Read the
// newest committed state.
type Tx struct {
	db      *gorm.DB
	durable *bool
}

// DB is how the rooms of the store ask of their tables; no other room does.
func (t Tx) DB() *gorm.DB { return t.db }

// Durably makes the transaction one that a power cut cannot undo once Write has
// returned. Other commits survive the end of the program, but the last of them
// may be lost with the power: nothing outside of Ebbe has been told of them.
func (t Tx) Durably() {
	if t.durable != nil {
		*t.durable = true
	}
}

// Write runs f in one transaction: all of it is stored, or, if f returns an
// error, nothing. An error about a transaction that was to be durable can mean
// that it is stored and may yet be lost.
func (s *Store) Write(ctx context.Context, f func(Tx) error) error {
	durable := false
	err := s.write.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		durable = false
		t := Tx{db, &durable}
		if err := f(t); err != nil {
			return err
		}
		return t.freshen()
	})
	if err == nil {
		s.writes.Add(1)
	}
	if err == nil && durable {
		err = s.sync()
	}
	return sqlite.Plain(err)
}

// sync brings the write-ahead log to the disk, and with it all that has been
// committed: what SQLite does with every commit under synchronous=FULL.
func (s *Store) sync() error {
	f, err := os.Open(s.log)
	if err != nil {
		return err
	}
	err = f.Sync()
	if e := f.Close(); err == nil {
		err = e
	}
	if err == nil && s.synced != nil {
		s.synced()
	}
	return err
}

// Read runs f on a consistent snapshot.
func (s *Store) Read(ctx context.Context, f func(Tx) error) error {
	return sqlite.Plain(s.read.WithContext(ctx).Transaction(func(db *gorm.DB) error { return f(Tx{db: db}) }))
}

// CopyTo writes a consistent copy of the database into a file that is empty, while
// others go on writing.
func (s *Store) CopyTo(ctx context.Context, path string) error {
	return sqlite.Plain(s.write.WithContext(ctx).Exec("VACUUM INTO ?", path).Error)
}

// WriteAnew writes the whole file anew, so that nothing is left in it, nor in the
// write-ahead log, of what was deleted. Nobody can write meanwhile.
func (s *Store) WriteAnew(ctx context.Context) error {
	err := s.write.WithContext(ctx).Exec("VACUUM").Error
	if err == nil {
		var busy, pages, written int
		err = s.write.WithContext(ctx).Raw("PRAGMA wal_checkpoint(TRUNCATE)").Row().Scan(&busy, &pages, &written)
		if err == nil && busy != 0 {
			err = ErrLocked
		}
	}
	return sqlite.Plain(err)
}

// Size is how large its file is, in bytes.
func (s *Store) Size() int64 {
	info, err := os.Stat(filepath.Join(s.Dir(), "ebbe.db"))
	if err != nil {
		return 0
	}
	return info.Size()
}

// Dir is the folder in which it lies.
func (s *Store) Dir() string { return filepath.Dir(s.log) }

// Version changes whenever another connection, of any process, has committed.
func (s *Store) Version() (int64, error) {
	v, err := s.pools[0].Number(context.Background(), "PRAGMA data_version") // of the one connection that writes
	return v, sqlite.Plain(err)
}
