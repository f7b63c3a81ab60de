package store

import (
	"context"

	"oldledger/ledger/records"
)

const shelfColumns = `name, title, audience, landing, host, made_at, made_by`

func ofShelf(s *records.Shelf) []any {
	return []any{&s.Name, &s.Title, &s.Audience, &s.Landing, &s.Host, &s.MadeAt, &s.MadeBy}
}

func (r rows) Shelves(ctx context.Context) ([]records.Shelf, error) {
	return many(ctx, r.q, ofShelf, `SELECT `+shelfColumns+` FROM shelves ORDER BY name`)
}

func (r rows) PutShelf(ctx context.Context, s records.Shelf) error {
	return r.exec(ctx, `
		INSERT INTO shelves (`+shelfColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (name) DO UPDATE SET title = excluded.title, audience = excluded.audience, landing = excluded.landing, host = excluded.host`,
		s.Name, s.Title, s.Audience, s.Landing, s.Host, s.MadeAt, s.MadeBy)
}

func (r rows) DropShelf(ctx context.Context, name string) error {
	if err := r.exec(ctx, `DELETE FROM stands WHERE shelf = ?`, name); err != nil {
		return err
	}
	return r.change(ctx, `DELETE FROM shelves WHERE name = ?`, name)
}

func (r rows) Stands(ctx context.Context) ([]records.Stand, error) {
	return many(ctx, r.q, func(s *records.Stand) []any { return []any{&s.Shelf, &s.API, &s.Versions} },
		`SELECT shelf, api, versions FROM stands ORDER BY shelf, place`)
}

func (r rows) PutStand(ctx context.Context, s records.Stand) error {
	return r.exec(ctx, `
		INSERT INTO stands (shelf, api, place, versions)
		VALUES (?1, ?2, (SELECT coalesce(max(place), 0) + 1 FROM stands WHERE shelf = ?1), ?3)
		ON CONFLICT (shelf, api) DO UPDATE SET versions = excluded.versions`, s.Shelf, s.API, s.Versions)
}

func (r rows) DropStand(ctx context.Context, shelf, api string) error {
	return r.exec(ctx, `DELETE FROM stands WHERE shelf = ? AND api = ?`, shelf, api)
}

func (r rows) OrderStands(ctx context.Context, shelf string, apis []string) error {
	for place, api := range apis {
		if err := r.exec(ctx, `UPDATE stands SET place = ? WHERE shelf = ? AND api = ?`, place, shelf, api); err != nil {
			return err
		}
	}
	return nil
}
