package store

import (
	"context"
	"errors"
)

// Entry is one row of the journal.
type Entry struct {
	Seq                                             int64
	At, Actor, Act, Subject, Detail, Previous, Hash string
}

func (e *Entry) columns() []any {
	return []any{&e.Seq, &e.At, &e.Actor, &e.Act, &e.Subject, &e.Detail, &e.Previous, &e.Hash}
}

const entryColumns = `seq, at, actor, act, subject, detail, previous, hash`

// Entries lists the journal from behind the entry after, at most limit entries.
func (r Rows) Entries(ctx context.Context, after int64, limit int) ([]Entry, error) {
	return many(ctx, r.q, (*Entry).columns, `SELECT `+entryColumns+` FROM journal WHERE seq > ? ORDER BY seq LIMIT ?`, after, limit)
}

// LastEntry is the newest entry; ok is false in an empty journal.
func (r Rows) LastEntry(ctx context.Context) (e Entry, ok bool, err error) {
	e, err = one(r.q.QueryRowContext(ctx, `SELECT `+entryColumns+` FROM journal ORDER BY seq DESC LIMIT 1`), (*Entry).columns)
	if errors.Is(err, ErrNotFound) {
		return e, false, nil
	}
	return e, err == nil, err
}

// AddEntry appends an entry.
func (r Rows) AddEntry(ctx context.Context, e Entry) error {
	_, err := r.q.ExecContext(ctx, `INSERT INTO journal (`+entryColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
		e.Seq, e.At, e.Actor, e.Act, e.Subject, e.Detail, e.Previous, e.Hash)
	return err
}
