package sqlite

import (
	"container/list"
	"context"
	"database/sql"
	"errors"
	"sync"

	"gorm.io/gorm"
)

// Conns are the connections of one side, for reading or for writing, each with
// the statements it has prepared: what is asked again and again is not read anew
// by SQLite each time, also within transactions. It is what GORM takes for its
// pool.
type Conns struct {
	db    *sql.DB
	begin string // how a transaction begins
	free  chan *conn
}

// prepared is how many statements a connection keeps.
const prepared = 400

// conn is one connection. Its statements are used by one goroutine at a time.
type conn struct {
	*sql.Conn
	mu    sync.Mutex
	known map[string]*list.Element
	used  *list.List // the last used first
}

type statement struct {
	text string
	*sql.Stmt
}

// connect opens n connections.
func connect(dsn, begin string, n int) (*Conns, error) {
	db, err := sql.Open("sqlite3", dsn)
	if err != nil {
		return nil, err
	}
	p := &Conns{db: db, begin: begin, free: make(chan *conn, n)}
	for range n {
		c, err := db.Conn(context.Background())
		if err != nil {
			p.Close()
			return nil, err
		}
		p.free <- &conn{Conn: c, known: map[string]*list.Element{}, used: list.New()}
	}
	return p, nil
}

// Close closes the connections that are free, and with the last the database.
func (p *Conns) Close() {
	for {
		select {
		case c := <-p.free:
			for e := c.used.Front(); e != nil; e = e.Next() {
				_ = e.Value.(statement).Close()
			}
			_ = c.Conn.Close()
			continue
		default:
		}
		break
	}
	_ = p.db.Close()
}

func (p *Conns) take(ctx context.Context) (*conn, error) {
	select {
	case c := <-p.free:
		return c, nil
	default:
	}
	select {
	case c := <-p.free:
		return c, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// statement is a statement of the connection, prepared now or before.
func (c *conn) statement(ctx context.Context, text string) (*sql.Stmt, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if e := c.known[text]; e != nil {
		c.used.MoveToFront(e)
		return e.Value.(statement).Stmt, nil
	}
	s, err := c.Conn.PrepareContext(context.WithoutCancel(ctx), text)
	if err != nil {
		return nil, err
	}
	c.known[text] = c.used.PushFront(statement{text, s})
	if c.used.Len() > prepared {
		last := c.used.Remove(c.used.Back()).(statement)
		delete(c.known, last.text)
		_ = last.Close()
	}
	return s, nil
}

// PrepareContext is not used by GORM, as it is set.
func (c *conn) PrepareContext(ctx context.Context, query string) (*sql.Stmt, error) {
	return c.Conn.PrepareContext(ctx, query)
}

func (c *conn) ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error) {
	s, err := c.statement(ctx, query)
	if err != nil {
		return nil, err
	}
	return s.ExecContext(ctx, args...)
}

func (c *conn) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	s, err := c.statement(ctx, query)
	if err != nil {
		return nil, err
	}
	return s.QueryContext(ctx, args...)
}

func (c *conn) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	s, err := c.statement(ctx, query)
	if err != nil {
		return c.Conn.QueryRowContext(ctx, query, args...) // which says what is wrong
	}
	return s.QueryRowContext(ctx, args...)
}

// transaction is a connection between its beginning and its end.
type transaction struct {
	*conn
	of *Conns
}

// BeginTx begins a transaction on a connection of its own.
func (p *Conns) BeginTx(ctx context.Context, _ *sql.TxOptions) (gorm.ConnPool, error) {
	c, err := p.take(ctx)
	if err != nil {
		return nil, err
	}
	if _, err := c.ExecContext(ctx, p.begin); err != nil {
		p.free <- c
		return nil, err
	}
	return &transaction{c, p}, nil
}

// Commit ends the transaction; if that fails nothing of it holds.
func (t *transaction) Commit() error {
	if t.conn == nil {
		return sql.ErrTxDone
	}
	_, err := t.conn.ExecContext(context.Background(), "COMMIT")
	if err != nil {
		return errors.Join(err, t.Rollback())
	}
	t.end()
	return nil
}

// Rollback ends the transaction as if it had not begun.
func (t *transaction) Rollback() error {
	if t.conn == nil {
		return sql.ErrTxDone
	}
	_, err := t.conn.ExecContext(context.Background(), "ROLLBACK")
	if err != nil && !t.open() { // SQLite has ended it, as after a full disk
		err = nil
	}
	t.end()
	return err
}

// open says that SQLite has the transaction open still.
func (t *transaction) open() (open bool) {
	_ = t.conn.Raw(func(driver any) error {
		if c, ok := driver.(interface{ AutoCommit() bool }); ok {
			open = !c.AutoCommit()
		}
		return nil
	})
	return open
}

func (t *transaction) end() {
	c := t.conn
	t.conn = nil
	t.of.free <- c
}

// What follows is outside of transactions.

// PrepareContext is not used by GORM, as it is set.
func (p *Conns) PrepareContext(ctx context.Context, query string) (*sql.Stmt, error) {
	return p.db.PrepareContext(ctx, query)
}

func (p *Conns) ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error) {
	c, err := p.take(ctx)
	if err != nil {
		return nil, err
	}
	defer func() { p.free <- c }()
	return c.Conn.ExecContext(ctx, query, args...)
}

// QueryContext asks on a connection of the database's own pool, which keeps it for
// the rows until they are closed; one of the set would be given back before.
func (p *Conns) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	return p.db.QueryContext(ctx, query, args...)
}

// QueryRowContext is QueryContext for one row.
func (p *Conns) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	return p.db.QueryRowContext(ctx, query, args...)
}

// Number runs, on a connection of the set, a statement that gives one number: what
// is said or asked of a connection (PRAGMA), of which the set has only one then.
func (p *Conns) Number(ctx context.Context, pragma string) (n int64, err error) {
	c, err := p.take(ctx)
	if err != nil {
		return 0, err
	}
	defer func() { p.free <- c }()
	err = c.QueryRowContext(ctx, pragma).Scan(&n)
	return n, err
}
