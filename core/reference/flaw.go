package reference

import (
	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// Flaw is an authored example or default that its schema does not admit: the reference shows another one in its place.
type Flaw struct {
	Place source.Place `json:"place"`
	Text  string       `json:"text"`
}

// Flaws lists the examples and defaults of a contract that contradict their schemas, each once.
func Flaws(c *contract.Contract) []Flaw {
	f := flaws{space: shape.NewSpace(shape.Declared), seen: map[*contract.Schema]bool{}, found: []Flaw{}}
	for _, s := range c.Schemas {
		f.schema(s)
	}
	for _, op := range c.All() {
		for _, p := range op.Parameters {
			f.parameter(p)
		}
		if op.Body != nil {
			f.media(op.Body.Content)
		}
		for _, r := range op.Responses {
			f.media(r.Content)
			for _, h := range r.Headers {
				f.parameter(h)
			}
		}
	}
	return f.found
}

type flaws struct {
	space *shape.Space
	seen  map[*contract.Schema]bool
	found []Flaw
}

// hold keeps a value that the schema plainly does not admit, whichever way it travels.
func (f *flaws) hold(s *contract.Schema, n *source.Node, what string) {
	if s == nil || n == nil {
		return
	}
	for _, request := range []bool{true, false} {
		set := f.space.Lower(s, shape.Role{Request: request})
		if holds, known := f.space.Holds(set, n.Value()); holds || !known {
			return
		}
	}
	f.found = append(f.found, Flaw{n.Place(), what + " is not what its schema admits"})
}

func (f *flaws) schema(s *contract.Schema) {
	if s == nil || f.seen[s] {
		return
	}
	f.seen[s] = true
	for _, e := range s.Examples() {
		f.hold(s, e, "the example")
	}
	f.hold(s, s.Default, "the default")
	for _, inner := range s.Inner() {
		f.schema(inner)
	}
}

func (f *flaws) media(list []*contract.Media) {
	for _, m := range list {
		f.schema(m.Schema)
		for _, e := range m.Examples {
			f.hold(m.Schema, e.Value, "the example")
		}
	}
}

func (f *flaws) parameter(p *contract.Parameter) {
	schema, _ := p.Payload()
	f.schema(schema)
	for _, e := range p.Examples {
		f.hold(schema, e.Value, "the example of "+p.Name)
	}
}
