package ledger

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"oldledger/core/source"
	"oldledger/ledger/records"
)

// Shelf is a named set of APIs that are shown together, in an order, under an address and perhaps a host of its own. It opens nothing: of
// what stands on it, whoever sees the shelf reads what is open to them.
type Shelf struct {
	Name     string // in its address: "partners"
	Title    string
	Audience Audience // who sees it, beside those who have a role in all teams
	Landing  string   // CommonMark, above what stands there
	Host     string   // at which nothing else is shown; "" for none
	Stands   []Stand  // in order
	MadeAt   string
	MadeBy   string

	generation int64 // as of which it is so
	picks      map[string]Picks
}

// Stand is an API on a shelf.
type Stand struct {
	API      string
	Versions Picks
	Why      string // for its team, why not all who see the shelf read it there, and what to do; "" where they do
}

// nowhere is the shelf of whoever does not see the one that they ask at: nothing stands there.
var nowhere = &Shelf{}

// At is somebody as a reader of what stands on a shelf, and of nothing else. For whom the shelf is not, nothing stands there.
func (l *Ledger) At(who Actor, name string) Actor {
	s := l.shelf(name)
	who = who.Reading(who.opened...)
	if who.shelf = nowhere; s != nil && s.admits(who) {
		who.shelf = s
	}
	return who
}

// Shelf is where somebody reads (At): nil where they read everywhere, and without a name where they read nothing.
func (a Actor) Shelf() *Shelf { return a.shelf }

// ShelfAt is the name of the shelf that is shown alone at a host, as a request names it, with a port or without; "" for none.
func (l *Ledger) ShelfAt(host string) string {
	l.Generation(Nobody, "") // asks, where that is due
	t := &l.generations
	t.mu.RLock()
	defer t.mu.RUnlock()
	if len(t.hosts) == 0 {
		return ""
	}
	name, port, _ := strings.Cut(strings.ToLower(host), ":")
	name = strings.TrimSuffix(name, ".") // one that is spelt to its end (RFC 1034, section 3.1)
	return cmp.Or(t.hosts[name+":"+port], t.hosts[name])
}

// shelf is one by its name, as fresh as a generation; nil where there is none. It never changes.
func (l *Ledger) shelf(name string) *Shelf {
	l.Generation(Nobody, "")
	l.generations.mu.RLock()
	defer l.generations.mu.RUnlock()
	return l.generations.shelves[name]
}

// admits reports whether somebody sees the shelf as a reader.
func (s *Shelf) admits(who Actor) bool {
	return who.everywhere() || slices.ContainsFunc(s.Audience, func(g Group) bool {
		return g == Everyone || g == SignedIn && who.Name != "" || g.Team() != "" && who.Teams[g.Team()] != NoRole && who.apis == nil
	})
}

// has reports whether an API stands where somebody reads.
func (s *Shelf) has(api string) bool {
	if s == nil {
		return true
	}
	_, there := s.picks[api]
	return there
}

// holds reports whether a version stands where somebody reads.
func (s *Shelf) holds(v Version) bool { return s == nil || s.has(v.API) && s.picks[v.API].Have(v) }

// sight distinguishes where somebody reads; "" for everywhere.
func (s *Shelf) sight() string {
	if s == nil {
		return ""
	}
	return fmt.Sprintf("on %q %d ", s.Name, s.generation)
}

// shelvesOf are the shelves of a generation, by name and by host.
func shelvesOf(g records.Generation) (byName map[string]*Shelf, byHost map[string]string) {
	byName, byHost = map[string]*Shelf{}, map[string]string{}
	for _, row := range g.Shelves {
		byName[row.Name] = &Shelf{
			Name: row.Name, Title: row.Title, Audience: storedAudience(row.Audience), Landing: row.Landing, Host: row.Host,
			MadeAt: row.MadeAt, MadeBy: row.MadeBy, Stands: []Stand{}, generation: g.N, picks: map[string]Picks{},
		}
		if row.Host != "" {
			byHost[row.Host] = row.Name
		}
	}
	for _, row := range g.Stands {
		if s := byName[row.Shelf]; s != nil {
			picks := storedPicks(row.Versions)
			s.Stands, s.picks[row.API] = append(s.Stands, Stand{API: row.API, Versions: picks}), picks
		}
	}
	return byName, byHost
}

// Shelves are those that the actor sees, by name, with what of them they know of. Who may place an API knows of all, and of what greets
// where they may read.
func (l *Ledger) Shelves(ctx context.Context, who Actor) ([]Shelf, error) {
	l.Generation(who, "")
	l.generations.mu.RLock()
	all := slices.SortedFunc(maps.Values(l.generations.shelves), func(x, y *Shelf) int { return strings.Compare(x.Name, y.Name) })
	l.generations.mu.RUnlock()
	apis, err := l.view(who).apis(ctx)
	if err != nil {
		return nil, err
	}
	known := map[string]API{}
	for _, a := range apis {
		known[a.Name] = a
	}
	seen := []Shelf{}
	for _, s := range all {
		admitted := s.admits(who)
		if !admitted && mayAnywhere(who, Place) != nil {
			continue
		}
		shown := *s
		shown.Stands = []Stand{}
		if !admitted {
			shown.Landing = ""
		}
		if who.outside() {
			shown.Audience, shown.Host, shown.MadeAt, shown.MadeBy = nil, "", "", ""
		}
		for _, stand := range s.Stands {
			a, there := known[stand.API]
			if !there {
				continue
			}
			if a.kept.inside(who) {
				stand.Why = s.hides(a)
			} else if stand.Versions = stand.Versions.among(a); stand.Versions == nil {
				continue
			}
			shown.Stands = append(shown.Stands, stand)
		}
		seen = append(seen, shown)
	}
	return seen, nil
}

// hides says why not all who see the shelf read an API there; "" where they do.
func (s *Shelf) hides(a API) string {
	shown := func(v Version) bool { return v.Shown() && s.holds(v) }
	if !slices.ContainsFunc(a.Versions, shown) {
		return "nothing of it that stands here is published"
	}
	published := a.Audiences.Published
	for _, g := range s.Audience {
		reads := slices.Contains(published, Everyone) || slices.Contains(published, g) || g.Team() != "" && g.Team() == a.Team ||
			g.Team() != "" && slices.Contains(published, SignedIn)
		if !reads {
			return "it is for " + cmp.Or(published.words("whoever has a link and its password"), "its team alone") +
				", and the shelf for " + s.Audience.words("") + "; open the API, too"
		}
	}
	return ""
}

// ShelfWish is the wish to make a shelf, or to change one. What is nil stays as it is.
type ShelfWish struct {
	Title    *string
	Audience *Audience
	Landing  *string
	Host     *string
	Order    []string // APIs that stand there: they come first, the others behind them as they were
	Reason   string   // for the journal; may be ""
}

// shelfSubject stands before the name of a shelf that something was done with: no API is called so.
const shelfSubject = "shelf "

// Limits of shelves.
const (
	maxShelves = 200
	maxStands  = 20_000
)

// PutShelf makes a shelf, or changes the one of that name. A new one is called by its name, and is for those for whom the ledger is.
func (l *Ledger) PutShelf(ctx context.Context, who Actor, name string, wish ShelfWish) error {
	if err := l.may(who, Shelve, ""); err != nil {
		return err
	}
	if !apiName.MatchString(name) {
		return refuse(Invalid, "%q is no name of a shelf; one begins with a small letter, and has small letters, digits and hyphens, at most 63", name)
	}
	if err := wish.check(); err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		all, err := w.rows.Shelves(ctx)
		if err != nil {
			return err
		}
		row, err := w.shelfRow(all, name)
		if err != nil {
			return err
		}
		if err := w.teamsIn(ctx, wish.Audience); err != nil {
			return err
		}
		wish.enter(&row)
		for _, o := range all {
			if o.Host == row.Host && o.Host != "" && o.Name != name {
				return refuse(Conflict, "at %s stands the shelf %s already", row.Host, o.Name)
			}
		}
		if err := w.rows.PutShelf(ctx, row); err != nil {
			return err
		}
		if err := w.order(ctx, name, wish.Order); err != nil {
			return err
		}
		order, err := json.Marshal(wish.Order)
		if err != nil {
			return err
		}
		return w.appendJournal(ctx, "shelf.set", shelfSubject+name, map[string]string{
			"title": row.Title, "audience": row.Audience, "landing": digest([]byte(row.Landing), nil), "host": row.Host, "order": string(order),
			"reason": wish.Reason,
		})
	})
}

func (wish *ShelfWish) check() error {
	switch {
	case wish.Title != nil && !called(*wish.Title):
		return refuse(Invalid, "%q is no title of a shelf; it has 1 to %d characters, none of them a line break", *wish.Title, maxFull)
	case wish.Audience != nil && slices.Contains(*wish.Audience, LinkHolder):
		return refuse(Invalid, "a link leads to one API, and to no shelf; say everyone, signed-in, team, or team NAME")
	case wish.Landing != nil && len(*wish.Landing) > maxText:
		return refuse(Invalid, "what greets on a shelf has at most %d characters", maxText)
	case len(wish.Reason) > maxReason:
		return refuse(Invalid, "a reason has at most %d characters", maxReason)
	}
	if wish.Host == nil || *wish.Host == "" {
		return nil
	}
	if host := *wish.Host; !hostName.MatchString(host) || strings.HasSuffix(host, ".") || len(host) > 253 {
		return refuse(Invalid, "%q is no host; write one such as partners.saltmere.example", host)
	}
	return nil
}

// enter makes of a shelf what is wished.
func (wish *ShelfWish) enter(row *records.Shelf) {
	if wish.Title != nil {
		row.Title = *wish.Title
	}
	if wish.Audience != nil {
		row.Audience = wish.Audience.stored()
	}
	if wish.Landing != nil {
		row.Landing = *wish.Landing
	}
	if wish.Host != nil {
		row.Host = strings.ToLower(*wish.Host)
	}
}

// shelfRow is the shelf of a name, or a new one.
func (w view) shelfRow(all []records.Shelf, name string) (records.Shelf, error) {
	if i := slices.IndexFunc(all, func(s records.Shelf) bool { return s.Name == name }); i >= 0 {
		return all[i], nil
	}
	if len(all) >= maxShelves {
		return records.Shelf{}, refuse(Conflict, "there are %d shelves, as many as there may be", len(all))
	}
	usual := w.keeping("").Published
	return records.Shelf{Name: name, Title: name, Audience: usual.stored(), MadeAt: w.stamp(), MadeBy: cmp.Or(w.who.Name, "the ledger")}, nil
}

// order puts some APIs of a shelf first.
func (w view) order(ctx context.Context, shelf string, first []string) error {
	if len(first) == 0 {
		return nil
	}
	all, err := w.standsOn(ctx, shelf)
	if err != nil {
		return err
	}
	var names []string
	for _, s := range all {
		names = append(names, s.API)
	}
	for i, api := range first {
		if !slices.Contains(names, api) {
			return refuse(Invalid, "%s does not stand on %s%s", api, shelf, source.DidYouMean(api, names))
		}
		if slices.Contains(first[:i], api) {
			return refuse(Invalid, "%s is named twice in the order of %s", api, shelf)
		}
	}
	putFirst(all, first)
	for i, s := range all {
		names[i] = s.API
	}
	return w.rows.OrderStands(ctx, shelf, names)
}

// putFirst puts some APIs first, in order, and the others behind them as they were.
func putFirst(all []records.Stand, first []string) {
	place := map[string]int{}
	for i, api := range first {
		place[api] = i - len(first)
	}
	slices.SortStableFunc(all, func(x, y records.Stand) int { return cmp.Compare(place[x.API], place[y.API]) })
}

// standsOn is what stands on a shelf, in order.
func (w view) standsOn(ctx context.Context, shelf string) ([]records.Stand, error) {
	all, err := w.rows.Stands(ctx)
	return slices.DeleteFunc(all, func(s records.Stand) bool { return s.Shelf != shelf }), err
}

// DropShelf takes a shelf away. What stood there stays where else it stands.
func (l *Ledger) DropShelf(ctx context.Context, who Actor, name string) error {
	if err := l.may(who, Shelve, ""); err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		if err := w.isShelf(ctx, name); err != nil {
			return err
		}
		if err := w.rows.DropShelf(ctx, name); err != nil {
			return err
		}
		return w.appendJournal(ctx, "shelf.dropped", shelfSubject+name, map[string]string{})
	})
}

// Place has an API stand on a shelf: all of it, or some versions. One that stands there already keeps its place in the order.
func (l *Ledger) Place(ctx context.Context, who Actor, shelf, api string, versions Picks) error {
	if err := l.may(who, Place, api); err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet() // to those who read elsewhere
		if err := w.placed(ctx, shelf, api); err != nil {
			return err
		}
		a, err := w.api(ctx, api)
		if err != nil {
			return err
		}
		if err := versions.of(a); err != nil {
			return err
		}
		all, err := w.standsOn(ctx, shelf)
		if err != nil {
			return err
		}
		stand := records.Stand{Shelf: shelf, API: api, Versions: versions.stored()}
		before := ""
		if i := slices.IndexFunc(all, func(s records.Stand) bool { return s.API == api }); i >= 0 {
			before = all[i].Versions
		} else if len(all) >= maxStands {
			return refuse(Conflict, "%d APIs stand on %s, as many as there may be", len(all), shelf)
		}
		if err := w.rows.PutStand(ctx, stand); err != nil {
			return err
		}
		return w.appendJournal(ctx, "shelf.placed", api, map[string]string{"shelf": shelf, "versions": stand.Versions, "before": before})
	})
}

// placed refuses what is to stand, or stands, on a shelf that there is not, or is not the actor's to know of.
func (w view) placed(ctx context.Context, shelf, api string) error {
	if err := w.sees(ctx, api); err != nil {
		return err
	}
	return w.isShelf(ctx, shelf)
}

// isShelf refuses the name of a shelf that there is not.
func (w view) isShelf(ctx context.Context, shelf string) error {
	all, err := w.rows.Shelves(ctx)
	if err != nil {
		return err
	}
	names := make([]string, len(all))
	for i, s := range all {
		names[i] = s.Name
	}
	if !slices.Contains(names, shelf) {
		return refuse(NotFound, "there is no shelf called %s%s", shelf, source.DidYouMean(shelf, names))
	}
	return nil
}

// Unplace takes an API from a shelf.
func (l *Ledger) Unplace(ctx context.Context, who Actor, shelf, api string) error {
	if err := l.may(who, Place, api); err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		if err := w.placed(ctx, shelf, api); err != nil {
			return err
		}
		stood, err := w.takeFrom(ctx, api, shelf)
		if err != nil {
			return err
		}
		if !stood {
			return refuse(NotFound, "%s does not stand on %s", api, shelf)
		}
		return w.appendJournal(ctx, "shelf.removed", api, map[string]string{"shelf": shelf})
	})
}

// takeFrom takes an API from a shelf, or from all where none is named, and tells whether it stood there.
func (w view) takeFrom(ctx context.Context, api, shelf string) (stood bool, err error) {
	all, err := w.rows.Stands(ctx)
	if err != nil {
		return false, err
	}
	for _, s := range all {
		if s.API != api || shelf != "" && s.Shelf != shelf {
			continue
		}
		stood = true
		if err := w.rows.DropStand(ctx, s.Shelf, api); err != nil {
			return stood, err
		}
	}
	return stood, nil
}
