package ledger

import (
	"cmp"
	"context"
)

// Actor is who acts: a person who signed in, or whose token was sent; whoever holds the address of a preview; the ledger itself. The zero
// Actor is nobody: a reader from outside.
type Actor struct {
	Person
	Token string // the label of the token that acts for the person; "" where the person signed in

	scopes []Scope // of the token

	holds  string // the draft that the address of a preview shows: "berths@1.4.0"
	sketch string // the overlay of it that is being written; "" where none is
	itself bool
}

var (
	// Nobody is a reader from outside.
	Nobody = Actor{}
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

// everywhere reports whether the actor has a role in all teams.
func (a Actor) everywhere() bool { return a.Role != NoRole || a.itself }

// inside reports whether the actor belongs to a team, and sees what it has not published. What no team keeps is for those who have a role
// in all.
func (a Actor) inside(team string) bool {
	return a.everywhere() || team != "" && a.Teams[team] != NoRole
}

// outside reports whether the actor belongs to no team, and sees nothing but what readers see.
func (a Actor) outside() bool { return !a.everywhere() && len(a.Teams) == 0 }

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

// sees reports whether the actor may know of a version: its team knows all, whoever holds the address of a preview knows its draft, and
// everybody what is published, or is gone after it was. What was taken back is, from outside, as if it never was.
func (a Actor) sees(v Version) bool {
	return a.inside(v.team) || v.Open() || a.holds == v.Ref()
}

// reads reports whether the actor may read what a version says.
func (a Actor) reads(v Version) bool {
	return a.inside(v.team) || v.Shown() || a.holds == v.Ref()
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
