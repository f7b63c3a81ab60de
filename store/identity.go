package store

import (
	"context"

	"oldledger/ledger/records"
)

func ofIdentity(i *records.Identity) []any { return []any{&i.Issuer, &i.Subject, &i.Person, &i.SeenAt} }

func (r rows) Identity(ctx context.Context, issuer, subject string) (records.Identity, error) {
	return one(ctx, r.q, ofIdentity, `SELECT issuer, subject, person, seen_at FROM identities WHERE issuer = ? AND subject = ?`, issuer, subject)
}

func (r rows) IdentityOf(ctx context.Context, person string) (records.Identity, error) {
	return one(ctx, r.q, ofIdentity, `SELECT issuer, subject, person, seen_at FROM identities WHERE person = ?`, person)
}

func (r rows) PutIdentity(ctx context.Context, i records.Identity) error {
	return r.exec(ctx, `INSERT INTO identities (issuer, subject, person, seen_at) VALUES (?, ?, ?, ?)
		ON CONFLICT (issuer, subject) DO UPDATE SET seen_at = excluded.seen_at`, i.Issuer, i.Subject, i.Person, i.SeenAt)
}

func (r rows) Identities(ctx context.Context) ([]records.Identity, error) {
	return many(ctx, r.q, ofIdentity, `SELECT issuer, subject, person, seen_at FROM identities ORDER BY person`)
}
