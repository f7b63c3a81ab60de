// Package replay holds recorded exchanges against a version of an API: does every recorded request still pass, does every recorded answer
// still fit, and does the version promise what a consumer reads?
//
//	r := replay.New(ctx, version, replay.Options{Recorded: old, Need: need})
//	for _, e := range exchanges {
//		r.Take(e)
//	}
//	report := r.Report()
//
// Nothing is sent: a description answers. A request passes where the version admits it; an answer fits where the version may give one that
// says all that was read of it. What the version of the recording refuses as well is told, and is no fault of the new one.
package replay

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"oldledger/core/budget"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/reliance"
	"oldledger/core/shape"
)

// Options of a replay; the zero value is the usual one.
type Options struct {
	Recorded *contract.Contract // the version that answered when it was recorded; nil where nobody knows
	Need     *reliance.Need     // what is sent and read; nil: all counts
	Refuses  bool               // whether the server refuses what its description does not declare
}

// Finding is what is wrong with one or more exchanges.
type Finding struct {
	Kind      Kind             `json:"kind"`
	Grade     compare.Grade    `json:"grade"` // breaking: the client fails; hazard: it may
	Undecided bool             `json:"undecided,omitempty"`
	Operation string           `json:"operation,omitempty"` // as its author wrote it; "" where none is like it
	Location  compare.Location `json:"location"`
	At        string           `json:"at,omitempty"` // the location in words
	Title     string           `json:"title"`
	Message   string           `json:"message,omitempty"` // shows it
	Also      []string         `json:"also,omitempty"`    // the other operations in which the same part of the description makes it
	Exchanges []int            `json:"exchanges"`         // the numbers of the entries; none: it follows from the description alone

	aspect string           // what tells it from others at its place
	of     *contract.Schema // the one whose field it is about; nil where there is none
}

// Kind is what a finding is about.
type Kind string

// The kinds.
const (
	Route     Kind = "route"      // no operation is like the request
	Request   Kind = "request"    // the request is refused
	Ignored   Kind = "ignored"    // something of it is not read
	Answer    Kind = "answer"     // the version gives no such answer
	Promise   Kind = "promise"    // it no longer promises what is read
	NotLooked Kind = "not-looked" // nobody can tell
)

// Report is what came of a replay.
type Report struct {
	Format     string      `json:"format"`
	Exchanges  int         `json:"exchanges"`           // that are calls of the API
	Passed     int         `json:"passed"`              // of them, those of which nothing breaking is told
	Operations []string    `json:"operations"`          // that they call, as their authors wrote them
	Elsewhere  []Elsewhere `json:"elsewhere,omitempty"` // calls of other hosts
	Findings   []*Finding  `json:"findings"`            // the worst first
}

// Format names the JSON form of a Report.
const Format = "oldledger.replay/1"

// Elsewhere is a host of which exchanges are no calls of the API.
type Elsewhere struct {
	Host      string `json:"host"`
	Exchanges int    `json:"exchanges"`
}

// Holds reports whether every exchange still passes.
func (r *Report) Holds() bool {
	return r.Passed == r.Exchanges && !slices.ContainsFunc(r.Findings, func(f *Finding) bool { return f.Grade == compare.Breaking })
}

// Replay takes exchanges, and finds what is wrong with them.
type Replay struct {
	side      *side // of the version that is asked
	recorded  *side // of the one that answered; nil where nobody knows
	options   Options
	ctx       context.Context
	budget    *budget.Budget // of some exchanges together
	over      bool           // whether one ended
	found     []*Finding
	by        map[string]*Finding // those that were found, by operation, grade and key, and by what they share
	more      bool                // whether more was found than is told
	exchanges int
	failed    map[int]bool
	called    map[*contract.Operation]bool
	was       map[*contract.Operation]*contract.Operation // the operation of the recorded version, by that of the new one
	statuses  map[*contract.Operation][]int               // of the answers that were recorded
	elsewhere map[string]int
	strange   []*exchange.Exchange // of which nobody knows yet whether they are calls of the API
	hosts     map[string]bool      // at which calls of the API were met
}

// New begins a replay against a version. Its questions end with ctx, or with budgets that grow with the version and the exchanges.
func New(ctx context.Context, version *contract.Contract, o Options) *Replay {
	r := &Replay{
		side: newSide(version), options: o, ctx: ctx, by: map[string]*Finding{}, failed: map[int]bool{}, called: map[*contract.Operation]bool{},
		was: map[*contract.Operation]*contract.Operation{}, statuses: map[*contract.Operation][]int{}, elsewhere: map[string]int{},
		hosts: map[string]bool{},
	}
	if o.Recorded != nil {
		r.recorded = newSide(o.Recorded)
	}
	r.refresh()
	return r
}

// stretch is how many exchanges share a budget, and what is kept of questions.
const stretch = 64

// refresh begins a stretch.
func (r *Replay) refresh() {
	size := r.side.version.Size
	if r.recorded != nil {
		size += r.recorded.version.Size
	}
	r.over = r.over || r.budget.Over()
	r.budget = budget.New(r.ctx, budget.For(size))
	r.side.space = shape.NewSpace(shape.Declared, r.budget)
	if r.options.Refuses {
		r.side.space.Refuse()
	}
	if r.recorded != nil {
		r.recorded.space = shape.NewSpace(shape.Declared, r.budget)
	}
}

// Take holds an exchange against the version.
func (r *Replay) Take(e *exchange.Exchange) {
	if preflight(e) {
		return
	}
	before := match{}
	if r.recorded != nil {
		before = r.recorded.find(e, match{})
	}
	at := r.side.find(e, before)
	switch {
	case at.op != nil || before.op != nil:
		r.hosts[e.URL.Hostname()] = true
		r.hold(e, at, before)
	case r.side.hosts[e.URL.Hostname()] || r.recorded != nil && r.recorded.hosts[e.URL.Hostname()]:
		r.hold(e, at, before)
	default:
		if len(r.strange) < maxStrange {
			r.strange = append(r.strange, e)
		} else {
			r.elsewhere[e.URL.Hostname()]++
		}
	}
}

// preflight reports whether a browser asked whether it may ask (Fetch, CORS protocol).
func preflight(e *exchange.Exchange) bool {
	_, asks := e.Request.Header("access-control-request-method")
	return e.Method == "OPTIONS" && asks
}

// maxStrange is how many exchanges wait until is known whether they are calls of the API.
const maxStrange = 10_000

// hold finds what is wrong with an exchange of the API.
func (r *Replay) hold(e *exchange.Exchange, at, before match) {
	if r.exchanges++; r.exchanges%stretch == 0 {
		r.refresh()
	}
	var told []*Finding
	if at.op == nil {
		told = r.side.unrouted(e, at, before)
	} else {
		r.called[at.op] = true
		if before.op != nil {
			r.was[at.op] = before.op
		}
		told = r.sided(r.side, e, at)
	}
	if before.op != nil && at.op != nil {
		known := map[string]bool{}
		for _, f := range r.sided(r.recorded, e, before) {
			known[f.key()] = true
		}
		for _, f := range told {
			switch {
			case known[f.key()]:
				f.Grade = compare.Hazard
				f.Title += "; so it was in " + r.recorded.version.Version
			case f.Kind == Answer && f.aspect == nowhere:
				f.Grade = compare.Breaking // it was described
			}
		}
	}
	for _, f := range told {
		f.Exchanges = []int{e.Number}
		r.tell(f)
	}
}

// sided finds what is wrong with an exchange at one of the versions.
func (r *Replay) sided(s *side, e *exchange.Exchange, at match) []*Finding {
	var need *reliance.Operation
	if r.options.Need != nil {
		need = r.needed(at.op)
	}
	return append(s.request(e, at, r.options.Refuses), r.answer(s, e, at, need)...)
}

// needed is what is relied on of an operation: nothing where it is not named.
func (r *Replay) needed(op *contract.Operation) *reliance.Operation {
	keys := []string{op.Key()}
	if was := r.was[op]; was != nil {
		keys = append(keys, was.Key())
	}
	for _, o := range r.options.Need.Operations {
		if slices.Contains(keys, o.Key()) || o.Name == op.ID && op.ID != "" {
			return o
		}
	}
	return nil
}

// key tells findings apart.
func (f *Finding) key() string {
	return strings.Join([]string{string(f.Kind), f.Location.String(), f.aspect}, "\x00")
}

// shared tells findings about the same field of the same schema: they are one, at whichever operation; "" for what is about no such field.
func (f *Finding) shared() string {
	if f.of == nil || len(f.Location.Fields) == 0 {
		return ""
	}
	return fmt.Sprintf("%s\x00%d\x00%p\x00%s\x00%s\x00%s", f.Kind, f.Grade, f.of, f.Location.Part, f.aspect,
		f.Location.Fields[len(f.Location.Fields)-1])
}

// less reports whether another finding tells worse of the same field of the same schema: it is one edit.
func (f *Finding) less(o *Finding) bool {
	a, b := f.Location.Fields, o.Location.Fields
	return o.Grade == compare.Breaking && f.of != nil && f.of == o.of && len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1]
}

// maxFindings bounds what is told, and maxShown a message, in characters.
const (
	maxFindings = 200
	maxShown    = 1_000
)

// tell keeps a finding; the same of another exchange only adds that.
func (r *Replay) tell(f *Finding) {
	if f.Grade == compare.Breaking {
		for _, n := range f.Exchanges {
			r.failed[n] = true
		}
	}
	own, shared := fmt.Sprintf("%s\x00%d\x00%s", f.Operation, f.Grade, f.key()), f.shared()
	known := r.by[own]
	if known == nil && shared != "" {
		known = r.by[shared]
	}
	switch {
	case known != nil:
		for _, n := range f.Exchanges {
			if len(known.Exchanges) == 0 || known.Exchanges[len(known.Exchanges)-1] != n {
				known.Exchanges = append(known.Exchanges, n)
			}
		}
		if f.Operation != known.Operation && !slices.Contains(known.Also, f.Operation) {
			known.Also = append(known.Also, f.Operation)
		}
		return
	case len(r.found) >= maxFindings && f.Grade < compare.Breaking || len(r.found) >= 2*maxFindings: // what breaks is told first
		r.more = true
		return
	}
	f.Title, f.Message = printable(f.Title), printable(f.Message)
	r.found = append(r.found, f)
	if r.by[own] = f; shared != "" {
		r.by[shared] = f
	}
}

// printable is a text of a few lines, without what a terminal would obey.
func printable(text string) string {
	if runes := []rune(text); len(runes) > maxShown {
		text = string(runes[:maxShown]) + "…"
	}
	return strings.Map(func(r rune) rune {
		if r != '\n' && unicode.IsControl(r) {
			return unicode.ReplacementChar
		}
		return r
	}, text)
}

// Report is what was found.
func (r *Replay) Report() *Report {
	for _, e := range r.strange {
		if r.hosts[e.URL.Hostname()] {
			r.hold(e, match{}, match{})
		} else {
			r.elsewhere[e.URL.Hostname()]++
		}
	}
	r.strange = nil
	r.refresh()
	r.promises()
	if r.over || r.budget.Over() {
		r.found = append(r.found, &Finding{
			Kind: NotLooked, Grade: compare.Hazard, Undecided: true, Exchanges: []int{},
			Title: "the replay ended at its budget: what was not found by then, here and there, is not known to pass",
		})
	}
	if r.more {
		r.found = append(r.found, &Finding{
			Kind: NotLooked, Grade: compare.Hazard, Undecided: true, Exchanges: []int{},
			Title: fmt.Sprintf("more than %d things are to be told; these are the first", maxFindings),
		})
	}
	out := &Report{
		Format: Format, Exchanges: r.exchanges, Passed: r.exchanges - len(r.failed), Operations: []string{}, Findings: slices.Clone(r.found),
	}
	if out.Findings == nil {
		out.Findings = []*Finding{}
	}
	for op := range r.called {
		out.Operations = append(out.Operations, op.Written())
	}
	slices.Sort(out.Operations)
	for host, n := range r.elsewhere {
		out.Elsewhere = append(out.Elsewhere, Elsewhere{host, n})
	}
	slices.SortFunc(out.Elsewhere, func(a, b Elsewhere) int {
		return cmp.Or(b.Exchanges-a.Exchanges, strings.Compare(a.Host, b.Host))
	})
	out.Findings = slices.DeleteFunc(out.Findings, func(f *Finding) bool {
		return f.Grade < compare.Breaking && slices.ContainsFunc(r.found, f.less)
	})
	for _, f := range out.Findings {
		f.At = f.Location.String()
	}
	out.sort()
	return out
}

// sort puts the worst first, and what is about one operation together.
func (r *Report) sort() {
	worst, first := map[string]compare.Grade{}, map[string]int{}
	for i, f := range r.Findings {
		worst[f.Operation] = max(worst[f.Operation], f.Grade)
		if _, there := first[f.Operation]; !there {
			first[f.Operation] = i
		}
	}
	slices.SortStableFunc(r.Findings, func(a, b *Finding) int {
		return cmp.Or(cmp.Compare(worst[b.Operation], worst[a.Operation]), first[a.Operation]-first[b.Operation], cmp.Compare(b.Grade, a.Grade))
	})
}
