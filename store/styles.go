package store

import (
	"context"

	"oldledger/ledger/records"
)

const styleColumns = `scope, version, text, reason, made_at, made_by`

func ofStyle(s *records.Style) []any {
	return []any{&s.Scope, &s.Version, &s.Text, &s.Reason, &s.MadeAt, &s.MadeBy}
}

func (r rows) Styles(ctx context.Context, scope string) ([]records.Style, error) {
	return many(ctx, r.q, ofStyle, `SELECT `+styleColumns+` FROM styles WHERE scope = ? ORDER BY version DESC`, scope)
}

func (r rows) NewestStyle(ctx context.Context, scope string) (records.Style, error) {
	return one(ctx, r.q, ofStyle, `SELECT `+styleColumns+` FROM styles WHERE scope = ? ORDER BY version DESC LIMIT 1`, scope)
}

func (r rows) NewestStyles(ctx context.Context) ([]records.Style, error) {
	return many(ctx, r.q, ofStyle, `
		SELECT `+styleColumns+` FROM styles s
		WHERE version = (SELECT max(version) FROM styles WHERE scope = s.scope) ORDER BY scope`)
}

func (r rows) PutStyle(ctx context.Context, s records.Style) error {
	return r.exec(ctx, `INSERT INTO styles (`+styleColumns+`) VALUES (?, ?, ?, ?, ?, ?)`,
		s.Scope, s.Version, s.Text, s.Reason, s.MadeAt, s.MadeBy)
}

func (r rows) DropStyles(ctx context.Context, scope string) error {
	return r.exec(ctx, `DELETE FROM styles WHERE scope = ?`, scope)
}
