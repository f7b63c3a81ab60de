package contract

import (
	"math/big"

	"oldledger/core/source"
)

// Schema is one schema, its keywords as JSON Schema 2020-12 names them. A reference is a Schema with Ref set;
// graphs of schemas may be cyclic. nil fields are keywords that are not there.
type Schema struct {
	Node *source.Node
	Name string  // the component's name; "" for a schema in place
	Ref  *Schema // what $ref names
	Bool *bool   // the schemas true and false

	Types                []string // nil: not said
	Enum                 []*source.Node
	Const                *source.Node
	HasEnum              bool
	Nullable             bool // OpenAPI 3.0's nullable: true
	UniqueItems          bool
	ReadOnly, WriteOnly  bool
	Deprecated           bool
	MinLength, MaxLength *int
	Pattern              *string
	Format               string

	MultipleOf                         *big.Rat
	Minimum, Maximum                   *big.Rat
	ExclusiveMinimum, ExclusiveMaximum *big.Rat

	Items              *Schema
	MinItems, MaxItems *int

	Properties                   []Property
	AdditionalProperties         *Schema
	Required                     []string
	MinProperties, MaxProperties *int

	AllOf, AnyOf, OneOf []*Schema

	Title, Description string
	Default            *source.Node

	Rare *Rare // the keywords that few schemas have; read with the methods of the same names
}

// Property is a named subschema: of properties, patternProperties or dependentSchemas.
type Property struct {
	Name   string
	Schema *Schema
}

// Dependency is one entry of dependentRequired.
type Dependency struct {
	Name  string
	Needs []string
}

// Discriminator names the property that tells the branches of a union apart.
type Discriminator struct {
	Property string
	Mapping  []MappingEntry
	Default  string // the schema for all other values (OpenAPI 3.2)
	Node     *source.Node
}

// MappingEntry is one value of a discriminator and the schema name it stands for.
type MappingEntry struct{ Value, Target string }

// Deref follows references to the schema that says something itself. A schema that has keywords beside its
// $ref is returned as it is. A cycle of bare references returns its last schema.
func (s *Schema) Deref() *Schema {
	for range 100 {
		if s == nil || s.Ref == nil || !s.Bare() {
			return s
		}
		s = s.Ref
	}
	return s
}

// Bare reports whether a reference stands alone: nothing beside it constrains or documents.
func (s *Schema) Bare() bool {
	return s.Ref != nil && !s.Asserts() && s.Description == "" && s.Title == "" && s.Default == nil && !s.Deprecated &&
		!s.ReadOnly && !s.WriteOnly && len(s.Examples()) == 0
}

// Wrapped is the one schema that a wrapper consists of: a reference, or an allOf or union of one, with nothing beside it but words. It is
// nil where the schema says something itself.
func (s *Schema) Wrapped() *Schema {
	var inner *Schema
	parts := 0
	if s.Ref != nil {
		inner, parts = s.Ref, 1
	}
	for _, list := range [][]*Schema{s.AllOf, s.AnyOf, s.OneOf} {
		if list != nil && len(list) != 1 {
			return nil
		}
		if len(list) == 1 {
			inner, parts = list[0], parts+1
		}
	}
	if parts != 1 || s.Bool != nil || s.Types != nil || s.Nullable || s.HasEnum || s.Const != nil || s.SaysNumber() || s.SaysString() ||
		s.SaysArray() || s.SaysObject() {
		return nil
	}
	if r := s.Rare; r != nil && (s.SaysContent() || r.Not != nil || r.If != nil || r.Discriminator != nil || r.Unsupported != nil ||
		r.Unclear != nil) {
		return nil
	}
	return inner
}

// Asserts reports whether the schema itself, its Ref left aside, says anything about values.
func (s *Schema) Asserts() bool {
	return s.Bool != nil || s.Types != nil || s.Nullable || s.HasEnum || s.Const != nil ||
		s.SaysNumber() || s.SaysString() || s.SaysContent() || s.SaysArray() || s.SaysObject() ||
		s.AllOf != nil || s.AnyOf != nil || s.OneOf != nil || s.Not() != nil || s.If() != nil || s.Unsupported() != nil
}

// SaysNumber reports whether a keyword about numbers is there.
func (s *Schema) SaysNumber() bool {
	return s.MultipleOf != nil || s.Minimum != nil || s.Maximum != nil || s.ExclusiveMinimum != nil || s.ExclusiveMaximum != nil
}

// SaysString reports whether a keyword about strings is there; format counts.
func (s *Schema) SaysString() bool {
	return s.MinLength != nil || s.MaxLength != nil || s.Pattern != nil || s.Format != ""
}

// SaysContent reports whether a keyword about what a string holds is there.
func (s *Schema) SaysContent() bool { return s.ContentEncoding() != "" || s.ContentMediaType() != "" }

// SaysArray reports whether a keyword about arrays is there.
func (s *Schema) SaysArray() bool {
	return s.PrefixItems() != nil || s.Items != nil || s.Contains() != nil || s.MinItems != nil || s.MaxItems != nil ||
		s.UniqueItems || s.UnevaluatedItems() != nil
}

// SaysObject reports whether a keyword about objects is there.
func (s *Schema) SaysObject() bool {
	return s.Properties != nil || s.PatternProperties() != nil || s.AdditionalProperties != nil || s.PropertyNames() != nil ||
		s.UnevaluatedProperties() != nil || s.Required != nil || s.MinProperties != nil || s.MaxProperties != nil ||
		s.DependentRequired() != nil || s.DependentSchemas() != nil
}

// Property finds a property of the schema itself.
func (s *Schema) Property(name string) *Schema {
	for _, p := range s.Properties {
		if p.Name == name {
			return p.Schema
		}
	}
	return nil
}

// Own are the properties that the schema declares itself: its own, and those of the members of its allOf that stand in place. Those of
// other named schemas are not among them.
func (s *Schema) Own() []Property { return s.own(nil, 0) }

// maxInPlace bounds members in members.
const maxInPlace = 20

func (s *Schema) own(all []Property, depth int) []Property {
	if s == nil || depth > maxInPlace {
		return all
	}
	all = append(all, s.Properties...)
	for _, part := range s.AllOf {
		if part.Name == "" && part.Ref == nil {
			all = part.own(all, depth+1)
		}
	}
	return all
}

// OwnProperty is the schema of one of them, or nil.
func (s *Schema) OwnProperty(name string) *Schema {
	for _, p := range s.Own() {
		if p.Name == name {
			return p.Schema
		}
	}
	return nil
}

// Requires reports whether the schema itself lists name as required.
func (s *Schema) Requires(name string) bool {
	for _, r := range s.Required {
		if r == name {
			return true
		}
	}
	return false
}

// Inner are the schemas that it is made of, in no order that means anything.
func (s *Schema) Inner() []*Schema {
	var all []*Schema
	s.EachInner(func(in *Schema) { all = append(all, in) })
	return all
}

// EachInner calls f with each schema of Inner.
func (s *Schema) EachInner(f func(*Schema)) {
	each := func(list []*Schema) {
		for _, one := range list {
			f(one)
		}
	}
	named := func(list []Property) {
		for i := range list {
			f(list[i].Schema)
		}
	}
	maybe := func(one *Schema) {
		if one != nil {
			f(one)
		}
	}
	maybe(s.Ref)
	maybe(s.Items)
	maybe(s.AdditionalProperties)
	each(s.AllOf)
	each(s.AnyOf)
	each(s.OneOf)
	named(s.Properties)
	if s.Rare == nil {
		return
	}
	for _, one := range []*Schema{
		s.Rare.Contains, s.Rare.UnevaluatedItems, s.Rare.UnevaluatedProperties, s.Rare.PropertyNames, s.Rare.Not, s.Rare.If, s.Rare.Then,
		s.Rare.Else,
	} {
		maybe(one)
	}
	each(s.Rare.PrefixItems)
	named(s.Rare.PatternProperties)
	named(s.Rare.DependentSchemas)
}

// Conjuncts are all schemas that a value must satisfy together: the schema, what it refers to, the members of its allOf, and theirs; each
// once, a schema before what it is made of.
func (s *Schema) Conjuncts() []*Schema {
	var all []*Schema
	seen := map[*Schema]bool{nil: true}
	var visit func(s *Schema)
	visit = func(s *Schema) {
		if seen[s] {
			return
		}
		seen[s] = true
		all = append(all, s)
		visit(s.Ref)
		for _, part := range s.AllOf {
			visit(part)
		}
	}
	visit(s)
	return all
}

// Access reports whether a property of this schema is only read or only written: readOnly and writeOnly count wherever they stand beside
// the value, in what is referred to and in what is demanded with it (JSON Schema 2020-12, Core section 7.7.1: annotations are collected).
func (s *Schema) Access() (readOnly, writeOnly bool) { return s.access(100) }

func (s *Schema) access(most int) (readOnly, writeOnly bool) {
	for at := s; at != nil && most > 0; at, most = at.Ref, most-1 {
		readOnly, writeOnly = readOnly || at.ReadOnly, writeOnly || at.WriteOnly
		for _, part := range at.AllOf {
			r, w := part.access(most / 4)
			readOnly, writeOnly = readOnly || r, writeOnly || w
		}
	}
	return readOnly, writeOnly
}

// AnyExample is the first authored example of the schema itself, or nil.
func (s *Schema) AnyExample() *source.Node {
	if len(s.Examples()) > 0 {
		return s.Examples()[0]
	}
	return nil
}
