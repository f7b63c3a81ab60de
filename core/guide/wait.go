package guide

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/promise"
)

// Wait is something that still works in the new version and leaves later.
type Wait struct {
	Title      string          `json:"title"`
	Until      string          `json:"until,omitempty"` // a date; "" where none is announced
	Instead    string          `json:"instead,omitempty"`
	Reason     string          `json:"reason,omitempty"`
	Operations []string        `json:"operations"`
	Notice     *promise.Notice `json:"notice,omitempty"` // that says so
	Change     string          `json:"change,omitempty"` // the id of the change that says so

	Reach []string `json:"reach"` // the keys of the operations, as the old version calls them
}

// waits are what notices and the description announce of parts of the new version, the first to leave first.
func (w *writer) waits() []Wait {
	all := []Wait{}
	var told []promise.Notice
	for _, n := range w.ctx.Notices {
		if n.Whole() || !n.Covers(w.new.Version, w.ctx.NewLine) {
			continue
		}
		reach, there := n.Reach(w.new)
		if !there {
			continue
		}
		told = append(told, n)
		what := n.Part()
		if n.OfOperation(n.Operation) && n.Operation != "" {
			what = w.names([]string{n.Operation})[0]
		}
		all = append(all, Wait{
			Title: what + " leaves", Until: n.Sunset, Instead: n.ReplacedBy, Reason: n.Reason, Operations: w.names(reach), Notice: &n,
			Reach: w.allFormerly(reach),
		})
	}
	for _, ch := range w.comparison.Changes {
		if !strings.HasSuffix(ch.Kind, "deprecated") || strings.HasSuffix(ch.Kind, "undeprecated") || ch.New == nil {
			continue
		}
		if slices.ContainsFunc(told, func(n promise.Notice) bool { return n.MarkedIn(ch) }) {
			continue
		}
		all = append(all, Wait{Title: sentence(ch.Title), Operations: w.names(ch.Reach), Change: ch.ID, Reach: w.allFormerly(ch.Reach)})
	}
	slices.SortStableFunc(all, func(a, b Wait) int {
		if (a.Until == "") != (b.Until == "") {
			return len(b.Until) - len(a.Until)
		}
		return strings.Compare(a.Until, b.Until)
	})
	return all
}

// plans are the expand-and-contract plans of the API that concern the way from the old version to the new one.
func (w *writer) plans() []promise.Plan {
	key := func(ref string) string {
		if op := w.find(ref); op != nil {
			return op.Key()
		}
		return ref
	}
	all := promise.Plans(w.ctx.Notices, w.ctx.History, key, w.ctx.Today)
	from, err := contract.ParseVersion(w.old.Version)
	if err != nil {
		return all
	}
	return slices.DeleteFunc(all, func(p promise.Plan) bool { // what was over before the old version is nobody's business here
		v, err := contract.ParseVersion(p.Contracted)
		return p.Contracted != "" && err == nil && !v.GreaterThan(from)
	})
}

// concerned lists the operations that the steps of a guide reach.
func (w *writer) concerned(g *Guide) []Operation {
	steps := map[string]int{}
	for _, list := range [][]Step{g.Must, g.Check} {
		for _, s := range list {
			for _, key := range s.Change.Reach {
				steps[key]++
			}
		}
	}
	for _, wait := range g.Wait {
		for _, key := range wait.Reach {
			steps[key]++
		}
	}
	all := []Operation{}
	for _, c := range []*contract.Contract{w.old, w.new} {
		for _, op := range c.All() {
			if n := steps[op.Key()]; n > 0 {
				all = append(all, Operation{op.Key(), op.ID, w.names([]string{op.Key()})[0], n})
				delete(steps, op.Key())
			}
		}
	}
	return all
}

// formerly is the key that an operation of the new version had in the old one.
func (w *writer) formerly(key string) string {
	for from, to := range w.moved {
		if to == key {
			return from
		}
	}
	return key
}

func (w *writer) allFormerly(keys []string) []string {
	out := make([]string, len(keys))
	for i, key := range keys {
		out[i] = w.formerly(key)
	}
	return out
}
