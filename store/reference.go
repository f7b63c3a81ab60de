package store

import (
	"context"

	"oldledger/ledger/records"
)

const overlayColumns = `api, number, state, text, made_by, made_at`

func ofOverlay(o *records.Overlay) []any {
	return []any{&o.API, &o.Number, &o.State, &o.Text, &o.MadeBy, &o.MadeAt}
}

func (r rows) Overlay(ctx context.Context, api, number, state string) (records.Overlay, error) {
	return one(ctx, r.q, ofOverlay, `SELECT `+overlayColumns+` FROM overlays WHERE api = ? AND number = ? AND state = ?`, api, number, state)
}

func (r rows) PutOverlay(ctx context.Context, o records.Overlay) error {
	return r.exec(ctx, `
		INSERT INTO overlays (`+overlayColumns+`) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, number, state) DO UPDATE SET text = excluded.text, made_by = excluded.made_by, made_at = excluded.made_at`,
		o.API, o.Number, o.State, o.Text, o.MadeBy, o.MadeAt)
}

func (r rows) DropOverlay(ctx context.Context, api, number, state string) error {
	return r.exec(ctx, `DELETE FROM overlays WHERE api = ? AND number = ? AND state = ?`, api, number, state)
}

func (r rows) Looks(ctx context.Context, api string) (records.Looks, error) {
	return one(ctx, r.q, func(l *records.Looks) []any { return []any{&l.API, &l.Settings, &l.MadeBy, &l.MadeAt} },
		`SELECT api, settings, made_by, made_at FROM looks WHERE api = ?`, api)
}

func (r rows) PutLooks(ctx context.Context, l records.Looks) error {
	return r.exec(ctx, `
		INSERT INTO looks (api, settings, made_by, made_at) VALUES (?, ?, ?, ?)
		ON CONFLICT (api) DO UPDATE SET settings = excluded.settings, made_by = excluded.made_by, made_at = excluded.made_at`,
		l.API, l.Settings, l.MadeBy, l.MadeAt)
}

func (r rows) Pictures(ctx context.Context, api string) ([]records.Picture, error) {
	return many(ctx, r.q, func(p *records.Picture) []any { return []any{&p.API, &p.Name, &p.Size, &p.MadeBy, &p.MadeAt} },
		`SELECT api, name, length(bytes), made_by, made_at FROM pictures WHERE api = ? ORDER BY name`, api)
}

func (r rows) Picture(ctx context.Context, api, name string) (records.Picture, error) {
	return one(ctx, r.q, func(p *records.Picture) []any { return []any{&p.API, &p.Name, &p.Bytes, &p.MadeBy, &p.MadeAt} },
		`SELECT api, name, bytes, made_by, made_at FROM pictures WHERE api = ? AND name = ?`, api, name)
}

func (r rows) PutPicture(ctx context.Context, p records.Picture) error {
	return r.exec(ctx, `
		INSERT INTO pictures (api, name, bytes, made_by, made_at) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (api, name) DO UPDATE SET bytes = excluded.bytes, made_by = excluded.made_by, made_at = excluded.made_at`,
		p.API, p.Name, p.Bytes, p.MadeBy, p.MadeAt)
}

func (r rows) DropPicture(ctx context.Context, api, name string) error {
	return r.exec(ctx, `DELETE FROM pictures WHERE api = ? AND name = ?`, api, name)
}

const previewColumns = `hash, api, number, made_by, made_at, expires_at`

func ofPreviewLink(p *records.PreviewLink) []any {
	return []any{&p.Hash, &p.API, &p.Number, &p.MadeBy, &p.MadeAt, &p.ExpiresAt}
}

func (r rows) PreviewLinks(ctx context.Context, api, number string) ([]records.PreviewLink, error) {
	return many(ctx, r.q, ofPreviewLink, `SELECT `+previewColumns+` FROM previews WHERE api = ? AND number = ? ORDER BY made_at DESC, hash`, api, number)
}

func (r rows) DropPreviewLink(ctx context.Context, hash string) error {
	return r.change(ctx, `DELETE FROM previews WHERE hash = ?`, hash)
}

func (r rows) PreviewLink(ctx context.Context, hash string) (records.PreviewLink, error) {
	return one(ctx, r.q, ofPreviewLink, `SELECT `+previewColumns+` FROM previews WHERE hash = ?`, hash)
}

func (r rows) AddPreviewLink(ctx context.Context, p records.PreviewLink, now string) error {
	if err := r.exec(ctx, `DELETE FROM previews WHERE expires_at < ?`, now); err != nil {
		return err
	}
	return r.exec(ctx, `INSERT INTO previews (`+previewColumns+`) VALUES (?, ?, ?, ?, ?, ?)`, p.Hash, p.API, p.Number, p.MadeBy, p.MadeAt,
		p.ExpiresAt)
}

const guideTextColumns = `api, pair, anchor, title, text, made_by, made_at`

func (r rows) GuideTexts(ctx context.Context, api string) ([]records.GuideText, error) {
	return many(ctx, r.q, func(g *records.GuideText) []any {
		return []any{&g.API, &g.Pair, &g.Anchor, &g.Title, &g.Text, &g.MadeBy, &g.MadeAt}
	}, `SELECT `+guideTextColumns+` FROM guide_texts WHERE api = ? ORDER BY made_at DESC, anchor`, api)
}

func (r rows) PutGuideText(ctx context.Context, g records.GuideText) error {
	return r.exec(ctx, `
		INSERT INTO guide_texts (`+guideTextColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, pair, anchor) DO UPDATE SET title = excluded.title, text = excluded.text, made_by = excluded.made_by, made_at = excluded.made_at`,
		g.API, g.Pair, g.Anchor, g.Title, g.Text, g.MadeBy, g.MadeAt)
}

func (r rows) DropGuideText(ctx context.Context, api, pair, anchor string) error {
	return r.exec(ctx, `DELETE FROM guide_texts WHERE api = ? AND pair = ? AND anchor = ?`, api, pair, anchor)
}
