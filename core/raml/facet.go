package raml

import (
	"cmp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// facetsOf reads what a declaration says beside its type.
func (r *reader) facetsOf(s *contract.Schema, v *source.Node, k kind) {
	r.knownFacets(v, k)
	s.Title, s.Description, s.Default = r.text(v, "displayName"), r.text(v, "description"), r.field(v, "default")
	target := cmp.Or(r.annotationTarget[v], "TypeDeclaration")
	if all := append(r.annotations(v, target), r.unsaid(v, k)...); len(all) > 0 {
		s.EnsureRare().Extensions = all
		s.Deprecated = isDeprecated(all)
	}
	if examples := r.examplesOf(v); len(examples) > 0 {
		for _, e := range examples {
			s.EnsureRare().Examples = append(s.EnsureRare().Examples, e.Value)
		}
	}
	if x := r.field(v, "xml"); x != nil {
		s.EnsureRare().XML = x
	}
	if e := r.field(v, "enum"); e != nil && r.is(e, source.Sequence) {
		s.HasEnum, s.Enum = true, r.distinct(r.items(v, "enum"))
	}
	if (k == kindString || k == kindInteger || k == kindNumber) && s.HasEnum {
		r.enumOf(s, k)
	}
	r.numberFacets(s, v, k)
	r.textFacets(s, v, k)
	r.arrayFacets(s, v)
	r.objectFacets(s, v)
	if r.flag(v, "repeat", false) { // RAML 0.8: the parameter may stand several times
		item := *s
		*s = contract.Schema{
			Node: s.Node, Types: []string{"array"}, Items: &item, Title: item.Title, Description: item.Description,
			Rare: item.Rare,
		}
		item.Title, item.Description, item.Rare = "", "", nil
	}
}

// enumOf gives listed values the type of what they list: a YAML writer need not quote 1 in a list of strings.
func (r *reader) enumOf(s *contract.Schema, k kind) {
	for i, n := range s.Enum {
		switch {
		case k == kindString && (n.Kind == source.Number || n.Kind == source.Boolean):
			s.Enum[i] = n.WithText(n.Text)
		case k != kindString && n.Kind != source.Number:
			r.report(n.Wrong(contract.KindWrong, "a value of this list is %s; it must be a number", n.Kind))
		}
	}
}

func (r *reader) knownFacets(v *source.Node, k kind) {
	if r.old {
		r.keysOf(v, oldFacets, "a parameter")
		return
	}
	if k == kindUnknown {
		return
	}
	known := slices.Concat(common, facets[k])
	if k == kindUnion {
		for _, of := range faceted {
			known = append(known, facets[of]...)
		}
	}
	own := r.userFacets(v, 0)
	for _, m := range v.Members {
		if slices.Contains(own, m.Key) || slices.Contains(known, m.Key) || isAnnotation(m.Key) {
			continue
		}
		if i := slices.IndexFunc(faceted, func(other kind) bool { return slices.Contains(facets[other], m.Key) }); i >= 0 {
			r.report(m.Value.KeyWrong(contract.FacetOfOther, "%s is a facet of %s, and this type is %s; take it out", m.Key, faceted[i], k))
			continue
		}
		all := append(slices.Clone(known), own...)
		r.report(unknownKey(m, "a type of kind %s has no facet %q", all, string(k)))
	}
}

// unsaid are facets that no keyword of JSON Schema says: they are kept as extensions.
func (r *reader) unsaid(v *source.Node, k kind) []contract.Extension {
	own := r.userFacets(v, 0)
	if k == kindFile {
		own = append(own, "minLength", "maxLength")
		if len(r.words(v, "fileTypes")) > 1 {
			own = append(own, "fileTypes")
		}
	}
	var all []contract.Extension
	for _, m := range v.Members {
		if slices.Contains(own, m.Key) {
			all = append(all, contract.Extension{Name: "x-" + m.Key, Node: r.plainValue(m.Value)})
		}
	}
	return all
}

// userFacets lists the facets that the parents of a declaration declare (RAML 1.0, User-defined Facets).
func (r *reader) userFacets(v *source.Node, depth int) []string {
	var all []string
	t := r.val(parentOf(v))
	if t == nil || depth > maxDepth {
		return nil
	}
	parents := []*source.Node{t}
	if t.Kind == source.Sequence {
		parents = t.Items()
	}
	for _, p := range parents {
		p = r.val(p)
		if p != nil && p.Kind == source.String {
			p = r.val(r.find(typeList, strings.TrimSpace(p.Text), p))
		}
		if p == nil || p.Kind != source.Mapping {
			continue
		}
		for _, m := range r.members(p, "facets") {
			all = append(all, strings.TrimSuffix(m.Key, "?"))
		}
		all = append(all, r.userFacets(p, depth+1)...)
	}
	return all
}

// formats are the sizes of numbers, in the words of OpenAPI.
var formats = map[string]string{
	"int": "int32", "long": "int64", "int8": "int8", "int16": "int16", "int32": "int32", "int64": "int64", "float": "float",
	"double": "double",
}

func (r *reader) numberFacets(s *contract.Schema, v *source.Node, k kind) {
	s.Minimum, s.Maximum = or(r.number(v, "minimum"), s.Minimum), or(r.number(v, "maximum"), s.Maximum)
	s.MultipleOf = or(r.number(v, "multipleOf"), s.MultipleOf)
	f := r.text(v, "format")
	switch {
	case f == "":
	case k == kindDatetime:
		switch f {
		case "rfc2616":
			s.Format = "http-date"
		case "rfc3339":
			s.Format = "date-time"
		default:
			r.report(v.Get("format").Wrong(contract.WordUnknown, "a datetime has no format %q; it is rfc3339 or rfc2616", f))
		}
	case formats[f] == "":
		var known []string
		for name := range formats {
			known = append(known, name)
		}
		slices.Sort(known)
		r.report(v.Get("format").Wrong(contract.WordUnknown, "a number has no format %q; %s", f, source.DidYouMean(f, known)))
	default:
		s.Format = formats[f]
	}
}

func or[T any](a, b *T) *T {
	if a != nil {
		return a
	}
	return b
}

func (r *reader) textFacets(s *contract.Schema, v *source.Node, k kind) {
	if k == kindFile {
		if types := r.words(v, "fileTypes"); len(types) == 1 && types[0] != "*/*" {
			s.EnsureRare().ContentMediaType = types[0]
		}
		return // the length of a file is not that of a text
	}
	s.MinLength, s.MaxLength = or(r.count(v, "minLength"), s.MinLength), or(r.count(v, "maxLength"), s.MaxLength)
	if p := r.field(v, "pattern"); p != nil && r.is(p, source.String) {
		s.Pattern = &p.Text
	}
}

func (r *reader) arrayFacets(s *contract.Schema, v *source.Node) {
	s.MinItems, s.MaxItems = or(r.count(v, "minItems"), s.MinItems), or(r.count(v, "maxItems"), s.MaxItems)
	s.UniqueItems = r.flag(v, "uniqueItems", s.UniqueItems)
	if it := v.Get("items"); it != nil {
		s.Items = r.typ(it, asString)
	}
}

func (r *reader) objectFacets(s *contract.Schema, v *source.Node) {
	s.MinProperties, s.MaxProperties = or(r.count(v, "minProperties"), s.MinProperties), or(r.count(v, "maxProperties"), s.MaxProperties)
	for _, m := range r.members(v, "properties") {
		r.property(s, m)
	}
	switch a := r.field(v, "additionalProperties"); {
	case a == nil:
	case a.Kind == source.Boolean:
		s.AdditionalProperties = &contract.Schema{Node: v.Get("additionalProperties"), Bool: &a.Bool}
	default:
		s.AdditionalProperties = r.typ(v.Get("additionalProperties"), asString)
	}
	if d := r.text(v, "discriminator"); d != "" {
		s.EnsureRare().Discriminator = &contract.Discriminator{Property: d, Node: v.Get("discriminator")}
	}
	if d := r.field(v, "discriminatorValue"); d != nil {
		r.values[s] = d.Text
	}
}

// property reads a property: an optional one by its mark or its required facet, or all those whose names match a pattern
// (RAML 1.0, Property Declarations; Additional Properties).
func (r *reader) property(s *contract.Schema, m source.Member) {
	if pattern, ok := patternOf(m.Key); ok {
		p := contract.Property{Name: pattern, Schema: r.typ(m.Value, asString)}
		if pattern == "" {
			s.AdditionalProperties = p.Schema
			return
		}
		s.EnsureRare().PatternProperties = append(s.EnsureRare().PatternProperties, p)
		return
	}
	name, optional := r.optional(m.Key, m.Value, "properties")
	s.Properties = append(s.Properties, contract.Property{Name: name, Schema: r.typ(m.Value, asString)})
	if !optional {
		s.Required = append(s.Required, name)
	}
}

func patternOf(key string) (string, bool) {
	if len(key) >= 2 && key[0] == '/' && key[len(key)-1] == '/' {
		return key[1 : len(key)-1], true
	}
	return "", false
}

// distinct are the values of a list, each once.
func (r *reader) distinct(items []*source.Node) []*source.Node {
	seen := map[string]*source.Node{}
	var kept []*source.Node
	for _, it := range items {
		key := r.val(it).Value().Key()
		if first := seen[key]; first != nil {
			r.report(it.Wrong(contract.EnumTwice, "the value %s stands twice in this list; keep one of them", r.val(it).Value()).Also(first, "the first"))
			continue
		}
		seen[key] = it
		kept = append(kept, it)
	}
	return kept
}
