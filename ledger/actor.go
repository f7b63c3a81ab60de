package ledger

import (
	"cmp"
	"context"
	"slices"
)

// Actor is who acts: a person who signed in, or whose token was sent; whoever holds the address of a preview; the ledger itself. The zero
// Actor is nobody: a reader from outside.
type Actor struct {
	Person
	Token string // the label of the token that acts for the person; "" where the person signed in

	scopes []Scope  // of the token
	apis   []string // for which it acts alone; nil for all of its teams

	seeing  string   // as whom somebody looks, who is not this actor
	reading bool     // whether they read what is published, whatever else they may
	opened  []string // the APIs of whose links they gave the password, in order
	shelf   *Shelf   // on which alone they read; nil for everywhere

	holds  string // the draft that the address of a preview shows: "berths@1.4.0"
	sketch string // the overlay of it that is being written; "" where none is
	itself bool
}

var (
	// Nobody is a reader from outside.
	Nobody = Actor{reading: true}
	// Itself is the ledger, when it is set up and when it computes what no one person asked for.
	Itself = Actor{itself: true}
)

// By is a person who signed in.
func By(p Person) Actor { return Actor{Person: p} }

// Sketching is whoever holds the address of a preview while they write an overlay: they read the version with it. Nothing of it is kept.
func (a Actor) Sketching(overlay []byte) Actor {
	a.sketch = string(overlay)
	return a
}

// Reading is the actor as a reader of what is published: they see of it what is open to them, and nothing else that they may see in the
// ledger. opened are the APIs of whose links they gave the password.
func (a Actor) Reading(opened ...string) Actor {
	a.reading, a.opened = true, slices.Sorted(slices.Values(opened))
	return a
}

// way distinguishes who reads from who works in the ledger.
func (a Actor) way() string {
	if a.reading {
		return "reads "
	}
	return "works "
}

// everywhere reports whether the actor has a role in all teams.
func (a Actor) everywhere() bool { return a.Role != NoRole || a.itself }

// inside reports whether the actor belongs to a team, and sees what it has not published. What no team keeps is for those who have a role
// in all.
func (a Actor) inside(team string) bool {
	return !a.reading && (a.everywhere() || team != "" && a.Teams[team] != NoRole)
}

// outside reports whether the actor belongs to no team, and sees nothing but what readers see.
func (a Actor) outside() bool { return a.reading || !a.everywhere() && len(a.Teams) == 0 }

// reaches reports whether the actor acts for an API: a token may act for some alone.
func (a Actor) reaches(api string) bool { return a.apis == nil || slices.Contains(a.apis, api) }

// rolesIn are the actor's roles where a team is concerned: what they are in all teams, and in it.
func (a Actor) rolesIn(team string) []Role {
	if team == "" {
		return []Role{a.Role}
	}
	return []Role{a.Role, a.Teams[team]}
}

// Actor is the person of a sign-in name, who signed in before.
func (l *Ledger) Actor(ctx context.Context, name string) (Actor, error) {
	p, err := l.person(ctx, l.store.Read(), name)
	return By(p), err
}

// sees reports whether the actor may know of a version: its team knows all; its audience what is published, or is gone after it was;
// that of its drafts those, and whoever holds the address of a preview the one. What was taken back is, from outside, as if it never was.
func (a Actor) sees(v Version) bool {
	return v.kept.inside(a) || v.Open() && v.kept.admits(a, v.kept.Published) && a.shelf.holds(v) || a.readsDraft(v)
}

// reads reports whether the actor may read what a version says.
func (a Actor) reads(v Version) bool {
	return v.kept.inside(a) || v.Shown() && v.kept.admits(a, v.kept.Published) && a.shelf.holds(v) || a.readsDraft(v)
}

// readsDraft reports whether the actor reads a version before its readers do.
func (a Actor) readsDraft(v Version) bool {
	return a.holds == v.Ref() && v.kept.holdsPreview(a) || v.State == Draft && !a.reading && v.kept.admits(a, v.kept.Drafts)
}

// titleOf is that of the newest version that readers see, else of the newest.
func titleOf(api API) string {
	if v := api.Latest(); v != nil {
		return v.Title
	}
	if n := len(api.Versions); n > 0 {
		return api.Versions[n-1].Title
	}
	return cmp.Or(api.Title, api.Name)
}
