package store

import (
	"context"
	"encoding/json"

	"oldledger/ledger/records"
)

func (r rows) TreeHashes(ctx context.Context, ids []int64) ([]records.TreeHash, error) {
	list, err := json.Marshal(ids)
	if err != nil {
		return nil, err
	}
	return many(ctx, r.q, func(h *records.TreeHash) []any { return []any{&h.ID, &h.Hash} },
		`SELECT id, hash FROM tree_hashes WHERE id IN (SELECT value FROM json_each(?))`, string(list))
}

func (r rows) TreeHashCount(ctx context.Context) (int64, error) {
	return one(ctx, r.q, func(n *int64) []any { return []any{n} }, `SELECT coalesce(max(id) + 1, 0) FROM tree_hashes`)
}

func (r rows) AddTreeHash(ctx context.Context, h records.TreeHash) error {
	return r.exec(ctx, `INSERT INTO tree_hashes (id, hash) VALUES (?, ?)`, h.ID, h.Hash)
}

func (r rows) Secret(ctx context.Context, name string) (string, error) {
	return one(ctx, r.q, func(v *string) []any { return []any{v} }, `SELECT value FROM secrets WHERE name = ?`, name)
}

func (r rows) AddSecret(ctx context.Context, name, value string) error {
	return r.exec(ctx, `INSERT INTO secrets (name, value) VALUES (?, ?)`, name, value)
}
