package contract

import "slices"

// Heirs are, for each schema whose discriminator tells no alternatives apart, the named schemas that point back to it with allOf: it stands for
// all of them (OpenAPI 3.1.1, Discriminator Object: Models with Polymorphism Support).
func (c *Contract) Heirs() map[*Schema][]*Schema {
	heirs := map[*Schema][]*Schema{}
	for _, s := range c.Schemas {
		var visit func(at *Schema, depth int)
		visit = func(at *Schema, depth int) {
			for _, part := range append(slices.Clip(at.AllOf), at.Ref) {
				base := part.Deref()
				if base == nil || base == s || depth > 20 {
					continue
				}
				if base.Discriminator() != nil && base.AnyOf == nil && base.OneOf == nil && base.Name != "" && !slices.Contains(heirs[base], s) {
					heirs[base] = append(heirs[base], s)
				}
				visit(base, depth+1)
			}
		}
		if s.Deref() == s { // another name for a schema is no heir
			visit(s, 0)
		}
	}
	return heirs
}
