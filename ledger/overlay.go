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
	"oldledger/ledger/records"
)

// Overlay is how the reference of a version reads beyond its description: an OpenAPI Overlay 1.0 document, kept beside the description,
// which is never touched. A draft is seen in previews only; what is shown, readers see.
type Overlay struct {
	Version  string // the version's reference
	From     string // the version before it from which the overlay is carried, when it has none of its own yet
	State    string // "none", "draft" or "shown"
	Text     string
	MadeBy   string
	MadeAt   string
	Digest   string
	Outcomes []overlay.Outcome // what each action finds in this version
	Document *value.Value      // the overlay as JSON
}

// The states of an overlay.
const (
	overlayDraft = "draft"
	overlayShown = "shown"
)

// maxOverlay bounds an overlay, in bytes.
const maxOverlay = 2 << 20

// Overlay reads the overlay of a version: the draft, else what is shown, else what the version before it shows.
func (l *Ledger) Overlay(ctx context.Context, who Actor, ref string) (Overlay, error) {
	w := l.view(who)
	v, err := w.inside(ctx, ref)
	if err != nil {
		return Overlay{}, err
	}
	return w.overlayOf(ctx, v)
}

func (w view) overlayOf(ctx context.Context, v Version) (Overlay, error) {
	o := Overlay{Version: v.Ref(), State: "none", Outcomes: []overlay.Outcome{}}
	row, err := w.newestOverlay(ctx, v)
	if isNotFound(err) {
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
	_, o.Outcomes, err = w.overlaid(ctx, v, row.Text)
	return o, err
}

// newestOverlay finds the row that a version's overlay is edited from.
func (w view) newestOverlay(ctx context.Context, v Version) (records.Overlay, error) {
	for _, state := range []string{overlayDraft, overlayShown} {
		row, err := w.rows.Overlay(ctx, v.API, v.Number, state)
		if err == nil || !isNotFound(err) {
			return row, err
		}
	}
	a, err := w.apiAsIs(ctx, v.API)
	if err != nil {
		return records.Overlay{}, err
	}
	if base := predecessor(a, v); base != nil {
		return w.rows.Overlay(ctx, base.API, base.Number, overlayShown)
	}
	return records.Overlay{}, records.ErrNotFound
}

// PutOverlay keeps a draft of a version's overlay. It is refused where it is no overlay, where the description with it cannot be read,
// and where it changes more than how the reference reads. ifMatch is the digest of what was edited, "" for any.
func (l *Ledger) PutOverlay(ctx context.Context, who Actor, ref, text, ifMatch string) (Overlay, error) {
	w := l.view(who)
	if err := l.may(who, Word, apiOf(ref)); err != nil {
		return Overlay{}, err
	}
	v, err := w.resolve(ctx, ref)
	if err != nil {
		return Overlay{}, err
	}
	if err := w.checkOverlay(ctx, v, []byte(text)); err != nil {
		return Overlay{}, err
	}
	err = w.act(ctx, v.API, func(w view) error {
		if err := w.unchanged(ctx, v); err != nil {
			return err // it was checked against what the version said then
		}
		known, err := w.newestOverlay(ctx, v)
		if err != nil && !isNotFound(err) {
			return err
		}
		if ifMatch != "" && (err != nil || digest(known.Text, nil) != ifMatch) {
			return refuse(Conflict, "the overlay of %s is not as you last read it; read it again", v.Ref())
		}
		row := records.Overlay{API: v.API, Number: v.Number, State: overlayDraft, Text: []byte(text), MadeBy: w.who.Name, MadeAt: w.stamp()}
		if err := w.rows.PutOverlay(ctx, row); err != nil {
			return err
		}
		w.quiet()
		return w.appendJournal(ctx, "overlay.drafted", v.Ref(), map[string]string{"digest": digest(row.Text, nil)})
	})
	if err != nil {
		return Overlay{}, err
	}
	return w.overlayOf(ctx, v)
}

// checkOverlay refuses an overlay that does more than it may. In a transaction nothing is computed: errMoved asks to compute before it.
func (w view) checkOverlay(ctx context.Context, v Version, text []byte) error {
	key := v.Digest + " " + v.File + " " + digest(text, nil)
	if known, ok := w.overlays.Get(key); ok {
		return known
	}
	if w.rows.Writing() {
		return errMoved
	}
	err := w.lookOver(ctx, v, text)
	var refused *Error
	if err == nil || errors.As(err, &refused) {
		w.overlays.Add(key, err)
	}
	return err
}

func (w view) lookOver(ctx context.Context, v Version, text []byte) error {
	if len(text) > maxOverlay {
		return refuse(Invalid, "an overlay has at most %d bytes", maxOverlay)
	}
	changed, outcomes, err := w.overlaid(ctx, v, text)
	if err != nil {
		return err
	}
	for i, o := range outcomes {
		if o.Wrong != "" {
			return refuse(Invalid, "action %d: %s", i+1, o.Wrong)
		}
	}
	plain, _, err := w.overlaid(ctx, v, nil)
	if err != nil {
		return err
	}
	var c *compare.Comparison
	if waited := w.Heavily(ctx, func() { c, err = compare.ContractsContext(ctx, plain, changed, compare.Options{}) }); waited != nil ||
		err != nil {
		return cmp.Or(waited, err)
	}
	for _, ch := range c.Changes {
		if ch.Backward != compare.Editorial || ch.Forward != compare.Editorial {
			return refuse(Conflict, "an overlay changes how the reference reads, not what the API does: with this one, %s (%s)", ch.Title,
				strings.TrimSpace(ch.Operation+" "+ch.At))
		}
	}
	return nil
}

// ShowOverlay shows readers the draft of a version's overlay. It is refused with Exposed where a published version would show what looks
// like a credential.
func (l *Ledger) ShowOverlay(ctx context.Context, who Actor, ref string) (Overlay, error) {
	w := l.view(who)
	if err := l.may(who, Word, apiOf(ref)); err != nil {
		return Overlay{}, err
	}
	v, err := w.resolve(ctx, ref)
	if err != nil {
		return Overlay{}, err
	}
	var row records.Overlay
	look := func(w view) error {
		if row, err = w.rows.Overlay(ctx, v.API, v.Number, overlayDraft); err != nil {
			return notFound(err, "%s has no draft of an overlay", v.Ref())
		}
		return w.checkOverlay(ctx, v, row.Text) // the draft that it words may have been recorded anew
	}
	err = w.prepared(ctx, v.API, look, func(w view) error {
		if err := w.unchanged(ctx, v); err != nil {
			return err
		}
		if err := look(w); err != nil {
			return err
		}
		if v.State != Draft {
			if err := w.exposed(ctx, v, nil); err != nil {
				return err
			}
		}
		if err := w.rows.DropOverlay(ctx, v.API, v.Number, overlayDraft); err != nil {
			return err
		}
		return w.show(ctx, v, row.Text)
	})
	if err != nil {
		return Overlay{}, err
	}
	return w.overlayOf(ctx, v)
}

func (w view) show(ctx context.Context, v Version, text []byte) error {
	row := records.Overlay{API: v.API, Number: v.Number, State: overlayShown, Text: text, MadeBy: w.who.Name, MadeAt: w.stamp()}
	if err := w.rows.PutOverlay(ctx, row); err != nil {
		return err
	}
	return w.appendJournal(ctx, "overlay.shown", v.Ref(), map[string]string{"digest": digest(text, nil)})
}

// DropOverlay takes away the draft of a version's overlay; where there is none, what is shown.
func (l *Ledger) DropOverlay(ctx context.Context, who Actor, ref string) error {
	w := l.view(who)
	if err := l.may(who, Word, apiOf(ref)); err != nil {
		return err
	}
	v, err := w.resolve(ctx, ref)
	if err != nil {
		return err
	}
	return w.act(ctx, v.API, func(w view) error {
		for _, state := range []string{overlayDraft, overlayShown} {
			_, err := w.rows.Overlay(ctx, v.API, v.Number, state)
			if isNotFound(err) {
				continue
			}
			if err == nil {
				err = w.rows.DropOverlay(ctx, v.API, v.Number, state)
			}
			if err != nil {
				return err
			}
			if state == overlayDraft {
				w.quiet()
			}
			return w.appendJournal(ctx, "overlay.dropped", v.Ref(), map[string]string{"state": state})
		}
		return refuse(NotFound, "%s has no overlay of its own", v.Ref())
	})
}

// inheritOverlay shows with a version that is being published the overlay that the version before it shows, unless it has one of its own.
func (w view) inheritOverlay(ctx context.Context, v Version) error {
	row, fits, err := w.inheritedOverlay(ctx, v)
	if err != nil || !fits {
		return err
	}
	if row.Number == v.Number {
		if err := w.rows.DropOverlay(ctx, v.API, v.Number, overlayDraft); err != nil {
			return err
		}
	}
	return w.show(ctx, v, row.Text)
}

// inheritedOverlay is the overlay that would be shown with a version once it is published. One that does not fit it any more is not: its
// editor says why.
func (w view) inheritedOverlay(ctx context.Context, v Version) (row records.Overlay, fits bool, err error) {
	row, err = w.newestOverlay(ctx, v)
	if isNotFound(err) || err == nil && row.Number == v.Number && row.State == overlayShown {
		return row, false, nil
	}
	if err != nil {
		return row, false, err
	}
	var unfit *Error
	switch err := w.checkOverlay(ctx, v, row.Text); {
	case errors.As(err, &unfit):
		return row, false, nil
	case err != nil:
		return row, false, err
	}
	return row, true, nil
}

// OverlayView is a version as one OpenAPI document: as its description has it, and with its overlay's draft.
type OverlayView struct {
	Plain    *value.Value
	Overlaid *value.Value
}

// OverlayView reads a version with and without its overlay.
func (l *Ledger) OverlayView(ctx context.Context, who Actor, ref string) (OverlayView, error) {
	w := l.view(who)
	v, err := w.inside(ctx, ref)
	if err != nil {
		return OverlayView{}, err
	}
	text, err := w.overlayText(ctx, v, true)
	if err != nil {
		return OverlayView{}, err
	}
	plain, _, err := w.layered(ctx, v, nil)
	if err != nil {
		return OverlayView{}, err
	}
	worded, _, err := w.layered(ctx, v, text)
	return OverlayView{plain, worded}, err
}

// overlayText is the overlay of a version, as it is shown or, draft, as it is being edited; nil where there is none.
func (w view) overlayText(ctx context.Context, v Version, draft bool) ([]byte, error) {
	find := func() (records.Overlay, error) { return w.rows.Overlay(ctx, v.API, v.Number, overlayShown) }
	if draft {
		find = func() (records.Overlay, error) { return w.whole().newestOverlay(ctx, v) }
	}
	row, err := find()
	if isNotFound(err) {
		return nil, nil
	}
	return row.Text, err
}

// Documented is what a version says as its readers see it: with its overlay, as it is shown or, to whoever holds the address of its
// preview, as its draft has it or as they are writing it.
func (l *Ledger) Documented(ctx context.Context, who Actor, v Version) (*contract.Contract, error) {
	w := l.view(who)
	if !who.reads(v) {
		return nil, refuse(NotFound, "there is no %s", v.Ref())
	}
	text, err := w.overlayText(ctx, v, who.holds == v.Ref())
	if who.sketch != "" && who.holds == v.Ref() {
		text, err = []byte(who.sketch), nil
	}
	if err != nil || text == nil {
		if err != nil {
			return nil, err
		}
		return w.contract(ctx, v)
	}
	c, _, err := w.overlaid(ctx, v, text)
	return c, err
}

// overlaid reads a version with an overlay put over it as one OpenAPI description; nil text is no overlay.
func (w view) overlaid(ctx context.Context, v Version, text []byte) (*contract.Contract, []overlay.Outcome, error) {
	root, outcomes, err := w.layered(ctx, v, text)
	if err != nil {
		return nil, nil, err
	}
	var c *contract.Contract
	err = w.readSet(ctx, "overlaid.json", []byte(root.Indented()), nil, func(read *contract.Contract, _ *source.Set) error {
		c = read
		return nil
	})
	var unreadable *Error
	if errors.As(err, &unreadable) {
		return nil, nil, &Error{Fault: Unreadable, Text: fmt.Sprintf("with the overlay, the description of %s cannot be read: %s", v.Ref(),
			unreadable.Text), Diagnostics: unreadable.Diagnostics}
	}
	return c, outcomes, err
}

// layered is a version as one OpenAPI document, with an overlay put over it; nil text is no overlay.
func (w view) layered(ctx context.Context, v Version, text []byte) (*value.Value, []overlay.Outcome, error) {
	c, err := w.content(ctx, v)
	if err != nil {
		return nil, nil, err
	}
	root, err := w.oneFile(ctx, v.Ref(), c)
	if err != nil {
		return nil, nil, err
	}
	return w.overlay(ctx, root, text)
}

// overlay puts an overlay over a document.
func (l *Ledger) overlay(ctx context.Context, root *value.Value, text []byte) (*value.Value, []overlay.Outcome, error) {
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
