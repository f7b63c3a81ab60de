package ledger

import (
	"cmp"
	"context"
	"errors"

	"oldledger/ledger/records"
)

// Actor is who acts: a person who signed in, or whose token was sent; whoever holds the address of a preview; the ledger itself. The zero
// Actor is nobody: a reader from outside.
type Actor struct {
	Person
	Token string // the label of the token that acts for the person; "" where the person signed in

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

// inside reports whether the actor belongs to the house.
func (a Actor) inside() bool { return a.Name != "" || a.itself }

// Actor is the person of a sign-in name, who signed in before.
func (l *Ledger) Actor(ctx context.Context, name string) (Actor, error) {
	row, err := l.store.Read().Person(ctx, name)
	if err != nil {
		return Nobody, notFound(err, "there is no %s", name)
	}
	return By(person(row)), nil
}

// TokenActor is the person for whom a token acts.
func (l *Ledger) TokenActor(ctx context.Context, token string) (Actor, error) {
	row, err := l.store.Read().Token(ctx, tokenHash(token))
	if errors.Is(err, records.ErrNotFound) {
		return Nobody, refuse(SignInFirst, "this token is not known")
	}
	if err != nil {
		return Nobody, err
	}
	return Actor{Person: person(row.Person), Token: row.Label}, nil
}

// sees reports whether the actor may know of a version: the house knows all, whoever holds the address of a preview knows its draft, and
// everybody what is published, or is gone after it was. What was taken back is, from outside, as if it never was.
func (a Actor) sees(v Version) bool {
	return a.inside() || v.Open() || a.holds == v.Ref()
}

// reads reports whether the actor may read what a version says.
func (a Actor) reads(v Version) bool {
	return a.inside() || v.Shown() || a.holds == v.Ref()
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
