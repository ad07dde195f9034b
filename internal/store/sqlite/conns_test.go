package sqlite

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
	"gorm.io/gorm"
)

// counted is a set of n connections over a file with a table of ten numbers.
func counted(t *testing.T, n int) *Conns {
	t.Helper()
	p, err := connect("file:"+filepath.Join(t.TempDir(), "n.db")+"?_journal_mode=WAL&_busy_timeout=5000", "BEGIN IMMEDIATE", n)
	require.NoError(t, err)
	t.Cleanup(p.Close)
	ctx := context.Background()
	_, err = p.ExecContext(ctx, "CREATE TABLE numbers (n INTEGER PRIMARY KEY)")
	require.NoError(t, err)
	for i := range 10 {
		_, err = p.ExecContext(ctx, "INSERT INTO numbers VALUES (?)", i)
		require.NoError(t, err)
	}
	return p
}

func begin(t *testing.T, p *Conns) *transaction {
	t.Helper()
	tx, err := p.BeginTx(context.Background(), nil)
	require.NoError(t, err)
	return tx.(*transaction)
}

// Rows that are being read are nobody else's: what a transaction does meanwhile
// is not seen in them.
func TestRowsAreReadAsTheyWere(t *testing.T) {
	ctx := context.Background()
	p := counted(t, 1)
	rows, err := p.QueryContext(ctx, "SELECT n FROM numbers ORDER BY n")
	require.NoError(t, err)
	require.True(t, rows.Next())

	tx := begin(t, p)
	_, err = tx.ExecContext(ctx, "DELETE FROM numbers WHERE n > 3")
	require.NoError(t, err)
	_, err = tx.ExecContext(ctx, "INSERT INTO numbers VALUES (100)")
	require.NoError(t, err)

	read := 1
	for rows.Next() {
		read++
	}
	require.NoError(t, rows.Err())
	require.NoError(t, rows.Close())
	require.Equal(t, 10, read)

	var n int
	require.NoError(t, p.QueryRowContext(ctx, "SELECT count(*) FROM numbers").Scan(&n))
	require.Equal(t, 10, n, "nothing is seen of it before it has ended")
	require.NoError(t, tx.Commit())
	require.NoError(t, p.QueryRowContext(ctx, "SELECT count(*) FROM numbers").Scan(&n))
	require.Equal(t, 5, n)
}

// Each transaction has a connection for itself until it ends, whichever way, and
// one more waits for the first that does, or until nobody wants it any more.
func TestTransactionsTakeTurns(t *testing.T) {
	ctx := context.Background()
	p := counted(t, 1)
	first := begin(t, p)
	_, err := first.ExecContext(ctx, "DELETE FROM numbers")
	require.NoError(t, err)

	gone, cancel := context.WithCancel(ctx)
	cancel()
	_, err = p.BeginTx(gone, nil)
	require.ErrorIs(t, err, context.Canceled)

	var second *transaction
	var wait sync.WaitGroup
	wait.Go(func() { second = begin(t, p) })
	require.NoError(t, first.Rollback())
	wait.Wait()
	var n int
	require.NoError(t, second.QueryRowContext(ctx, "SELECT count(*) FROM numbers").Scan(&n))
	require.Equal(t, 10, n, "what was rolled back never was")
	require.NoError(t, second.Commit())
	require.Error(t, second.Commit(), "it has ended")
	require.Len(t, p.free, 1)
}

// A transaction that could not begin gives its connection back.
func TestWhatCannotBeginTakesNothing(t *testing.T) {
	p := counted(t, 1)
	p.begin = "BEGIN NONSENSE"
	_, err := p.BeginTx(context.Background(), nil)
	require.Error(t, err)
	p.begin = "BEGIN IMMEDIATE"
	require.NoError(t, begin(t, p).Rollback())
}

// Statements are prepared once for a connection, and the least used of too many
// are let go.
func TestStatementsAreKept(t *testing.T) {
	ctx := context.Background()
	p := counted(t, 1)
	tx := begin(t, p)
	ask := func(i int) {
		var n int
		require.NoError(t, tx.QueryRowContext(ctx, fmt.Sprintf("SELECT %d", i)).Scan(&n))
		require.Equal(t, i, n)
	}
	ask(-1)
	kept := tx.conn.known["SELECT -1"]
	for i := range prepared - 1 {
		ask(i)
	}
	ask(-1)
	require.Same(t, kept, tx.conn.known["SELECT -1"])
	require.Len(t, tx.conn.known, prepared)
	ask(prepared)
	require.Len(t, tx.conn.known, prepared)
	require.Nil(t, tx.conn.known["SELECT 0"], "the one that was not asked for the longest")
	require.NotNil(t, tx.conn.known["SELECT -1"])

	_, err := tx.QueryContext(ctx, "SELECT n FROM nowhere")
	require.ErrorContains(t, err, "nowhere")
	require.ErrorContains(t, tx.QueryRowContext(ctx, "SELECT n FROM nowhere").Scan(new(int)), "nowhere")
	require.NoError(t, tx.Commit())
}

// What is said of a connection holds for those who write on it.
func TestWhatIsSaidOfTheConnection(t *testing.T) {
	ctx := context.Background()
	p := counted(t, 1)
	_, err := p.Number(ctx, "PRAGMA wal_autocheckpoint = 77")
	require.NoError(t, err)
	tx := begin(t, p)
	var n int
	require.NoError(t, tx.QueryRowContext(ctx, "PRAGMA wal_autocheckpoint").Scan(&n))
	require.Equal(t, 77, n)
	require.NoError(t, tx.Rollback())
	_, err = p.Number(ctx, "PRAGMA nonsense")
	require.ErrorIs(t, err, sql.ErrNoRows)
}

// What others commit changes the version, and what is committed here does not.
func TestTheVersionIsThatOfOthers(t *testing.T) {
	ctx := context.Background()
	p := counted(t, 1)
	version := func() int64 {
		t.Helper()
		v, err := p.Number(ctx, "PRAGMA data_version")
		require.NoError(t, err)
		return v
	}
	before := version()
	for range 3 {
		tx := begin(t, p)
		_, err := tx.ExecContext(ctx, "DELETE FROM numbers WHERE n = (SELECT max(n) FROM numbers)")
		require.NoError(t, err)
		require.NoError(t, tx.Commit())
		var n int
		require.NoError(t, p.QueryRowContext(ctx, "SELECT count(*) FROM numbers").Scan(&n))
		require.Equal(t, before, version())
	}
	_, err := p.db.ExecContext(ctx, "INSERT INTO numbers VALUES (7)")
	require.NoError(t, err)
	require.NotEqual(t, before, version())
	require.Equal(t, version(), version())

	gone, cancel := context.WithCancel(ctx)
	cancel()
	tx := begin(t, p)
	_, err = p.Number(gone, "PRAGMA data_version")
	require.ErrorIs(t, err, context.Canceled)
	require.NoError(t, tx.Rollback())
}

// What SQLite and GORM say becomes what callers tell apart, and what is something
// else stays.
func TestErrorsAreToldApart(t *testing.T) {
	other := errors.New("something else")
	require.NoError(t, Plain(nil))
	require.Equal(t, other, Plain(other))
	require.ErrorIs(t, Plain(gorm.ErrRecordNotFound), ErrNotFound)
	require.ErrorIs(t, Plain(fmt.Errorf("reading: %w", gorm.ErrRecordNotFound)), ErrNotFound)

	p := counted(t, 1)
	_, err := p.ExecContext(context.Background(), "INSERT INTO numbers VALUES (1)")
	require.Error(t, err)
	require.Equal(t, err, Plain(err), "a row that is there already is the caller's to explain")

	file := filepath.Join(t.TempDir(), "letter.db")
	require.NoError(t, os.WriteFile(file, []byte(strings.Repeat("Dear museum, ", 400)), 0o600))
	db, err := sql.Open("sqlite3", file)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("SELECT * FROM sqlite_schema")
	require.ErrorIs(t, Plain(err), ErrDamaged)
}
