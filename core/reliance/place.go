package reliance

import (
	"slices"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
)

// places is where a description says what stands at the end of a way, however it is shared: what is about one of these is about the field.
type places struct {
	inside []place // all that stands below is about the field
	along  []place // what stands there itself is about what the field is in
}

type place struct{ file, pointer string }

func placeOf(s *contract.Schema) place {
	at := s.Node.Place()
	return place{at.File, at.Pointer}
}

// placesOf follows a way through the schemas of some contents.
func placesOf(content []*contract.Media, way []string) *places {
	var here []*contract.Schema
	for _, m := range content {
		if m.Schema != nil {
			here = append(here, m.Schema)
		}
	}
	p := &places{}
	for _, step := range way {
		here = parts(here)
		var next []*contract.Schema
		for _, s := range here {
			p.along = append(p.along, placeOf(s))
			next = append(next, below(s, step)...)
		}
		here = next
	}
	for _, s := range parts(here) {
		p.inside = append(p.inside, placeOf(s))
	}
	return p
}

// maxParts bounds the schemas that stand at one place.
const maxParts = 500

// parts are schemas with all that they consist of for the same value.
func parts(schemas []*contract.Schema) []*contract.Schema {
	var all []*contract.Schema
	seen := map[*contract.Schema]bool{}
	var visit func(s *contract.Schema)
	visit = func(s *contract.Schema) {
		if s == nil || seen[s] || len(all) >= maxParts {
			return
		}
		seen[s] = true
		if s.Node != nil {
			all = append(all, s)
		}
		visit(s.Ref)
		for _, list := range [][]*contract.Schema{s.AllOf, s.AnyOf, s.OneOf, {s.If(), s.Then(), s.Else()}} {
			for _, inner := range list {
				visit(inner)
			}
		}
	}
	for _, s := range schemas {
		visit(s)
	}
	return all
}

// below are the schemas at the end of a step.
func below(s *contract.Schema, step string) []*contract.Schema {
	var all []*contract.Schema
	switch step {
	case "[]":
		all = append(all, s.Items)
		all = append(all, s.PrefixItems()...)
	case "*":
		for _, p := range append(slices.Clone(s.Properties), s.PatternProperties()...) {
			all = append(all, p.Schema)
		}
		all = append(all, s.AdditionalProperties)
	default:
		if own := s.Property(step); own != nil {
			return []*contract.Schema{own}
		}
		for _, p := range s.PatternProperties() {
			all = append(all, p.Schema)
		}
		all = append(all, s.AdditionalProperties)
	}
	return slices.DeleteFunc(all, func(s *contract.Schema) bool { return s == nil })
}

// hold reports whether something that stands in a description is about the field, or about what it is in.
func (p *places) hold(at *compare.Place) bool {
	is := place{at.File, at.Pointer}
	within := func(x place) bool {
		return x.file == is.file && (x.pointer == is.pointer || strings.HasPrefix(is.pointer, x.pointer+"/"))
	}
	itself := func(x place) bool {
		rest, is := strings.CutPrefix(is.pointer, x.pointer)
		first, _, _ := strings.Cut(strings.TrimPrefix(rest, "/"), "/")
		return is && within(x) && !slices.Contains(leading, first)
	}
	return slices.ContainsFunc(p.inside, within) || slices.ContainsFunc(p.along, itself)
}

// leading are the keywords that lead to other values, or to alternatives that are followed by themselves.
var leading = []string{
	"properties", "items", "prefixItems", "additionalProperties", "patternProperties", "allOf", "anyOf", "oneOf", "if", "then", "else", "$ref",
}

// Locate finds in a version where the fields stand. Operations that are not there keep what they had.
func (n *Need) Locate(c *contract.Contract) {
	for _, o := range n.Operations {
		op := c.Lookup(o.Name)
		if op == nil {
			continue
		}
		o.key = op.Key()
		if op.Body != nil {
			for i := range o.Body {
				o.Body[i].places = placesOf(op.Body.Content, o.Body[i].Way)
			}
		}
		for _, res := range op.Responses {
			fields := o.Of(res.Status)
			for i := range fields {
				found := placesOf(res.Content, fields[i].Way)
				if known := fields[i].places; known != nil {
					found.inside, found.along = append(found.inside, known.inside...), append(found.along, known.along...)
				}
				fields[i].places = found
			}
		}
	}
}
