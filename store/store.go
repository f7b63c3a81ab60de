// Package store keeps a ledger's records in SQLite through database/sql. It knows rows, not rules: what may happen, and
// in which order, is decided in package ledger.
//
// All writes of one act happen in one transaction (Write), so that a process killed in the middle leaves nothing behind.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"

	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver "sqlite"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound is returned for a row that is not there.
var ErrNotFound = errors.New("not found")

// Store is an open database.
type Store struct{ db *sql.DB }

// Open opens the SQLite file at path, makes it where there is none, and brings its tables up to date.
func Open(ctx context.Context, path string) (*Store, error) {
	query := url.Values{"_pragma": {"journal_mode(WAL)", "foreign_keys(1)", "busy_timeout(5000)", "synchronous(NORMAL)"}, "_txlock": {"immediate"}}
	db, err := sql.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath()+"?"+query.Encode())
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", path, err)
	}
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, errors.Join(err, db.Close())
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, db, sub)
	if err == nil {
		_, err = provider.Up(ctx)
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("prepare %s: %w", path, err), db.Close())
	}
	return &Store{db: db}, nil
}

// Close closes the database.
func (s *Store) Close() error { return s.db.Close() }

// DB is the database itself, for the session store.
func (s *Store) DB() *sql.DB { return s.db }

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.db.PingContext(ctx) }

// querier is what a transaction and a database have in common.
type querier interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
	QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row
	ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error)
}

// Rows reads and writes rows, inside a transaction or outside one.
type Rows struct {
	q       querier
	writing bool
}

// Writing tells whether the rows are those of a transaction.
func (r Rows) Writing() bool { return r.writing }

// Read gives access to the rows outside a transaction.
func (s *Store) Read() Rows { return Rows{q: s.db} }

// Write runs one act in one transaction: all of it happens, or nothing.
func (s *Store) Write(ctx context.Context, act func(Rows) error) error {
	tx, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	if err := act(Rows{q: tx, writing: true}); err != nil {
		return errors.Join(err, ignoreDone(tx.Rollback()))
	}
	return tx.Commit()
}

func ignoreDone(err error) error {
	if errors.Is(err, sql.ErrTxDone) {
		return nil
	}
	return err
}

// one reads a single row.
func one[T any](row *sql.Row, dest func(*T) []any) (T, error) {
	var t T
	err := row.Scan(dest(&t)...)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return t, err
}

// many reads all rows of a query.
func many[T any](ctx context.Context, q querier, dest func(*T) []any, query string, args ...any) ([]T, error) {
	rows, err := q.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var all []T
	for rows.Next() {
		var t T
		if err := rows.Scan(dest(&t)...); err != nil {
			return nil, err
		}
		all = append(all, t)
	}
	return all, rows.Err()
}
