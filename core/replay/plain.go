package replay

import (
	"slices"

	"oldledger/core/contract"
	"oldledger/core/reliance"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// plain finds at once that an answer may say what a recorded one says, where each of its parts speaks for itself.
type plain struct {
	*given
	root   *contract.Schema
	absent [][]string // members that are known to be described nowhere, and were left aside
}

// fits reports whether a value may stand in an answer under a schema; false also where that cannot be told part by part.
func (p *plain) fits(schema *contract.Schema, v *value.Value, way []string) bool {
	if schema == nil {
		return true
	}
	parts := schema.Conjuncts()
	if v.Kind != value.Object && v.Kind != value.Array || slices.ContainsFunc(parts, involved) {
		holds, known := p.contains(schema, shape.Role{Sends: true}, v)
		return holds && known
	}
	for _, part := range parts {
		if part.Types != nil && !slices.Contains(part.Types, v.Kind.String()) {
			return false
		}
	}
	if v.Kind == value.Array {
		return p.items(parts, v, append(slices.Clone(way), "[]"))
	}
	for _, m := range v.Members {
		below := append(slices.Clone(way), m.Name)
		found := false
		for _, part := range parts {
			own := part.Property(m.Name)
			if own == nil {
				continue
			}
			if _, writeOnly := own.Access(); writeOnly || !p.fits(own, m.Value, below) {
				return false
			}
			found = true
		}
		if found {
			continue
		}
		if !p.side.absent[fitKey{p.root, reliance.WayText(below)}] {
			return false
		}
		if !slices.ContainsFunc(p.absent, func(w []string) bool { return slices.Equal(w, below) }) {
			p.absent = append(p.absent, below)
		}
	}
	return true
}

func (p *plain) items(parts []*contract.Schema, v *value.Value, way []string) bool {
	for _, part := range parts {
		if part.MinItems != nil && len(v.Items) < *part.MinItems || part.MaxItems != nil && len(v.Items) > *part.MaxItems {
			return false
		}
		for _, it := range v.Items {
			if !p.fits(part.Items, it, way) {
				return false
			}
		}
	}
	return true
}

// involved reports whether something in a schema speaks of more than one part of an object or a list.
func involved(s *contract.Schema) bool {
	return s.Bool != nil || s.HasEnum || s.Const != nil || s.UniqueItems || len(s.AnyOf)+len(s.OneOf) > 0 || s.MinProperties != nil ||
		s.MaxProperties != nil || s.Rare != nil &&
		(s.Rare.Composes() || len(s.PrefixItems()) > 0 || len(s.DependentRequired()) > 0 || s.Discriminator() != nil)
}
