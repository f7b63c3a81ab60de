package ledger

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/overlay"
	"oldledger/core/source"
	"oldledger/core/value"
	"oldledger/store"
)

// Overlay is how the reference of a version reads beyond its description: an OpenAPI Overlay 1.0 document, kept beside the description,
// which is never touched. A draft is seen in previews only; what is shown, readers see.
type Overlay struct {
	Version  string            `json:"version"`        // the version's reference
	From     string            `json:"from,omitempty"` // the version before it from which the overlay is carried, when it has none of its own yet
	State    string            `json:"state"`          // "none", "draft" or "shown"
	Text     string            `json:"text"`
	MadeBy   string            `json:"madeBy,omitempty"`
	MadeAt   string            `json:"madeAt,omitempty"`
	Digest   string            `json:"digest"`
	Outcomes []overlay.Outcome `json:"outcomes"`           // what each action finds in this version
	Document *value.Value      `json:"document,omitempty"` // the overlay as JSON
}

// The states of an overlay.
const (
	overlayDraft = "draft"
	overlayShown = "shown"
)

// maxOverlay bounds an overlay, in bytes.
const maxOverlay = 2 << 20

// Overlay reads the overlay of a version: the draft, else what is shown, else what the version before it shows.
func (l *Ledger) Overlay(ctx context.Context, ref string) (Overlay, error) {
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return Overlay{}, err
	}
	return l.overlayOf(ctx, l.store.Read(), v)
}

func (l *Ledger) overlayOf(ctx context.Context, r store.Rows, v Version) (Overlay, error) {
	o := Overlay{Version: v.Ref(), State: "none", Outcomes: []overlay.Outcome{}}
	row, err := l.newestOverlay(ctx, r, v)
	if errors.Is(err, store.ErrNotFound) {
		return o, nil
	}
	if err != nil {
		return o, err
	}
	o.Text, o.MadeBy, o.MadeAt, o.State, o.Digest = string(row.Text), row.MadeBy, row.MadeAt, row.State, digest(row.Text, nil)
	if row.Number != v.Number {
		o.From, o.State = row.API+"@"+row.Number, "none"
	}
	if f, err := parseOverlay(row.Text); err == nil {
		o.Document = f.Root.Value()
	}
	_, o.Outcomes, err = l.overlaid(ctx, r, v, row.Text)
	return o, err
}

// newestOverlay finds the row that a version's overlay is edited from.
func (l *Ledger) newestOverlay(ctx context.Context, r store.Rows, v Version) (store.Overlay, error) {
	for _, state := range []string{overlayDraft, overlayShown} {
		row, err := r.Overlay(ctx, v.API, v.Number, state)
		if err == nil || !errors.Is(err, store.ErrNotFound) {
			return row, err
		}
	}
	a, err := l.apiAsIs(ctx, r, v.API)
	if err != nil {
		return store.Overlay{}, err
	}
	if base := predecessor(a, v); base != nil {
		return r.Overlay(ctx, base.API, base.Number, overlayShown)
	}
	return store.Overlay{}, store.ErrNotFound
}

// PutOverlay keeps a draft of a version's overlay. It is refused where it is no overlay, where the description with it cannot be read,
// and where it changes more than how the reference reads. ifMatch is the digest of what was edited, "" for any.
func (l *Ledger) PutOverlay(ctx context.Context, by Person, ref, text, ifMatch string) (Overlay, error) {
	if err := mayWrite(by); err != nil {
		return Overlay{}, err
	}
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return Overlay{}, err
	}
	if err := l.checkOverlay(ctx, l.store.Read(), v, []byte(text)); err != nil {
		return Overlay{}, err
	}
	err = l.act(ctx, v.API, func(r store.Rows) error {
		known, err := l.newestOverlay(ctx, r, v)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if ifMatch != "" && (err != nil || digest(known.Text, nil) != ifMatch) {
			return refuse(Conflict, "the overlay of %s is not as you last read it; read it again", v.Ref())
		}
		row := store.Overlay{API: v.API, Number: v.Number, State: overlayDraft, Text: []byte(text), MadeBy: by.Name, MadeAt: l.stamp()}
		if err := r.PutOverlay(ctx, row); err != nil {
			return err
		}
		return l.enter(ctx, r, by, "overlay.drafted", v.Ref(), map[string]string{"digest": digest(row.Text, nil)})
	})
	if err != nil {
		return Overlay{}, err
	}
	return l.Overlay(ctx, v.Ref())
}

// checkOverlay refuses an overlay that does more than it may. In a transaction nothing is computed: errMoved asks to compute before it.
func (l *Ledger) checkOverlay(ctx context.Context, r store.Rows, v Version, text []byte) error {
	key := v.Digest + " " + v.File + " " + digest(text, nil)
	if known, ok := l.overlays.Get(key); ok {
		return known
	}
	if r.Writing() {
		return errMoved
	}
	err := l.lookOver(ctx, v, text)
	var refused *Error
	if err == nil || errors.As(err, &refused) {
		l.overlays.Add(key, err)
	}
	return err
}

func (l *Ledger) lookOver(ctx context.Context, v Version, text []byte) error {
	if len(text) > maxOverlay {
		return refuse(Invalid, "an overlay has at most %d bytes", maxOverlay)
	}
	changed, outcomes, err := l.overlaid(ctx, l.store.Read(), v, text)
	if err != nil {
		return err
	}
	for i, o := range outcomes {
		if o.Wrong != "" {
			return refuse(Invalid, "action %d: %s", i+1, o.Wrong)
		}
	}
	plain, _, err := l.overlaid(ctx, l.store.Read(), v, nil)
	if err != nil {
		return err
	}
	var c *compare.Comparison
	if waited := l.Heavily(ctx, func() { c, err = compare.ContractsContext(ctx, plain, changed, compare.Options{}) }); waited != nil || err != nil {
		return cmp.Or(waited, err)
	}
	for _, ch := range c.Changes {
		if ch.Backward != compare.Editorial || ch.Forward != compare.Editorial {
			return refuse(Conflict, "an overlay changes how the reference reads, not what the API does: with this one, %s (%s)", ch.Title, strings.TrimSpace(ch.Operation+" "+ch.At))
		}
	}
	return nil
}

// ShowOverlay shows readers the draft of a version's overlay. It is refused with Exposed where a published version would show what looks
// like a credential.
func (l *Ledger) ShowOverlay(ctx context.Context, by Person, ref string) (Overlay, error) {
	if err := mayWrite(by); err != nil {
		return Overlay{}, err
	}
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return Overlay{}, err
	}
	var row store.Overlay
	look := func(r store.Rows) error {
		if row, err = r.Overlay(ctx, v.API, v.Number, overlayDraft); err != nil {
			return notFound(err, "%s has no draft of an overlay", v.Ref())
		}
		return l.checkOverlay(ctx, r, v, row.Text) // the draft that it words may have been recorded anew
	}
	err = l.prepared(ctx, v.API, look, func(r store.Rows) error {
		if err := l.unchanged(ctx, r, v); err != nil {
			return err
		}
		if err := look(r); err != nil {
			return err
		}
		if v.State != Draft {
			if err := l.exposed(ctx, r, v, nil); err != nil {
				return err
			}
		}
		if err := r.DropOverlay(ctx, v.API, v.Number, overlayDraft); err != nil {
			return err
		}
		return l.show(ctx, r, by, v, row.Text)
	})
	if err != nil {
		return Overlay{}, err
	}
	return l.Overlay(ctx, v.Ref())
}

func (l *Ledger) show(ctx context.Context, r store.Rows, by Person, v Version, text []byte) error {
	row := store.Overlay{API: v.API, Number: v.Number, State: overlayShown, Text: text, MadeBy: by.Name, MadeAt: l.stamp()}
	if err := r.PutOverlay(ctx, row); err != nil {
		return err
	}
	return l.enter(ctx, r, by, "overlay.shown", v.Ref(), map[string]string{"digest": digest(text, nil)})
}

// DropOverlay takes away the draft of a version's overlay; where there is none, what is shown.
func (l *Ledger) DropOverlay(ctx context.Context, by Person, ref string) error {
	if err := mayWrite(by); err != nil {
		return err
	}
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return err
	}
	return l.act(ctx, v.API, func(r store.Rows) error {
		for _, state := range []string{overlayDraft, overlayShown} {
			_, err := r.Overlay(ctx, v.API, v.Number, state)
			if errors.Is(err, store.ErrNotFound) {
				continue
			}
			if err == nil {
				err = r.DropOverlay(ctx, v.API, v.Number, state)
			}
			if err != nil {
				return err
			}
			return l.enter(ctx, r, by, "overlay.dropped", v.Ref(), map[string]string{"state": state})
		}
		return refuse(NotFound, "%s has no overlay of its own", v.Ref())
	})
}

// carry shows with a version that is being published the overlay that the version before it shows, unless it has one of its own.
func (l *Ledger) carry(ctx context.Context, r store.Rows, by Person, v Version) error {
	row, fits, err := l.carried(ctx, r, v)
	if err != nil || !fits {
		return err
	}
	if row.Number == v.Number {
		if err := r.DropOverlay(ctx, v.API, v.Number, overlayDraft); err != nil {
			return err
		}
	}
	return l.show(ctx, r, by, v, row.Text)
}

// carried is the overlay that would be shown with a version once it is published. One that does not fit it any more is not: its editor says
// why.
func (l *Ledger) carried(ctx context.Context, r store.Rows, v Version) (row store.Overlay, fits bool, err error) {
	row, err = l.newestOverlay(ctx, r, v)
	if errors.Is(err, store.ErrNotFound) || err == nil && row.Number == v.Number && row.State == overlayShown {
		return row, false, nil
	}
	if err != nil {
		return row, false, err
	}
	var unfit *Error
	switch err := l.checkOverlay(ctx, r, v, row.Text); {
	case errors.As(err, &unfit):
		return row, false, nil
	case err != nil:
		return row, false, err
	}
	return row, true, nil
}

// Worded is a version as one OpenAPI document: as its description has it, and with its overlay's draft.
type Worded struct {
	Written *value.Value `json:"written"`
	Worded  *value.Value `json:"worded"`
}

// Worded reads a version with and without its overlay.
func (l *Ledger) Worded(ctx context.Context, ref string) (Worded, error) {
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return Worded{}, err
	}
	r := l.store.Read()
	var text []byte
	row, err := l.newestOverlay(ctx, r, v)
	if err == nil {
		text = row.Text
	} else if !errors.Is(err, store.ErrNotFound) {
		return Worded{}, err
	}
	plain, _, err := l.layered(ctx, r, v, nil)
	if err != nil {
		return Worded{}, err
	}
	worded, _, err := l.layered(ctx, r, v, text)
	return Worded{plain, worded}, err
}

// Documented is what a version says as readers see it: with its overlay, as it is shown or, for a preview, as its draft has it.
func (l *Ledger) Documented(ctx context.Context, v Version, draft bool) (*contract.Contract, error) {
	r := l.store.Read()
	row, err := r.Overlay(ctx, v.API, v.Number, overlayShown)
	if draft {
		row, err = l.newestOverlay(ctx, r, v)
	}
	if errors.Is(err, store.ErrNotFound) {
		return l.contract(ctx, r, v)
	}
	if err != nil {
		return nil, err
	}
	c, _, err := l.overlaid(ctx, r, v, row.Text)
	return c, err
}

// overlaid reads a version with an overlay put over it as one OpenAPI description; nil text is no overlay.
func (l *Ledger) overlaid(ctx context.Context, r store.Rows, v Version, text []byte) (*contract.Contract, []overlay.Outcome, error) {
	root, outcomes, err := l.layered(ctx, r, v, text)
	if err != nil {
		return nil, nil, err
	}
	var c *contract.Contract
	err = l.readSet(ctx, "overlaid.json", []byte(root.Indented()), nil, func(read *contract.Contract, _ *source.Set) error {
		c = read
		return nil
	})
	var unreadable *Error
	if errors.As(err, &unreadable) {
		return nil, nil, &Error{Fault: Unreadable, Text: fmt.Sprintf("with the overlay, the description of %s cannot be read: %s", v.Ref(), unreadable.Text), Diagnostics: unreadable.Diagnostics}
	}
	return c, outcomes, err
}

// layered is a version as one OpenAPI document, with an overlay put over it; nil text is no overlay.
func (l *Ledger) layered(ctx context.Context, r store.Rows, v Version, text []byte) (*value.Value, []overlay.Outcome, error) {
	row, err := r.Version(ctx, v.API, v.Number)
	if err != nil {
		return nil, nil, notFound(err, "there is no %s", v.Ref())
	}
	files, err := r.Files(ctx, v.API, v.Number)
	if err != nil {
		return nil, nil, err
	}
	root, err := l.oneFile(ctx, v, row, files)
	if err != nil {
		return nil, nil, err
	}
	if text == nil {
		return root, []overlay.Outcome{}, nil
	}
	doc, err := readOverlay(text)
	if err != nil {
		return nil, nil, err
	}
	var outcomes []overlay.Outcome
	if waited := l.Heavily(ctx, func() { root, outcomes, err = doc.Apply(ctx, root) }); waited != nil {
		return nil, nil, waited
	}
	if err != nil {
		return nil, nil, refuse(Invalid, "%v", err)
	}
	return root, outcomes, nil
}

func readOverlay(text []byte) (*overlay.Document, error) {
	f, err := parseOverlay(text)
	var doc *overlay.Document
	if err == nil {
		doc, err = overlay.Read(f)
	}
	var wrong source.Diagnostics
	if errors.As(err, &wrong) {
		return nil, &Error{Fault: Unreadable, Text: wrong.Error(), Diagnostics: wrong}
	}
	var one *source.Diagnostic
	if errors.As(err, &one) {
		return nil, &Error{Fault: Unreadable, Text: one.Error(), Diagnostics: source.Diagnostics{one}}
	}
	return doc, err
}

func parseOverlay(text []byte) (*source.File, error) { return source.Parse("overlay.yaml", text) }
