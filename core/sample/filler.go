package sample

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// Filler is the Values of a contract: what its author shows where the schema admits it, otherwise values made for the schema. It is not
// safe for use by several at once.
type Filler struct {
	space *shape.Space
	sided bool
	made  map[madeKey]made
}

type madeKey struct {
	schema *contract.Schema
	sent   bool
}

type made struct {
	value    *value.Value
	authored bool
}

// NewFiller makes the filler of a contract. sided is Sided of the contract.
func NewFiller(space *shape.Space, sided bool) *Filler {
	return &Filler{space: space, sided: sided, made: map[madeKey]made{}}
}

// Sided reports whether some field of a contract is only sent or only answered: then a schema has a sample for each way.
func Sided(c *contract.Contract) bool {
	seen := map[*contract.Schema]bool{}
	var in func(s *contract.Schema) bool
	in = func(s *contract.Schema) bool {
		if s == nil || seen[s] {
			return false
		}
		seen[s] = true
		return s.ReadOnly || s.WriteOnly || slices.ContainsFunc(s.Inner(), in)
	}
	ofMedia := func(m *contract.Media) bool { return in(m.Schema) }
	return slices.ContainsFunc(c.Schemas, in) || slices.ContainsFunc(c.All(), func(op *contract.Operation) bool {
		return op.Body != nil && slices.ContainsFunc(op.Body.Content, ofMedia) ||
			slices.ContainsFunc(op.Responses, func(r *contract.Response) bool { return slices.ContainsFunc(r.Content, ofMedia) })
	})
}

// Media is an authored example that its schema admits, or a value made for it; nil where the media type has no schema, or none was found.
// sent reports whether clients send it.
func (f *Filler) Media(m *contract.Media, sent bool) (v *value.Value, authored bool) {
	tolerated := f.space.Lower(m.Schema, shape.Role{Request: sent})
	for _, e := range m.Examples {
		if e.Value == nil {
			continue
		}
		v := e.Value.Value()
		if holds, known := f.space.Contains(tolerated, v); holds || !known {
			return v, true
		}
	}
	if m.Schema == nil {
		return nil, false
	}
	return f.Schema(m.Schema, sent)
}

// Schema is the sample of a schema. Schemas are shared, and each is asked once.
func (f *Filler) Schema(s *contract.Schema, sent bool) (v *value.Value, authored bool) {
	key := madeKey{s.Deref(), sent && f.sided}
	known, done := f.made[key]
	if !done {
		known.value, known.authored = f.space.Sample(s, shape.Role{Sends: true, Request: key.sent})
		f.made[key] = known
	}
	return known.value, known.authored
}

// Parameter is what a sample sends for a parameter: an authored example, or a value made for it.
func (f *Filler) Parameter(p *contract.Parameter) *value.Value {
	for _, e := range p.Examples {
		if e.Value != nil {
			return e.Value.Value()
		}
	}
	schema, _ := p.Payload()
	if schema == nil {
		return nil
	}
	v, _ := f.Schema(schema, true)
	return f.space.Called(v, p.Name, schema, shape.Role{Sends: true, Request: true})
}

// Body is what a sample sends as a body.
func (f *Filler) Body(m *contract.Media) *value.Value {
	v, _ := f.Media(m, true)
	return v
}

// Shown reports whether a made value of a media type is shown: what is not JSON would be shown as something that it is not.
func Shown(m *contract.Media, authored bool) bool {
	return authored || strings.Contains(m.Type, "json")
}
