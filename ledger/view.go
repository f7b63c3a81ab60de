package ledger

import (
	"context"
	"slices"
	"strings"

	"github.com/Masterminds/semver/v3"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/versioning"
	"oldledger/ledger/records"
)

// view is the shelf as one actor may see it. Every read of an API, a version or a notice goes through one: what its actor may not see is
// made away here, before anything is found, counted, compared or told.
type view struct {
	*Ledger
	rows   records.Rows
	who    Actor
	unseen *bool // in an act: whether readers see nothing of it
}

// view is what an actor sees outside a transaction.
func (l *Ledger) view(who Actor) view { return view{Ledger: l, rows: l.store.Read(), who: who} }

// in is the same view inside a transaction.
func (w view) in(r records.Rows) view {
	return view{Ledger: w.Ledger, rows: r, who: w.who, unseen: w.unseen}
}

// whole is the view of the ledger itself, for what is decided over all there is.
func (w view) whole() view {
	return view{Ledger: w.Ledger, rows: w.rows, who: Itself, unseen: w.unseen}
}

// apis are all that the actor may know of, by name. Outside a transaction, each is read again only when its generation has passed.
func (w view) apis(ctx context.Context) ([]API, error) {
	generation, day := w.Generation(w.who, ""), w.day()
	if known, there := w.knownLists.Get(w.Sight(w.who)); there && w.shared() && known.generation == generation && known.day == day {
		return slices.Clone(known.apis), nil
	}
	generations := map[string]int64{}
	all := []API{}
	var missing []records.API
	rows, err := w.rows.APIs(ctx)
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		generations[row.Name] = w.Generation(w.who, row.Name)
		if a, there := w.recalled(row.Name, generations[row.Name]); there {
			all = append(all, a)
		} else {
			missing = append(missing, row)
		}
	}
	for _, rows := range together(missing) {
		read, err := w.assemble(ctx, rows)
		if err != nil {
			return nil, err
		}
		for _, a := range read {
			w.remember(a, generations[a.Name])
			all = append(all, a)
		}
	}
	all = slices.DeleteFunc(all, func(a API) bool { return !w.knows(a) })
	for i := range all {
		if all[i], err = w.abroad(ctx, all[i]); err != nil {
			return nil, err
		}
	}
	slices.SortFunc(all, func(x, y API) int { return strings.Compare(x.Name, y.Name) })
	if w.shared() {
		w.knownLists.Add(w.Sight(w.who), knownList{generation, day, slices.Clone(all)})
	}
	return all, nil
}

// knownList is all APIs as they were read in a generation, on a day, by all who see the same.
type knownList struct {
	generation int64
	day        int64
	apis       []API
}

// shared reports whether what is read is kept in memory for all who see the same. Whoever holds the address of a preview sees what nobody
// else does, and a transaction sees what is not yet there for others.
func (w view) shared() bool { return !w.rows.Writing() && w.who.holds == "" }

// recalled is what was read of an API in a generation for all who see of it what the actor sees.
func (w view) recalled(name string, generation int64) (API, bool) {
	if !w.shared() {
		return API{}, false
	}
	kept, there := w.knownAPIs.Get(w.memoryKey(name))
	return kept.api, there && kept.generation == generation && kept.day == w.day()
}

func (w view) remember(a API, generation int64) {
	if w.shared() {
		w.knownAPIs.Add(w.memoryKey(a.Name), knownAPI{generation, w.day(), a})
	}
}

func (w view) memoryKey(name string) string { return name + " " + w.Standing(w.who, name) }

func (w view) day() int64 { return w.Today().Unix() / (24 * 60 * 60) }

// knownAPI is an API as it was read in a generation, on a day: what is overdue is another day's. What it holds is never changed.
type knownAPI struct {
	generation int64
	day        int64 // of the calendar, since 1970
	api        API
}

// maxKnownAPIs bounds the APIs in memory.
const maxKnownAPIs = 20_000

// fewAPIs is up to how many are read one by one.
const fewAPIs = 16

// together divides APIs into those that are read at once: each by itself where they are few.
func together(rows []records.API) [][]records.API {
	if len(rows) > fewAPIs {
		return [][]records.API{rows}
	}
	return slices.Collect(slices.Chunk(rows, 1))
}

// assemble reads some APIs: all together where they are many.
func (w view) assemble(ctx context.Context, rows []records.API) ([]API, error) {
	only := ""
	if len(rows) == 1 {
		only = rows[0].Name
	} else if len(rows) == 0 {
		return nil, nil
	}
	versions, err := w.rows.Versions(ctx, only)
	if err != nil {
		return nil, err
	}
	notices, err := w.rows.Notices(ctx, only)
	if err != nil {
		return nil, err
	}
	lines, err := w.rows.LinePromises(ctx, only)
	if err != nil {
		return nil, err
	}
	waived, err := w.waivedIn(ctx, only)
	if err != nil {
		return nil, err
	}
	termsOf, err := w.termsOf(ctx, rows)
	if err != nil {
		return nil, err
	}
	plans, err := w.rows.Plans(ctx, only)
	if err != nil {
		return nil, err
	}
	asked := map[string]bool{}
	for _, p := range plans {
		asked[p.API] = asked[p.API] || len(storedAudience(p.Audience)) > 0
	}
	promisesOf := linePromises(lines)
	versionsOf, noticesOf := map[string][]records.Version{}, map[string][]records.Notice{}
	for _, v := range versions {
		versionsOf[v.API] = append(versionsOf[v.API], v)
	}
	for _, n := range notices {
		noticesOf[n.API] = append(noticesOf[n.API], n)
	}
	all := make([]API, len(rows))
	for i, row := range rows {
		a := w.assembled(row, promisesOf[row.Name], versionsOf[row.Name], noticesOf[row.Name])
		a.settled(termsOf(row), w.options.NoticeDays)
		a.Askable = asked[row.Name]
		for k, v := range a.Versions {
			if a.kept.inside(w.who) {
				a.Versions[k].Waivers = waived[v.Ref()]
			}
		}
		if all[i], err = w.cleared(ctx, a); err != nil {
			return nil, err
		}
	}
	return all, nil
}

// waivedIn are the waivers with which versions were published, by reference. Readers are told of those whose changes they see, with the
// changes.
func (w view) waivedIn(ctx context.Context, api string) (map[string][]Waiver, error) {
	if w.who.outside() {
		return nil, nil
	}
	rows, err := w.rows.Waivers(ctx, api)
	by := map[string][]Waiver{}
	for _, r := range rows {
		ref := r.API + "@" + r.Version
		by[ref] = append(by[ref], Waiver{r.Version, r.Change, r.Kind, r.Title, r.Reason, r.MadeBy, r.MadeAt})
	}
	return by, err
}

// api is one API as the actor may know it; not-found where the actor may not.
func (w view) api(ctx context.Context, name string) (API, error) {
	a, err := w.apiAsIs(ctx, name)
	if err == nil && !w.knows(a) {
		err = refuse(NotFound, "there is no API called %s", name)
	}
	if err != nil {
		return a, err
	}
	return w.abroad(ctx, a)
}

// knows reports whether an actor may know that an API is there.
func (w view) knows(a API) bool { return a.kept.inside(w.who) && a.there || len(a.Versions) > 0 }

// apiAsIs is one API as the actor may know it, an empty one where there is none yet.
func (w view) apiAsIs(ctx context.Context, name string) (API, error) {
	// What is not there and what is not for the actor are found out alike, without a read: neither takes longer than the other.
	none := API{Name: name, Promise: string(promise.Backward), NoticeDays: w.options.NoticeDays, kept: nobodys}
	if k := w.keeping(name); !w.rows.Writing() && (k == nobodys && w.counted() || k.shuts(w.who)) {
		return none, nil
	}
	generation := w.Generation(w.who, name)
	if a, there := w.recalled(name, generation); there {
		return a, nil
	}
	row, err := w.rows.API(ctx, name)
	if isNotFound(err) {
		return none, nil
	}
	if err != nil {
		return API{}, err
	}
	all, err := w.assemble(ctx, []records.API{row})
	if err != nil {
		return API{}, err
	}
	w.remember(all[0], generation)
	return all[0], nil
}

// assembled makes an API of its rows, with all that is recorded of it.
func (w view) assembled(row records.API, lines map[string]string, versions []records.Version, notices []records.Notice) API {
	kept := w.keptNow(row)
	a := API{
		Name: row.Name, Team: row.Team, Offered: row.Offered, Promise: row.Promise, LinePromises: lines, NoticeDays: row.NoticeDays,
		Versions: []Version{}, Audiences: kept.Audiences, kept: kept, there: true,
	}
	if row.Switcher != "" {
		a.Switcher = storedPicks(row.Switcher)
	}
	// What is kept was read before it was: it can be read.
	a.Versioning, _ = versioning.Parse(row.Versioning)
	a.Undeclared, _ = compare.ParseUndeclared(row.Undeclared)
	a.Notices = noticesOf(notices)
	for _, v := range versions {
		a.Versions = append(a.Versions, withNotices(version(v, kept), a.Notices, w.Today()))
	}
	slices.SortFunc(a.Versions, func(x, y Version) int { return x.number.Compare(y.number) })
	a.Title = titleOf(a)
	return a
}

// resolve finds the version that a reference names among those that the actor may know of: berths@1.4.0, berths@1 (newest published of line
// 1), berths@latest, berths@draft. A bare name means the newest published version.
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
		fits = func(v Version) bool { return v.Number == contract.NumberText(number) || v.Number == number.String() }
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

// predecessor is the version that a version follows: the greatest number below it that was published, and, of a draft, where there is none,
// the greatest draft below it.
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
func number(text string) *semver.Version {
	v, err := contract.ParseVersion(text)
	if err != nil {
		panic(err)
	}
	return v
}
