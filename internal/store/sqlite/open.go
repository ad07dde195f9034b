// Package sqlite is how Ebbe speaks to SQLite through GORM: connections that keep
// their statements prepared, slow statements in the log, errors as sentences, and
// rows that are stored without bringing back what is gone. It knows no table.
package sqlite

import (
	"context"
	"log/slog"
	"strings"
	"time"

	driver "gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Open opens n connections to the database of a DSN, whose transactions start with
// begin. tell is told of each statement, as it is prepared; it may be nil.
func Open(dsn, begin string, n int, tell func(string)) (*gorm.DB, *Conns, error) {
	pool, err := connect(dsn, begin, n)
	if err != nil {
		return nil, nil, err
	}
	db, err := gorm.Open(driver.New(driver.Config{Conn: pool}), &gorm.Config{Logger: watch{logger.Discard, tell}, SkipDefaultTransaction: true})
	if err != nil {
		pool.Close()
	}
	return db, pool, err
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
