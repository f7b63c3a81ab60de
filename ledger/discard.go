package ledger

import (
	"context"

	"oldledger/ledger/records"
)

// Discard takes a draft away, with all that was recorded of it. The journal keeps that it was there. What was published stays for good.
func (l *Ledger) Discard(ctx context.Context, who Actor, ref string) error {
	w := l.view(who)
	if err := l.may(who, Discard, apiOf(ref)); err != nil {
		return err
	}
	v, err := w.resolve(ctx, ref)
	if err != nil {
		return err
	}
	return w.act(ctx, v.API, func(w view) error {
		w.quiet()
		row, err := w.rows.Version(ctx, v.API, v.Number)
		if err != nil {
			return notFound(err, "there is no %s", v.Ref())
		}
		if row.ID != v.revision {
			return stale(records.ErrStale, v.Ref())
		}
		return w.discard(ctx, row)
	})
}

func (w view) discard(ctx context.Context, row records.Version) error {
	ref := row.API + "@" + row.Number
	if State(row.State) != Draft {
		return refuse(Conflict, "%s is %s: only a draft can be taken away; unpublish takes back its reference, retire ends it", ref, row.State)
	}
	if err := w.rows.DropDraft(ctx, row); err != nil {
		return stale(err, ref)
	}
	return w.appendJournal(ctx, "version.discarded", ref, map[string]string{"digest": row.Digest})
}

// DiscardAPI takes an API away that has drafts at most, with all that is kept of it.
func (l *Ledger) DiscardAPI(ctx context.Context, who Actor, api string) error {
	w := l.view(who)
	if err := l.may(who, Discard, api); err != nil {
		return err
	}
	if err := w.sees(ctx, api); err != nil {
		return err
	}
	err := w.act(ctx, api, func(w view) error {
		versions, err := w.rows.Versions(ctx, api)
		if err != nil {
			return err
		}
		for _, v := range versions {
			if State(v.State) != Draft {
				return refuse(Conflict, "%s@%s is %s: an API goes only where it never had more than drafts", api, v.Number, v.State)
			}
		}
		for _, v := range versions {
			if err := w.discard(ctx, v); err != nil {
				return err
			}
		}
		stood, err := w.takeFrom(ctx, api, "")
		if err == nil && stood {
			err = w.rows.Advance(ctx, "", true)
		}
		if err != nil {
			return err
		}
		if err := w.rows.DropAPI(ctx, api); err != nil {
			return notFound(err, "there is no API called %s", api)
		}
		if err := w.rows.DropStyles(ctx, StyleScope{API: api}.stored()); err != nil {
			return err
		}
		return w.appendJournal(ctx, "api.discarded", api, map[string]string{})
	})
	if err == nil {
		l.refresh() // the shelves on which it stood
	}
	return err
}
