package compare

import (
	"cmp"
	"math/big"
	"slices"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// view is a schema as a reader understands it: references followed, allOf branches that can be joined joined, null taken
// out of unions. Two spellings of one schema have the same view, so that refactoring stays silent.
type view struct {
	schema *contract.Schema        // the joined keywords; its Node is the authored schema's
	at     map[string]*source.Node // where each keyword stands
	null   bool                    // null comes from nullable or from a union
	mixed  bool                    // some branches could not be joined: only whole sets can be compared here
	joined map[*contract.Schema]bool
	owner  map[string]*contract.Schema // the schema that declares a property, where it is not the first
}

var anything = &contract.Schema{Node: &source.Node{}}

func newView(sc *contract.Schema) *view {
	v := &view{schema: &contract.Schema{Node: sc.Node, Name: sc.Name}, at: map[string]*source.Node{}, joined: map[*contract.Schema]bool{}}
	v.join(sc, map[*contract.Schema]bool{})
	v.setTypes()
	return v
}

// place is where a keyword stands, or the schema where it is not there.
func (v *view) place(keyword string) *source.Node {
	if n := v.at[keyword]; n != nil {
		return n
	}
	return v.schema.Node
}

func (v *view) join(sc *contract.Schema, seen map[*contract.Schema]bool) {
	if seen[sc] {
		v.mixed = true
		return
	}
	if v.joined[sc] {
		return // what is demanded twice is demanded once
	}
	seen[sc] = true
	defer func() { delete(seen, sc); v.joined[sc] = true }()
	if sc.Ref != nil {
		v.join(sc.Ref, seen)
	}
	for _, b := range sc.AllOf {
		v.join(b, seen)
	}
	sc = v.withoutNull(sc, seen)
	for _, m := range sc.Node.Members {
		v.at[m.Key] = m.Value
	}
	v.joinRare(sc)
	v.joinScalars(sc)
	v.joinArrays(sc)
	v.joinObjects(sc)
	v.joinWords(sc)
}

// withoutNull takes apart a union of one schema and null, and a union of one.
func (v *view) withoutNull(sc *contract.Schema, seen map[*contract.Schema]bool) *contract.Schema {
	for _, keyword := range []string{"anyOf", "oneOf"} {
		list := sc.AnyOf
		if keyword == "oneOf" {
			list = sc.OneOf
		}
		if len(list) == 0 || sc.Discriminator() != nil {
			continue
		}
		var rest []*contract.Schema
		for _, b := range list {
			if !isNull(b) {
				rest = append(rest, b)
			}
		}
		if len(rest) != 1 || len(list) > 2 || v.schema.Types != nil || sc.Types != nil || sc.SaysObject() {
			continue
		}
		v.null = v.null || len(list) == 2
		v.join(rest[0], seen)
		plain := *sc
		if keyword == "oneOf" {
			plain.OneOf = nil
		} else {
			plain.AnyOf = nil
		}
		sc = &plain
	}
	return sc
}

func isNull(sc *contract.Schema) bool {
	sc = sc.Deref()
	if sc.Types == nil && sc.HasEnum && len(sc.Enum) == 1 && sc.Enum[0].Kind == source.Null {
		return true // as OpenAPI 3.0 says it, which has no type null
	}
	return len(sc.Types) == 1 && sc.Types[0] == "null"
}

// first keeps a keyword that only one branch has; two that differ cannot be joined here.
func first[T any](v *view, into **T, from *T, same func(a, b *T) bool) {
	switch {
	case from == nil:
	case *into == nil:
		*into = from
	case !same(*into, from):
		v.mixed = true
	}
}

func sameRat(a, b *big.Rat) bool             { return a.Cmp(b) == 0 }
func samePointer[T comparable](a, b *T) bool { return *a == *b }
func sameSchema(a, b *contract.Schema) bool  { return a == b }
func sameBool(a, b *bool) bool               { return *a == *b }

func (v *view) joinScalars(sc *contract.Schema) {
	s := v.schema
	v.null = v.null || sc.Nullable
	first(v, &s.Bool, sc.Bool, sameBool)
	if sc.Types != nil {
		if s.Types == nil {
			s.Types = sc.Types
		} else {
			s.Types = meetTypes(s.Types, sc.Types)
		}
	}
	if sc.HasEnum {
		v.list(sc.Enum)
	}
	if sc.Const != nil {
		v.list([]*source.Node{sc.Const})
		v.at["enum"] = v.at["const"]
	}
	first(v, &s.MultipleOf, sc.MultipleOf, sameRat)
	first(v, &s.Minimum, sc.Minimum, sameRat)
	first(v, &s.Maximum, sc.Maximum, sameRat)
	first(v, &s.ExclusiveMinimum, sc.ExclusiveMinimum, sameRat)
	first(v, &s.ExclusiveMaximum, sc.ExclusiveMaximum, sameRat)
	first(v, &s.MinLength, sc.MinLength, samePointer)
	first(v, &s.MaxLength, sc.MaxLength, samePointer)
	first(v, &s.Pattern, sc.Pattern, samePointer)
	if sc.Format != "" {
		v.mixed = v.mixed || s.Format != "" && s.Format != sc.Format
		s.Format = sc.Format
	}
}

// joinRare joins the keywords that few schemas have.
func (v *view) joinRare(sc *contract.Schema) {
	if sc.Rare == nil {
		return
	}
	s, into, from := v.schema, v.schema.EnsureRare(), sc.Rare
	if from.PrefixItems != nil {
		v.mixed = v.mixed || into.PrefixItems != nil || s.Items != nil
		into.PrefixItems = from.PrefixItems
	}
	first(v, &into.Contains, from.Contains, sameSchema)
	first(v, &into.MinContains, from.MinContains, samePointer)
	first(v, &into.MaxContains, from.MaxContains, samePointer)
	first(v, &into.UnevaluatedItems, from.UnevaluatedItems, sameSchema)
	into.PatternProperties = v.joinNamed(into.PatternProperties, from.PatternProperties)
	into.DependentSchemas = v.joinNamed(into.DependentSchemas, from.DependentSchemas)
	first(v, &into.PropertyNames, from.PropertyNames, sameSchema)
	first(v, &into.UnevaluatedProperties, from.UnevaluatedProperties, sameSchema)
	into.DependentRequired = append(slices.Clip(into.DependentRequired), from.DependentRequired...)
	first(v, &into.Not, from.Not, sameSchema)
	if from.If != nil {
		v.mixed = v.mixed || into.If != nil
		into.If, into.Then, into.Else = from.If, from.Then, from.Else
	}
	if from.Discriminator != nil {
		into.Discriminator = from.Discriminator
	}
	into.Unclear = append(slices.Clip(into.Unclear), from.Unclear...)
	into.Unsupported = append(slices.Clip(into.Unsupported), from.Unsupported...)
	v.joinRareWords(into, from)
}

func (v *view) joinRareWords(into, from *contract.Rare) {
	if len(from.Examples) > 0 {
		into.Examples = from.Examples
	}
	into.ContentEncoding = cmp.Or(from.ContentEncoding, into.ContentEncoding)
	into.ContentMediaType = cmp.Or(from.ContentMediaType, into.ContentMediaType)
	if from.Docs.URL != "" {
		into.Docs = from.Docs
	}
	if from.XML != nil {
		into.XML = from.XML
	}
	into.Extensions = append(slices.Clip(into.Extensions), from.Extensions...)
}

// list joins listed values: what stands in both lists.
func (v *view) list(values []*source.Node) {
	s := v.schema
	if !s.HasEnum {
		s.Enum, s.HasEnum = values, true
		return
	}
	gone := map[*source.Node]bool{}
	for _, n := range missing(s.Enum, values) {
		gone[n] = true
	}
	both := []*source.Node{}
	for _, n := range s.Enum {
		if !gone[n] {
			both = append(both, n)
		}
	}
	s.Enum = both
}

func meetTypes(a, b []string) []string {
	meet := []string{}
	for _, t := range a {
		switch {
		case slices.Contains(b, t):
			meet = append(meet, t)
		case t == "integer" && slices.Contains(b, "number"), t == "number" && slices.Contains(b, "integer"):
			meet = append(meet, "integer")
		}
	}
	return meet
}

func (v *view) joinArrays(sc *contract.Schema) {
	s := v.schema
	if sc.Items != nil {
		if s.Items != nil && s.Items != sc.Items {
			s.Items = &contract.Schema{Node: s.Items.Node, AllOf: []*contract.Schema{s.Items, sc.Items}}
		} else {
			s.Items = sc.Items
		}
	}
	first(v, &s.MinItems, sc.MinItems, samePointer)
	first(v, &s.MaxItems, sc.MaxItems, samePointer)
	s.UniqueItems = s.UniqueItems || sc.UniqueItems
}

func (v *view) joinObjects(sc *contract.Schema) {
	s := v.schema
	// additionalProperties speaks of the names beside it: joined with a branch that declares others, it means something else.
	if sc.AdditionalProperties != nil || s.AdditionalProperties != nil {
		beside := len(s.Properties) > 0 && len(sc.Properties) > 0 || s.AdditionalProperties != nil &&
			(len(sc.Properties) > 0 || sc.AdditionalProperties != nil) ||
			sc.AdditionalProperties != nil && len(s.Properties) > 0
		free := func(a *contract.Schema) bool { return a == nil || a.Bool != nil && *a.Bool }
		v.mixed = v.mixed || beside && !(free(sc.AdditionalProperties) && free(s.AdditionalProperties))
	}
	if v.owner == nil {
		v.owner = map[string]*contract.Schema{}
	}
	for _, p := range sc.Properties {
		v.owner[p.Name] = sc
	}
	s.Properties = v.joinNamed(s.Properties, sc.Properties)
	first(v, &s.AdditionalProperties, sc.AdditionalProperties, sameSchema)
	first(v, &s.MinProperties, sc.MinProperties, samePointer)
	first(v, &s.MaxProperties, sc.MaxProperties, samePointer)
	for _, name := range sc.Required {
		if !slices.Contains(s.Required, name) {
			s.Required = append(slices.Clip(s.Required), name)
		}
	}
	for _, u := range []struct{ into, from *[]*contract.Schema }{{&s.AnyOf, &sc.AnyOf}, {&s.OneOf, &sc.OneOf}} {
		if *u.from != nil {
			v.mixed = v.mixed || *u.into != nil
			*u.into = *u.from
		}
	}
}

func (v *view) joinNamed(into, from []contract.Property) []contract.Property {
	for _, p := range from {
		i := slices.IndexFunc(into, func(o contract.Property) bool { return o.Name == p.Name })
		switch {
		case i < 0:
			into = append(slices.Clip(into), p)
		case into[i].Schema != p.Schema:
			both := &contract.Schema{Node: into[i].Schema.Node, AllOf: []*contract.Schema{into[i].Schema, p.Schema}}
			into = slices.Clone(into)
			into[i] = contract.Property{Name: p.Name, Schema: both}
		}
	}
	return into
}

// joinWords keeps the outermost words: what stands beside a reference says more than what it names.
func (v *view) joinWords(sc *contract.Schema) {
	s := v.schema
	if sc.Title != "" {
		s.Title = sc.Title
	}
	if sc.Description != "" {
		s.Description = sc.Description
	}
	if sc.Default != nil {
		s.Default = sc.Default
	}
	s.ReadOnly, s.WriteOnly, s.Deprecated = s.ReadOnly || sc.ReadOnly, s.WriteOnly || sc.WriteOnly, s.Deprecated || sc.Deprecated
}

// setTypes puts the type list into one order, null as a flag of its own, types from an enum where none are said.
func (v *view) setTypes() {
	s := v.schema
	if s.Types == nil && s.HasEnum && len(s.Enum) > 0 {
		// An enum says its types: type: string beside enum: [a] adds nothing.
		for _, n := range s.Enum {
			if t := jsonTypeOf(n); !slices.Contains(s.Types, t) {
				s.Types = append(s.Types, t)
			}
		}
	}
	if i := slices.Index(s.Types, "null"); i >= 0 {
		v.null = true
		s.Types = slices.Delete(slices.Clone(s.Types), i, i+1)
	}
	if s.Types == nil {
		return
	}
	types := slices.Clone(s.Types)
	if slices.Contains(types, "number") {
		types = slices.DeleteFunc(types, func(t string) bool { return t == "integer" })
	}
	slices.Sort(types)
	s.Types = slices.Compact(types)
}

func jsonTypeOf(n *source.Node) string {
	switch n.Kind {
	case source.Number:
		if n.Num().IsInt() {
			return "integer"
		}
		return "number"
	case source.Sequence:
		return "array"
	case source.Mapping:
		return "object"
	case source.String:
		return "string"
	case source.Boolean:
		return "boolean"
	}
	return "null"
}
