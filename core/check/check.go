// Package check tells what is wrong with a description that can be read: what its reader found, and what only shows once its schemas are
// understood.
//
//	found := check.Contract(ctx, c) // source.Diagnostics, in the order of the files
//
// Examples and defaults are held against their schemas in the declared reading, whichever way they travel; ranges are looked at, and
// patterns, and what the description announces itself. Rules lists what can be found, each with what is read instead
// (docs/design/compatibility.md, Mistakes are read). Nothing here changes what a contract says.
package check

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/budget"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// Rules lists all that can be found.
func Rules() []source.Rule { return slices.Clone(contract.Rules) }

// Contract tells all that is wrong with a description, those of the entry's file first. When ctx ends, it tells what was found by then, and
// the error of ctx.
func Contract(ctx context.Context, c *contract.Contract) (source.Diagnostics, error) {
	x := &examiner{
		ctx: ctx, space: shape.NewSpace(shape.Declared, budget.New(ctx, budget.For(c.Size))), seen: map[*contract.Schema]bool{},
		held: map[*source.Node]bool{}, wrong: map[nodeKey]bool{},
	}
	for _, d := range c.Diagnostics {
		x.spoil(d)
	}
	x.contract(c)
	_, announced := promise.Declared(c)
	all := slices.Concat(c.Diagnostics, announced, x.found)
	return all.Sorted(c.Node.File().Name).Bounded(c.Node.File().Root), ctx.Err()
}

// examiner walks the schemas of one contract, each once.
type examiner struct {
	ctx   context.Context
	space *shape.Space
	seen  map[*contract.Schema]bool
	held  map[*source.Node]bool // values that were held against their schema
	wrong map[nodeKey]bool      // with which something else is wrong
	found source.Diagnostics
}

func (x *examiner) tell(d *source.Diagnostic) {
	if len(x.found) > source.MaxTold {
		return
	}
	x.found = append(x.found, d)
	x.spoil(d)
}

func (x *examiner) contract(c *contract.Contract) {
	for _, s := range c.Schemas {
		x.schema(s)
	}
	c.Visit(contract.Visitor{Parameter: x.parameter, Media: x.media})
}

func (x *examiner) media(m *contract.Media) {
	x.schema(m.Schema)
	for _, e := range m.Examples {
		x.value(m.Schema, e.Value, "the example")
	}
}

func (x *examiner) parameter(p *contract.Parameter) {
	schema, _ := p.Payload()
	x.schema(schema)
	for _, e := range p.Examples {
		x.value(schema, e.Value, "the example of "+p.Name)
	}
}

func (x *examiner) schema(s *contract.Schema) {
	if s == nil || x.seen[s] || x.ctx.Err() != nil {
		return
	}
	x.seen[s] = true
	x.ranges(s)
	x.pattern(s)
	for _, e := range s.Examples() {
		x.value(s, e, "the example")
	}
	x.value(s, s.Default, "the default")
	s.EachInner(x.schema)
}

// Table is the table of the rules as the manual has it, in Markdown.
func Table() string {
	var b strings.Builder
	b.WriteString("| rule | severity | what is read instead |\n|---|---|---|\n")
	for _, rule := range contract.Rules {
		severity := rule.Severity.String()
		if rule.Refused {
			severity = "refused"
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s |\n", rule.Name, severity, rule.Means)
	}
	return b.String()
}
