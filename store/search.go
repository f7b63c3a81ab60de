package store

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"oldledger/ledger/records"
)

// This file and the tables of migration 9 are SQLite's own: a second engine would bring another index of words.

func (r rows) Cards(ctx context.Context) ([]records.Card, error) {
	return many(ctx, r.q, func(c *records.Card) []any { return []any{&c.API, &c.Lacks, &c.Basis, &c.Number, &c.Title, &c.Summary} },
		`SELECT api, lacks, basis, number, title, summary FROM cards ORDER BY api, lacks`)
}

func (r rows) CardPages(ctx context.Context) ([]records.Card, error) {
	return many(ctx, r.q, func(c *records.Card) []any { return []any{&c.API, &c.Lacks, &c.Basis, &c.Pages} },
		`SELECT api, lacks, basis, pages FROM cards ORDER BY api, lacks`)
}

func (r rows) PutCard(ctx context.Context, c records.Card, entries []records.Found) error {
	if err := r.exec(ctx, `
		INSERT INTO cards (api, lacks, open, basis, number, title, summary, pages) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, lacks) DO UPDATE SET open = excluded.open, basis = excluded.basis, number = excluded.number, title = excluded.title,
			summary = excluded.summary, pages = excluded.pages`,
		c.API, c.Lacks, c.Open, c.Basis, c.Number, c.Title, c.Summary, c.Pages); err != nil {
		return err
	}
	if err := r.dropEntries(ctx, c.API, c.Lacks); err != nil {
		return err
	}
	for some := range slices.Chunk(entries, entriesAtOnce) {
		values := strings.TrimSuffix(strings.Repeat("(?, ?, ?, ?, ?, ?, ?, ?, ?, ?), ", len(some)), ", ")
		args := make([]any, 0, 10*len(some))
		for _, e := range some {
			args = append(args, c.API, c.Lacks, e.Kind, e.Title, e.Place, e.Path, e.Titles, e.Places, e.Words, e.Said)
		}
		if err := r.exec(ctx, `INSERT INTO entries (api, lacks, kind, title, place, path, titles, places, words, said) VALUES `+values, args...); err != nil {
			return err
		}
	}
	return r.exec(ctx, `INSERT INTO entry_index (rowid, titles, places, words) SELECT id, titles, places, words FROM entries WHERE api = ? AND lacks = ?`,
		c.API, c.Lacks)
}

func (r rows) DropCards(ctx context.Context, api string) error {
	all, err := many(ctx, r.q, func(lacks *string) []any { return []any{lacks} }, `SELECT lacks FROM cards WHERE api = ?`, api)
	if err != nil {
		return err
	}
	for _, lacks := range all {
		if err := r.dropEntries(ctx, api, lacks); err != nil {
			return err
		}
	}
	return r.exec(ctx, `DELETE FROM cards WHERE api = ?`, api)
}

func (r rows) OpenCards(ctx context.Context, api, open string) error {
	return r.exec(ctx, `UPDATE cards SET open = ? WHERE api = ?`, open, api)
}

func (r rows) dropEntries(ctx context.Context, api, lacks string) error {
	if err := r.exec(ctx, `INSERT INTO entry_index (entry_index, rowid, titles, places, words) SELECT 'delete', id, titles, places, words FROM entries WHERE api = ? AND lacks = ?`,
		api, lacks); err != nil {
		return err
	}
	return r.exec(ctx, `DELETE FROM entries WHERE api = ? AND lacks = ?`, api, lacks)
}

// entriesAtOnce is how many are written with one statement: most of what one takes, it takes once.
const entriesAtOnce = 200

func (r rows) EntryWords(ctx context.Context) ([]string, error) {
	return many(ctx, r.q, func(w *string) []any { return []any{w} }, `SELECT term FROM entry_words`)
}

func (r rows) FindEntries(ctx context.Context, asked [][]records.Word, inTitles bool, open []records.Open,
	limit int,
) ([]records.Found, error) {
	match, texts := "("+expression(asked)+")", "e.words, e.said"
	if inTitles {
		match, texts = "{titles} : "+match, "'', ''"
	}
	to, err := json.Marshal(open)
	if err != nil {
		return nil, err
	}
	return many(ctx, r.q, func(e *records.Found) []any {
		return []any{&e.API, &e.Lacks, &e.Kind, &e.Title, &e.Place, &e.Path, &e.Words, &e.Said}
	}, `
		SELECT e.api, e.lacks, e.kind, e.title, e.place, e.path, `+texts+`
		FROM entry_index i CROSS JOIN entries e ON e.id = i.rowid
		WHERE entry_index MATCH ? AND (? = 'null' OR (e.api, e.lacks) IN (
			SELECT c.api, c.lacks FROM cards c JOIN json_each(?) o ON c.open = o.value ->> 'To' AND c.lacks = o.value ->> 'Lacks' AND o.value ->> 'API' IN ('', c.api)))
		ORDER BY i.rowid LIMIT ?`, match, string(to), string(to), limit)
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
