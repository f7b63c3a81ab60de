package ledger

import (
	"context"
	"errors"
	"slices"

	"oldledger/ledger/records"
)

// moves are where a version may go from where it stands.
var moves = map[State][]State{
	Draft:       {Published},
	Published:   {Unpublished, Retired},
	Unpublished: {Published, Retired},
}

// storedState is where a version stands in the records: a notice makes no difference there.
func (v Version) storedState() State {
	if v.State == Deprecated {
		return Published
	}
	return v.State
}

// move lets a version stand elsewhere, in the transaction that decided so: only if it still stands where v says, with the same revision.
func (w view) move(ctx context.Context, v Version, to State) error {
	from := v.storedState()
	if !slices.Contains(moves[from], to) {
		return refuse(Conflict, "%s is %s", v.Ref(), v.State)
	}
	row := records.Version{
		API: v.API, Number: v.Number, State: string(from), Revision: records.Revision{ID: v.revision},
		PublishedAt: v.PublishedAt, PublishedBy: v.PublishedBy, UnpublishedAt: v.unpublishedAt, RetiredAt: v.RetiredAt,
	}
	switch to {
	case Published:
		row.UnpublishedAt = ""
		if from == Draft {
			row.PublishedAt, row.PublishedBy = w.stamp(), w.who.Name
		}
	case Unpublished:
		row.UnpublishedAt = w.stamp()
	case Retired:
		row.RetiredAt = w.stamp()
	}
	return stale(w.rows.MoveVersion(ctx, row, string(to)), v.Ref())
}

// stale turns a change to what somebody else changed meanwhile into a refusal.
func stale(err error, what string) error {
	if errors.Is(err, records.ErrStale) {
		return refuse(Conflict, "%s was changed while it was looked at; look at it again", what)
	}
	return err
}
