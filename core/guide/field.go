package guide

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// holding is a value that a sender may send by the media type's schema, with one of set at the end of the fields; nil where none is found.
func (w *writer) holding(m *contract.Media, fields []string, set shape.Shape, clientSends bool) *value.Value {
	if m == nil || m.Schema == nil {
		return nil
	}
	for _, f := range slices.Backward(fields) {
		switch f {
		case "[]":
			set = w.space.InItemFrom(0, set)
		case "*":
			return nil
		default:
			set = w.space.InProperty(f, set)
		}
	}
	return w.space.Find(w.space.Lower(m.Schema, shape.Role{Sends: true, Request: clientSends}), set).Witness
}

// tagged is a value that a client may send, with the alternative that a tag stands for in the place that the fields but for the last lead
// to; the last is the tag's. nil where none is found.
func (w *writer) tagged(m *contract.Media, fields []string, tag *value.Value) *value.Value {
	if m == nil || m.Schema == nil || len(fields) == 0 {
		return nil
	}
	place, name := fields[:len(fields)-1], fields[len(fields)-1]
	union := schemaAt(m.Schema, place)
	if union == nil || union.Discriminator() == nil {
		return nil
	}
	target := tag.Text
	for _, known := range union.Discriminator().Mapping {
		if known.Value == tag.Text {
			target = known.Target
		}
	}
	for _, list := range [][]*contract.Schema{union.OneOf, union.AnyOf} {
		for _, branch := range list {
			if branch.Deref().Name != target {
				continue
			}
			if v, _ := w.fill[w.old].Schema(branch, true); v != nil {
				return w.holding(m, place, w.space.Only(set(v, []string{name}, tag)), true)
			}
		}
	}
	return nil
}

// schemaAt is the schema at the end of the fields, nil where the way is not that of one schema.
func schemaAt(s *contract.Schema, fields []string) *contract.Schema {
	for s = s.Deref(); s != nil && len(fields) > 0; fields = fields[1:] {
		switch of := fields[0]; of {
		case "[]":
			s = s.Items.Deref()
		default:
			s = s.Property(of).Deref()
		}
	}
	return s
}

// fieldIn is what stands at the end of the fields, in the first item of each list; nil for nothing.
func fieldIn(v *value.Value, fields []string) *value.Value {
	for _, f := range fields {
		switch {
		case v == nil:
			return nil
		case f == "[]":
			if v.Kind != value.Array || len(v.Items) == 0 {
				return nil
			}
			v = v.Items[0]
		default:
			v = v.Get(f)
		}
	}
	return v
}

// set is a value with another one at the end of the fields, nil for none there; the value itself where the way leads nowhere.
func set(v *value.Value, fields []string, to *value.Value) *value.Value {
	if len(fields) == 0 {
		return to
	}
	if fields[0] == "[]" {
		if v.Kind != value.Array || len(v.Items) == 0 {
			return v
		}
		out := *v
		out.Items = slices.Clone(v.Items)
		out.Items[0] = set(v.Items[0], fields[1:], to)
		return &out
	}
	of := v.Get(fields[0])
	switch {
	case v.Kind != value.Object || of == nil && len(fields) > 1:
		return v
	case of == nil && to != nil:
		out := *v
		out.Members = append(slices.Clone(v.Members), value.Member{Name: fields[0], Value: to})
		return &out
	case of == nil:
		return v
	case len(fields) == 1 && to == nil:
		return without(v, fields[0])
	}
	return with(v, fields[0], set(of, fields[1:], to))
}

// telling reports whether the messages of a step show what it is about: they differ, and the field or parameter that changed stands in one
// of them.
func (s *Step) telling() bool {
	if s.Before == nil || s.After == nil {
		return true
	}
	before, after := s.Before.Text(), s.After.Text()
	for _, c := range s.Code {
		before, after = before+c.Before, after+c.After
	}
	if before == after {
		return false
	}
	at, both := s.Change.Location, before+after
	about := at.Header
	for _, f := range at.Fields {
		if f != "[]" && f != "*" {
			about = f
		}
	}
	if at.Part == "parameter" && about == "" {
		about = at.Name
	}
	return strings.Contains(both, about) || s.Change.Renamed != nil && strings.Contains(both, s.Change.Renamed.From)
}
