package store

import "context"

// Notice is one row of notices.
type Notice struct {
	ID                                        int64
	API, Line, Version, Operation, Field      string
	Since, Sunset, ReplacedBy, Reason, MadeBy string
	MadeAt, ChangedAt, Parameter              string
	Header, Value, Guide                      string
}

func (n *Notice) columns() []any {
	return []any{&n.ID, &n.API, &n.Line, &n.Version, &n.Operation, &n.Field, &n.Since, &n.Sunset, &n.ReplacedBy, &n.Reason, &n.MadeBy, &n.MadeAt, &n.ChangedAt, &n.Parameter, &n.Header, &n.Value, &n.Guide}
}

// Notices lists the notices of an API, the next sunset first; of all APIs where the name is "".
func (r Rows) Notices(ctx context.Context, api string) ([]Notice, error) {
	return many(ctx, r.q, (*Notice).columns, `
		SELECT id, api, line, version, operation, field, since, sunset, replaced_by, reason, made_by, made_at, changed_at, parameter, header, value, guide FROM notices
		WHERE api = ? OR ? = '' ORDER BY sunset = '', sunset, id`, api, api)
}

// AddNotice adds a notice and returns its id.
func (r Rows) AddNotice(ctx context.Context, n Notice) (int64, error) {
	res, err := r.q.ExecContext(ctx, `
		INSERT INTO notices (api, line, version, operation, field, since, sunset, replaced_by, reason, made_by, made_at, changed_at, parameter, header, value, guide)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		n.API, n.Line, n.Version, n.Operation, n.Field, n.Since, n.Sunset, n.ReplacedBy, n.Reason, n.MadeBy, n.MadeAt, n.ChangedAt, n.Parameter, n.Header, n.Value, n.Guide)
	if err != nil {
		return 0, err
	}
	return res.LastInsertId()
}

// ChangeNotice gives a notice another sunset, replacement, reason and guide.
func (r Rows) ChangeNotice(ctx context.Context, n Notice) error {
	_, err := r.q.ExecContext(ctx, `UPDATE notices SET sunset = ?, replaced_by = ?, reason = ?, guide = ?, changed_at = ? WHERE id = ?`, n.Sunset, n.ReplacedBy, n.Reason, n.Guide, n.ChangedAt, n.ID)
	return err
}

// Waiver is one row of waivers.
type Waiver struct {
	API, Version, Change, Kind, Title, Reason, MadeBy, MadeAt string
}

func (w *Waiver) columns() []any {
	return []any{&w.API, &w.Version, &w.Change, &w.Kind, &w.Title, &w.Reason, &w.MadeBy, &w.MadeAt}
}

// Waivers lists the waivers of an API.
func (r Rows) Waivers(ctx context.Context, api string) ([]Waiver, error) {
	return many(ctx, r.q, (*Waiver).columns, `
		SELECT api, version, change, kind, title, reason, made_by, made_at FROM waivers WHERE api = ? ORDER BY id`, api)
}

// AddWaiver adds a waiver.
func (r Rows) AddWaiver(ctx context.Context, w Waiver) error {
	_, err := r.q.ExecContext(ctx, `
		INSERT INTO waivers (api, version, change, kind, title, reason, made_by, made_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
		w.API, w.Version, w.Change, w.Kind, w.Title, w.Reason, w.MadeBy, w.MadeAt)
	return err
}
