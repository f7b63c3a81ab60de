package store

import (
	"context"
	"slices"
	"strings"

	"oldledger/ledger/records"
)

// This file and the tables of migration 9 are SQLite's own: a second engine would bring another index of words.

func (r rows) Cards(ctx context.Context) ([]records.Card, error) {
	return many(ctx, r.q, func(c *records.Card) []any { return []any{&c.API, &c.Basis, &c.Number, &c.Title, &c.Summary} },
		`SELECT api, basis, number, title, summary FROM cards ORDER BY api`)
}

func (r rows) CardPages(ctx context.Context) ([]records.Card, error) {
	return many(ctx, r.q, func(c *records.Card) []any { return []any{&c.API, &c.Basis, &c.Pages} },
		`SELECT api, basis, pages FROM cards ORDER BY api`)
}

func (r rows) PutCard(ctx context.Context, c records.Card, entries []records.Found) error {
	if err := r.exec(ctx, `
		INSERT INTO cards (api, basis, number, title, summary, pages) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (api) DO UPDATE SET basis = excluded.basis, number = excluded.number, title = excluded.title, summary = excluded.summary, pages = excluded.pages`,
		c.API, c.Basis, c.Number, c.Title, c.Summary, c.Pages); err != nil {
		return err
	}
	if err := r.dropEntries(ctx, c.API); err != nil {
		return err
	}
	for some := range slices.Chunk(entries, entriesAtOnce) {
		values := strings.TrimSuffix(strings.Repeat("(?, ?, ?, ?, ?, ?, ?, ?, ?), ", len(some)), ", ")
		args := make([]any, 0, 9*len(some))
		for _, e := range some {
			args = append(args, c.API, e.Kind, e.Title, e.Place, e.Path, e.Titles, e.Places, e.Words, e.Said)
		}
		if err := r.exec(ctx, `INSERT INTO entries (api, kind, title, place, path, titles, places, words, said) VALUES `+values, args...); err != nil {
			return err
		}
	}
	return r.exec(ctx, `INSERT INTO entry_index (rowid, titles, places, words) SELECT id, titles, places, words FROM entries WHERE api = ?`,
		c.API)
}

func (r rows) DropCard(ctx context.Context, api string) error {
	if err := r.exec(ctx, `DELETE FROM cards WHERE api = ?`, api); err != nil {
		return err
	}
	return r.dropEntries(ctx, api)
}

func (r rows) dropEntries(ctx context.Context, api string) error {
	if err := r.exec(ctx, `INSERT INTO entry_index (entry_index, rowid, titles, places, words) SELECT 'delete', id, titles, places, words FROM entries WHERE api = ?`,
		api); err != nil {
		return err
	}
	return r.exec(ctx, `DELETE FROM entries WHERE api = ?`, api)
}

// entriesAtOnce is how many are written with one statement: most of what one takes, it takes once.
const entriesAtOnce = 200

func (r rows) EntryWords(ctx context.Context) ([]string, error) {
	return many(ctx, r.q, func(w *string) []any { return []any{w} }, `SELECT term FROM entry_words`)
}

func (r rows) FindEntries(ctx context.Context, asked [][]records.Word, inTitles bool, limit int) ([]records.Found, error) {
	match, texts := "("+expression(asked)+")", "e.words, e.said"
	if inTitles {
		match, texts = "{titles} : "+match, "'', ''"
	}
	return many(ctx, r.q, func(e *records.Found) []any {
		return []any{&e.API, &e.Kind, &e.Title, &e.Place, &e.Path, &e.Words, &e.Said}
	}, `
		SELECT e.api, e.kind, e.title, e.place, e.path, `+texts+`
		FROM (SELECT rowid AS id FROM entry_index WHERE entry_index MATCH ? ORDER BY rowid LIMIT ?) i JOIN entries e ON e.id = i.id`, match, limit)
}

// expression asks FTS5 for what has one word of each list.
func expression(asked [][]records.Word) string {
	var all []string
	for _, words := range asked {
		var any []string
		for _, w := range words {
			quoted := `"` + strings.ReplaceAll(w.Text, `"`, `""`) + `"`
			if w.Begins {
				quoted += "*"
			}
			any = append(any, quoted)
		}
		all = append(all, "("+strings.Join(any, " OR ")+")")
	}
	return strings.Join(all, " AND ")
}
