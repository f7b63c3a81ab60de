package store

import (
	"context"

	"oldledger/ledger/records"
)

func ofFeed(f *records.Feed) []any { return []any{&f.Person, &f.Hash, &f.MadeAt} }

func (r rows) Feed(ctx context.Context, hash string) (records.Feed, error) {
	return one(ctx, r.q, ofFeed, `SELECT person, hash, made_at FROM feeds WHERE hash = ?`, hash)
}

func (r rows) FeedOf(ctx context.Context, person string) (records.Feed, error) {
	return one(ctx, r.q, ofFeed, `SELECT person, hash, made_at FROM feeds WHERE person = ?`, person)
}

func (r rows) PutFeed(ctx context.Context, f records.Feed) error {
	return r.exec(ctx, `INSERT INTO feeds (person, hash, made_at) VALUES (?, ?, ?)
		ON CONFLICT (person) DO UPDATE SET hash = excluded.hash, made_at = excluded.made_at`, f.Person, f.Hash, f.MadeAt)
}

func (r rows) DropFeed(ctx context.Context, person string) error {
	return r.change(ctx, `DELETE FROM feeds WHERE person = ?`, person)
}

func (r rows) DropFeeds(ctx context.Context, person string) error {
	return r.exec(ctx, `DELETE FROM feeds WHERE person = ?`, person)
}

func (r rows) Feeds(ctx context.Context) ([]records.Feed, error) {
	return many(ctx, r.q, ofFeed, `SELECT person, hash, made_at FROM feeds ORDER BY person`)
}
