package store

import (
	"context"

	"oldledger/ledger/records"
)

func (r rows) Reliances(ctx context.Context, api, consumer string) ([]records.Reliance, error) {
	return many(ctx, r.q, func(x *records.Reliance) []any {
		return []any{&x.Consumer, &x.API, &x.Version, &x.Needs, &x.SaidAt, &x.SaidBy}
	},
		`SELECT consumer, api, version, needs, said_at, said_by FROM reliances WHERE (? = '' OR api = ?) AND (? = '' OR consumer = ?)
		ORDER BY consumer, api`, api, api, consumer, consumer)
}

func (r rows) PutReliance(ctx context.Context, x records.Reliance) error {
	return r.exec(ctx, `INSERT OR REPLACE INTO reliances (consumer, api, version, needs, said_at, said_by) VALUES (?, ?, ?, ?, ?, ?)`,
		x.Consumer, x.API, x.Version, x.Needs, x.SaidAt, x.SaidBy)
}

func (r rows) DropReliance(ctx context.Context, consumer, api string) error {
	return r.change(ctx, `DELETE FROM reliances WHERE consumer = ? AND api = ?`, consumer, api)
}

const recordingColumns = `consumer, api, version, exchanges, digest, guards, added_at, added_by`

func (r rows) Recordings(ctx context.Context, api, consumer string) ([]records.Recording, error) {
	return many(ctx, r.q, func(x *records.Recording) []any {
		return []any{&x.Consumer, &x.API, &x.Version, &x.Exchanges, &x.Digest, &x.Guards, &x.AddedAt, &x.AddedBy}
	}, `SELECT `+recordingColumns+` FROM recordings WHERE (? = '' OR api = ?) AND (? = '' OR consumer = ?) ORDER BY consumer, api`,
		api, api, consumer, consumer)
}

func (r rows) RecordingArchive(ctx context.Context, consumer, api string) ([]byte, error) {
	return one(ctx, r.q, func(b *[]byte) []any { return []any{b} }, `SELECT archive FROM recordings WHERE consumer = ? AND api = ?`, consumer, api)
}

func (r rows) PutRecording(ctx context.Context, x records.Recording, archive []byte) error {
	return r.exec(ctx, `INSERT OR REPLACE INTO recordings (`+recordingColumns+`, archive) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		x.Consumer, x.API, x.Version, x.Exchanges, x.Digest, x.Guards, x.AddedAt, x.AddedBy, archive)
}

func (r rows) SetGuards(ctx context.Context, consumer, api string, guards bool) error {
	return r.change(ctx, `UPDATE recordings SET guards = ? WHERE consumer = ? AND api = ?`, guards, consumer, api)
}

func (r rows) DropRecording(ctx context.Context, consumer, api string) error {
	return r.change(ctx, `DELETE FROM recordings WHERE consumer = ? AND api = ?`, consumer, api)
}
