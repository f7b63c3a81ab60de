package promise

import (
	"slices"
	"strings"
	"time"

	"oldledger/core/compare"
)

// Past is a version and what it changed against the one before it; nil for the first.
type Past struct {
	Version string
	Changes *compare.Comparison
}

// Stage is how far an expand and contract has come (docs/design/compatibility.md, Promises).
type Stage string

// The stages, in their order.
const (
	Deprecated Stage = "deprecated" // announced to leave, without a date or before it
	Due        Stage = "due"        // its date has passed: it may be contracted
	Contracted Stage = "contracted" // it has left
)

// Plan is one expand and contract: a part that leaves, and what takes its place.
type Plan struct {
	Subject    string `json:"subject"`               // "length of Vessel"
	Instead    string `json:"instead,omitempty"`     // what takes its place
	Expanded   string `json:"expandedIn,omitempty"`  // the version in which that came; "" where it is not known
	Announced  string `json:"deprecated"`            // since when it is announced: a date
	Marked     string `json:"markedIn,omitempty"`    // the version in whose description it is first marked deprecated
	Sunset     string `json:"mayContract,omitempty"` // from when on it may be contracted: a date
	Contracted string `json:"contractedIn,omitempty"`
	Stage      Stage  `json:"stage"`
	Notice     int64  `json:"notice"`

	Keys []string `json:"-"` // of the operations that it concerns, where it names one
}

// Plans tells of each notice of a part where its expand and contract stands. history goes from the oldest version to the newest; key turns
// what people call an operation into its key.
func Plans(notices []Notice, history []Past, key func(string) string, today time.Time) []Plan {
	plans := []Plan{}
	for _, n := range notices {
		if n.Whole() {
			continue
		}
		p := Plan{Subject: n.Part(), Instead: n.ReplacedBy, Announced: n.Since, Sunset: n.Sunset, Stage: Deprecated, Notice: n.ID}
		if n.Operation != "" {
			p.Keys = []string{n.Operation}
		}
		for _, past := range history {
			if past.Changes != nil {
				p.follow(n, past, key)
			}
		}
		switch {
		case p.Contracted != "":
			p.Stage = Contracted
		case n.Overdue(today):
			p.Stage = Due
		}
		plans = append(plans, p)
	}
	slices.SortStableFunc(plans, func(a, b Plan) int { return strings.Compare(a.Announced, b.Announced) })
	return plans
}

// follow looks through what one version changed.
func (p *Plan) follow(n Notice, past Past, key func(string) string) {
	for _, ch := range past.Changes.Changes {
		if p.Expanded == "" && n.ReplacedBy != "" && brings(ch, n, key) {
			p.Expanded = past.Version
		}
		if p.Marked == "" && n.MarkedIn(ch) {
			p.Marked = past.Version
		}
		if p.Contracted == "" && leaves(ch) && n.speaksOf(ch, ch.Old) { // a rename brings the one and takes the other
			p.Contracted = past.Version
		}
	}
}

// MarkedBy is the change that marks what the notice speaks of as deprecated; nil where none does.
func (n Notice) MarkedBy(c *compare.Comparison) *compare.Change {
	for _, ch := range c.Changes {
		if n.MarkedIn(ch) {
			return ch
		}
	}
	return nil
}

// MarkedIn reports whether a change marks what the notice speaks of as deprecated.
func (n Notice) MarkedIn(ch *compare.Change) bool {
	return strings.HasSuffix(ch.Kind, ".deprecated") && n.Value == "" && n.speaksOf(ch, ch.New)
}

// brings reports whether a change brings what takes the place of what a notice speaks of.
func brings(ch *compare.Change, n Notice, key func(string) string) bool {
	if ch.New == nil || !strings.HasSuffix(ch.Kind, "added") && !strings.HasSuffix(ch.Kind, "renamed") &&
		!strings.HasSuffix(ch.Kind, "moved") {
		return false
	}
	if n.Field != "" {
		schema, _, _ := strings.Cut(n.Field, ".")
		return ch.New.Is(schema + "." + n.ReplacedBy)
	}
	if n.Parameter != "" {
		return ch.Operation == n.Operation && ch.Location.Part == compare.PartParameter && ch.Location.Name == n.ReplacedBy
	}
	return strings.HasPrefix(ch.Kind, "operation.") && (ch.Operation == key(n.ReplacedBy) || ch.Moved != nil &&
		ch.Moved.To == key(n.ReplacedBy))
}
