package openapi

import (
	"slices"

	"oldledger/core/contract"
	"oldledger/core/source"
)

func (r *reader) objects(s *contract.Schema, n *source.Node) {
	s.Properties = r.named(n, "properties")
	s.Required = r.required(s, n)
	s.MinProperties, s.MaxProperties = r.count(n, "minProperties"), r.count(n, "maxProperties")
	switch a := n.Get("additionalProperties"); {
	case a == nil:
	case a.Kind == source.String:
		d := a.Wrong(contract.KindWrong, "additionalProperties is text, and is left out; write true, false or a schema")
		if a.Text == "true" || a.Text == "false" {
			d.Replace(a, a.Text)
		}
		r.report(d)
	default:
		s.AdditionalProperties = r.openness(a)
	}
	if r.dialectOf(n).before31() {
		return
	}
	s.EnsureRare().PatternProperties = r.named(n, "patternProperties")
	s.EnsureRare().PropertyNames = r.sub(n, "propertyNames")
	s.EnsureRare().UnevaluatedProperties = r.sub(n, "unevaluatedProperties")
	s.EnsureRare().DependentSchemas = r.named(n, "dependentSchemas")
	for _, m := range r.members(n, "dependentRequired") {
		s.EnsureRare().DependentRequired = append(s.DependentRequired(),
			contract.Dependency{Name: m.Key, Needs: r.words(n.Get("dependentRequired"), m.Key)})
	}
}

// required reads the names that must be there. As a flag of a member it is left out.
func (r *reader) required(s *contract.Schema, n *source.Node) []string {
	f := n.Get("required")
	if f != nil && (f.Kind == source.Boolean || f.Kind == source.String && (f.Text == "true" || f.Text == "false")) {
		name := n.Step()
		holder := "the object that holds it"
		if above := n.Parent(); above != nil && above.Step() == "properties" {
			holder += ": required: [" + name + "]"
		}
		d := f.Wrong(contract.RequiredFlag, "required is a list of names, and not %s; write it at %s", f.Text, holder)
		if f.Text == "false" {
			d.Right = "take it out: what is not listed is optional"
		}
		r.report(d)
		return nil
	}
	names := r.words(n, "required")
	seen := map[string]bool{}
	for i, name := range names {
		if seen[name] {
			r.report(f.Items()[i].Wrong(contract.EnumTwice, "required lists %s twice; keep one of them", name))
		}
		seen[name] = true
	}
	r.requiredNames(s, f, names)
	return names
}

// requiredNames tells of names that only nearly are those of properties.
func (r *reader) requiredNames(s *contract.Schema, f *source.Node, names []string) {
	if f == nil || len(s.Properties) == 0 || len(f.Items()) != len(names) || len(names)*len(s.Properties) > 40_000 {
		return
	}
	for i, name := range names {
		if s.Property(name) != nil {
			continue
		}
		var optional []string
		for _, p := range s.Properties {
			if !slices.Contains(names, p.Name) {
				optional = append(optional, p.Name)
			}
		}
		if near := source.Nearest(name, optional); near != "" {
			at := f.Items()[i]
			r.report(at.Wrong(contract.RequiredUnknown, "required names %s, which is no property; did you mean %q?", name, near).Rewrite(at, near))
		}
	}
}

// openness reads additionalProperties, which may be a boolean in every dialect.
func (r *reader) openness(n *source.Node) *contract.Schema {
	if n.Kind != source.Boolean {
		return r.schema(n)
	}
	if s := r.schemas[n]; s != nil {
		return s
	}
	b := n.Bool
	s := &contract.Schema{Node: n, Bool: &b}
	r.schemas[n] = s
	return s
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
