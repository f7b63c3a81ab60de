package shape

import (
	"slices"

	"oldledger/core/contract"
	"oldledger/core/value"
)

// maxSampleDepth is how deep a sample goes into optional parts: deeper, a reader learns nothing more.
const maxSampleDepth = 5

// Sample makes a readable value of the schema in a role: authored examples where they are valid, otherwise each
// property with a value of its own. authored tells whether the whole value was written by the author. It returns nil
// where the schema admits nothing, or nothing could be found.
func (s *Space) Sample(schema *contract.Schema, role Role) (v *value.Value, authored bool) {
	set := s.Lower(schema, role)
	role.Sends = false // what an author shows may say more than what is declared
	tolerated := s.Lower(schema, role)
	if schema != nil {
		for _, b := range branches(schema) {
			for _, e := range b.Examples() {
				if ev := e.Value(); s.eval(tolerated.n, ev) == yes {
					return ev, true
				}
			}
		}
	}
	m := sampler{space: s, role: role}
	if v := m.make(schema, 0); v != nil && s.eval(set.n, v) == yes {
		return v, false
	}
	if f := s.search([]*node{set.n}); f.answer == some {
		return f.value, false
	}
	return nil, false
}

// sampler builds a value along the schema; what it cannot build well is left to the search.
type sampler struct {
	space *Space
	role  Role
	path  []*contract.Schema
}

func (m sampler) make(sc *contract.Schema, depth int) *value.Value {
	if sc == nil || depth > 2*maxSampleDepth || slices.Contains(m.path, sc) {
		return nil
	}
	m.path = append(slices.Clip(m.path), sc)
	receiver := m.role
	set := m.space.Lower(sc, receiver)
	fits := func(v *value.Value) bool { return v != nil && m.space.eval(set.n, v) == yes }
	if e := sc.AnyExample(); e != nil && fits(e.Value()) {
		return e.Value()
	}
	if sc.Default != nil && fits(sc.Default.Value()) {
		return sc.Default.Value()
	}
	for _, candidate := range m.candidates(sc, depth) {
		if fits(candidate) {
			return candidate
		}
	}
	if f := m.space.search([]*node{set.n}); f.answer == some {
		return f.value
	}
	return nil
}

func (m sampler) candidates(sc *contract.Schema, depth int) []*value.Value {
	var made []*value.Value
	if sc.Ref != nil {
		made = append(made, m.make(sc.Ref, depth))
	}
	for _, e := range sc.Enum {
		made = append(made, e.Value())
	}
	for _, list := range [][]*contract.Schema{sc.OneOf, sc.AnyOf} {
		for _, b := range list {
			if v := m.make(b, depth); v != nil {
				made = append(made, v, m.join(sc, v, depth))
			}
		}
	}
	if len(sc.AllOf) > 0 {
		made = append(made, m.join(sc, value.Obj(), depth))
	}
	made = append(made, m.object(sc, depth), m.array(sc, depth), m.scalar(sc))
	return made
}

// join adds what the schema and its allOf branches say to a value.
func (m sampler) join(sc *contract.Schema, base *value.Value, depth int) *value.Value {
	if base.Kind != value.Object {
		return base
	}
	joined := value.Obj(slices.Clone(base.Members)...)
	add := func(v *value.Value) {
		if v == nil || v.Kind != value.Object {
			return
		}
		for _, member := range v.Members {
			if joined.Get(member.Name) == nil {
				joined.Members = append(joined.Members, member)
			}
		}
	}
	for _, b := range sc.AllOf {
		add(m.make(b, depth))
	}
	add(m.object(sc, depth))
	return joined
}

func (m sampler) object(sc *contract.Schema, depth int) *value.Value {
	if len(sc.Properties) == 0 && !slices.Contains(sc.Types, "object") {
		return nil
	}
	v := value.Obj()
	for _, p := range sc.Properties {
		required := sc.Requires(p.Name)
		target := p.Schema.Deref()
		if hidden(p.Schema, m.role) || !required && (target.Deprecated || p.Schema.Deprecated || depth >= maxSampleDepth) {
			continue
		}
		if one := m.make(p.Schema, depth+1); one != nil {
			v.Members = append(v.Members, value.Member{Name: p.Name, Value: one})
		}
	}
	return v
}

func (m sampler) array(sc *contract.Schema, depth int) *value.Value {
	if sc.Items == nil && sc.PrefixItems() == nil && !slices.Contains(sc.Types, "array") {
		return nil
	}
	v := value.Arr()
	for _, p := range sc.PrefixItems() {
		if one := m.make(p, depth+1); one != nil {
			v.Items = append(v.Items, one)
		}
	}
	if sc.Items != nil && len(v.Items) == 0 {
		if one := m.make(sc.Items, depth+1); one != nil {
			v.Items = append(v.Items, one)
		}
	}
	return v
}

func (m sampler) scalar(sc *contract.Schema) *value.Value {
	switch {
	case slices.Contains(sc.Types, "string"):
		if f := formats[sc.Format]; len(f.samples) > 0 {
			return value.Str(f.samples[0])
		}
		return value.Str("text")
	case slices.Contains(sc.Types, "boolean"):
		return value.True
	}
	return nil
}
