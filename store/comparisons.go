package store

import "context"

// Comparison is the kept result of comparing two versions.
type Comparison struct {
	Old, New string // references such as berths@1.4.0
	Reading  string
	Basis    string // what the result follows from: the digests of both, and the engine
	Result   []byte
}

// Comparison reads the kept result for two versions; ErrNotFound where there is none on this basis.
func (r Rows) Comparison(ctx context.Context, old, new, reading, basis string) (Comparison, error) {
	return one(r.q.QueryRowContext(ctx, `SELECT old, new, reading, basis, result FROM comparisons WHERE old = ? AND new = ? AND reading = ? AND basis = ?`,
		old, new, reading, basis), func(c *Comparison) []any { return []any{&c.Old, &c.New, &c.Reading, &c.Basis, &c.Result} })
}

// PutComparison keeps a result in place of an older one.
func (r Rows) PutComparison(ctx context.Context, c Comparison) error {
	_, err := r.q.ExecContext(ctx, `
		INSERT INTO comparisons (old, new, reading, basis, result) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (old, new, reading) DO UPDATE SET basis = excluded.basis, result = excluded.result`,
		c.Old, c.New, c.Reading, c.Basis, c.Result)
	return err
}
