// Package compare says what a new version of an API does to those who use the old one.
//
//	comparison := compare.Contracts(old, new, compare.Options{})
//	comparison.Backward // the worst that can happen to yesterday's clients
//	comparison.Changes  // one edit, one change, with its place, its reach and a message that shows it
//
// Each change is graded in both directions (docs/design/compatibility.md): backward, yesterday's client calls today's server; forward,
// tomorrow's client calls yesterday's server. What stands in a payload is decided by package shape: a breaking change carries a message
// that the sender's version allows and the receiver's refuses; what could not be decided is a hazard and says so. Comparison marshals to
// the object of docs/design/compatibility.md, Comparisons as data; the same contracts give the same bytes.
package compare

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"oldledger/core/budget"
	"oldledger/core/class"
	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Format names the JSON form of a Comparison.
const Format = "oldledger.comparison/1"

// Grade is how bad a change is for one direction. Greater is worse.
type Grade uint8

// The grades of docs/design/compatibility.md, Grades.
const (
	Editorial Grade = iota
	Safe
	Hazard
	Breaking
)

var gradeNames = [...]string{"editorial", "safe", "hazard", "breaking"}

// Grades lists all grades, the worst first.
var Grades = []Grade{Breaking, Hazard, Safe, Editorial}

func (g Grade) String() string { return gradeNames[g] }

// Mark is the sign that stands for the grade beside its word.
func (g Grade) Mark() string { return [...]string{"·", "✓", "!", "✕"}[g] }

// MarshalText writes the grade's name.
func (g Grade) MarshalText() ([]byte, error) { return []byte(g.String()), nil }

// UnmarshalText reads a grade's name.
func (g *Grade) UnmarshalText(text []byte) error {
	for i, name := range gradeNames {
		if name == string(text) {
			*g = Grade(i)
			return nil
		}
	}
	return fmt.Errorf("%q is no grade; the grades are breaking, hazard, safe and editorial", text)
}

// Options of a comparison; the zero value is the usual one.
type Options struct {
	Reading    shape.Reading
	Undeclared Undeclared // what a server does with what it does not know
}

// Undeclared is what a server does with properties of requests that its version does not declare: a fact of each API
// (docs/design/compatibility.md, Two readings).
type Undeclared uint8

// Ignored: it takes the request and leaves them aside. Refused: it refuses the request. Untold is read as Ignored; whoever knows the
// API puts its fact in the place of it.
const (
	Untold Undeclared = iota
	Ignored
	Refused
)

func (u Undeclared) String() string { return [...]string{"ignored", "ignored", "refused"}[u] }

// ParseUndeclared reads the name of one.
func ParseUndeclared(text string) (Undeclared, bool) {
	switch text {
	case "ignored":
		return Ignored, true
	case "refused":
		return Refused, true
	}
	return 0, false
}

// Manner says how a comparison was made, in a few words.
func Manner(reading, undeclared string) string {
	return "read " + reading + ", undeclared input " + undeclared
}

// Comparison is everything that differs between two versions.
type Comparison struct {
	Format      string          `json:"format"`
	Reading     string          `json:"reading"`
	Undeclared  string          `json:"undeclared"`
	Old         Side            `json:"old"`
	New         Side            `json:"new"`
	Backward    Grade           `json:"backward"`
	Forward     Grade           `json:"forward"`
	Recommended *Recommendation `json:"recommended"`
	Counts      Counts          `json:"counts"`
	Compared    Compared        `json:"compared"`
	WaysOut     []string        `json:"waysOut,omitempty"` // of what breaks, in the order in which they are weighed
	Changes     []*Change       `json:"changes"`

	Paths map[string]string `json:"paths,omitempty"` // operations as their author wrote them, where that is not their key
}

// Compared counts what a comparison looked at in both directions.
type Compared struct {
	Operations int `json:"operations"` // that both versions have
	Payloads   int `json:"payloads"`   // their parameters, headers and bodies
}

// Side names one of the two versions.
type Side struct {
	Title   string `json:"title"`
	Version string `json:"version"`
	Dialect string `json:"dialect"`

	Diagnostics *source.Tally `json:"diagnostics,omitempty"` // what is wrong with the description; set by whoever checked it
}

// Counts counts backward grades.
type Counts struct {
	Breaking  int `json:"breaking"`
	Hazard    int `json:"hazard"`
	Safe      int `json:"safe"`
	Editorial int `json:"editorial"`
}

// Of is the count of one grade.
func (c Counts) Of(g Grade) int { return [...]int{c.Editorial, c.Safe, c.Hazard, c.Breaking}[g] }

// Change is one edit, wherever it is felt.
type Change struct {
	ID        string       `json:"id"`
	Kind      string       `json:"kind"`
	Backward  Grade        `json:"backward"`
	Forward   Grade        `json:"forward"`
	Undecided bool         `json:"undecided,omitempty"`
	Operation string       `json:"operation"`
	Written   string       `json:"written,omitempty"` // the operation as its author wrote it, for people
	At        string       `json:"at"`                // the location in words
	Location  Location     `json:"location"`
	Title     string       `json:"title"`
	Why       string       `json:"why"`
	Advice    []string     `json:"advice"`
	Renamed   *FromTo      `json:"renamed,omitempty"`
	Moved     *FromTo      `json:"moved,omitempty"`
	Left      []string     `json:"left,omitempty"` // the listed values (enum) that are no longer there
	Was       *value.Value `json:"was,omitempty"`  // of a default, a tag's value, an address: what it was
	Is        *value.Value `json:"is,omitempty"`   // and what it is now
	Old       *Place       `json:"old,omitempty"`
	New       *Place       `json:"new,omitempty"`
	Reach     []string     `json:"reach"`
	Witness   *Witness     `json:"witness,omitempty"`
	Witnesses []*Witness   `json:"witnesses,omitempty"`
}

// FromTo is a name or an operation before and after.
type FromTo struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Direction is one of the two questions: docs/design/compatibility.md, One question.
type Direction uint8

// Backward: yesterday's client calls today's server. Forward: tomorrow's client calls yesterday's server.
const (
	Backward Direction = iota
	Forward
)

func (d Direction) String() string { return [...]string{"backward", "forward"}[d] }

// MarshalText writes the direction's name.
func (d Direction) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads a direction's name.
func (d *Direction) UnmarshalText(text []byte) error {
	switch string(text) {
	case "backward":
		*d = Backward
	case "forward":
		*d = Forward
	default:
		return fmt.Errorf("%q is no direction; write backward or forward", text)
	}
	return nil
}

// Witness is a message that the sender's version allows and the receiver's refuses. A witness for a whole operation,
// a credential or an address has no value.
type Witness struct {
	Direction Direction
	Operation string
	Written   string // the operation with its base path, and values in the places of its path parameters
	Position  string
	Value     *value.Value // nil: the operation itself is what fails
	Wire      string       // of a parameter or header: the value as it stands in the message
	Refuser   string       // who refuses it: a version, or those who were built for one
}

// MarshalJSON writes the value only where there is one.
func (w *Witness) MarshalJSON() ([]byte, error) {
	out := struct {
		Direction Direction    `json:"direction"`
		Operation string       `json:"operation"`
		Written   string       `json:"written,omitempty"`
		Position  string       `json:"position"`
		Value     *value.Value `json:"value,omitempty"`
		Wire      string       `json:"wire,omitempty"`
		Refuser   string       `json:"refuser"`
	}{w.Direction, w.Operation, w.Written, w.Position, w.Value, w.Wire, w.Refuser}
	return json.Marshal(out)
}

// UnmarshalJSON reads a witness back.
func (w *Witness) UnmarshalJSON(data []byte) error {
	var in struct {
		Direction Direction       `json:"direction"`
		Operation string          `json:"operation"`
		Written   string          `json:"written"`
		Position  string          `json:"position"`
		Value     json.RawMessage `json:"value"`
		Wire      string          `json:"wire"`
		Refuser   string          `json:"refuser"`
	}
	if err := json.Unmarshal(data, &in); err != nil {
		return err
	}
	*w = Witness{
		Direction: in.Direction, Operation: in.Operation, Written: in.Written, Position: in.Position, Wire: in.Wire, Refuser: in.Refuser,
	}
	if in.Value == nil {
		return nil
	}
	v, err := value.Parse(in.Value)
	w.Value = v
	return err
}

// refuser names who refuses a message between two versions.
func (w *Witness) refuser(old, new string) string {
	built, other := old, new
	if w.Direction == Forward {
		built, other = other, built
	}
	called := strings.HasPrefix(w.Operation, "webhook ") || strings.HasPrefix(w.Operation, "callback ")
	switch answer := strings.HasPrefix(w.Position, "response"); {
	case !called && answer:
		return "a client of " + built
	case called && !answer:
		return "a receiver for " + built
	}
	return other
}

// Written are operations as their author wrote them, by their keys.
func (c *Comparison) Written(keys []string) []string {
	written := make([]string, len(keys))
	for i, key := range keys {
		written[i] = cmp.Or(c.Paths[key], key)
	}
	return written
}

// Grade is the change's grade in a direction.
func (c *Change) Grade(d Direction) Grade {
	if d == Forward {
		return c.Forward
	}
	return c.Backward
}

// All are the change's witnesses.
func (c *Change) All() []*Witness {
	if len(c.Witnesses) == 0 && c.Witness != nil {
		return []*Witness{c.Witness}
	}
	return c.Witnesses
}

// WitnessFor is the change's first witness in a direction, or nil.
func (c *Change) WitnessFor(d Direction) *Witness {
	for _, w := range c.All() {
		if w.Direction == d {
			return w
		}
	}
	return nil
}

// Component is the name of the shared component in which the edit was made, or "".
func (c *Change) Component() string {
	for _, p := range []*Place{c.New, c.Old} {
		if p != nil && p.Component != "" {
			return p.Component
		}
	}
	return ""
}

// Contracts compares two versions.
func Contracts(old, new *contract.Contract, o Options) *Comparison {
	c, err := ContractsContext(context.Background(), old, new, o)
	if err != nil {
		panic(err) // nothing ends the context
	}
	return c
}

// ContractsContext compares two versions while ctx lasts. When it ends, so does the comparison, with the error of ctx. What its budget does
// not suffice for is undecided, and says so.
func ContractsContext(ctx context.Context, old, new *contract.Contract, o Options) (*Comparison, error) {
	b := budget.New(ctx, budget.For(old.Size+new.Size))
	c := &comparer{
		old: old, new: new, options: o,
		budget:  b,
		space:   shape.NewSpace(o.Reading, b),
		pairs:   map[pairKey]*pair{},
		edits:   map[editKey]*edit{},
		graded:  map[*edit]*finding{},
		shared:  map[sharedKey]*finding{},
		matched: map[*contract.Operation]*contract.Operation{},
		paths:   map[*contract.Contract]map[pathKey]*source.Node{},
	}
	c.heirs = old.Heirs()
	maps.Copy(c.heirs, new.Heirs())
	c.classes = class.New(b, slices.Concat(old.Roots(), new.Roots()), c.heirs)
	c.named = [2]components{componentsOf(old), componentsOf(new)}
	c.space.Equate(c.classes)
	if o.Undeclared == Refused {
		c.space.Refuse()
	}
	for _, step := range []func(){c.operations, c.sharedSchemas, c.gradeEdits, c.verifyPairs, c.document} {
		if step(); ctx.Err() != nil {
			return nil, ctx.Err()
		}
	}
	result := &Comparison{
		Format: Format, Reading: o.Reading.String(), Undeclared: o.Undeclared.String(),
		Old:     Side{Title: old.Title, Version: old.Version, Dialect: old.Dialect},
		New:     Side{Title: new.Title, Version: new.Version, Dialect: new.Dialect},
		Changes: c.changes(), Paths: c.writtenPaths(),

		Compared: Compared{Operations: len(c.matched), Payloads: c.visits},
	}
	result.judge()
	result.Recommended = result.Recommend(false)
	return result, nil
}
