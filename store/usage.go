package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"

	"oldledger/ledger/records"
)

const consumerColumns = `name, title, note, team, person, contacts, made_at, made_by`

func ofConsumer(c *records.Consumer) []any {
	return []any{&c.Name, &c.Title, &c.Note, &c.Team, &c.Person, &c.Contacts, &c.MadeAt, &c.MadeBy}
}

func (r rows) Consumers(ctx context.Context) ([]records.Consumer, error) {
	return many(ctx, r.q, ofConsumer, `SELECT `+consumerColumns+` FROM consumers ORDER BY name`)
}

func (r rows) ConsumersOf(ctx context.Context, apis []string) ([]string, error) {
	list, err := json.Marshal(apis)
	if err != nil {
		return nil, err
	}
	return many(ctx, r.q, func(name *string) []any { return []any{name} }, `
		WITH asked (api) AS (SELECT value FROM json_each(?))
		SELECT name FROM consumers WHERE EXISTS (SELECT 1 FROM uses WHERE consumer = name AND api IN asked)
		UNION SELECT consumer FROM grants WHERE api IN asked
		UNION SELECT consumer FROM requests WHERE id IN (SELECT request FROM request_items WHERE api IN asked)`, string(list))
}

func (r rows) Consumer(ctx context.Context, name string) (records.Consumer, error) {
	return one(ctx, r.q, ofConsumer, `SELECT `+consumerColumns+` FROM consumers WHERE name = ?`, name)
}

func (r rows) PutConsumer(ctx context.Context, c records.Consumer) error {
	return r.exec(ctx, `INSERT INTO consumers (`+consumerColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (name) DO UPDATE SET title = excluded.title, note = excluded.note, team = excluded.team, person = excluded.person,
			contacts = excluded.contacts`,
		c.Name, c.Title, c.Note, c.Team, c.Person, c.Contacts, c.MadeAt, c.MadeBy)
}

func (r rows) DropConsumer(ctx context.Context, name string) error {
	for _, statement := range []string{
		`DELETE FROM signs WHERE consumer = ?`, `DELETE FROM credentials WHERE consumer = ?`, `DELETE FROM ticks WHERE consumer = ?`,
		`DELETE FROM reliances WHERE consumer = ?`, `DELETE FROM recordings WHERE consumer = ?`,
		`DELETE FROM request_items WHERE request IN (SELECT id FROM requests WHERE consumer = ?)`, `DELETE FROM requests WHERE consumer = ?`,
	} {
		if err := r.exec(ctx, statement, name); err != nil {
			return err
		}
	}
	return r.change(ctx, `DELETE FROM consumers WHERE name = ?`, name)
}

func (r rows) Signs(ctx context.Context) ([]records.Sign, error) {
	return many(ctx, r.q, func(s *records.Sign) []any { return []any{&s.Team, &s.Kind, &s.Value, &s.Consumer} },
		`SELECT team, kind, value, consumer FROM signs ORDER BY team, kind, value`)
}

func (r rows) PutSigns(ctx context.Context, team, consumer string, signs []records.Sign) error {
	if err := r.exec(ctx, `DELETE FROM signs WHERE team = ? AND consumer = ?`, team, consumer); err != nil {
		return err
	}
	for _, s := range signs {
		if err := r.exec(ctx, `INSERT INTO signs (team, kind, value, consumer) VALUES (?, ?, ?, ?)`, team, s.Kind, s.Value, consumer); err != nil {
			return err
		}
	}
	return nil
}

func (r rows) DropSigns(ctx context.Context, team string) error {
	return r.exec(ctx, `DELETE FROM signs WHERE team = ?`, team)
}

func (r rows) Callers(ctx context.Context, api string) ([]records.Caller, error) {
	return many(ctx, r.q, func(c *records.Caller) []any { return []any{&c.ID, &c.Credential, &c.Header, &c.Agent} },
		`SELECT id, credential, header, agent FROM callers WHERE ? = '' OR id IN (SELECT caller FROM uses WHERE api = ?)`, api, api)
}

func (r rows) CallerID(ctx context.Context, c records.Caller, add bool) (int64, error) {
	find := `SELECT id FROM callers WHERE credential = ? AND header = ? AND agent = ?`
	if !add {
		return one(ctx, r.q, func(n *int64) []any { return []any{n} }, find, c.Credential, c.Header, c.Agent)
	}
	return r.identified(ctx, find, `INSERT INTO callers (credential, header, agent) VALUES (?, ?, ?)`, c.Credential, c.Header, c.Agent)
}

func (r rows) CountCallers(ctx context.Context) (int, error) {
	return one(ctx, r.q, func(n *int) []any { return []any{n} }, `SELECT count(*) FROM callers`)
}

func (r rows) Targets(ctx context.Context, api string) ([]records.Target, error) {
	return many(ctx, r.q, func(t *records.Target) []any { return []any{&t.ID, &t.API, &t.Version, &t.Operation} },
		`SELECT id, api, version, operation FROM targets WHERE ? = '' OR api = ?`, api, api)
}

func (r rows) TargetID(ctx context.Context, t records.Target) (int64, error) {
	return r.identified(ctx, `SELECT id FROM targets WHERE api = ? AND version = ? AND operation = ?`,
		`INSERT INTO targets (api, version, operation) VALUES (?, ?, ?)`, t.API, t.Version, t.Operation)
}

// identified is the number of a row, which is added where it is not there.
func (r rows) identified(ctx context.Context, find, add string, args ...any) (int64, error) {
	id, err := one(ctx, r.q, func(n *int64) []any { return []any{n} }, find, args...)
	if !errors.Is(err, records.ErrNotFound) {
		return id, err
	}
	res, err := r.q.ExecContext(ctx, add, args...)
	if err != nil {
		return 0, err
	}
	return res.LastInsertId()
}

func (r rows) Calls(ctx context.Context, api string, m records.Months) ([]records.Calls, error) {
	return many(ctx, r.q, func(c *records.Calls) []any { return []any{&c.API, &c.Month, &c.Target, &c.Caller, &c.Class, &c.Days} },
		`SELECT api, month, target, caller, class, days FROM calls WHERE api = ? AND month BETWEEN ? AND ? ORDER BY month, target, caller, class`,
		api, m.From, m.Until)
}

func (r rows) PutCalls(ctx context.Context, c records.Calls) error {
	return r.exec(ctx, `INSERT INTO calls (api, month, target, caller, class, days) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, month, target, caller, class) DO UPDATE SET days = excluded.days`,
		c.API, c.Month, c.Target, c.Caller, c.Class, c.Days)
}

const useColumns = `caller, api, consumer, first_day, last_day, calls`

func (r rows) Uses(ctx context.Context, api, consumer string) ([]records.Use, error) {
	query, args := `SELECT `+useColumns+` FROM uses`, []any{}
	switch {
	case api != "":
		query, args = query+` WHERE api = ? AND (? = '' OR consumer = ?)`, append(args, api, consumer, consumer)
	case consumer != "":
		query, args = query+` WHERE consumer = ?`, append(args, consumer)
	}
	return many(ctx, r.q, ofUse, query, args...)
}

func ofUse(u *records.Use) []any {
	return []any{&u.Caller, &u.API, &u.Consumer, &u.FirstDay, &u.LastDay, &u.Calls}
}

func (r rows) Use(ctx context.Context, caller int64, api string) (records.Use, error) {
	return one(ctx, r.q, ofUse, `SELECT `+useColumns+` FROM uses WHERE caller = ? AND api = ?`, caller, api)
}

func (r rows) AddUse(ctx context.Context, u records.Use) error {
	return r.exec(ctx, `INSERT INTO uses (`+useColumns+`) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (caller, api) DO UPDATE SET first_day = min(first_day, excluded.first_day), last_day = max(last_day, excluded.last_day),
			calls = calls + excluded.calls`, u.Caller, u.API, u.Consumer, u.FirstDay, u.LastDay, u.Calls)
}

func (r rows) Recognise(ctx context.Context, u records.Use) error {
	return r.change(ctx, `UPDATE uses SET consumer = ? WHERE caller = ? AND api = ?`, u.Consumer, u.Caller, u.API)
}

func (r rows) Covered(ctx context.Context, api string, m records.Months) ([]records.Days, error) {
	return many(ctx, r.q, func(d *records.Days) []any { return []any{&d.Month, &d.Days} },
		`SELECT month, days FROM covered WHERE api = ? AND month BETWEEN ? AND ? ORDER BY month`, api, m.From, m.Until)
}

func (r rows) Cover(ctx context.Context, api string, d records.Days) error {
	return r.exec(ctx, `INSERT INTO covered (api, month, days) VALUES (?, ?, ?)
		ON CONFLICT (api, month) DO UPDATE SET days = days | excluded.days`, api, d.Month, d.Days)
}

func (r rows) Unmatched(ctx context.Context) ([]records.Unmatched, error) {
	return many(ctx, r.q, func(u *records.Unmatched) []any {
		return []any{&u.Reason, &u.API, &u.Method, &u.Path, &u.Calls, &u.LastDay}
	}, `SELECT reason, api, method, path, calls, last_day FROM unmatched ORDER BY calls DESC, path, method, reason, api`)
}

func (r rows) CountUnmatched(ctx context.Context) (int, error) {
	return one(ctx, r.q, func(n *int) []any { return []any{n} }, `SELECT count(*) FROM unmatched`)
}

func (r rows) HasUnmatched(ctx context.Context, u records.Unmatched) (bool, error) {
	_, err := one(ctx, r.q, func(n *int) []any { return []any{n} },
		`SELECT 1 FROM unmatched WHERE reason = ? AND api = ? AND method = ? AND path = ?`, u.Reason, u.API, u.Method, u.Path)
	if errors.Is(err, records.ErrNotFound) {
		return false, nil
	}
	return err == nil, err
}

func (r rows) AddUnmatched(ctx context.Context, u records.Unmatched) error {
	return r.exec(ctx, `INSERT INTO unmatched (reason, api, method, path, calls, last_day) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (reason, api, method, path) DO UPDATE SET calls = calls + excluded.calls, last_day = max(last_day, excluded.last_day)`,
		u.Reason, u.API, u.Method, u.Path, u.Calls, u.LastDay)
}

const logColumns = `name, added_at, added_by, length, digest, head, apis, lines, repeated, calls, unmatched, bad, first_day, last_day`

func (r rows) Logs(ctx context.Context, limit int) ([]records.CallLog, error) {
	if limit == 0 {
		limit = -1
	}
	return many(ctx, r.q, func(l *records.CallLog) []any {
		return []any{
			&l.ID, &l.Name, &l.AddedAt, &l.AddedBy, &l.Length, &l.Digest, &l.Head, &l.APIs, &l.Lines, &l.Repeated, &l.Calls, &l.Unmatched,
			&l.Bad, &l.FirstDay, &l.LastDay,
		}
	}, `SELECT id, `+logColumns+` FROM logs ORDER BY id DESC LIMIT ?`, limit)
}

func (r rows) PutLog(ctx context.Context, l records.CallLog) (int64, error) {
	id := sql.NullInt64{Int64: l.ID, Valid: l.ID != 0}
	res, err := r.q.ExecContext(ctx, `INSERT INTO logs (id, `+logColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (id) DO UPDATE SET length = excluded.length, digest = excluded.digest, head = excluded.head, lines = excluded.lines,
			repeated = excluded.repeated, calls = excluded.calls, unmatched = excluded.unmatched, bad = excluded.bad,
			first_day = excluded.first_day, last_day = excluded.last_day`,
		id, l.Name, l.AddedAt, l.AddedBy, l.Length, l.Digest, l.Head, l.APIs, l.Lines, l.Repeated, l.Calls, l.Unmatched, l.Bad, l.FirstDay,
		l.LastDay)
	if err != nil || l.ID != 0 {
		return l.ID, err
	}
	return res.LastInsertId()
}
