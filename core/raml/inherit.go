package raml

import (
	"slices"
	"strconv"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// subtype is a type and those that it inherits from. What follows from inheritance is settled once all types are read.
type subtype struct {
	s       *contract.Schema
	parents []*contract.Schema
}

// finish settles what needs all types: heirs of closed types, and the values that tell the types of a choice apart.
func (r *reader) finish() {
	r.nameInner()
	settled := map[*contract.Schema]bool{}
	byType := map[*contract.Schema]subtype{}
	for _, h := range r.subtypes {
		byType[h.s] = h
	}
	for _, h := range r.subtypes {
		r.settle(h, byType, settled, 0)
	}
	for _, u := range r.unions {
		r.tellApart(u, byType)
	}
	for _, s := range r.types {
		if s.Discriminator() != nil && s.Ref == nil {
			r.mapping(s, byType)
		}
	}
}

// nameInner lists the schemas that JSON Schemas name inside, under names that no type has.
func (r *reader) nameInner() {
	if r.json == nil {
		return
	}
	for _, s := range r.json.Named() {
		name := s.Name
		for i := 2; r.names[s.Name] != nil; i++ {
			s.Name = name + strconv.Itoa(i)
		}
		r.names[s.Name] = s.Node
		r.types = append(r.types, s)
	}
}

// settle makes a type that inherits from a closed one closed for both: what it declares itself is no stranger. Written as two
// sets of which both hold, its own properties would be refused by its parent.
func (r *reader) settle(h subtype, byType map[*contract.Schema]subtype, settled map[*contract.Schema]bool, depth int) {
	if settled[h.s] || depth > maxDepth {
		return
	}
	settled[h.s] = true
	closed := false
	for _, p := range h.parents {
		p = p.Deref()
		if up, is := byType[p]; is {
			r.settle(up, byType, settled, depth+1)
		}
		closed = closed || isClosed(p)
	}
	if !closed && !(isClosed(h.s) && len(h.parents) > 0) {
		return
	}
	whole := &contract.Schema{Types: []string{"object"}}
	for _, p := range h.parents {
		r.takeOver(whole, p, 0)
	}
	own := h.s.Copy()
	own.Ref, own.AllOf = nil, nil
	h.s.Ref, h.s.AllOf = nil, nil
	r.takeOver(whole, own, 0)
	h.s.Types, h.s.Properties, h.s.Required = whole.Types, whole.Properties, whole.Required
	h.s.AdditionalProperties = whole.AdditionalProperties
	h.s.MinProperties, h.s.MaxProperties = whole.MinProperties, whole.MaxProperties
	if list := whole.PatternProperties(); list != nil {
		h.s.EnsureRare().PatternProperties = list
	}
}

func isClosed(s *contract.Schema) bool {
	a := s.AdditionalProperties
	return a != nil && (a.Bool == nil || !*a.Bool)
}

// takeOver adds what one type says of objects to another; the later word wins.
func (r *reader) takeOver(into, s *contract.Schema, depth int) {
	if s == nil || depth > maxDepth {
		return
	}
	if s.Ref != nil {
		r.takeOver(into, s.Ref, depth+1)
	}
	for _, b := range s.AllOf {
		r.takeOver(into, b, depth+1)
	}
	for _, p := range s.Properties {
		i := slices.IndexFunc(into.Properties, func(o contract.Property) bool { return o.Name == p.Name })
		if i < 0 {
			into.Properties = append(into.Properties, p)
			continue
		}
		into.Properties = slices.Clone(into.Properties)
		into.Properties[i].Schema = &contract.Schema{Node: p.Schema.Node, AllOf: []*contract.Schema{into.Properties[i].Schema, p.Schema}}
	}
	for _, name := range s.Required {
		if !slices.Contains(into.Required, name) {
			into.Required = append(into.Required, name)
		}
	}
	into.AdditionalProperties = or(s.AdditionalProperties, into.AdditionalProperties)
	into.MinProperties, into.MaxProperties = or(s.MinProperties, into.MinProperties), or(s.MaxProperties, into.MaxProperties)
	for _, p := range s.PatternProperties() {
		into.EnsureRare().PatternProperties = append(into.EnsureRare().PatternProperties, p)
	}
}

// entry is what the discriminator says of values of a type where it is not the type's name (discriminatorValue).
func (r *reader) entry(s *contract.Schema) []contract.MappingEntry {
	if v, said := r.values[s]; said && v != s.Name {
		return []contract.MappingEntry{{Value: v, Target: s.Name}}
	}
	return nil
}

// root is the discriminator that a type has, itself or from those it inherits from.
func (r *reader) discriminator(s *contract.Schema, byType map[*contract.Schema]subtype, depth int) *contract.Discriminator {
	if s == nil || depth > maxDepth {
		return nil
	}
	if d := s.Discriminator(); d != nil {
		return d
	}
	for _, p := range byType[s].parents {
		if d := r.discriminator(p.Deref(), byType, depth+1); d != nil {
			return d
		}
	}
	return nil
}

// tellApart gives a choice among types that share a discriminator the values that tell them apart.
func (r *reader) tellApart(u *contract.Schema, byType map[*contract.Schema]subtype) {
	var shared *contract.Discriminator
	var entries []contract.MappingEntry
	for _, b := range u.AnyOf {
		s := b.Deref()
		if slices.Equal(s.Types, []string{"null"}) {
			return
		}
		d := r.discriminator(s, byType, 0)
		if d == nil || s.Name == "" || shared != nil && d.Property != shared.Property {
			return
		}
		shared = d
		entries = append(entries, r.entry(s)...)
	}
	if shared != nil {
		u.EnsureRare().Discriminator = &contract.Discriminator{Property: shared.Property, Mapping: entries, Node: shared.Node}
	}
}

// mapping lists the types that inherit from one with a discriminator, and itself.
func (r *reader) mapping(s *contract.Schema, byType map[*contract.Schema]subtype) {
	d := *s.Discriminator()
	for _, t := range r.types {
		if t.Name != "" && (t == s || r.inherits(t, s, byType, 0)) {
			d.Mapping = append(d.Mapping, r.entry(t)...)
		}
	}
	s.EnsureRare().Discriminator = &d
}

func (r *reader) inherits(t, from *contract.Schema, byType map[*contract.Schema]subtype, depth int) bool {
	return depth < maxDepth && slices.ContainsFunc(byType[t].parents, func(p *contract.Schema) bool {
		p = p.Deref()
		return p == from || r.inherits(p, from, byType, depth+1)
	})
}

// foreign reads a schema in another language: JSON Schema as one, XML Schema as a text that nobody looks into.
func (r *reader) foreign(s *contract.Schema, v *source.Node) {
	if !jsonText(v) {
		s.EnsureRare().Unsupported = []string{"XML Schema"}
		return
	}
	r.jsonSchema(s, v)
}
