package ledger

import (
	"context"
	"errors"

	"oldledger/ledger/records"
)

// Every act is one transaction: it reads what it decides on, decides, writes, and enters itself in the journal. What takes long is computed
// before it (prepared), and asked for again inside, where only what was computed is found. Updates name what they were decided on (a
// version's state and revision, a notice as it was), and refuse what is not so any more.

// act carries out an act on an API's records, in one transaction. Whoever asks for the generation after it gets the new one. do says with
// quiet where readers see nothing of it.
func (w view) act(ctx context.Context, api string, do func(view) error) error {
	var now records.Generation
	err := w.store.Write(ctx, func(r records.Rows) error {
		inside, quiet := w.in(r), false
		inside.unseen = &quiet
		err := do(inside)
		if err == nil {
			err = r.Advance(ctx, api, !quiet)
		}
		if err == nil {
			now, err = r.GenerationOf(ctx, api)
		}
		return err
	})
	if err != nil {
		return err
	}
	w.generations.advance(api, now)
	return nil
}

// quiet says of the act that is being carried out that readers see nothing of it.
func (w view) quiet() {
	if w.unseen != nil {
		*w.unseen = true
	}
}

// errMoved is what a transaction meets that would have to compute: the records changed since it was computed for. It is begun anew.
var errMoved = errors.New("the records changed meanwhile")

// maxTries bounds how often an act is begun anew.
const maxTries = 8

// prepared carries out an act whose computations were made before its transaction: prepare computes what do will ask for, and both begin
// anew when the records changed between them.
func (w view) prepared(ctx context.Context, api string, prepare, do func(view) error) error {
	for range maxTries {
		if err := prepare(w); err != nil {
			return err
		}
		if err := w.act(ctx, api, do); !errors.Is(err, errMoved) {
			return err
		}
	}
	return refuse(Conflict, "the records of %s change faster than they can be compared; try again", api)
}
