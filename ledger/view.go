package ledger

import (
	"context"
	"slices"
	"strings"

	"github.com/Masterminds/semver/v3"

	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/ledger/records"
)

// view is the shelf as one actor may see it. Every read of an API, a version or a notice goes through one: what its actor may not see is made away
// here, before anything is found, counted, compared or told.
type view struct {
	*Ledger
	rows records.Rows
	who  Actor
}

// view is what an actor sees outside a transaction.
func (l *Ledger) view(who Actor) view { return view{l, l.store.Read(), who} }

// in is the same view inside a transaction.
func (w view) in(r records.Rows) view { return view{w.Ledger, r, w.who} }

// whole is the view of the ledger itself, for what is decided over all there is.
func (w view) whole() view { return view{w.Ledger, w.rows, Itself} }

// apis are all that the actor may know of, by name.
func (w view) apis(ctx context.Context) ([]API, error) {
	rows, err := w.rows.APIs(ctx)
	if err != nil {
		return nil, err
	}
	versions, err := w.rows.Versions(ctx, "")
	if err != nil {
		return nil, err
	}
	notices, err := w.rows.Notices(ctx, "")
	if err != nil {
		return nil, err
	}
	versionsOf, noticesOf := map[string][]records.Version{}, map[string][]records.Notice{}
	for _, v := range versions {
		versionsOf[v.API] = append(versionsOf[v.API], v)
	}
	for _, n := range notices {
		noticesOf[n.API] = append(noticesOf[n.API], n)
	}
	apis := []API{}
	for _, row := range rows {
		a, err := w.cleared(ctx, w.assembled(row, versionsOf[row.Name], noticesOf[row.Name]))
		if err != nil {
			return nil, err
		}
		if w.knows(a) {
			apis = append(apis, a)
		}
	}
	return apis, nil
}

// api is one API as the actor may know it; not-found where the actor may not.
func (w view) api(ctx context.Context, name string) (API, error) {
	a, err := w.apiAsIs(ctx, name)
	if err == nil && !w.knows(a) {
		err = refuse(NotFound, "there is no API called %s", name)
	}
	return a, err
}

// knows tells whether an actor may know that an API is there.
func (w view) knows(a API) bool { return w.who.inside() && a.there || len(a.Versions) > 0 }

// apiAsIs is one API as the actor may know it, an empty one where there is none yet.
func (w view) apiAsIs(ctx context.Context, name string) (API, error) {
	row, err := w.rows.API(ctx, name)
	if isNotFound(err) {
		return API{Name: name, Promise: string(promise.Backward), NoticeDays: w.options.NoticeDays}, nil
	}
	if err != nil {
		return API{}, err
	}
	versions, err := w.rows.Versions(ctx, name)
	if err != nil {
		return API{}, err
	}
	notices, err := w.rows.Notices(ctx, name)
	if err != nil {
		return API{}, err
	}
	return w.cleared(ctx, w.assembled(row, versions, notices))
}

// assembled makes an API of its rows, with all that is recorded of it.
func (w view) assembled(row records.API, versions []records.Version, notices []records.Notice) API {
	a := API{Name: row.Name, Team: row.Team, Promise: row.Promise, NoticeDays: row.NoticeDays, Versions: []Version{}, there: true}
	if a.NoticeDays < 0 {
		a.NoticeDays = w.options.NoticeDays
	}
	a.Notices = noticesOf(notices)
	for _, v := range versions {
		a.Versions = append(a.Versions, withNotices(version(v), a.Notices))
	}
	slices.SortFunc(a.Versions, func(x, y Version) int { return x.number.Compare(y.number) })
	a.Title = titleOf(a)
	return a
}

// resolve finds the version that a reference names among those that the actor may know of: berths@1.4.0, berths@1 (newest published of line 1),
// berths@latest, berths@draft. A bare name means the newest published version.
func (w view) resolve(ctx context.Context, ref string) (Version, error) {
	name, what, given := strings.Cut(ref, "@")
	a, err := w.api(ctx, name)
	if err != nil {
		return Version{}, err
	}
	if !given || what == "" {
		what = "latest"
	}
	var fits func(Version) bool
	switch {
	case what == "latest":
		fits = Version.Shown
	case what == "draft":
		fits = func(v Version) bool { return v.State == Draft }
	case strings.Trim(what, "0123456789") == "":
		fits = func(v Version) bool { return v.Shown() && v.Line == what }
	default:
		number, err := contract.ParseVersion(what)
		if err != nil {
			return Version{}, refuse(Invalid, "%v; a reference reads %s@1.4.0, %s@1, %s@latest or %s@draft", err, name, name, name, name)
		}
		fits = func(v Version) bool { return v.Number == number.String() }
	}
	for _, v := range slices.Backward(a.Versions) {
		if fits(v) {
			return v, nil
		}
	}
	return Version{}, refuse(NotFound, "%s has no version %s%s", name, what, recorded(a))
}

// readable finds the version that a reference names, where the actor may read what it says.
func (w view) readable(ctx context.Context, ref string) (Version, error) {
	v, err := w.resolve(ctx, ref)
	if err == nil && !w.who.reads(v) {
		err = refuse(NotFound, "%s is %s", v.Ref(), v.State)
	}
	return v, err
}

// both finds two versions whose words the actor may read.
func (w view) both(ctx context.Context, old, new string) (a, b Version, err error) {
	if a, err = w.readable(ctx, old); err == nil {
		b, err = w.readable(ctx, new)
	}
	return a, b, err
}

// predecessor is the version that a version follows: the greatest number below it that was published, and, of a draft, where there is none, the
// greatest draft below it.
func predecessor(a API, v Version) *Version {
	for i, o := range slices.Backward(a.Versions) {
		if o.number.LessThan(v.number) && o.State != Draft {
			return &a.Versions[i]
		}
	}
	if v.State != Draft {
		return nil
	}
	for i, o := range slices.Backward(a.Versions) {
		if o.number.LessThan(v.number) {
			return &a.Versions[i]
		}
	}
	return nil
}

// number is the number of a row, which was parsed before it was recorded.
func number(text string) *semver.Version { return semver.MustParse(text) }
