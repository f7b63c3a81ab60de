// Package store keeps a ledger's records in SQLite through database/sql: it fills what package records asks for.
//
// All writes of one act happen in one transaction (Write), so that a process killed in the middle leaves nothing behind.
//
// A second engine would be a package beside this one. What only SQLite knows, and another engine needs an answer to: the pragmas and the
// lock in Open; STRICT tables and triggers that RAISE, in the migrations; and the table of pages with its two indices in search.go (FTS5).
// Everything else is the SQL that engines share, "INSERT … ON CONFLICT" included.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"net/url"
	"os"

	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver "sqlite"

	"oldledger/ledger/records"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database.
type Store struct{ db *sql.DB }

var _ records.Store = (*Store)(nil)

// Open opens the SQLite file at path, makes it where there is none, and brings its tables up to date.
func Open(ctx context.Context, path string) (*Store, error) {
	if err := private(path); err != nil {
		return nil, fmt.Errorf("open %s: %w", path, err)
	}
	query := url.Values{
		"_pragma": {"journal_mode(WAL)", "foreign_keys(1)", "busy_timeout(5000)", "synchronous(NORMAL)"},
		"_txlock": {"immediate"},
	}
	db, err := sql.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath()+"?"+query.Encode())
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", path, err)
	}
	db.SetMaxOpenConns(maxConnections)
	db.SetMaxIdleConns(maxConnections) // opening one takes longer than most of what is asked
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

// maxConnections bounds what is asked of the database at a time; the rest waits.
const maxConnections = 16

// private makes the file where there is none, and lets nobody but its owner read it; SQLite gives the files beside it the same rights.
func private(path string) error {
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return err
	}
	return errors.Join(f.Chmod(0o600), f.Close())
}

// Close closes the database.
func (s *Store) Close() error { return s.db.Close() }

// Check reports whether the database answers and can be written: it is, so that a full disk shows, with something else each time, since
// what is the same is not written.
func (s *Store) Check(ctx context.Context) error {
	beats := make([]byte, 8<<10)
	for i := range beats {
		beats[i] = byte(rand.Uint32())
	}
	_, err := s.db.ExecContext(ctx, `INSERT INTO pulse (id, beats) VALUES (1, ?) ON CONFLICT (id) DO UPDATE SET beats = excluded.beats`, beats)
	return err
}

// querier is what a transaction and a database have in common.
type querier interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
	QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row
	ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error)
}

// rows reads and writes rows, inside a transaction or outside one.
type rows struct {
	q       querier
	writing bool
}

// Writing reports whether the rows are those of a transaction.
func (r rows) Writing() bool { return r.writing }

// Read gives access to the rows outside a transaction.
func (s *Store) Read() records.Rows { return rows{q: s.db} }

// Write carries out one act in one transaction: all of it happens, or nothing. It takes the right to write at its beginning (_txlock), so
// that what it reads stays as it is until its end.
func (s *Store) Write(ctx context.Context, act func(records.Rows) error) error {
	tx, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	if err := act(rows{q: tx, writing: true}); err != nil {
		return errors.Join(err, ignoreDone(tx.Rollback()))
	}
	return tx.Commit()
}

// exec carries out a statement.
func (r rows) exec(ctx context.Context, statement string, args ...any) error {
	_, err := r.q.ExecContext(ctx, statement, args...)
	return err
}

// change carries out a statement that changes one row; ErrStale where none was as it says.
func (r rows) change(ctx context.Context, statement string, args ...any) error {
	res, err := r.q.ExecContext(ctx, statement, args...)
	if err != nil {
		return err
	}
	n, err := res.RowsAffected()
	if err == nil && n != 1 {
		err = records.ErrStale
	}
	return err
}

func ignoreDone(err error) error {
	if errors.Is(err, sql.ErrTxDone) {
		return nil
	}
	return err
}

// one reads a single row.
func one[T any](ctx context.Context, q querier, dest func(*T) []any, query string, args ...any) (T, error) {
	var t T
	err := q.QueryRowContext(ctx, query, args...).Scan(dest(&t)...)
	if errors.Is(err, sql.ErrNoRows) {
		err = records.ErrNotFound
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
