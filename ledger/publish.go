package ledger

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/ledger/records"
)

// Waive is the wish to publish in spite of one change.
type Waive struct {
	Change string // the change's id
	Reason string
}

// Waiver is a recorded, named permission to publish a breaking change.
type Waiver struct {
	Version string
	Change  string
	Kind    string
	Title   string
	Reason  string
	MadeBy  string
	MadeAt  string
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
	what, breaks := strings.CutPrefix(g.Gate.Why(), "it ")
	if !breaks {
		what = "is not published: " + what
	}
	return fmt.Sprintf("%s %s: %s", g.Ref, what, strings.Join(titles, "; "))
}

// Gate says whether a version may be published as it is.
func (l *Ledger) Gate(ctx context.Context, who Actor, ref string) (promise.Gate, error) {
	w := l.view(who)
	v, err := w.inside(ctx, ref)
	if err != nil {
		return promise.Gate{}, err
	}
	return w.judge(ctx, v, nil, nil)
}

// inside finds a version for whoever may read what is not published.
func (w view) inside(ctx context.Context, ref string) (Version, error) {
	if err := w.may(w.who, ReadInside, apiOf(ref)); err != nil {
		return Version{}, err
	}
	return w.resolve(ctx, ref)
}

// apiOf is the API that a reference names.
func apiOf(ref string) string {
	name, _, _ := strings.Cut(ref, "@")
	return name
}

// judge compares a version with every version of its line below it that is still supported, whoever may know of them. c is what it says,
// nil to read it where it is needed.
func (w view) judge(ctx context.Context, v Version, c *contract.Contract, waived []string) (promise.Gate, error) {
	w = w.whole()
	a, err := w.apiAsIs(ctx, v.API)
	if err != nil {
		return promise.Gate{}, err
	}
	style, err := w.inForce(ctx, v.API, w.teamOf(v.API))
	if err != nil {
		return promise.Gate{}, err
	}
	p := promise.Of(a.PromiseOf(v.Line), v.number)
	var against []promise.Against
	if p != promise.None {
		for _, o := range a.Versions {
			if o.Line != v.Line || !o.number.LessThan(v.number) || o.number.Prerelease() != "" || !o.Supported(w.Today()) {
				continue
			}
			changes, err := w.comparison(ctx, o, v, compare.Options{}, c)
			if err != nil {
				return promise.Gate{}, err
			}
			against = append(against, promise.Against{Version: o.Number, Comparison: style.Graded(changes)})
		}
	}
	earlier, err := w.rows.Waivers(ctx, a.Name)
	if err != nil {
		return promise.Gate{}, err
	}
	for _, earlier := range earlier {
		// What was waived for a version of the line stays waived for those that follow it.
		if n := number(earlier.Version); promise.Line(n) == v.Line && n.LessThan(v.number) {
			waived = append(waived, earlier.Change)
		}
	}
	gate := promise.Judge(p, against, waived)
	if a.Terms.Untouched == "through" {
		if err := w.letUntouched(ctx, a, &gate); err != nil {
			return promise.Gate{}, err
		}
	}
	if err := w.guard(ctx, v, c, &gate, waived); err != nil {
		return promise.Gate{}, err
	}
	gate.Announce(a.Notices, w.Today())
	next := v.number.IncMajor()
	line := next.String()
	if _, dated := contract.Dated(v.number); dated {
		line = "a later date"
	}
	gate.SetWaysOut(line, a.NoticeDays, w.Today())
	return gate, nil
}

// Publish turns a draft into a published version, which never changes. It is refused with a GateShut where the version breaks its line's
// promise and not every break is waived, with Mistaken where its description has errors, and with Exposed where it holds what looks like a
// credential, and not each was allowed. An unpublished version gets its reference back.
func (l *Ledger) Publish(ctx context.Context, who Actor, ref string, waives []Waive, allow ...Exception) (Version, error) {
	w := l.view(who)
	if err := l.may(who, Publish, apiOf(ref)); err != nil {
		return Version{}, err
	}
	v, err := w.resolve(ctx, ref)
	if err != nil {
		return Version{}, err
	}
	if v.State == Unpublished {
		return w.republish(ctx, v)
	}
	if v.State != Draft {
		return v, refuse(Conflict, "%s is already published", v.Ref())
	}
	d, err := w.describe(ctx, v)
	if err != nil {
		return v, err
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
	prepare := func(w view) error {
		if _, err := w.judge(ctx, v, d.Contract, ids); err != nil {
			return err
		}
		_, _, err := w.inheritedOverlay(ctx, v) // made now, it is known then
		return err
	}
	err = w.prepared(ctx, v.API, prepare, func(w view) error {
		if err := w.unchanged(ctx, v); err != nil {
			return err
		}
		if err := w.reviewed(ctx, v, len(waives)+len(allow) > 0); err != nil {
			return err
		}
		gate, err := w.judge(ctx, v, d.Contract, ids)
		if err == nil {
			err = onlyObstacles(v, gate, ids)
		}
		if err != nil {
			return err
		}
		if !gate.Open {
			return &GateShut{v.Ref(), gate}
		}
		for _, waive := range append(untouched(gate), waives...) {
			if err := w.waive(ctx, v, gate, waive); err != nil {
				return err
			}
		}
		if err := w.admit(ctx, v, allow); err != nil {
			return err
		}
		if err := w.move(ctx, v, Published); err != nil {
			return err
		}
		if err := w.appendJournal(ctx, "version.published", v.Ref(), map[string]string{"digest": v.Digest}); err != nil {
			return err
		}
		if err := w.inheritOverlay(ctx, v); err != nil {
			return err
		}
		return w.declare(ctx, v, d)
	})
	if err != nil {
		return v, err
	}
	l.published(v.Ref())
	return w.resolve(ctx, v.Ref())
}

// onlyObstacles refuses to waive what does not stand in the way.
func onlyObstacles(v Version, gate promise.Gate, ids []string) error {
	for _, id := range ids {
		if !slices.ContainsFunc(gate.Obstacles, func(o promise.Obstacle) bool { return o.Change.HasID(id) }) {
			return refuse(Invalid, "no change %s stands in the way of %s; %s", id, v.Ref(), obstacles(gate))
		}
	}
	return nil
}

// obstacles names what stands in the way.
func obstacles(gate promise.Gate) string {
	var all []string
	for _, o := range gate.Obstacles {
		if !o.Waived {
			all = append(all, o.Change.ID+" ("+o.Change.Title+")")
		}
	}
	if len(all) == 0 {
		return "nothing does"
	}
	if more := len(all) - 3; more > 0 {
		all = append(all[:3], fmt.Sprintf("and %d more", more))
	}
	return "what does is " + strings.Join(all, ", ")
}

// unchanged refuses to act on a draft that somebody replaced since it was looked at.
func (w view) unchanged(ctx context.Context, v Version) error {
	row, err := w.rows.Version(ctx, v.API, v.Number)
	if err != nil {
		return notFound(err, "there is no %s", v.Ref())
	}
	if row.ID != v.revision || State(row.State) != v.storedState() {
		return stale(records.ErrStale, v.Ref())
	}
	return nil
}

const maxReason = 2000

func (w view) waive(ctx context.Context, v Version, gate promise.Gate, wish Waive) error {
	for _, o := range gate.Obstacles {
		if !o.Change.HasID(wish.Change) {
			continue
		}
		row := records.Waiver{
			API: v.API, Version: v.Number, Change: o.Change.ID, Kind: o.Change.Kind, Title: o.Change.Title,
			Reason: wish.Reason, MadeBy: w.who.Name, MadeAt: w.stamp(),
		}
		if err := w.rows.AddWaiver(ctx, row); err != nil {
			return err
		}
		return w.appendJournal(ctx, "change.waived", v.Ref(), map[string]string{
			"change": o.Change.ID, "title": o.Change.Title,
			"reason": wish.Reason,
		})
	}
	return refuse(Invalid, "no change %s stands in the way of %s; %s", wish.Change, v.Ref(), obstacles(gate))
}

// waivers lists the waivers of an API.
func (w view) waivers(ctx context.Context, api string) ([]Waiver, error) {
	rows, err := w.rows.Waivers(ctx, api)
	if err != nil {
		return nil, err
	}
	out := make([]Waiver, len(rows))
	for i, w := range rows {
		out[i] = Waiver{w.Version, w.Change, w.Kind, w.Title, w.Reason, w.MadeBy, w.MadeAt}
	}
	return out, nil
}
