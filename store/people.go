package store

import (
	"context"

	"oldledger/ledger/records"
)

func ofPerson(p *records.Person) []any {
	return []any{&p.Name, &p.Full, &p.Role, &p.Password, &p.LeftAt}
}

func (r rows) Person(ctx context.Context, name string) (records.Person, error) {
	return one(ctx, r.q, ofPerson, `SELECT name, full, role, password, left_at FROM people WHERE name = ?`, name)
}

func (r rows) AllPeople(ctx context.Context) ([]records.Person, error) {
	return many(ctx, r.q, ofPerson, `SELECT name, full, role, password, left_at FROM people ORDER BY name`)
}

func (r rows) AddPerson(ctx context.Context, p records.Person) error {
	return r.exec(ctx, `INSERT INTO people (name, full, role, password) VALUES (?, ?, ?, ?)`, p.Name, p.Full, p.Role, p.Password)
}

func (r rows) PutPerson(ctx context.Context, p records.Person) error {
	return r.change(ctx, `UPDATE people SET full = ?, role = ?, password = ?, left_at = ? WHERE name = ?`, p.Full, p.Role, p.Password, p.LeftAt, p.Name)
}

func (r rows) DropTokens(ctx context.Context, person string) error {
	return r.exec(ctx, `DELETE FROM tokens WHERE person = ?`, person)
}

func (r rows) Teams(ctx context.Context) ([]records.Team, error) {
	return many(ctx, r.q, func(t *records.Team) []any { return []any{&t.Name, &t.MadeAt, &t.MadeBy} },
		`SELECT name, made_at, made_by FROM teams ORDER BY name`)
}

func (r rows) AddTeam(ctx context.Context, t records.Team) error {
	return r.exec(ctx, `INSERT INTO teams (name, made_at, made_by) VALUES (?, ?, ?)`, t.Name, t.MadeAt, t.MadeBy)
}

func (r rows) DropTeam(ctx context.Context, name string) error {
	if err := r.exec(ctx, `DELETE FROM members WHERE team = ?`, name); err != nil {
		return err
	}
	return r.change(ctx, `DELETE FROM teams WHERE name = ?`, name)
}

func (r rows) Members(ctx context.Context, person string) ([]records.Member, error) {
	return many(ctx, r.q, func(m *records.Member) []any { return []any{&m.Team, &m.Person, &m.Role} },
		`SELECT team, person, role FROM members WHERE person = ? OR ? = '' ORDER BY team, person`, person, person)
}

func (r rows) PutMember(ctx context.Context, m records.Member) error {
	return r.exec(ctx, `INSERT INTO members (team, person, role) VALUES (?, ?, ?) ON CONFLICT (team, person) DO UPDATE SET role = excluded.role`,
		m.Team, m.Person, m.Role)
}

func (r rows) DropMember(ctx context.Context, team, person string) error {
	return r.change(ctx, `DELETE FROM members WHERE team = ? AND person = ?`, team, person)
}

const tokenColumns = `hash, person, label, made_at, scopes, teams, ends_at, used_at`

func ofToken(t *records.Token) []any {
	return []any{&t.Hash, &t.Person, &t.Label, &t.MadeAt, &t.Scopes, &t.Teams, &t.EndsAt, &t.UsedAt}
}

func (r rows) Token(ctx context.Context, hash string) (records.Token, error) {
	return one(ctx, r.q, ofToken, `SELECT `+tokenColumns+` FROM tokens WHERE hash = ?`, hash)
}

func (r rows) Tokens(ctx context.Context, person string) ([]records.Token, error) {
	return many(ctx, r.q, ofToken, `SELECT `+tokenColumns+` FROM tokens WHERE person = ? OR ? = '' ORDER BY made_at DESC, hash`, person, person)
}

func (r rows) AddToken(ctx context.Context, t records.Token) error {
	return r.exec(ctx, `INSERT INTO tokens (`+tokenColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
		t.Hash, t.Person, t.Label, t.MadeAt, t.Scopes, t.Teams, t.EndsAt, t.UsedAt)
}

func (r rows) UseToken(ctx context.Context, hash, at string) error {
	return r.exec(ctx, `UPDATE tokens SET used_at = ? WHERE hash = ?`, at, hash)
}

func (r rows) DropToken(ctx context.Context, hash string) error {
	return r.change(ctx, `DELETE FROM tokens WHERE hash = ?`, hash)
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
