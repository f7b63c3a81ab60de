package ledger

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"oldledger/core/compare"
	"oldledger/core/promise"
	"oldledger/ledger/records"
)

// Compare compares two versions. The result is computed once and kept.
func (l *Ledger) Compare(ctx context.Context, who Actor, old, new string, o compare.Options) (*compare.Comparison, error) {
	w := l.view(who)
	a, b, err := w.both(ctx, old, new)
	if err != nil {
		return nil, err
	}
	c, err := w.compared(ctx, a, b, o)
	if err != nil {
		return nil, err
	}
	api, err := w.api(ctx, a.API)
	return recommending(c, api, b.Line), err
}

// recommending is a comparison with the version that it calls for under the promise of a line. What is kept is others', too.
func recommending(c *compare.Comparison, a API, line string) *compare.Comparison {
	under := *c
	under.Recommended = c.Recommend(a.PromiseOf(line) == promise.BothWays)
	return &under
}

// Removals tell of what a comparison with another version removes from a version how that was announced, by change.
func (l *Ledger) Removals(ctx context.Context, who Actor, old string, c *compare.Comparison) (map[string]*promise.Announcement, error) {
	w := l.view(who)
	v, err := w.readable(ctx, old)
	if err != nil {
		return nil, err
	}
	api, err := w.api(ctx, v.API)
	if err != nil {
		return nil, err
	}
	return promise.Removals(c, api.Notices, l.Today()), nil
}

// WithDiagnostics is a comparison of two versions that says of both what is wrong with their descriptions.
func (l *Ledger) WithDiagnostics(ctx context.Context, who Actor, old, new string, c *compare.Comparison) (*compare.Comparison, error) {
	w := l.view(who)
	told := *c // what is kept is others', too
	for _, side := range []struct {
		ref  string
		side *compare.Side
	}{{old, &told.Old}, {new, &told.New}} {
		v, err := w.readable(ctx, side.ref)
		if err != nil {
			return nil, err
		}
		found, err := w.diagnostics(ctx, v)
		if err != nil {
			return nil, err
		}
		if tally := found.Tally(); tally.All() > 0 {
			side.side.Diagnostics = &tally
		}
	}
	return &told, nil
}

// maxLineup bounds the versions of one lineup, the newest first: the comparisons grow with their square.
const maxLineup = 24

// Lineup tells of the versions of an API that the actor may know of which can replace which. Of many it takes the newest.
func (l *Ledger) Lineup(ctx context.Context, who Actor, name string) (*compare.Lineup, error) {
	w := l.view(who)
	api, err := w.api(ctx, name)
	if err != nil {
		return nil, err
	}
	versions := newest(api.Versions)
	members := make([]compare.Member, len(versions))
	for i, v := range versions {
		members[i] = compare.Member{Name: v.Ref(), Side: compare.Side{Title: v.Title, Version: v.Number, Dialect: v.Dialect}}
	}
	return compare.LineUp(members, compare.Options{}, func(i, j int) (*compare.Comparison, error) {
		return w.compared(ctx, versions[i], versions[j], compare.Options{})
	})
}

// newest are the versions of a lineup.
func newest(versions []Version) []Version { return versions[max(0, len(versions)-maxLineup):] }

// compared gives the comparison that was kept for two recorded versions, or computes and keeps it.
func (w view) compared(ctx context.Context, old, new Version, o compare.Options) (*compare.Comparison, error) {
	old, new, err := w.bothAsRead(ctx, old, new)
	if err != nil {
		return nil, err
	}
	if o, err = w.asTold(ctx, new.API, o); err != nil {
		return nil, err
	}
	if c, err := w.cachedComparison(ctx, old, new, o); c != nil || err != nil {
		return c, err
	}
	c, err := w.comparison(ctx, old, new, o, nil)
	if err != nil {
		return nil, err
	}
	return c, w.store.Write(ctx, func(r records.Rows) error { return w.in(r).cacheComparison(ctx, old, new, o, c) })
}

// keepOnce keeps a comparison that an act rests on, unless it is kept already.
func (w view) keepOnce(ctx context.Context, old, new Version, o compare.Options, c *compare.Comparison) error {
	if !w.rows.Writing() || w.options.Engine == "" {
		return nil
	}
	_, err := w.rows.Comparison(ctx, old.Ref(), new.Ref(), comparisonKey(old, new, o), w.contentKey(old, new))
	if errors.Is(err, records.ErrNotFound) {
		return w.cacheComparison(ctx, old, new, o, c)
	}
	return err
}

// cacheComparison keeps a comparison for the next who asks.
func (w view) cacheComparison(ctx context.Context, old, new Version, o compare.Options, c *compare.Comparison) error {
	if w.options.Engine == "" {
		return nil
	}
	result, err := json.Marshal(c)
	if err != nil {
		return err
	}
	return w.rows.PutComparison(ctx, records.Comparison{
		Old: old.Ref(), New: new.Ref(), Reading: comparisonKey(old, new, o),
		Basis: w.contentKey(old, new), Result: result,
	})
}

// cachedComparison reads a comparison of the same contents by the same engine; nil where there is none.
func (w view) cachedComparison(ctx context.Context, old, new Version, o compare.Options) (*compare.Comparison, error) {
	if w.options.Engine == "" {
		return nil, nil
	}
	row, err := w.rows.Comparison(ctx, old.Ref(), new.Ref(), comparisonKey(old, new, o), w.contentKey(old, new))
	if errors.Is(err, records.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var c compare.Comparison
	return &c, json.Unmarshal(row.Result, &c)
}

// comparisonKey names the options under which a comparison of two versions was made, and whether it is of less than all that they say.
func comparisonKey(old, new Version, o compare.Options) string {
	text := o.Reading.String()
	if old.whole != "" || new.whole != "" {
		text += ", as readers get it"
	}
	if o.Undeclared == compare.Refused {
		text += ", undeclared refused"
	}
	return text
}

// contentKey is what a kept comparison follows from: both contents, and the build that compared them.
func (l *Ledger) contentKey(old, new Version) string {
	return old.Digest + " " + old.File + " " + new.Digest + " " + new.File + " " + l.options.Engine
}

// Release is one version in an API's history, with what it changed.
type Release struct {
	Version Version
	Before  string // the number it is compared with
	Changes *compare.Comparison
	Notices []promise.Notice // made for this version
	Waivers []Waiver
	Removed map[string]*promise.Announcement // by change: how a removal was announced
}

// History tells what each version of an API changed, the newest first: against the one before it of those that the actor may know of.
func (l *Ledger) History(ctx context.Context, who Actor, name string) ([]Release, error) {
	w := l.view(who)
	a, err := w.api(ctx, name)
	if err != nil {
		return nil, err
	}
	waivers, err := w.waivers(ctx, name)
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
		if base := predecessor(a, v); base != nil {
			rel.Before = base.Number
			if rel.Changes, err = w.compared(ctx, *base, v, compare.Options{}); err != nil {
				return nil, err
			}
			rel.Removed = promise.Removals(rel.Changes, a.Notices, l.Today())
		}
		for _, waiver := range waivers {
			if waiver.Version == v.Number && (v.kept.inside(who) || told(rel.Changes, waiver.Change)) {
				rel.Waivers = append(rel.Waivers, waiver)
			}
		}
		releases = append(releases, rel)
	}
	return releases, nil
}

// told reports whether a comparison has a change.
func told(c *compare.Comparison, id string) bool {
	return c != nil && slices.ContainsFunc(c.Changes, func(ch *compare.Change) bool { return ch.ID == id })
}
