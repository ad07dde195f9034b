// Package store keeps everything in one SQLite database: schema versions,
// queries, and the full-text index. It is the only room that knows SQL.
package store

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/go-gormigrate/gormigrate/v2"
	"github.com/mattn/go-sqlite3"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Errors that callers tell apart. Their texts are sentences for the user.
var (
	ErrNotFound = errors.New("that is not here")
	ErrFull     = errors.New("the disk is full: what was stored before is safe, nothing of this step was; make room and try again")
	ErrLocked   = errors.New("another program is writing to this data folder and does not let go: nothing of this step was stored; close it and try again")
	ErrNewer    = errors.New("this data folder was written by a newer Ebbe: nothing was changed; start that newer version")
	ErrDamaged  = errors.New("the file ebbe.db in this data folder is not a database Ebbe can read: nothing was changed; put a backup in its place")
)

// Store is an open database. Readers never wait for the one writer.
type Store struct {
	write  *gorm.DB
	read   *gorm.DB
	pools  []*conns
	log    string // the write-ahead log, beside the database
	synced func()
}

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
	if err := private(dir); err != nil {
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
		db, pool, err := open(dsn, begin, n, o.Statements)
		if err == nil {
			s.pools = append(s.pools, pool)
		}
		return db, err
	}
	if s.write, err = side(dsn, "BEGIN IMMEDIATE", 1); err != nil {
		return nil, plain(err)
	}
	var limit int // the statement gives a row, which has to be read
	s.write.Raw("PRAGMA journal_size_limit = 67108864").Scan(&limit)
	s.write.Raw("PRAGMA wal_autocheckpoint = 4000").Scan(&limit) // pages of 4 kB: what is written again and again goes into the database once
	if o.MaxPages > 0 {
		var pages int // the statement gives a row, which has to be read
		s.write.Raw(fmt.Sprintf("PRAGMA max_page_count = %d", o.MaxPages)).Scan(&pages)
	}
	if err := s.migrate(); err != nil {
		s.Close()
		return nil, plain(err)
	}
	if s.read, err = side(dsn+"&_query_only=on", "BEGIN", 4); err != nil {
		s.Close()
		return nil, plain(err)
	}
	return s, nil
}

// slow is from when on a statement is worth a line in the log.
const slow = 300 * time.Millisecond

// watch is a logger that notes statements that take long, without the values in
// them, and tells of each if it is to.
type watch struct {
	logger.Interface
	tell func(sql string) // may be nil
}

func (w watch) LogMode(logger.LogLevel) logger.Interface { return w }

func (w watch) Trace(_ context.Context, begin time.Time, f func() (string, int64), _ error) {
	took := time.Since(begin)
	if w.tell == nil && took < slow {
		return
	}
	sql, rows := f()
	if w.tell != nil {
		w.tell(sql)
	}
	if took >= slow {
		slog.Warn("a statement took long", "took", took.Round(time.Millisecond), "rows", rows, "statement", short(sql))
	}
}

// ParamsFilter leaves the places for values as they are.
func (w watch) ParamsFilter(_ context.Context, sql string, _ ...any) (string, []any) {
	return sql, nil
}

func init() { // GORM tells of what is scanned by a logger of its own
	logger.RecorderParamsFilter = watch{}.ParamsFilter
}

// short is the beginning of a statement.
func short(sql string) string {
	sql = strings.Join(strings.Fields(sql), " ")
	return strings.ToValidUTF8(sql[:min(len(sql), 500)], "")
}

// private makes the data folder and all that lies in it readable to its owner
// alone, also where it was made by somebody else.
func private(dir string) error {
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

func open(dsn, begin string, n int, tell func(string)) (*gorm.DB, *conns, error) {
	pool, err := connect(dsn, begin, n)
	if err != nil {
		return nil, nil, err
	}
	db, err := gorm.Open(sqlite.New(sqlite.Config{Conn: pool}), &gorm.Config{Logger: watch{logger.Discard, tell}, SkipDefaultTransaction: true})
	if err != nil {
		pool.Close()
	}
	return db, pool, err
}

// Close closes the database.
func (s *Store) Close() {
	for _, pool := range s.pools {
		pool.Close()
	}
}

// migrate brings the schema up to date. A database with a version this program
// does not know is left untouched.
func (s *Store) migrate() error {
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
	}
	o := *gormigrate.DefaultOptions
	o.UseTransaction = true
	if err := gormigrate.New(s.write, &o, migrations()).Migrate(); err != nil {
		return err
	}
	return s.Write(context.Background(), Tx.finish)
}

// plain turns what SQLite says into the errors of this package.
func plain(err error) error {
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

// Tx is a view of the database: inside Write a transaction, inside Read the
// newest committed state.
type Tx struct {
	db      *gorm.DB
	durable *bool
}

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
		return f(Tx{db, &durable})
	})
	if err == nil && durable {
		err = s.sync()
	}
	return plain(err)
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
	return plain(s.read.WithContext(ctx).Transaction(func(db *gorm.DB) error { return f(Tx{db: db}) }))
}

// Version changes whenever another connection, of any process, has committed.
func (s *Store) Version() (int64, error) {
	var v int64
	err := s.write.Raw("PRAGMA data_version").Scan(&v).Error
	return v, plain(err)
}

// put stores a row, new if its ID is 0. One that is not there any more is not
// brought back: ErrNotFound.
func put[R any](t Tx, row *R, id int64) error {
	if id == 0 {
		return t.db.Create(row).Error
	}
	model := *row // GORM writes into it what it stores, and others may be reading the row
	return there(t.db.Model(&model).Select("*").Updates(row))
}

// there is the error of a change, ErrNotFound if there was nothing to change.
func there(res *gorm.DB) error {
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrNotFound
	}
	return res.Error
}
