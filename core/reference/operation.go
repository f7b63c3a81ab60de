package reference

import (
	"strings"

	"oldledger/core/contract"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/value"
)

func (m *maker) operation(op *contract.Operation) *OperationPage {
	p := &OperationPage{
		Slug: Slug(op), Title: op.Name(), Method: op.Method, Path: op.Path, Calls: op.Webhook,
		Description: op.Description, Deprecated: op.Deprecated, Margin: m.operationMargin(op), Security: m.security(op),
	}
	if p.Title == op.Key() {
		p.Title = op.Method + " " + op.Path
	}
	for _, place := range []string{"path", "query", "header", "cookie"} {
		g := ParameterGroup{Place: place}
		for _, prm := range op.Parameters {
			if prm.In == place {
				g.Fields = append(g.Fields, m.parameter(op, prm))
			}
		}
		if len(g.Fields) > 0 {
			p.Parameters = append(p.Parameters, g)
		}
	}
	client := op.Direction == contract.ClientCalls
	if op.Body != nil {
		p.Body = &BodySection{Description: op.Body.Description, Required: op.Body.Required, Media: m.media(op.Body.Content, client)}
	}
	for _, r := range op.Responses {
		s := ResponseSection{Status: r.Status, Description: r.Description, Media: m.media(r.Content, !client)}
		for _, h := range r.Headers {
			s.Headers = append(s.Headers, m.parameter(nil, h))
		}
		p.Responses = append(p.Responses, s)
	}
	p.Code = m.code(op)
	return p
}

func (m *maker) security(op *contract.Operation) []string {
	var ways []string
	for _, r := range op.Security {
		var parts []string
		for _, u := range r.Schemes {
			text := u.Scheme.Name
			if len(u.Scopes) > 0 {
				text += " with " + strings.Join(u.Scopes, ", ")
			}
			parts = append(parts, text)
		}
		if len(parts) == 0 {
			parts = []string{"nothing"}
		}
		ways = append(ways, strings.Join(parts, " and "))
	}
	return ways
}

func (m *maker) parameter(op *contract.Operation, p *contract.Parameter) *Field {
	schema, mediaType := p.Payload()
	f := m.field(p.Name, schema, nil)
	f.Required, f.Deprecated = p.Required, f.Deprecated || p.Deprecated
	if p.Description != "" {
		f.Description = p.Description
	}
	if mediaType != "" {
		f.Limits = append(f.Limits, "written as "+mediaType)
	}
	if len(p.Examples) > 0 && p.Examples[0].Value != nil {
		f.Example = text(p.Examples[0].Value.Value())
	}
	if op != nil {
		f.Margin = Margin{Since: m.since(func(c *contract.Contract) bool {
			old := c.Lookup(op.Key())
			return old != nil && hasParameter(old, p)
		})}
	}
	return f
}

func hasParameter(op *contract.Operation, p *contract.Parameter) bool {
	for _, o := range op.Parameters {
		if o.In == p.In && (o.Name == p.Name || p.In == "path") {
			return true
		}
	}
	return false
}

func (m *maker) media(list []*contract.Media, clientSends bool) []MediaSection {
	var sections []MediaSection
	for _, one := range list {
		s := MediaSection{Type: one.Type}
		if one.Schema != nil {
			s.Schema = m.field("", one.Schema, nil)
		}
		s.Sample = m.sample(one, clientSends)
		sections = append(sections, s)
	}
	return sections
}

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
	key := madeKey{s.Deref(), clientSends}
	known, done := m.samples[key]
	if !done {
		known.value, known.authored = m.space.Sample(s, shape.Role{Sends: true, Request: clientSends})
		m.samples[key] = known
	}
	return known.value, known.authored
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
	for _, l := range sample.Languages {
		all = append(all, Code{Language: l.ID, Name: l.Name, Text: l.Write(call)})
	}
	return all
}

// Values are what the samples of a contract's operations are filled with.
func Values(c *contract.Contract) sample.Values {
	return &maker{c: c, space: shape.NewSpace(shape.Declared), samples: map[madeKey]madeSample{}}
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
