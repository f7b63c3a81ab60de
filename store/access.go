package store

import (
	"context"

	"oldledger/ledger/records"
)

const planColumns = `api, name, quota, per, terms, asks, audience, issues`

func (r rows) Plans(ctx context.Context, api string) ([]records.Plan, error) {
	return many(ctx, r.q, func(p *records.Plan) []any {
		return []any{&p.API, &p.Name, &p.Quota, &p.Per, &p.Terms, &p.Asks, &p.Audience, &p.Issues}
	}, `SELECT `+planColumns+` FROM plans WHERE ? = '' OR api = ? ORDER BY api, name`, api, api)
}

func (r rows) PutPlan(ctx context.Context, p records.Plan) error {
	return r.exec(ctx, `INSERT INTO plans (`+planColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, name) DO UPDATE SET quota = excluded.quota, per = excluded.per, terms = excluded.terms, asks = excluded.asks,
			audience = excluded.audience, issues = excluded.issues`, p.API, p.Name, p.Quota, p.Per, p.Terms, p.Asks, p.Audience, p.Issues)
}

func (r rows) DropPlan(ctx context.Context, api, name string) error {
	return r.change(ctx, `DELETE FROM plans WHERE api = ? AND name = ?`, api, name)
}

func (r rows) Requests(ctx context.Context) ([]records.Request, error) {
	return many(ctx, r.q, func(q *records.Request) []any { return []any{&q.ID, &q.Consumer, &q.AskedBy, &q.AskedAt, &q.Purpose} },
		`SELECT id, consumer, asked_by, asked_at, purpose FROM requests ORDER BY id DESC`)
}

func (r rows) AddRequest(ctx context.Context, q records.Request) (int64, error) {
	res, err := r.q.ExecContext(ctx, `INSERT INTO requests (consumer, asked_by, asked_at, purpose) VALUES (?, ?, ?, ?)`,
		q.Consumer, q.AskedBy, q.AskedAt, q.Purpose)
	if err != nil {
		return 0, err
	}
	return res.LastInsertId()
}

const itemColumns = `request, api, line, plan, answers, state, decided_by, decided_at, reason`

func (r rows) RequestItems(ctx context.Context, request int64) ([]records.RequestItem, error) {
	return many(ctx, r.q, func(i *records.RequestItem) []any {
		return []any{&i.Request, &i.API, &i.Line, &i.Plan, &i.Answers, &i.State, &i.DecidedBy, &i.DecidedAt, &i.Reason}
	}, `SELECT `+itemColumns+` FROM request_items WHERE ? = 0 OR request = ? ORDER BY request DESC, api, line`, request, request)
}

func (r rows) AddRequestItem(ctx context.Context, i records.RequestItem) error {
	return r.exec(ctx, `INSERT INTO request_items (`+itemColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`, i.Request, i.API, i.Line, i.Plan,
		i.Answers, i.State, i.DecidedBy, i.DecidedAt, i.Reason)
}

func (r rows) DecideItem(ctx context.Context, i records.RequestItem) error {
	return r.change(ctx, `UPDATE request_items SET state = ?, decided_by = ?, decided_at = ?, reason = ?
		WHERE request = ? AND api = ? AND line = ? AND state = 'asked'`, i.State, i.DecidedBy, i.DecidedAt, i.Reason, i.Request, i.API, i.Line)
}

func (r rows) Grants(ctx context.Context, api, consumer string) ([]records.Grant, error) {
	return many(ctx, r.q, func(g *records.Grant) []any { return []any{&g.Consumer, &g.API, &g.Line, &g.Plan, &g.Since, &g.By} },
		`SELECT consumer, api, line, plan, since, by FROM grants WHERE (? = '' OR api = ?) AND (? = '' OR consumer = ?) ORDER BY consumer, api, line`,
		api, api, consumer, consumer)
}

func (r rows) PutGrant(ctx context.Context, g records.Grant) error {
	return r.exec(ctx, `INSERT INTO grants (consumer, api, line, plan, since, by) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (consumer, api, line) DO UPDATE SET plan = excluded.plan, since = excluded.since, by = excluded.by`,
		g.Consumer, g.API, g.Line, g.Plan, g.Since, g.By)
}

func (r rows) DropGrant(ctx context.Context, consumer, api, line string) error {
	return r.change(ctx, `DELETE FROM grants WHERE consumer = ? AND api = ? AND line = ?`, consumer, api, line)
}

func (r rows) Credentials(ctx context.Context, api, consumer string) ([]records.Credential, error) {
	return many(ctx, r.q, func(c *records.Credential) []any {
		return []any{&c.ID, &c.Hash, &c.Consumer, &c.API, &c.MadeAt, &c.MadeBy, &c.EndsAt}
	}, `SELECT id, hash, consumer, api, made_at, made_by, ends_at FROM credentials
		WHERE (? = '' OR api = ?) AND (? = '' OR consumer = ?) ORDER BY made_at, ends_at = '', id`, api, api, consumer, consumer)
}

func (r rows) AddCredential(ctx context.Context, c records.Credential) error {
	return r.exec(ctx, `INSERT INTO credentials (id, hash, consumer, api, made_at, made_by, ends_at) VALUES (?, ?, ?, ?, ?, ?, ?)`,
		c.ID, c.Hash, c.Consumer, c.API, c.MadeAt, c.MadeBy, c.EndsAt)
}

func (r rows) EndCredential(ctx context.Context, id, at string) error {
	return r.change(ctx, `UPDATE credentials SET ends_at = ? WHERE id = ?`, at, id)
}

func (r rows) Ticks(ctx context.Context, consumer string) ([]records.Tick, error) {
	return many(ctx, r.q, func(t *records.Tick) []any {
		return []any{&t.Consumer, &t.API, &t.Pair, &t.Step, &t.DoneAt, &t.DoneBy}
	}, `SELECT consumer, api, pair, step, done_at, done_by FROM ticks WHERE consumer = ? ORDER BY api, pair, step`, consumer)
}

func (r rows) PutTick(ctx context.Context, t records.Tick) error {
	return r.exec(ctx, `INSERT INTO ticks (consumer, api, pair, step, done_at, done_by) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (consumer, api, pair, step) DO UPDATE SET done_at = excluded.done_at, done_by = excluded.done_by`,
		t.Consumer, t.API, t.Pair, t.Step, t.DoneAt, t.DoneBy)
}

func (r rows) DropTick(ctx context.Context, t records.Tick) error {
	return r.exec(ctx, `DELETE FROM ticks WHERE consumer = ? AND api = ? AND pair = ? AND step = ?`, t.Consumer, t.API, t.Pair, t.Step)
}
