package store

import "context"

// Overlay is one row of overlays.
type Overlay struct {
	API, Number, State string
	Text               []byte
	MadeBy, MadeAt     string
}

func (o *Overlay) columns() []any {
	return []any{&o.API, &o.Number, &o.State, &o.Text, &o.MadeBy, &o.MadeAt}
}

// Overlay reads the overlay of a version, as it is shown or as a draft.
func (r Rows) Overlay(ctx context.Context, api, number, state string) (Overlay, error) {
	return one(r.q.QueryRowContext(ctx, `SELECT api, number, state, text, made_by, made_at FROM overlays WHERE api = ? AND number = ? AND state = ?`, api, number, state), (*Overlay).columns)
}

// PutOverlay keeps an overlay in place of the one before.
func (r Rows) PutOverlay(ctx context.Context, o Overlay) error {
	_, err := r.q.ExecContext(ctx, `
		INSERT INTO overlays (api, number, state, text, made_by, made_at) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, number, state) DO UPDATE SET text = excluded.text, made_by = excluded.made_by, made_at = excluded.made_at`,
		o.API, o.Number, o.State, o.Text, o.MadeBy, o.MadeAt)
	return err
}

// DropOverlay takes an overlay away.
func (r Rows) DropOverlay(ctx context.Context, api, number, state string) error {
	_, err := r.q.ExecContext(ctx, `DELETE FROM overlays WHERE api = ? AND number = ? AND state = ?`, api, number, state)
	return err
}

// Looks is one row of looks.
type Looks struct{ API, Settings, MadeBy, MadeAt string }

func (l *Looks) columns() []any { return []any{&l.API, &l.Settings, &l.MadeBy, &l.MadeAt} }

// Looks reads how an API looks.
func (r Rows) Looks(ctx context.Context, api string) (Looks, error) {
	return one(r.q.QueryRowContext(ctx, `SELECT api, settings, made_by, made_at FROM looks WHERE api = ?`, api), (*Looks).columns)
}

// PutLooks keeps how an API looks.
func (r Rows) PutLooks(ctx context.Context, l Looks) error {
	_, err := r.q.ExecContext(ctx, `
		INSERT INTO looks (api, settings, made_by, made_at) VALUES (?, ?, ?, ?)
		ON CONFLICT (api) DO UPDATE SET settings = excluded.settings, made_by = excluded.made_by, made_at = excluded.made_at`,
		l.API, l.Settings, l.MadeBy, l.MadeAt)
	return err
}

// Preview is one row of previews.
type Preview struct{ Hash, API, Number, MadeBy, MadeAt, ExpiresAt string }

func (p *Preview) columns() []any {
	return []any{&p.Hash, &p.API, &p.Number, &p.MadeBy, &p.MadeAt, &p.ExpiresAt}
}

// Preview finds a preview by the hash of its address.
func (r Rows) Preview(ctx context.Context, hash string) (Preview, error) {
	return one(r.q.QueryRowContext(ctx, `SELECT hash, api, number, made_by, made_at, expires_at FROM previews WHERE hash = ?`, hash), (*Preview).columns)
}

// AddPreview adds a preview, and lets those go that expired before now.
func (r Rows) AddPreview(ctx context.Context, p Preview, now string) error {
	if _, err := r.q.ExecContext(ctx, `DELETE FROM previews WHERE expires_at < ?`, now); err != nil {
		return err
	}
	_, err := r.q.ExecContext(ctx, `INSERT INTO previews (hash, api, number, made_by, made_at, expires_at) VALUES (?, ?, ?, ?, ?, ?)`,
		p.Hash, p.API, p.Number, p.MadeBy, p.MadeAt, p.ExpiresAt)
	return err
}

// Allowance is one row of allowances.
type Allowance struct{ API, Version, Finding, What, Reason, MadeBy, MadeAt string }

func (a *Allowance) columns() []any {
	return []any{&a.API, &a.Version, &a.Finding, &a.What, &a.Reason, &a.MadeBy, &a.MadeAt}
}

// Allowances lists what was allowed for the versions of an API.
func (r Rows) Allowances(ctx context.Context, api string) ([]Allowance, error) {
	return many(ctx, r.q, (*Allowance).columns, `
		SELECT api, version, finding, what, reason, made_by, made_at FROM allowances WHERE api = ? ORDER BY made_at, finding`, api)
}

// AddAllowance adds an allowance.
func (r Rows) AddAllowance(ctx context.Context, a Allowance) error {
	_, err := r.q.ExecContext(ctx, `
		INSERT INTO allowances (api, version, finding, what, reason, made_by, made_at) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, version, finding) DO UPDATE SET reason = excluded.reason, made_by = excluded.made_by, made_at = excluded.made_at`,
		a.API, a.Version, a.Finding, a.What, a.Reason, a.MadeBy, a.MadeAt)
	return err
}
