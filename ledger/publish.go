package ledger

import (
	"context"
	"fmt"
	"strings"

	"github.com/Masterminds/semver/v3"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/store"
)

// Waive is the wish to publish in spite of one change.
type Waive struct {
	Change string `json:"change"` // the change's id
	Reason string `json:"reason"`
}

// Waiver is a recorded, named permission to publish a breaking change.
type Waiver struct {
	Version string `json:"version"`
	Change  string `json:"change"`
	Kind    string `json:"kind"`
	Title   string `json:"title"`
	Reason  string `json:"reason"`
	MadeBy  string `json:"madeBy"`
	MadeAt  string `json:"madeAt"`
}

// GateShut is the refusal to publish a version that breaks its line's promise.
type GateShut struct {
	Ref  string
	Gate promise.Gate
}

func (g *GateShut) Error() string {
	var titles []string
	for _, o := range g.Gate.Obstacles {
		if !o.Waived {
			titles = append(titles, fmt.Sprintf("%s (%s)", o.Change.Title, o.Change.ID))
		}
	}
	return fmt.Sprintf("%s breaks the promise of its line, %s: %s", g.Ref, g.Gate.Promise, strings.Join(titles, "; "))
}

// Gate says whether a version may be published as it is.
func (l *Ledger) Gate(ctx context.Context, ref string) (promise.Gate, error) {
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return promise.Gate{}, err
	}
	a, err := l.API(ctx, v.API)
	if err != nil {
		return promise.Gate{}, err
	}
	return l.judge(ctx, l.store.Read(), a, v, nil, nil)
}

// judge compares a version with every version of its line below it that is still supported. c is what it says, nil to read it where it is needed.
func (l *Ledger) judge(ctx context.Context, r store.Rows, a API, v Version, c *contract.Contract, waived []string) (promise.Gate, error) {
	p := promise.Of(promise.Promise(a.Promise), v.number)
	var against []promise.Against
	if p != promise.None {
		for _, o := range a.Versions {
			if o.Line != v.Line || !o.number.LessThan(v.number) || o.number.Prerelease() != "" || !o.Supported(l.Today()) {
				continue
			}
			changes, err := l.comparison(ctx, r, o, v, compare.Options{}, c)
			if err != nil {
				return promise.Gate{}, err
			}
			against = append(against, promise.Against{Version: o.Number, Comparison: changes})
		}
	}
	earlier, err := r.Waivers(ctx, a.Name)
	if err != nil {
		return promise.Gate{}, err
	}
	for _, w := range earlier {
		// What was waived for a version of the line stays waived for those that follow it.
		if n := semver.MustParse(w.Version); promise.Line(n) == v.Line && n.LessThan(v.number) {
			waived = append(waived, w.Change)
		}
	}
	gate := promise.Judge(p, against, waived)
	gate.Announce(a.Notices, l.Today())
	next := v.number.IncMajor()
	gate.SetWaysOut(next.String(), a.NoticeDays, l.Today())
	return gate, nil
}

// Publish turns a draft into a published version, which never changes. It is refused with a GateShut where the version
// breaks its line's promise and not every break is waived, with Mistaken where its description has errors, and with Exposed where it holds what
// looks like a credential, and not each was allowed. An unpublished version gets its reference back.
func (l *Ledger) Publish(ctx context.Context, by Person, ref string, waives []Waive, allow ...Allow) (Version, error) {
	if err := mayWrite(by); err != nil {
		return Version{}, err
	}
	d, err := l.Description(ctx, ref)
	if err != nil {
		return Version{}, err
	}
	v := d.Version
	if v.State == Unpublished {
		return l.republish(ctx, by, v)
	}
	if v.State != Draft {
		return v, refuse(Conflict, "%s is already published", v.Ref())
	}
	ids := make([]string, len(waives))
	for i, w := range waives {
		if strings.TrimSpace(w.Reason) == "" || len(w.Reason) > maxReason {
			return v, refuse(Invalid, "a waiver for %s needs a reason of at most %d characters", w.Change, maxReason)
		}
		ids[i] = w.Change
	}
	for _, a := range allow {
		if strings.TrimSpace(a.Reason) == "" || len(a.Reason) > maxReason {
			return v, refuse(Invalid, "to allow %s needs a reason of at most %d characters", a.Finding, maxReason)
		}
	}
	judge := func(r store.Rows) (promise.Gate, error) {
		a, err := l.apiAsIs(ctx, r, v.API)
		if err != nil {
			return promise.Gate{}, err
		}
		return l.judge(ctx, r, a, v, d.Contract, ids)
	}
	prepare := func(r store.Rows) error {
		if _, err := judge(r); err != nil {
			return err
		}
		_, _, err := l.carried(ctx, r, v) // made now, it is known then
		return err
	}
	err = l.prepared(ctx, v.API, prepare, func(r store.Rows) error {
		if err := l.unchanged(ctx, r, v); err != nil {
			return err
		}
		gate, err := judge(r)
		if err != nil {
			return err
		}
		if !gate.Open {
			return &GateShut{v.Ref(), gate}
		}
		for _, w := range waives {
			if err := l.waive(ctx, r, by, v, gate, w); err != nil {
				return err
			}
		}
		if err := l.admit(ctx, r, by, v, allow); err != nil {
			return err
		}
		v.State, v.PublishedAt, v.PublishedBy = Published, l.stamp(), by.Name
		if err := r.SetPublished(ctx, v.API, v.Number, v.PublishedAt, by.Name); err != nil {
			return err
		}
		if err := l.enter(ctx, r, by, "version.published", v.Ref(), map[string]string{"digest": v.Digest}); err != nil {
			return err
		}
		if err := l.carry(ctx, r, by, v); err != nil {
			return err
		}
		return l.declare(ctx, r, by, v, d)
	})
	if err == nil {
		l.published(v.Ref())
	}
	return v, err
}

// unchanged refuses to act on a draft that somebody replaced since it was looked at.
func (l *Ledger) unchanged(ctx context.Context, r store.Rows, v Version) error {
	row, err := r.Version(ctx, v.API, v.Number)
	if err != nil {
		return notFound(err, "there is no %s", v.Ref())
	}
	if now := version(row); now.Digest != v.Digest || now.State != v.State {
		return refuse(Conflict, "%s was changed while it was looked at; look at it again", v.Ref())
	}
	return nil
}

const maxReason = 2000

func (l *Ledger) waive(ctx context.Context, r store.Rows, by Person, v Version, gate promise.Gate, w Waive) error {
	for _, o := range gate.Obstacles {
		if o.Change.ID != w.Change {
			continue
		}
		row := store.Waiver{
			API: v.API, Version: v.Number, Change: w.Change, Kind: o.Change.Kind, Title: o.Change.Title,
			Reason: w.Reason, MadeBy: by.Name, MadeAt: l.stamp(),
		}
		if err := r.AddWaiver(ctx, row); err != nil {
			return err
		}
		return l.enter(ctx, r, by, "change.waived", v.Ref(), map[string]string{"change": w.Change, "title": o.Change.Title, "reason": w.Reason})
	}
	return refuse(Invalid, "no change %s stands in the way of %s", w.Change, v.Ref())
}

// waivers lists the waivers of an API.
func (l *Ledger) waivers(ctx context.Context, api string) ([]Waiver, error) {
	rows, err := l.store.Read().Waivers(ctx, api)
	if err != nil {
		return nil, err
	}
	out := make([]Waiver, len(rows))
	for i, w := range rows {
		out[i] = Waiver{w.Version, w.Change, w.Kind, w.Title, w.Reason, w.MadeBy, w.MadeAt}
	}
	return out, nil
}
