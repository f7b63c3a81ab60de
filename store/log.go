package store

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"oldledger/ledger/records"
)

const entryColumns = `seq, at, actor, act, subject, detail, previous, hash`

func ofEntry(e *records.Entry) []any {
	return []any{&e.Seq, &e.At, &e.Actor, &e.Act, &e.Subject, &e.Detail, &e.Previous, &e.Hash}
}

func (r rows) Entries(ctx context.Context, after int64, limit int) ([]records.Entry, error) {
	return many(ctx, r.q, ofEntry, `SELECT `+entryColumns+` FROM journal WHERE seq > ? ORDER BY seq LIMIT ?`, after, limit)
}

// concernsAPIs is so of acts that concern an API: people and what is theirs have names of their own.
const concernsAPIs = `act NOT GLOB 'person.*' AND act NOT GLOB 'token.*' AND act NOT GLOB 'member.*' AND act NOT GLOB 'teams.*' AND act NOT GLOB 'sign-in.*' AND act NOT GLOB 'feed.*' AND act NOT GLOB 'consumer.*'`

// ofOneOf is so of acts that concern one of the APIs of a JSON list.
const ofOneOf = `substr(subject, 1, length(subject) - length(ltrim(subject, 'abcdefghijklmnopqrstuvwxyz0123456789-')))
	IN (SELECT value FROM json_each(?)) AND ` + concernsAPIs

func (r rows) FindActs(ctx context.Context, asked records.Question, seq int64, newest bool, limit int) ([]records.Entry, error) {
	where, args := []string{`(seq > ?)`}, []any{seq}
	order := `seq`
	if newest {
		where, args, order = []string{`(seq < ? OR ? = 0)`}, []any{seq, seq}, `seq DESC`
	}
	add := func(value, condition string, with ...any) {
		if value != "" {
			where, args = append(where, condition), append(args, with...)
		}
	}
	add(asked.Actor, `actor = ?`, asked.Actor)
	add(asked.Act, `(act = ? OR act GLOB ?)`, asked.Act, asked.Act+".*")
	// What an act concerns begins with the name of its API; people and what is theirs have names of their own.
	add(asked.API, `(subject = ? OR subject GLOB ?) AND `+concernsAPIs, asked.API, asked.API+"[@ ,]*")
	if asked.Only != nil {
		names, err := json.Marshal(asked.Only)
		if err != nil {
			return nil, err
		}
		where = append(where, ofOneOf)
		args = append(args, string(names))
	}
	add(asked.From, `at >= ?`, asked.From)
	add(asked.Before, `at < ?`, asked.Before)
	return many(ctx, r.q, ofEntry, `SELECT `+entryColumns+` FROM journal WHERE `+strings.Join(where, " AND ")+` ORDER BY `+order+` LIMIT ?`,
		append(args, limit)...)
}

func (r rows) LastEntry(ctx context.Context) (e records.Entry, ok bool, err error) {
	e, err = one(ctx, r.q, ofEntry, `SELECT `+entryColumns+` FROM journal ORDER BY seq DESC LIMIT 1`)
	if errors.Is(err, records.ErrNotFound) {
		return e, false, nil
	}
	return e, err == nil, err
}

func (r rows) AddEntry(ctx context.Context, e records.Entry) error {
	return r.exec(ctx, `INSERT INTO journal (`+entryColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`, e.Seq, e.At, e.Actor, e.Act, e.Subject,
		e.Detail, e.Previous, e.Hash)
}

func (r rows) Generations(ctx context.Context) (map[string]records.Generation, error) {
	type row struct {
		api string
		records.Generation
	}
	all, err := many(ctx, r.q, func(g *row) []any { return []any{&g.api, &g.N, &g.Shown, &g.Team} }, `
		SELECT names.api, coalesce(g.n, 0), coalesce(g.shown, 0), coalesce(a.team, '')
		FROM (SELECT api FROM generations UNION SELECT name FROM apis) names
		LEFT JOIN generations g ON g.api = names.api LEFT JOIN apis a ON a.name = names.api`)
	if err != nil {
		return nil, err
	}
	audiences, err := r.Audiences(ctx)
	of := map[string]records.Generation{"": {}}
	for _, g := range all {
		of[g.api] = g.Generation
	}
	for _, a := range audiences {
		g := of[a.API]
		g.Audiences = append(g.Audiences, a)
		of[a.API] = g
	}
	if err == nil {
		all := of[""]
		err = r.shelvesOf(ctx, &all)
		of[""] = all
	}
	return of, err
}

func (r rows) Generation(ctx context.Context) (int64, error) {
	return one(ctx, r.q, func(n *int64) []any { return []any{n} }, `SELECT coalesce(sum(n), 0) FROM generations`)
}

func (r rows) GenerationOf(ctx context.Context, api string) (records.Generation, error) {
	g, err := one(ctx, r.q, func(g *records.Generation) []any { return []any{&g.N, &g.Shown, &g.Team} }, `
		SELECT n, shown, coalesce((SELECT team FROM apis WHERE name = api), '') FROM generations WHERE api = ?`,
		api)
	if err == nil {
		g.Audiences, err = r.AudiencesOf(ctx, api)
	}
	if err == nil && api == "" {
		err = r.shelvesOf(ctx, &g)
	}
	return g, err
}

func (r rows) shelvesOf(ctx context.Context, g *records.Generation) (err error) {
	if g.Shelves, err = r.Shelves(ctx); err == nil {
		g.Stands, err = r.Stands(ctx)
	}
	return err
}

func (r rows) Advance(ctx context.Context, api string, shown bool) error {
	seen := 0
	if shown {
		seen = 1
	}
	return r.exec(ctx, `INSERT INTO generations (api, n, shown) VALUES (?, 1, ?) ON CONFLICT (api) DO UPDATE SET n = n + 1, shown = shown + excluded.shown`,
		api, seen)
}
