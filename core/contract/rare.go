package contract

import (
	"reflect"

	"oldledger/core/source"
)

// Rare holds the keywords that few schemas have. They stand apart because schemas are many: one without them is half as large.
type Rare struct {
	PrefixItems              []*Schema
	Contains                 *Schema
	MinContains, MaxContains *int
	UnevaluatedItems         *Schema

	PatternProperties     []Property
	PropertyNames         *Schema
	UnevaluatedProperties *Schema
	DependentRequired     []Dependency
	DependentSchemas      []Property

	Not, If, Then, Else *Schema
	Discriminator       *Discriminator

	Examples         []*source.Node
	ContentEncoding  string       // "base64" for OpenAPI 3.0's format byte, too
	ContentMediaType string       // "application/octet-stream" for OpenAPI 3.0's format binary, too
	XML              *source.Node // how it is written in XML, as OpenAPI's XML Object says it
	Docs             ExternalDocs
	Extensions       []Extension
	Unclear          []*source.Node // keywords whose values are mistakes without a settled meaning: they are left out
	Unsupported      []string       // keywords that constrain and that no reader lowers yet
}

// Empty reports whether no rare keyword is there.
func (r *Rare) Empty() bool { return reflect.ValueOf(r).Elem().IsZero() }

// none is what a schema without rare keywords says of them. Nobody writes to it.
var none Rare

// Composes reports whether a keyword holds a schema, a list of items by position left aside.
func (r *Rare) Composes() bool {
	return r.Contains != nil || r.UnevaluatedItems != nil || r.PatternProperties != nil || r.PropertyNames != nil ||
		r.UnevaluatedProperties != nil ||
		r.DependentSchemas != nil || r.Not != nil || r.If != nil
}

func (s *Schema) rareOrNone() *Rare {
	if s.Rare == nil {
		return &none
	}
	return s.Rare
}

// EnsureRare is the place to write a rare keyword to.
func (s *Schema) EnsureRare() *Rare {
	if s.Rare == nil {
		s.Rare = &Rare{}
	}
	return s.Rare
}

// PrefixItems is the keyword of that name, its zero value where it is not there.
func (s *Schema) PrefixItems() []*Schema { return s.rareOrNone().PrefixItems }

// Contains is the keyword of that name, its zero value where it is not there.
func (s *Schema) Contains() *Schema { return s.rareOrNone().Contains }

// MinContains is the keyword of that name, its zero value where it is not there.
func (s *Schema) MinContains() *int { return s.rareOrNone().MinContains }

// MaxContains is the keyword of that name, its zero value where it is not there.
func (s *Schema) MaxContains() *int { return s.rareOrNone().MaxContains }

// UnevaluatedItems is the keyword of that name, its zero value where it is not there.
func (s *Schema) UnevaluatedItems() *Schema { return s.rareOrNone().UnevaluatedItems }

// PatternProperties is the keyword of that name, its zero value where it is not there.
func (s *Schema) PatternProperties() []Property { return s.rareOrNone().PatternProperties }

// PropertyNames is the keyword of that name, its zero value where it is not there.
func (s *Schema) PropertyNames() *Schema { return s.rareOrNone().PropertyNames }

// UnevaluatedProperties is the keyword of that name, its zero value where it is not there.
func (s *Schema) UnevaluatedProperties() *Schema { return s.rareOrNone().UnevaluatedProperties }

// DependentRequired is the keyword of that name, its zero value where it is not there.
func (s *Schema) DependentRequired() []Dependency { return s.rareOrNone().DependentRequired }

// DependentSchemas is the keyword of that name, its zero value where it is not there.
func (s *Schema) DependentSchemas() []Property { return s.rareOrNone().DependentSchemas }

// Not is the keyword of that name, its zero value where it is not there.
func (s *Schema) Not() *Schema { return s.rareOrNone().Not }

// If is the keyword of that name, its zero value where it is not there.
func (s *Schema) If() *Schema { return s.rareOrNone().If }

// Then is the keyword of that name, its zero value where it is not there.
func (s *Schema) Then() *Schema { return s.rareOrNone().Then }

// Else is the keyword of that name, its zero value where it is not there.
func (s *Schema) Else() *Schema { return s.rareOrNone().Else }

// Discriminator is the keyword of that name, its zero value where it is not there.
func (s *Schema) Discriminator() *Discriminator { return s.rareOrNone().Discriminator }

// Examples is the keyword of that name, its zero value where it is not there.
func (s *Schema) Examples() []*source.Node { return s.rareOrNone().Examples }

// ContentEncoding is the keyword of that name, its zero value where it is not there.
func (s *Schema) ContentEncoding() string { return s.rareOrNone().ContentEncoding }

// ContentMediaType is the keyword of that name, its zero value where it is not there.
func (s *Schema) ContentMediaType() string { return s.rareOrNone().ContentMediaType }

// XML is the keyword of that name, its zero value where it is not there.
func (s *Schema) XML() *source.Node { return s.rareOrNone().XML }

// Docs is the keyword of that name, its zero value where it is not there.
func (s *Schema) Docs() ExternalDocs { return s.rareOrNone().Docs }

// Extensions is the keyword of that name, its zero value where it is not there.
func (s *Schema) Extensions() []Extension { return s.rareOrNone().Extensions }

// Unsupported is the keyword of that name, its zero value where it is not there.
func (s *Schema) Unsupported() []string { return s.rareOrNone().Unsupported }

// Unclear is the field of that name, its zero value where it is not there.
func (s *Schema) Unclear() []*source.Node { return s.rareOrNone().Unclear }

// Copy is a schema that may be changed and leaves this one as it is; what both refer to they share.
func (s *Schema) Copy() *Schema {
	c := *s
	if s.Rare != nil {
		rare := *s.Rare
		c.Rare = &rare
	}
	return &c
}
