package store

import (
	"context"

	"oldledger/ledger/records"
)

func ofAudience(a *records.Audience) []any { return []any{&a.API, &a.Part, &a.Published, &a.Drafts} }

func (r rows) Audiences(ctx context.Context) ([]records.Audience, error) {
	return many(ctx, r.q, ofAudience, `SELECT api, part, published, drafts FROM audiences ORDER BY api, part`)
}

func (r rows) AudiencesOf(ctx context.Context, api string) ([]records.Audience, error) {
	return many(ctx, r.q, ofAudience, `SELECT api, part, published, drafts FROM audiences WHERE api = ? ORDER BY part`, api)
}

func (r rows) PutAudience(ctx context.Context, a records.Audience) error {
	return r.exec(ctx, `INSERT INTO audiences (api, part, published, drafts) VALUES (?, ?, ?, ?)
		ON CONFLICT (api, part) DO UPDATE SET published = excluded.published, drafts = excluded.drafts`, a.API, a.Part, a.Published, a.Drafts)
}

func (r rows) DropAudience(ctx context.Context, api, part string) error {
	return r.exec(ctx, `DELETE FROM audiences WHERE api = ? AND part = ?`, api, part)
}

const linkColumns = `l.hash, l.api, l.label, l.password, l.made_at, l.made_by, l.ends_at`

func ofLink(l *records.Link) []any {
	return []any{&l.Hash, &l.API, &l.Label, &l.Password, &l.MadeAt, &l.MadeBy, &l.EndsAt}
}

func (r rows) Links(ctx context.Context, api string) ([]records.Link, error) {
	return many(ctx, r.q, ofLink, `SELECT `+linkColumns+` FROM links l WHERE l.api = ? OR ? = '' ORDER BY l.made_at DESC, l.hash`, api, api)
}

func (r rows) Link(ctx context.Context, hash string) (records.Link, error) {
	return one(ctx, r.q, ofLink, `SELECT `+linkColumns+` FROM links l WHERE l.hash = ?`, hash)
}

func (r rows) AddLink(ctx context.Context, l records.Link) error {
	return r.exec(ctx, `INSERT INTO links (hash, api, label, password, made_at, made_by, ends_at) VALUES (?, ?, ?, ?, ?, ?, ?)`,
		l.Hash, l.API, l.Label, l.Password, l.MadeAt, l.MadeBy, l.EndsAt)
}

func (r rows) DropLink(ctx context.Context, hash string) error {
	if err := r.exec(ctx, `DELETE FROM openings WHERE link = ?`, hash); err != nil {
		return err
	}
	return r.change(ctx, `DELETE FROM links WHERE hash = ?`, hash)
}

func (r rows) AddOpening(ctx context.Context, o records.Opening, now string) error {
	if err := r.exec(ctx, `DELETE FROM openings WHERE ends_at <= ?`, now); err != nil {
		return err
	}
	return r.exec(ctx, `INSERT INTO openings (hash, link, ends_at) VALUES (?, ?, ?)`, o.Hash, o.Link, o.EndsAt)
}

func (r rows) Opened(ctx context.Context, hash, now string) (records.Link, error) {
	return one(ctx, r.q, ofLink, `SELECT `+linkColumns+` FROM openings o JOIN links l ON l.hash = o.link WHERE o.hash = ? AND o.ends_at > ? AND l.ends_at > ?`,
		hash, now, now)
}
