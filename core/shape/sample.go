package shape

import (
	"iter"
	"slices"

	"oldledger/core/contract"
	"oldledger/core/value"
)

// A sample goes deeper into optional parts, from one to the next, while it has no more parts than a reader reads.
var sampleDepths = []int{1, 2, 3, 5}

const maxReadable = 120

// maxSample is how many parts a sample has at most, where all of them must be there: one with more is left out.
const maxSample = 5_000

// maxRequiredDepth bounds how much deeper it goes into what must be there.
const maxRequiredDepth = 6

// Sample makes a readable value of the schema in a role: authored examples where they are valid, otherwise each
// property with a value of its own. authored tells whether the whole value was written by the author. It returns nil
// where the schema admits nothing, or nothing could be found.
func (s *Space) Sample(schema *contract.Schema, role Role) (v *value.Value, authored bool) {
	received := role
	received.Sends = false // what an author shows may say more than what is declared
	tolerated := s.Lower(schema, received)
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
	if v := m.make(schema, m.readable(schema)); v != nil && s.countParts(v) <= maxSample {
		return v, false
	}
	if f := s.search([]*node{s.Lower(schema, role).n}); f.answer == some && s.countParts(f.value) <= maxSample {
		return f.value, false
	}
	return nil, false
}

// sampler builds a value along the schema; what it cannot build well is left to the search.
type sampler struct {
	space *Space
	role  Role
	path  []*contract.Schema // that are being made, each inside the one before
	cut   int                // the outermost of the path that what is being made came upon again
}

// sampleKey is what a part of a sample depends on, unless recursion was cut.
type sampleKey struct {
	schema *contract.Schema
	role   Role
	left   int // how deep it goes into optional parts
}

// readable is how deep a sample of the schema goes: as deep as it stays readable.
func (m *sampler) readable(sc *contract.Schema) int {
	left := sampleDepths[0]
	for _, deeper := range sampleDepths[1:] {
		if m.parts(sc, deeper) > maxReadable {
			break
		}
		left = deeper
	}
	return left
}

// parts estimates how many parts a value of the schema gets: its fields, and those inside.
func (m *sampler) parts(sc *contract.Schema, left int) int {
	if sc == nil || left < -maxRequiredDepth {
		return 0
	}
	key := sampleKey{sc, m.role, left}
	if n, known := m.space.parts[key]; known {
		return n
	}
	m.space.parts[key] = 1 // where it comes upon itself
	n := 1 + m.parts(sc.Ref, left) + m.parts(sc.Items, left-1)
	for _, b := range sc.AllOf {
		n += m.parts(b, left)
	}
	for _, list := range [][]*contract.Schema{sc.OneOf, sc.AnyOf} {
		if len(list) > 0 {
			n += m.parts(list[0], left)
		}
	}
	for _, p := range sc.Properties {
		if m.shows(sc, p, left) {
			n += m.parts(p.Schema, left-1)
		}
	}
	m.space.parts[key] = min(n, maxParts)
	return m.space.parts[key]
}

// shows reports whether a sample has a property: what must be there, and, while it goes deeper, what may.
func (m *sampler) shows(sc *contract.Schema, p contract.Property, left int) bool {
	if hidden(p.Schema, m.role) {
		return false
	}
	return sc.Requires(p.Name) || left > 0 && !p.Schema.Deprecated && !p.Schema.Deref().Deprecated
}

// make gives a value of the schema, nil where there is none or it would hold itself. Each part is made once.
func (m *sampler) make(sc *contract.Schema, left int) *value.Value {
	if sc == nil || left < -maxRequiredDepth {
		return nil
	}
	if i := slices.Index(m.path, sc); i >= 0 {
		m.cut = min(m.cut, i)
		return nil
	}
	key := sampleKey{sc, m.role, left}
	if v, done := m.space.sampled[key]; done {
		return v
	}
	if !m.space.budget.Step(20) {
		return nil
	}
	outer, at := m.cut, len(m.path)
	m.cut, m.path = at, append(m.path, sc)
	v := m.fresh(sc, left)
	m.path = m.path[:at]
	if m.cut >= at {
		m.space.sampled[key] = v
	}
	m.cut = min(outer, m.cut)
	return v
}

func (m *sampler) fresh(sc *contract.Schema, left int) *value.Value {
	set := m.space.Lower(sc, m.role)
	fits := func(v *value.Value) bool { return v != nil && m.space.eval(set.n, v) == yes }
	if e := sc.AnyExample(); e != nil && fits(e.Value()) {
		return e.Value()
	}
	if sc.Default != nil && fits(sc.Default.Value()) {
		return sc.Default.Value()
	}
	for candidate := range m.candidates(sc, left) {
		if fits(candidate) {
			return candidate
		}
	}
	if f := m.space.search([]*node{set.n}); f.answer == some {
		return f.value
	}
	return nil
}

// candidates are values that may fit, the likeliest first.
func (m *sampler) candidates(sc *contract.Schema, left int) iter.Seq[*value.Value] {
	return func(yield func(*value.Value) bool) {
		if sc.Ref != nil && !yield(m.make(sc.Ref, left)) {
			return
		}
		for _, e := range sc.Enum {
			if !yield(e.Value()) {
				return
			}
		}
		for _, list := range [][]*contract.Schema{sc.OneOf, sc.AnyOf} {
			for _, b := range list {
				v := m.make(b, left)
				if v == nil {
					continue
				}
				if tagged := tagged(sc, b, v); tagged != nil && (!yield(tagged) || !yield(m.join(sc, tagged, left))) {
					return
				}
				if !yield(v) || !yield(m.join(sc, v, left)) {
					return
				}
			}
		}
		if len(sc.AllOf) > 0 && !yield(m.join(sc, value.Obj(), left)) {
			return
		}
		for _, build := range []func(*contract.Schema, int) *value.Value{m.object, m.array, m.scalar} {
			if !yield(build(sc, left)) {
				return
			}
		}
	}
}

// tagged is a value of an alternative with the tag by which a discriminator knows it; nil where none does.
func tagged(sc, branch *contract.Schema, v *value.Value) *value.Value {
	d, name := sc.Discriminator(), branch.Deref().Name
	if d == nil || name == "" || v.Kind != value.Object {
		return nil
	}
	tag := name
	for _, m := range d.Mapping {
		if m.Target == name {
			tag = m.Value
		}
	}
	out := *v
	out.Members = []value.Member{{Name: d.Property, Value: value.Str(tag)}}
	for _, m := range v.Members {
		if m.Name != d.Property {
			out.Members = append(out.Members, m)
		}
	}
	return &out
}

// join adds what the schema and its allOf branches say to a value.
func (m *sampler) join(sc *contract.Schema, base *value.Value, left int) *value.Value {
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
		add(m.make(b, left))
	}
	add(m.object(sc, left))
	return joined
}

func (m *sampler) object(sc *contract.Schema, left int) *value.Value {
	if len(sc.Properties) == 0 && !slices.Contains(sc.Types, "object") {
		return nil
	}
	v := value.Obj()
	m.space.budget.Step(4 * len(sc.Properties))
	for _, p := range sc.Properties {
		if !m.shows(sc, p, left) {
			continue
		}
		if one := m.make(p.Schema, left-1); one != nil {
			v.Members = append(v.Members, value.Member{Name: p.Name, Value: m.space.Called(one, p.Name, p.Schema, m.role)})
		}
	}
	return v
}

// AnyText is a text for which nothing speaks.
const AnyText = "text"

// Called is a sample of a schema, or, where nothing speaks for its text, the name under which it stands.
func (s *Space) Called(v *value.Value, name string, schema *contract.Schema, role Role) *value.Value {
	if v == nil || v.Kind != value.String || v.Text != AnyText || schema.AnyExample() != nil {
		return v
	}
	if named := value.Str(name); s.eval(s.Lower(schema, role).n, named) == yes {
		return named
	}
	return v
}

func (m *sampler) array(sc *contract.Schema, left int) *value.Value {
	if sc.Items == nil && sc.PrefixItems() == nil && !slices.Contains(sc.Types, "array") {
		return nil
	}
	v := value.Arr()
	for _, p := range sc.PrefixItems() {
		if one := m.make(p, left-1); one != nil {
			v.Items = append(v.Items, one)
		}
	}
	if sc.Items != nil && len(v.Items) == 0 {
		if one := m.make(sc.Items, left-1); one != nil {
			v.Items = append(v.Items, one)
		}
	}
	return v
}

func (m *sampler) scalar(sc *contract.Schema, _ int) *value.Value {
	switch {
	case slices.Contains(sc.Types, "string"):
		if f := formats[sc.Format]; len(f.samples) > 0 {
			return value.Str(f.samples[0])
		}
		return value.Str(AnyText)
	case slices.Contains(sc.Types, "boolean"):
		return value.True
	case slices.Contains(sc.Types, "integer") || slices.Contains(sc.Types, "number"):
		if sc.Minimum != nil {
			return value.Rat(sc.Minimum)
		}
		return value.Rat(whole())
	}
	return nil
}
