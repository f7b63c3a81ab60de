package store

import (
	"context"
	"encoding/json"

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

const tokenColumns = `hash, person, label, made_at, scopes, teams, apis, ends_at, used_at`

func ofToken(t *records.Token) []any {
	return []any{&t.Hash, &t.Person, &t.Label, &t.MadeAt, &t.Scopes, &t.Teams, &t.APIs, &t.EndsAt, &t.UsedAt}
}

func (r rows) Token(ctx context.Context, hash string) (records.Token, error) {
	return one(ctx, r.q, ofToken, `SELECT `+tokenColumns+` FROM tokens WHERE hash = ?`, hash)
}

func (r rows) Tokens(ctx context.Context, person string) ([]records.Token, error) {
	return many(ctx, r.q, ofToken, `SELECT `+tokenColumns+` FROM tokens WHERE person = ? OR ? = '' ORDER BY made_at DESC, hash`, person, person)
}

func (r rows) AddToken(ctx context.Context, t records.Token) error {
	return r.exec(ctx, `INSERT INTO tokens (`+tokenColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		t.Hash, t.Person, t.Label, t.MadeAt, t.Scopes, t.Teams, t.APIs, t.EndsAt, t.UsedAt)
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

func (r rows) SessionPerson(ctx context.Context, hash, now string) (records.Person, []records.Member, string, error) {
	type row struct {
		records.Person
		members, seeing string
	}
	p, err := one(ctx, r.q, func(p *row) []any { return append(ofPerson(&p.Person), &p.members, &p.seeing) }, `
		SELECT p.name, p.full, p.role, p.password, p.left_at,
			(SELECT json_group_array(json_object('Team', m.team, 'Person', m.person, 'Role', m.role)) FROM members m WHERE m.person = p.name),
			s.seeing
		FROM sessions s JOIN people p ON p.name = s.person WHERE s.hash = ? AND s.ends_at > ? AND p.left_at = ''`, hash, now)
	if err != nil {
		return p.Person, nil, "", err
	}
	var members []records.Member
	err = json.Unmarshal([]byte(p.members), &members)
	return p.Person, members, p.seeing, err
}

func (r rows) PutSession(ctx context.Context, s records.Session, data []byte) error {
	if err := r.exec(ctx, `DELETE FROM sessions WHERE ends_at <= ?`, s.MadeAt); err != nil {
		return err
	}
	return r.exec(ctx, `INSERT INTO sessions (hash, data, ends_at, person, made_at, seeing) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (hash) DO UPDATE SET data = excluded.data, ends_at = excluded.ends_at, person = excluded.person,
			seeing = excluded.seeing`,
		s.Hash, data, s.EndsAt, s.Person, s.MadeAt, s.Seeing)
}

func (r rows) Sessions(ctx context.Context, person, now string) ([]records.Session, error) {
	return many(ctx, r.q, func(s *records.Session) []any { return []any{&s.Hash, &s.Person, &s.MadeAt, &s.EndsAt} },
		`SELECT hash, person, made_at, ends_at FROM sessions WHERE person = ? AND ends_at > ? ORDER BY made_at DESC, hash`, person, now)
}

func (r rows) DropSessions(ctx context.Context, person string) error {
	return r.exec(ctx, `DELETE FROM sessions WHERE person = ?`, person)
}

func (r rows) Invitation(ctx context.Context, hash, now string) (records.Invitation, error) {
	return one(ctx, r.q, func(i *records.Invitation) []any { return []any{&i.Hash, &i.Person, &i.EndsAt} },
		`SELECT hash, person, ends_at FROM invitations WHERE hash = ? AND ends_at > ?`, hash, now)
}

func (r rows) PutInvitation(ctx context.Context, i records.Invitation) error {
	if err := r.DropInvitations(ctx, i.Person); err != nil {
		return err
	}
	return r.exec(ctx, `INSERT INTO invitations (hash, person, ends_at) VALUES (?, ?, ?)`, i.Hash, i.Person, i.EndsAt)
}

func (r rows) DropInvitations(ctx context.Context, person string) error {
	return r.exec(ctx, `DELETE FROM invitations WHERE person = ?`, person)
}

func (r rows) DropSession(ctx context.Context, hash string) error {
	return r.exec(ctx, `DELETE FROM sessions WHERE hash = ?`, hash)
}
