package store

import (
	"context"

	"oldledger/ledger/records"
)

func (r rows) Comparison(ctx context.Context, old, new, reading, basis string) (records.Comparison, error) {
	return one(ctx, r.q, func(c *records.Comparison) []any { return []any{&c.Old, &c.New, &c.Reading, &c.Basis, &c.Result} },
		`SELECT old, new, reading, basis, result FROM comparisons WHERE old = ? AND new = ? AND reading = ? AND basis = ?`, old, new, reading,
		basis)
}

func (r rows) PutComparison(ctx context.Context, c records.Comparison) error {
	return r.exec(ctx, `
		INSERT INTO comparisons (old, new, reading, basis, result) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (old, new, reading) DO UPDATE SET basis = excluded.basis, result = excluded.result`,
		c.Old, c.New, c.Reading, c.Basis, c.Result)
}

const answerColumns = `key, person, request, status, body, made_at`

func (r rows) Answer(ctx context.Context, key, person string) (records.Answer, error) {
	return one(ctx, r.q, func(a *records.Answer) []any {
		return []any{&a.Key, &a.Person, &a.Request, &a.Status, &a.Body, &a.MadeAt}
	}, `SELECT `+answerColumns+` FROM answers WHERE key = ? AND person = ?`, key, person)
}

func (r rows) PutAnswer(ctx context.Context, a records.Answer) error {
	return r.exec(ctx, `
		INSERT INTO answers (`+answerColumns+`) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (key, person) DO UPDATE SET request = excluded.request, status = excluded.status, body = excluded.body, made_at = excluded.made_at`,
		a.Key, a.Person, a.Request, a.Status, a.Body, a.MadeAt)
}

func (r rows) DropAnswer(ctx context.Context, key, person string) error {
	return r.exec(ctx, `DELETE FROM answers WHERE key = ? AND person = ?`, key, person)
}

func (r rows) DropAnswers(ctx context.Context, before string) error {
	return r.exec(ctx, `DELETE FROM answers WHERE made_at < ?`, before)
}
