package ledger

import (
	"context"
	"slices"

	"oldledger/core/compare"
	"oldledger/core/guide"
	"oldledger/core/promise"
	"oldledger/core/shape"
)

// Compare compares two recorded versions.
func (l *Ledger) Compare(ctx context.Context, old, new string, reading shape.Reading) (*compare.Comparison, error) {
	a, b, err := l.two(ctx, old, new)
	if err != nil {
		return nil, err
	}
	return compare.Contracts(a.Contract, b.Contract, compare.Options{Reading: reading}), nil
}

// Guide writes the migration guide from one recorded version to another.
func (l *Ledger) Guide(ctx context.Context, old, new string) (*guide.Guide, error) {
	a, b, err := l.two(ctx, old, new)
	if err != nil {
		return nil, err
	}
	c := compare.Contracts(a.Contract, b.Contract, compare.Options{})
	return guide.Make(b.Version.API, a.Contract, b.Contract, c), nil
}

func (l *Ledger) two(ctx context.Context, old, new string) (a, b Description, err error) {
	if a, err = l.Description(ctx, old); err != nil {
		return a, b, err
	}
	b, err = l.Description(ctx, new)
	return a, b, err
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
			if rel.Changes, err = l.Compare(ctx, base.Ref(), v.Ref(), shape.Declared); err != nil {
				return nil, err
			}
			for _, ch := range rel.Changes.Changes {
				if an := promise.Announce(ch, a.Notices, l.Today()); an != nil {
					rel.Removed[ch.ID] = an
				}
			}
		}
		releases = append(releases, rel)
	}
	return releases, nil
}
