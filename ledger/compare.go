package ledger

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"oldledger/core/compare"
	"oldledger/core/promise"
	"oldledger/store"
)

// Compare compares two recorded versions. The result is computed once and kept.
func (l *Ledger) Compare(ctx context.Context, old, new string, o compare.Options) (*compare.Comparison, error) {
	a, b, err := l.both(ctx, old, new)
	if err != nil {
		return nil, err
	}
	c, err := l.compared(ctx, a, b, o)
	if err != nil {
		return nil, err
	}
	api, err := l.API(ctx, a.API)
	return recommending(c, api), err
}

// recommending is a comparison with the version that it calls for under the promise of an API. What is kept is others', too.
func recommending(c *compare.Comparison, a API) *compare.Comparison {
	under := *c
	under.Recommended = c.Recommend(a.Promise == string(promise.BothWays))
	return &under
}

// both finds two versions.
func (l *Ledger) both(ctx context.Context, old, new string) (a, b Version, err error) {
	if a, err = l.Resolve(ctx, old); err == nil {
		b, err = l.Resolve(ctx, new)
	}
	return a, b, err
}

// Removals tell of what a comparison with another version removes from a version how that was announced, by change.
func (l *Ledger) Removals(ctx context.Context, old string, c *compare.Comparison) (map[string]*promise.Announcement, error) {
	v, err := l.Resolve(ctx, old)
	if err != nil {
		return nil, err
	}
	notices, err := l.Notices(ctx, v.API)
	if err != nil {
		return nil, err
	}
	return promise.Removals(c, notices, l.Today()), nil
}

// Told is a comparison of two recorded versions that says of both what is wrong with their descriptions.
func (l *Ledger) Told(ctx context.Context, old, new string, c *compare.Comparison) (*compare.Comparison, error) {
	told := *c // what is kept is others', too
	for _, side := range []struct {
		ref  string
		side *compare.Side
	}{{old, &told.Old}, {new, &told.New}} {
		v, err := l.Resolve(ctx, side.ref)
		if err != nil {
			return nil, err
		}
		read, err := l.read(ctx, l.store.Read(), v)
		if err != nil {
			return nil, err
		}
		if tally := read.diagnostics.Tally(); tally.All() > 0 {
			side.side.Diagnostics = &tally
		}
	}
	return &told, nil
}

// maxLineup bounds the versions of one lineup, the newest first: the comparisons grow with their square.
const maxLineup = 24

// Lineup tells of some versions of an API which can replace which. Of many it takes the newest.
func (l *Ledger) Lineup(ctx context.Context, versions []Version) (*compare.Lineup, error) {
	if len(versions) > maxLineup {
		versions = versions[len(versions)-maxLineup:]
	}
	members := make([]compare.Member, len(versions))
	for i, v := range versions {
		members[i] = compare.Member{Name: v.Ref(), Side: compare.Side{Title: v.Title, Version: v.Number, Dialect: v.Dialect}}
	}
	return compare.LineUp(members, compare.Options{}, func(i, j int) (*compare.Comparison, error) {
		return l.compared(ctx, versions[i], versions[j], compare.Options{})
	})
}

// compared gives the comparison that was kept for two recorded versions, or computes and keeps it.
func (l *Ledger) compared(ctx context.Context, old, new Version, o compare.Options) (*compare.Comparison, error) {
	if c, err := l.kept(ctx, l.store.Read(), old, new, o); c != nil || err != nil {
		return c, err
	}
	c, err := l.comparison(ctx, l.store.Read(), old, new, o, nil)
	if err != nil {
		return nil, err
	}
	return c, l.store.Write(ctx, func(r store.Rows) error { return l.keep(ctx, r, old, new, o, c) })
}

// keepOnce keeps a comparison that an act rests on, unless it is kept already.
func (l *Ledger) keepOnce(ctx context.Context, r store.Rows, old, new Version, o compare.Options, c *compare.Comparison) error {
	if !r.Writing() || l.options.Engine == "" {
		return nil
	}
	_, err := r.Comparison(ctx, old.Ref(), new.Ref(), manner(o), l.basis(old, new))
	if errors.Is(err, store.ErrNotFound) {
		return l.keep(ctx, r, old, new, o, c)
	}
	return err
}

// keep keeps a comparison for the next who asks.
func (l *Ledger) keep(ctx context.Context, r store.Rows, old, new Version, o compare.Options, c *compare.Comparison) error {
	if l.options.Engine == "" {
		return nil
	}
	result, err := json.Marshal(c)
	if err != nil {
		return err
	}
	return r.PutComparison(ctx, store.Comparison{Old: old.Ref(), New: new.Ref(), Reading: manner(o), Basis: l.basis(old, new), Result: result})
}

// kept reads a comparison of the same contents by the same engine; nil where there is none.
func (l *Ledger) kept(ctx context.Context, r store.Rows, old, new Version, o compare.Options) (*compare.Comparison, error) {
	if l.options.Engine == "" {
		return nil, nil
	}
	row, err := r.Comparison(ctx, old.Ref(), new.Ref(), manner(o), l.basis(old, new))
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var c compare.Comparison
	return &c, json.Unmarshal(row.Result, &c)
}

// manner names the options under which a comparison was made.
func manner(o compare.Options) string {
	text := o.Reading.String()
	if o.Undeclared == compare.Refused {
		text += ", undeclared refused"
	}
	return text
}

// basis is what a kept comparison follows from: both contents, and the build that compared them.
func (l *Ledger) basis(old, new Version) string {
	return old.Digest + " " + old.File + " " + new.Digest + " " + new.File + " " + l.options.Engine
}

// Release is one version in an API's history, with what it changed.
type Release struct {
	Version Version                          `json:"version"`
	Before  string                           `json:"before,omitempty"` // the number it is compared with
	Changes *compare.Comparison              `json:"changes,omitempty"`
	Notices []promise.Notice                 `json:"notices"` // made for this version
	Waivers []Waiver                         `json:"waivers"`
	Removed map[string]*promise.Announcement `json:"removed"` // by change: how a removal was announced
}

// History tells what each version of an API changed, the newest first.
func (l *Ledger) History(ctx context.Context, name string) ([]Release, error) {
	a, err := l.API(ctx, name)
	if err != nil {
		return nil, err
	}
	waivers, err := l.waivers(ctx, name)
	if err != nil {
		return nil, err
	}
	var releases []Release
	for _, v := range slices.Backward(a.Versions) {
		rel := Release{Version: v, Notices: []promise.Notice{}, Waivers: []Waiver{}, Removed: map[string]*promise.Announcement{}}
		for _, n := range a.Notices {
			if n.Version == v.Number {
				rel.Notices = append(rel.Notices, n)
			}
		}
		for _, w := range waivers {
			if w.Version == v.Number {
				rel.Waivers = append(rel.Waivers, w)
			}
		}
		if base := predecessor(a, v); base != nil {
			rel.Before = base.Number
			if rel.Changes, err = l.compared(ctx, *base, v, compare.Options{}); err != nil {
				return nil, err
			}
			rel.Removed = promise.Removals(rel.Changes, a.Notices, l.Today())
		}
		releases = append(releases, rel)
	}
	return releases, nil
}
