package ledger

import (
	"cmp"
	"context"
	"errors"
	"fmt"

	"oldledger/core/housestyle"
	"oldledger/core/promise"
	"oldledger/core/source"
	"oldledger/ledger/records"
)

// maxTerms is how many style files' terms are kept in memory.
const maxTerms = 2000

// termsOf are the terms of the styles in force, for APIs by their rows: all styles are read at once where the APIs are many.
func (w view) termsOf(ctx context.Context, rows []records.API) (func(records.API) housestyle.Terms, error) {
	newest := map[string]records.Style{}
	if len(rows) > 1 {
		all, err := w.rows.NewestStyles(ctx)
		if err != nil {
			return nil, err
		}
		for _, row := range all {
			newest[row.Scope] = row
		}
	} else {
		for _, row := range rows {
			var err error
			if newest, err = w.newestOf(ctx, scopesOf(row.Name, row.Team)); err != nil {
				return nil, err
			}
		}
	}
	return func(row records.API) housestyle.Terms {
		var terms housestyle.Terms
		for _, part := range partsOf(newest, row.Name, row.Team) {
			terms = w.termsIn(part.Text, terms)
		}
		return terms
	}, nil
}

// newestOf are the newest versions of the styles of some scopes, by scope, of those that there are.
func (w view) newestOf(ctx context.Context, scopes []string) (map[string]records.Style, error) {
	newest := map[string]records.Style{}
	for _, scope := range scopes {
		row, err := w.rows.NewestStyle(ctx, scope)
		if errors.Is(err, records.ErrNotFound) {
			continue
		}
		if err != nil {
			return nil, err
		}
		newest[scope] = row
	}
	return newest, nil
}

// termsIn are the terms of a style file on those that it builds on, found once for each text.
func (l *Ledger) termsIn(text string, base housestyle.Terms) housestyle.Terms {
	if text == "" {
		return base
	}
	key := fmt.Sprintf("%s %v", digest([]byte(text), nil), base)
	if known, there := l.terms.Get(key); there {
		return known
	}
	terms := base
	if f, err := source.Parse("style.yaml", []byte(text)); err == nil {
		terms = housestyle.TermsIn(f, base)
	}
	l.terms.Add(key, terms)
	return terms
}

// settled fills in what an API does not settle itself: what the house style says of it, else what the ledger does.
func (a *API) settled(terms housestyle.Terms, noticeDays int) {
	a.Own = Own{Promise: a.Promise, NoticeDays: a.NoticeDays}
	a.Terms = terms
	a.Promise = cmp.Or(a.Promise, string(terms.Promise), string(promise.Backward))
	if a.NoticeDays < 0 {
		a.NoticeDays = cmp.Or(terms.Notice, noticeDays)
	}
}

// Own is what an API settles itself.
type Own struct {
	Promise    string // "" where the house style says it
	NoticeDays int    // -1 where the house style says it, or the ledger
}

// unmet are what the rules of review ask for and an actor does not meet who would publish a version; except says whether they would let
// something through.
func (w view) unmet(a API, v Version, except bool) []string {
	unmet := []string{}
	if a.Terms.ByAnother && w.who.Name == v.RecordedBy && v.State == Draft {
		unmet = append(unmet, fmt.Sprintf("%s recorded %s last, and by the house style somebody else publishes it", v.RecordedBy, v.Ref()))
	}
	if except && a.Terms.LeadsLetThrough && mayIn(w.who, LetThrough, a.Team, a.Name) != nil {
		unmet = append(unmet, "by the house style a lead lets through what stands in the way of "+v.Ref())
	}
	return unmet
}

// reviewed refuses to publish a version in a way that the rules of review do not allow.
func (w view) reviewed(ctx context.Context, v Version, except bool) error {
	a, err := w.apiAsIs(ctx, v.API)
	if err != nil {
		return err
	}
	for _, why := range w.unmet(a, v, except) {
		return refuse(Forbidden, "%s", why)
	}
	return nil
}
