package contract

import "slices"

// maxBases bounds how many bases one heir is counted for.
const maxBases = 20

// Heirs are, for each schema whose discriminator tells no alternatives apart, the named schemas that point back to it with allOf: it stands
// for all of them (OpenAPI 3.1.1, Discriminator Object: Models with Polymorphism Support).
func (c *Contract) Heirs() map[*Schema][]*Schema {
	heirs := map[*Schema][]*Schema{}
	known := map[*Schema][]*Schema{}
	for _, s := range c.Schemas {
		if s.Deref() != s {
			continue // another name for a schema is no heir
		}
		for _, base := range basesOf(s, known) {
			if base != s {
				heirs[base] = append(heirs[base], s)
			}
		}
	}
	return heirs
}

// basesOf are the bases with a discriminator that a schema is made of, each found once.
func basesOf(s *Schema, known map[*Schema][]*Schema) []*Schema {
	if s.AllOf == nil && s.Ref == nil {
		return nil
	}
	if bases, met := known[s]; met {
		return bases
	}
	known[s] = nil // while it is being asked
	var bases []*Schema
	for _, part := range append(slices.Clip(s.AllOf), s.Ref) {
		parent := part.Deref()
		if parent == nil {
			continue
		}
		found := basesOf(parent, known)
		if parent.Discriminator() != nil && parent.AnyOf == nil && parent.OneOf == nil && parent.Name != "" {
			found = append(slices.Clip(found), parent)
		}
		for _, base := range found {
			if len(bases) < maxBases && !slices.Contains(bases, base) {
				bases = append(bases, base)
			}
		}
	}
	known[s] = bases
	return bases
}
