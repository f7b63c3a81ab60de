package reference

import (
	"fmt"
	"math/big"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Field is a value as a reader sees it: a parameter, a property, an item, or a body as a whole.
type Field struct {
	Name        string
	Type        string   // in words: "string", "list of Berth", "Vessel"
	Schema      string   // the named schema that has a page of its own, or ""
	Items       string   // for a list: the named schema of its items, or ""
	Limits      []string // in words: "above 0", "at most 400"
	Required    bool
	Nullable    bool
	ReadOnly    bool
	WriteOnly   bool
	Deprecated  bool
	Default     string
	Example     string
	Enum        []Meaning
	Description string // CommonMark
	Margin      Margin
	Again       bool     // whether it is what it stands in once more, whose fields are not listed twice
	Fields      []*Field // properties
	Demands     []Demand // which of the properties must be there together, or one of them
	Choices     []*Field // the branches of a union
	When        string   // for a choice: the discriminator's word for it, "kind is tug"
	Sample      *Sample  // for a choice of a message: one of it

	of   *contract.Schema // for a choice: what it was made from
	tags []string         // for a choice: the values that mean it
}

// Demand says which properties must be there: with a property, or at any rate.
type Demand struct {
	With    string     // the property that demands them; "" for at any rate
	Exactly bool       // whether no two of the sets may be there at once
	Sets    [][]string // one of these must be there, each of them whole
}

// Meaning is one of the values that a field can have, and what it stands for where the author says so.
type Meaning struct{ Value, Text string }

// flat is a schema with its references and its allOf branches laid together, as far as a reader needs it.
type flat struct {
	*contract.Schema
	types    []string
	props    []owned
	required []string
	unions   []union
	demands  []Demand
	seen     map[*contract.Schema]bool // what is in it already
}

// union is alternatives: one of them holds, and for a oneOf no other.
type union struct {
	exactly bool
	of      []*contract.Schema
}

// owned is a property with the item that it is a field of.
type owned struct {
	contract.Property
	owner string
}

func flatten(s *contract.Schema, owner string, into *flat) {
	if s == nil || into.seen[s] {
		return
	}
	if into.seen == nil {
		into.seen = map[*contract.Schema]bool{}
	}
	into.seen[s] = true
	if s.Name != "" {
		owner = schemaItem(s.Name)
	}
	flatten(s.Ref, owner, into)
	for _, b := range s.AllOf {
		flatten(b, owner, into)
	}
	if into.Schema == nil {
		into.Schema = s
	} else {
		merged := *s.Copy()
		inherit(&merged, into.Schema)
		into.Schema = &merged
	}
	if s.Types != nil {
		into.types = s.Types
	}
	for _, p := range s.Properties {
		if i := slices.IndexFunc(into.props, func(o owned) bool { return o.Name == p.Name }); i >= 0 {
			into.props[i] = owned{p, owner}
		} else {
			into.props = append(into.props, owned{p, owner})
		}
	}
	into.required = append(into.required, s.Required...)
	for _, u := range []union{{true, s.OneOf}, {false, s.AnyOf}} {
		if len(u.of) > 0 {
			into.unions = append(into.unions, u)
		}
	}
	for _, d := range s.DependentRequired() {
		into.demands = append(into.demands, Demand{With: d.Name, Sets: [][]string{d.Needs}})
	}
}

// inherit fills what a schema does not say itself from the one that it builds on.
func inherit(s, from *contract.Schema) {
	if s.Description == "" {
		s.Description = from.Description
	}
	if s.Title == "" {
		s.Title = from.Title
	}
	if s.Format == "" {
		s.Format = from.Format
	}
	if s.Enum == nil {
		s.Enum, s.HasEnum = from.Enum, from.HasEnum
	}
	for _, p := range []struct{ into, from **big.Rat }{
		{&s.Minimum, &from.Minimum},
		{&s.Maximum, &from.Maximum},
		{&s.MultipleOf, &from.MultipleOf},
		{&s.ExclusiveMinimum, &from.ExclusiveMinimum},
		{&s.ExclusiveMaximum, &from.ExclusiveMaximum},
	} {
		if *p.into == nil {
			*p.into = *p.from
		}
	}
	for _, p := range []struct{ into, from **int }{
		{&s.MinLength, &from.MinLength}, {&s.MaxLength, &from.MaxLength}, {&s.MinItems, &from.MinItems}, {&s.MaxItems, &from.MaxItems},
	} {
		if *p.into == nil {
			*p.into = *p.from
		}
	}
	if s.Pattern == nil {
		s.Pattern = from.Pattern
	}
	if s.Items == nil {
		s.Items = from.Items
	}
	if s.Default == nil {
		s.Default = from.Default
	}
	if len(s.Examples()) == 0 {
		s.EnsureRare().Examples = from.Examples()
	}
	s.Nullable, s.Deprecated = s.Nullable || from.Nullable, s.Deprecated || from.Deprecated
	s.ReadOnly, s.WriteOnly = s.ReadOnly || from.ReadOnly, s.WriteOnly || from.WriteOnly
	if s.AdditionalProperties == nil {
		s.AdditionalProperties = from.AdditionalProperties
	}
}

// How far a page unfolds: so deep, and a named schema inside another only while it has so few fields. Where it stops, a link leads on.
const (
	maxFieldDepth = 4
	maxInPlace    = 40
)

// whole describes what a message or a page holds. Of a named schema it is made once.
func (m *maker) whole(name string, s *contract.Schema, owner string) *Field {
	d := s.Deref()
	if d == nil || d.Name == "" {
		return m.field(name, s, owner, nil)
	}
	known := m.fields[d]
	if known == nil {
		known = m.field("", d, owner, nil)
		m.fields[d] = known
	}
	named := *known
	named.Name = name
	return &named
}

// field describes a schema. owner is the item whose fields it has, where no named schema owns them; path is the named schemas around it,
// so that recursion ends in a link.
func (m *maker) field(name string, s *contract.Schema, owner string, path []string) *Field {
	f := &Field{Name: name, Type: "anything"}
	if s == nil {
		return f
	}
	var fl flat
	flatten(s, owner, &fl)
	f.Schema = componentOf(s)
	f.Description, f.Deprecated, f.ReadOnly, f.WriteOnly = fl.Description, fl.Schema.Deprecated, fl.Schema.ReadOnly, fl.Schema.WriteOnly
	f.Nullable = fl.Nullable || slices.Contains(fl.types, "null")
	f.Type, f.Limits = typeWords(&fl, f.Schema), limits(&fl)
	f.Enum = meanings(&fl)
	if fl.Items != nil {
		f.Items = componentOf(fl.Items)
	}
	if fl.Default != nil {
		f.Default = text(fl.Default.Value())
	}
	if len(fl.Examples()) > 0 && len(fl.props) == 0 {
		f.Example = text(fl.Examples()[0].Value())
	}
	switch {
	case len(path) >= maxFieldDepth,
		f.Schema != "" && len(path) > 0 && m.breadth(s) > maxInPlace:
		return f
	case f.Schema != "" && slices.Contains(path, f.Schema):
		f.Again = true
		return f
	}
	if f.Schema != "" {
		owner = schemaItem(f.Schema)
	}
	m.unfold(f, &fl, owner, append(slices.Clip(path), f.Schema))
	return f
}

// breadth counts the fields of a schema, those of its fields with them; recursion ends it.
func (m *maker) breadth(s *contract.Schema) int {
	s = s.Deref()
	if n, known := m.breadths[s]; known {
		return n
	}
	m.breadths[s] = 0
	var fl flat
	flatten(s, "", &fl)
	n := 0
	for _, p := range fl.props {
		n += 1 + m.breadth(p.Schema)
	}
	if fl.Items != nil {
		n += m.breadth(fl.Items)
	}
	for _, u := range fl.unions {
		for _, branch := range u.of {
			n += m.breadth(branch)
		}
	}
	m.breadths[s] = min(n, 10*maxInPlace)
	return m.breadths[s]
}

// unfold adds the properties, the items' properties and the choices.
func (m *maker) unfold(f *Field, fl *flat, owner string, path []string) {
	for _, p := range fl.props {
		item := fieldItem(p.owner, p.Name)
		child := m.field(p.Name, p.Schema, item, path)
		child.Required = slices.Contains(fl.required, p.Name)
		child.Margin = m.margin(item)
		f.Fields = append(f.Fields, child)
	}
	if fl.Items != nil && len(fl.props) == 0 {
		item := m.field("", fl.Items, owner, path)
		f.Fields, f.Choices, f.Demands = append(f.Fields, item.Fields...), append(f.Choices, item.Choices...), append(f.Demands, item.Demands...)
		f.Again = item.Again
		if len(f.Enum) == 0 {
			f.Enum = item.Enum
		}
	}
	for _, u := range fl.unions {
		m.alternatives(f, fl, u, owner, path)
	}
	f.Demands = append(f.Demands, fl.demands...)
}

// alternatives adds those of a union: what must be there, or choices. A union beside another one is a nameless field that has its choices.
func (m *maker) alternatives(f *Field, fl *flat, u union, owner string, path []string) {
	if listsValues(u.of) {
		return // they are shown as values with their meanings
	}
	var choices []*Field
	demand := Demand{Exactly: u.exactly}
	for _, branch := range u.of {
		d := branch.Deref()
		switch {
		case len(d.Types) == 1 && d.Types[0] == "null":
			f.Nullable = true
		case demands(d):
			demand.Sets = append(demand.Sets, d.Required)
		default:
			choice := m.field(choiceName(branch), branch, owner, path)
			choice.of, choice.tags = branch, tagsOf(fl.Discriminator(), choice.Schema)
			if len(choice.tags) > 0 {
				choice.When = fl.Discriminator().Property + " is " + strings.Join(choice.tags, " or ")
			}
			choices = append(choices, choice)
		}
	}
	if len(demand.Sets) > 0 {
		f.Demands = append(f.Demands, demand)
	}
	switch {
	case len(choices) > 0 && len(f.Choices) > 0:
		f.Fields = append(f.Fields, &Field{Type: "and besides", Choices: choices})
	case len(choices) > 0:
		f.Choices = choices
	}
}

// demands reports whether an alternative says nothing but what must be there.
func demands(s *contract.Schema) bool {
	return len(s.Required) > 0 && s.Properties == nil && s.AllOf == nil && s.OneOf == nil && s.AnyOf == nil &&
		(s.Types == nil || len(s.Types) == 1 && s.Types[0] == "object")
}

// tagsOf are the values of a discriminator that mean a schema.
func tagsOf(d *contract.Discriminator, schema string) []string {
	if d == nil || schema == "" {
		return nil
	}
	var values []string
	for _, e := range d.Mapping {
		if e.Target == schema || strings.HasSuffix(e.Target, "/"+schema) {
			values = append(values, e.Value)
		}
	}
	if len(values) == 0 {
		values = []string{schema}
	}
	return values
}

// MeaningsField is the extension in which a schema says what its values stand for: an object from a value to its meaning.
const MeaningsField = "x-ledger-meanings"

// meanings are the values that a schema lists, in enum or const or as alternatives of one value each.
func meanings(fl *flat) []Meaning {
	var all []Meaning
	for _, e := range fl.Enum {
		all = append(all, Meaning{Value: text(e.Value())})
	}
	if fl.Const != nil {
		all = append(all, Meaning{Value: text(fl.Const.Value())})
	}
	for _, u := range fl.unions {
		if !listsValues(u.of) {
			continue
		}
		for _, branch := range u.of {
			d := branch.Deref()
			all = append(all, Meaning{text(d.Const.Value()), firstOf(d.Description, d.Title)})
		}
	}
	for _, x := range fl.Extensions() {
		if x.Name != MeaningsField {
			continue
		}
		for i := range all {
			if said := x.Node.Get(all[i].Value); said != nil && said.Kind == source.String {
				all[i].Text = said.Text
			}
		}
	}
	return all
}

// listsValues reports whether alternatives are one value each: the way in which JSON Schema lists values with their meanings.
func listsValues(alternatives []*contract.Schema) bool {
	for _, a := range alternatives {
		if d := a.Deref(); d.Const == nil || d.Properties != nil {
			return false
		}
	}
	return len(alternatives) > 0
}

func firstOf(texts ...string) string {
	for _, t := range texts {
		if t != "" {
			return t
		}
	}
	return ""
}

func choiceName(s *contract.Schema) string {
	d := s.Deref()
	if d.Name != "" {
		return d.Name
	}
	return d.Title
}

// componentOf is the named schema that a schema stands for.
func componentOf(s *contract.Schema) string {
	for range 20 {
		if s.Name != "" {
			return s.Name
		}
		if s.Ref == nil {
			return ""
		}
		s = s.Ref
	}
	return ""
}

func typeWords(fl *flat, name string) string {
	types := slices.DeleteFunc(slices.Clone(fl.types), func(t string) bool { return t == "null" })
	switch {
	case fl.Items != nil:
		item := fl.Items.Deref()
		if n := componentOf(fl.Items); n != "" {
			return "list of " + n
		}
		var inner flat
		flatten(item, "", &inner)
		return "list of " + typeWords(&inner, "")
	case name != "" && (len(fl.props) > 0 || len(fl.unions) > 0):
		return name
	case len(types) == 0 && len(fl.props) > 0:
		return "object"
	case len(types) == 0 && slices.ContainsFunc(fl.unions, func(u union) bool { return listsValues(u.of) }):
		return "value"
	case len(types) == 0 && len(fl.unions) > 0:
		return "one of several"
	case len(types) == 0 && (fl.HasEnum || fl.Const != nil):
		return "value"
	case len(types) == 0:
		return "anything"
	}
	words := strings.Join(types, " or ")
	if fl.Format != "" {
		words += ", " + fl.Format
	}
	return words
}

// limits says in words what values are admitted.
func limits(fl *flat) []string {
	var out []string
	number := func(word string, r *big.Rat) {
		if r != nil {
			out = append(out, word+" "+value.NumberText(r))
		}
	}
	number("at least", fl.Minimum)
	number("above", fl.ExclusiveMinimum)
	number("at most", fl.Maximum)
	number("below", fl.ExclusiveMaximum)
	number("a multiple of", fl.MultipleOf)
	count := func(low, high *int, unit string) {
		switch {
		case low != nil && high != nil && *low == *high:
			out = append(out, fmt.Sprintf("%d %s", *low, unit))
		case low != nil && high != nil:
			out = append(out, fmt.Sprintf("%d to %d %s", *low, *high, unit))
		case high != nil:
			out = append(out, fmt.Sprintf("at most %d %s", *high, unit))
		case low != nil && *low > 0:
			out = append(out, fmt.Sprintf("at least %d %s", *low, unit))
		}
	}
	count(fl.MinLength, fl.MaxLength, "characters")
	count(fl.MinItems, fl.MaxItems, "items")
	count(fl.MinProperties, fl.MaxProperties, "properties")
	if fl.Pattern != nil {
		out = append(out, "matches "+*fl.Pattern)
	}
	if fl.UniqueItems {
		out = append(out, "no repetitions")
	}
	if a := fl.AdditionalProperties; a != nil && a.Bool != nil && !*a.Bool {
		out = append(out, "nothing else")
	}
	return out
}
