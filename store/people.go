package store

import (
	"context"

	"oldledger/ledger/records"
)

func ofPerson(p *records.Person) []any { return []any{&p.Name, &p.Full, &p.Role, &p.Password} }

func (r rows) Person(ctx context.Context, name string) (records.Person, error) {
	return one(ctx, r.q, ofPerson, `SELECT name, full, role, password FROM people WHERE name = ?`, name)
}

func (r rows) AllPeople(ctx context.Context) ([]records.Person, error) {
	return many(ctx, r.q, ofPerson, `SELECT name, full, role, password FROM people ORDER BY name`)
}

func (r rows) AddPerson(ctx context.Context, p records.Person) error {
	return r.exec(ctx, `INSERT INTO people (name, full, role, password) VALUES (?, ?, ?, ?)`, p.Name, p.Full, p.Role, p.Password)
}

func (r rows) Token(ctx context.Context, hash string) (records.Token, error) {
	return one(ctx, r.q, func(t *records.Token) []any {
		return append([]any{&t.Hash, &t.Label, &t.MadeAt}, ofPerson(&t.Person)...)
	}, `SELECT t.hash, t.label, t.made_at, p.name, p.full, p.role, p.password FROM tokens t JOIN people p ON p.name = t.person WHERE t.hash = ?`,
		hash)
}

func (r rows) AddToken(ctx context.Context, t records.Token) error {
	return r.exec(ctx, `INSERT INTO tokens (hash, person, label, made_at) VALUES (?, ?, ?, ?)`, t.Hash, t.Name, t.Label, t.MadeAt)
}

func (r rows) Session(ctx context.Context, hash, now string) ([]byte, error) {
	return one(ctx, r.q, func(b *[]byte) []any { return []any{b} }, `SELECT data FROM sessions WHERE hash = ? AND ends_at > ?`, hash, now)
}

func (r rows) PutSession(ctx context.Context, hash string, data []byte, ends, now string) error {
	if err := r.exec(ctx, `DELETE FROM sessions WHERE ends_at <= ?`, now); err != nil {
		return err
	}
	return r.exec(ctx, `INSERT INTO sessions (hash, data, ends_at) VALUES (?, ?, ?) ON CONFLICT (hash) DO UPDATE SET data = excluded.data, ends_at = excluded.ends_at`,
		hash, data, ends)
}

func (r rows) DropSession(ctx context.Context, hash string) error {
	return r.exec(ctx, `DELETE FROM sessions WHERE hash = ?`, hash)
}
