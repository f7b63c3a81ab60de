package store

import (
	"context"

	"oldledger/ledger/records"
)

const noticeColumns = `id, api, line, version, operation, field, since, sunset, replaced_by, reason, made_by, made_at, changed_at, parameter, header, value, guide, written`

func ofNotice(n *records.Notice) []any {
	return []any{
		&n.ID, &n.API, &n.Line, &n.Version, &n.Operation, &n.Field, &n.Since, &n.Sunset, &n.ReplacedBy, &n.Reason, &n.MadeBy,
		&n.MadeAt, &n.ChangedAt, &n.Parameter, &n.Header, &n.Value, &n.Guide, &n.Written,
	}
}

func (r rows) Notices(ctx context.Context, api string) ([]records.Notice, error) {
	const order = ` ORDER BY sunset = '', sunset, id`
	if api == "" {
		return many(ctx, r.q, ofNotice, `SELECT `+noticeColumns+` FROM notices`+order)
	}
	return many(ctx, r.q, ofNotice, `SELECT `+noticeColumns+` FROM notices WHERE api = ?`+order, api)
}

func (r rows) AddNotice(ctx context.Context, n records.Notice) (int64, error) {
	res, err := r.q.ExecContext(ctx, `
		INSERT INTO notices (api, line, version, operation, field, since, sunset, replaced_by, reason, made_by, made_at, changed_at, parameter, header, value, guide,
			written)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		n.API, n.Line, n.Version, n.Operation, n.Field, n.Since, n.Sunset, n.ReplacedBy, n.Reason, n.MadeBy, n.MadeAt, n.ChangedAt, n.Parameter,
		n.Header, n.Value, n.Guide, n.Written)
	if err != nil {
		return 0, err
	}
	return res.LastInsertId()
}

func (r rows) ChangeNotice(ctx context.Context, n, before records.Notice) error {
	return r.change(ctx, `
		UPDATE notices SET sunset = ?, replaced_by = ?, reason = ?, guide = ?, changed_at = ?
		WHERE id = ? AND sunset = ? AND replaced_by = ? AND reason = ? AND guide = ?`,
		n.Sunset, n.ReplacedBy, n.Reason, n.Guide, n.ChangedAt, n.ID, before.Sunset, before.ReplacedBy, before.Reason, before.Guide)
}

const waiverColumns = `api, version, change, kind, title, reason, made_by, made_at`

func ofWaiver(w *records.Waiver) []any {
	return []any{&w.API, &w.Version, &w.Change, &w.Kind, &w.Title, &w.Reason, &w.MadeBy, &w.MadeAt}
}

func (r rows) Waivers(ctx context.Context, api string) ([]records.Waiver, error) {
	if api == "" {
		return many(ctx, r.q, ofWaiver, `SELECT `+waiverColumns+` FROM waivers ORDER BY id`)
	}
	return many(ctx, r.q, ofWaiver, `SELECT `+waiverColumns+` FROM waivers WHERE api = ? ORDER BY id`, api)
}

func (r rows) AddWaiver(ctx context.Context, w records.Waiver) error {
	return r.exec(ctx, `INSERT INTO waivers (`+waiverColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
		w.API, w.Version, w.Change, w.Kind, w.Title, w.Reason, w.MadeBy, w.MadeAt)
}

const allowanceColumns = `api, version, finding, what, reason, made_by, made_at`

func ofAllowance(a *records.Allowance) []any {
	return []any{&a.API, &a.Version, &a.Finding, &a.What, &a.Reason, &a.MadeBy, &a.MadeAt}
}

func (r rows) Allowances(ctx context.Context, api string) ([]records.Allowance, error) {
	if api == "" {
		return many(ctx, r.q, ofAllowance, `SELECT `+allowanceColumns+` FROM allowances ORDER BY made_at, finding`)
	}
	return many(ctx, r.q, ofAllowance, `SELECT `+allowanceColumns+` FROM allowances WHERE api = ? ORDER BY made_at, finding`, api)
}

func (r rows) AddAllowance(ctx context.Context, a records.Allowance) error {
	return r.exec(ctx, `
		INSERT INTO allowances (`+allowanceColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, version, finding) DO UPDATE SET reason = excluded.reason, made_by = excluded.made_by, made_at = excluded.made_at`,
		a.API, a.Version, a.Finding, a.What, a.Reason, a.MadeBy, a.MadeAt)
}
