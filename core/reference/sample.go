package reference

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// sample shows an authored example that its schema admits, or a generated one.
func (m *maker) sample(one *contract.Media, clientSends bool) *Sample {
	v, authored := m.example(one, clientSends)
	if v == nil || !authored && !strings.Contains(one.Type, "json") {
		return nil
	}
	return &Sample{Text: shown(v), Generated: !authored}
}

// example is an authored example that its schema admits, or a value made for it.
func (m *maker) example(one *contract.Media, clientSends bool) (v *value.Value, authored bool) {
	tolerated := m.space.Lower(one.Schema, shape.Role{Request: clientSends})
	for _, e := range one.Examples {
		if e.Value == nil {
			continue
		}
		v := e.Value.Value()
		if holds, known := m.space.Holds(tolerated, v); holds || !known {
			return v, true
		}
	}
	if one.Schema == nil {
		return nil, false
	}
	return m.made(one.Schema, clientSends)
}

// made is the sample of a schema. Schemas are shared, and each is asked once.
func (m *maker) made(s *contract.Schema, clientSends bool) (v *value.Value, authored bool) {
	if !m.sided {
		clientSends = false
	}
	key := madeKey{s.Deref(), clientSends}
	known, done := m.samples[key]
	if !done {
		known.value, known.authored = m.space.Sample(s, shape.Role{Sends: true, Request: clientSends})
		m.samples[key] = known
	}
	return known.value, known.authored
}

// sided tells whether some field of a contract is only sent or only answered: then a schema has a sample for each way.
func sided(c *contract.Contract) bool {
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

type madeKey struct {
	schema      *contract.Schema
	clientSends bool
}

type madeSample struct {
	value    *value.Value
	authored bool
}

func shown(v *value.Value) string {
	if v.Kind == value.String {
		return v.Text
	}
	return v.Indented()
}

// code writes a call of the operation in each language.
func (m *maker) code(op *contract.Operation) []Code {
	call, ok := sample.Make(op, m)
	if !ok {
		return nil
	}
	var all []Code
	languages := m.ctx.Languages
	if len(languages) == 0 {
		languages = sample.Languages
	}
	for _, l := range languages {
		all = append(all, Code{Language: l.ID, Name: l.Name, Text: l.Write(call)})
	}
	return all
}

// Values are what the samples of a contract's operations are filled with.
func Values(c *contract.Contract) sample.Values {
	m := newMaker(c, Context{}, nil)
	m.sided = sided(c)
	return m
}

// Parameter is what a sample sends for a parameter: an authored example, or a value made for it.
func (m *maker) Parameter(p *contract.Parameter) *value.Value {
	for _, e := range p.Examples {
		if e.Value != nil {
			return e.Value.Value()
		}
	}
	schema, _ := p.Payload()
	if schema == nil {
		return nil
	}
	v, _ := m.made(schema, true)
	return v
}

// Body is what a sample sends as a body.
func (m *maker) Body(one *contract.Media) *value.Value {
	v, _ := m.example(one, true)
	return v
}

// text is a plain value as it stands on the wire; a list is joined by commas.
func text(v *value.Value) string {
	switch v.Kind {
	case value.String:
		return v.Text
	case value.Array:
		parts := make([]string, len(v.Items))
		for i, it := range v.Items {
			parts[i] = text(it)
		}
		return strings.Join(parts, ",")
	}
	return v.String()
}
