package openapi

import (
	"math/big"
	"slices"

	"oldledger/core/contract"
	"oldledger/core/source"
)

var jsonTypes = []string{"null", "boolean", "integer", "number", "string", "array", "object"}

// unlowered are the keywords that constrain and that no comparison decides yet: whatever they guard is undecided.
var unlowered = []string{"$dynamicRef", "$recursiveRef"}

// schema reads a schema once; a second visit, also from inside itself, gives the same pointer.
func (r *reader) schema(n *source.Node) *contract.Schema {
	if s, done := r.schemas[n]; done {
		return s
	}
	s := &contract.Schema{Node: n, Name: componentName(n)}
	r.schemas[n] = s
	if n.Kind == source.Boolean && r.dialect != v30 {
		b := n.Bool
		s.Bool = &b
		return s
	}
	if !r.is(n, source.Mapping) {
		return s
	}
	if ref := n.Get("$ref"); ref != nil {
		target := r.target(ref)
		if target == nil {
			return s
		}
		s.Ref = r.schema(target)
		if r.circular(s) {
			r.report(ref.Problem("the reference %s leads back to itself and describes nothing", ref.Text))
			s.Ref = nil
			return s
		}
		if r.dialect == v30 {
			return s // siblings of $ref are ignored (OpenAPI 3.0.4, Reference Object)
		}
	}
	r.annotations(s, n)
	r.types(s, n)
	r.numbers(s, n)
	r.strings(s, n)
	r.arrays(s, n)
	r.objects(s, n)
	r.compositions(s, n)
	for _, key := range unlowered {
		if n.Get(key) != nil {
			s.Unread = append(s.Unread, key)
		}
	}
	return s
}

// circular tells whether a chain of references never reaches a schema.
func (r *reader) circular(s *contract.Schema) bool {
	at := s.Ref
	for range maxHops {
		if at == s {
			return true
		}
		if at == nil || at.Ref == nil {
			return false
		}
		at = at.Ref
	}
	return true
}

// componentName is the name of a schema that stands directly under components/schemas.
func componentName(n *source.Node) string {
	p := n.Parent()
	if p != nil && p.Step() == "schemas" && p.Parent() != nil && p.Parent().Step() == "components" && p.Parent().Parent() != nil &&
		p.Parent().Parent().Parent() == nil {
		return n.Step()
	}
	return ""
}

func (r *reader) annotations(s *contract.Schema, n *source.Node) {
	s.Title, s.Description = r.text(n, "title"), r.text(n, "description")
	s.Default = n.Get("default")
	if e := n.Get("example"); e != nil {
		s.Examples = append(s.Examples, e)
	}
	if list := n.Get("examples"); list != nil && list.Kind == source.Sequence {
		s.Examples = append(s.Examples, list.Items...)
	}
	s.ReadOnly, s.WriteOnly, s.Deprecated = r.flag(n, "readOnly"), r.flag(n, "writeOnly"), r.flag(n, "deprecated")
	s.ContentEncoding, s.ContentMediaType = r.text(n, "contentEncoding"), r.text(n, "contentMediaType")
	s.Docs, s.Extensions = r.docs(n), extensions(n)
}

func (r *reader) types(s *contract.Schema, n *source.Node) {
	if t := n.Get("type"); t != nil {
		switch {
		case t.Kind == source.String:
			r.jsonType(s, t)
		case t.Kind == source.Sequence && r.dialect != v30:
			for _, it := range t.Items {
				if r.is(it, source.String) {
					r.jsonType(s, it)
				}
			}
		case t.Kind == source.Sequence:
			r.report(t.Problem("in OpenAPI 3.0 a schema has one type; for null write nullable: true"))
		default:
			r.report(t.Problem("type must be the name of a JSON type, not %s", t.Kind))
		}
	}
	s.Nullable = r.dialect == v30 && r.flag(n, "nullable")
	if e := n.Get("enum"); e != nil && r.is(e, source.Sequence) {
		s.Enum, s.HasEnum = e.Items, true
	}
	if r.dialect != v30 {
		s.Const = n.Get("const")
	}
}

func (r *reader) jsonType(s *contract.Schema, t *source.Node) {
	known := jsonTypes
	if r.dialect == v30 {
		known = jsonTypes[1:]
	}
	if !slices.Contains(known, t.Text) {
		if t.Text == "null" {
			r.report(t.Problem("OpenAPI 3.0 has no type null; write nullable: true"))
			return
		}
		r.report(t.Problem("type %q is not a JSON type%s", t.Text, source.DidYouMean(t.Text, known)))
		return
	}
	s.Types = append(s.Types, t.Text)
}

func (r *reader) numbers(s *contract.Schema, n *source.Node) {
	s.MultipleOf = r.number(n, "multipleOf")
	if s.MultipleOf != nil && s.MultipleOf.Sign() <= 0 {
		r.report(n.Get("multipleOf").Problem("multipleOf must be above 0"))
		s.MultipleOf = nil
	}
	s.Minimum, s.ExclusiveMinimum = r.limit(n, "minimum", "exclusiveMinimum")
	s.Maximum, s.ExclusiveMaximum = r.limit(n, "maximum", "exclusiveMaximum")
}

// limit reads one end of a range: a number of its own since 3.1, a flag beside the other in 3.0.
func (r *reader) limit(n *source.Node, inclusive, exclusive string) (in, ex *big.Rat) {
	in = r.number(n, inclusive)
	e := n.Get(exclusive)
	switch {
	case e == nil:
	case r.dialect == v30 && e.Kind == source.Number:
		r.report(e.Problem("in OpenAPI 3.0 %s is true or false, beside %s", exclusive, inclusive))
	case r.dialect == v30:
		if r.flag(n, exclusive) {
			return nil, in
		}
	case e.Kind == source.Boolean:
		r.report(e.Problem("since OpenAPI 3.1 %s is the limit itself, a number", exclusive))
	default:
		ex = r.number(n, exclusive)
	}
	return in, ex
}

func (r *reader) strings(s *contract.Schema, n *source.Node) {
	s.MinLength, s.MaxLength = r.count(n, "minLength"), r.count(n, "maxLength")
	if p := n.Get("pattern"); p != nil && r.is(p, source.String) {
		text := p.Text
		s.Pattern = &text
	}
	s.Format = r.text(n, "format")
}

func (r *reader) arrays(s *contract.Schema, n *source.Node) {
	s.MinItems, s.MaxItems, s.UniqueItems = r.count(n, "minItems"), r.count(n, "maxItems"), r.flag(n, "uniqueItems")
	s.Items = r.sub(n, "items")
	if r.dialect == v30 {
		return
	}
	s.PrefixItems = r.subs(n, "prefixItems")
	s.Contains, s.MinContains, s.MaxContains = r.sub(n, "contains"), r.count(n, "minContains"), r.count(n, "maxContains")
	s.UnevaluatedItems = r.sub(n, "unevaluatedItems")
}

func (r *reader) objects(s *contract.Schema, n *source.Node) {
	s.Properties = r.named(n, "properties")
	s.Required = r.words(n, "required")
	s.MinProperties, s.MaxProperties = r.count(n, "minProperties"), r.count(n, "maxProperties")
	if a := n.Get("additionalProperties"); a != nil {
		s.AdditionalProperties = r.openness(a)
	}
	if r.dialect == v30 {
		return
	}
	s.PatternProperties = r.named(n, "patternProperties")
	s.PropertyNames = r.sub(n, "propertyNames")
	s.UnevaluatedProperties = r.sub(n, "unevaluatedProperties")
	s.DependentSchemas = r.named(n, "dependentSchemas")
	for _, m := range r.members(n, "dependentRequired") {
		s.DependentRequired = append(s.DependentRequired, contract.Dependency{Name: m.Key, Needs: r.words(n.Get("dependentRequired"), m.Key)})
	}
}

// openness reads additionalProperties, which may be a boolean in every dialect.
func (r *reader) openness(n *source.Node) *contract.Schema {
	if n.Kind != source.Boolean {
		return r.schema(n)
	}
	if s, done := r.schemas[n]; done {
		return s
	}
	b := n.Bool
	s := &contract.Schema{Node: n, Bool: &b}
	r.schemas[n] = s
	return s
}

func (r *reader) compositions(s *contract.Schema, n *source.Node) {
	s.AllOf, s.AnyOf, s.OneOf = r.subs(n, "allOf"), r.subs(n, "anyOf"), r.subs(n, "oneOf")
	s.Not = r.sub(n, "not")
	if r.dialect != v30 {
		s.If, s.Then, s.Else = r.sub(n, "if"), r.sub(n, "then"), r.sub(n, "else")
	}
	d := n.Get("discriminator")
	if d == nil || !r.is(d, source.Mapping) {
		return
	}
	s.Discriminator = &contract.Discriminator{Property: r.text(d, "propertyName"), Node: d}
	if s.Discriminator.Property == "" {
		r.report(d.Problem("a discriminator needs propertyName"))
	}
	for _, m := range r.members(d, "mapping") {
		s.Discriminator.Mapping = append(s.Discriminator.Mapping, contract.MappingEntry{Value: m.Key, Target: m.Value.Text})
	}
}

func (r *reader) sub(n *source.Node, key string) *contract.Schema {
	if c := n.Get(key); c != nil {
		return r.schema(c)
	}
	return nil
}

func (r *reader) subs(n *source.Node, key string) []*contract.Schema {
	list := n.Get(key)
	if list == nil || !r.is(list, source.Sequence) {
		return nil
	}
	if len(list.Items) == 0 && key != "prefixItems" {
		r.report(list.Problem("%s needs at least one schema", key))
	}
	var all []*contract.Schema
	for _, it := range list.Items {
		all = append(all, r.schema(it))
	}
	return all
}

func (r *reader) named(n *source.Node, key string) []contract.Property {
	f := n.Get(key)
	if f == nil || !r.is(f, source.Mapping) {
		return nil
	}
	props := make([]contract.Property, 0, len(f.Members))
	for _, m := range f.Members {
		props = append(props, contract.Property{Name: m.Key, Schema: r.schema(m.Value)})
	}
	return props
}
