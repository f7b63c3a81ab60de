package compare

import (
	"cmp"
	"slices"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// likely is a branch beside the one that may have taken its place.
type likely struct {
	x, y     *contract.Schema
	likeness float64
}

// alikeBranches pairs what is left of two unions, the likeliest first; of those that are as likely, the first. What all alternatives of
// both have makes no two of them likelier.
func alikeBranches(gone, came, all []*contract.Schema) []likely {
	if len(gone)*len(came) > maxPartners {
		return nil
	}
	var found []likely
	views := map[*contract.Schema]*view{}
	of := func(s *contract.Schema) *view {
		if views[s] == nil {
			views[s] = newView(s.Deref())
		}
		return views[s]
	}
	shared := map[string]bool{}
	if len(all) > 2 {
		for _, p := range of(all[0]).schema.Properties {
			shared[p.Name] = !slices.ContainsFunc(all, func(s *contract.Schema) bool { return of(s).schema.Property(p.Name) == nil })
		}
	}
	for _, x := range gone {
		for _, y := range came {
			if l := likeness(of(x), of(y), shared); l >= leastLikeness {
				found = append(found, likely{x, y, l})
			}
		}
	}
	slices.SortStableFunc(found, func(a, b likely) int { return cmp.Compare(b.likeness, a.likeness) })
	used := map[*contract.Schema]bool{}
	var pairs []likely
	for _, m := range found {
		if !used[m.x] && !used[m.y] {
			used[m.x], used[m.y] = true, true
			pairs = append(pairs, m)
		}
	}
	left := func(list []*contract.Schema) []*contract.Schema {
		return slices.DeleteFunc(slices.Clone(list), func(s *contract.Schema) bool { return used[s] })
	}
	if x, y := left(gone), left(came); len(x) == 1 && len(y) == 1 && (x[0].Deref().Name == "" || y[0].Deref().Name == "") &&
		!otherTags(of(x[0]), of(y[0])) {
		pairs = append(pairs, likely{x[0], y[0], 0}) // the one for the other
	}
	return pairs
}

// leastLikeness is what makes a pair of two branches.
const leastLikeness = 0.4

// likeness tells from 0 to 1 how much two branches have in common: their types, and the names of their properties. Components of other
// names are taken for others unless most of their properties are the same.
func likeness(a, b *view, shared map[string]bool) float64 {
	x, y := a.schema, b.schema
	if len(meetTypes(orAll(x.Types), orAll(y.Types))) == 0 {
		return 0
	}
	var same, names float64
	tagged := otherTags(a, b)
	for _, p := range x.Properties {
		if tagged && (shared[p.Name] || y.Property(p.Name) != nil && tagOn(x, p.Name) != nil) {
			continue // what tells them apart makes them no likelier
		}
		names++
		if y.Property(p.Name) != nil {
			same++
		}
	}
	for _, p := range y.Properties {
		if x.Property(p.Name) == nil {
			names++
		}
	}
	l := 0.5 // nothing that tells them apart
	switch {
	case names > 0:
		l = 0.3 + 0.7*same/names
	case tagged && (x.Name != "" || y.Name != ""):
		return 0
	}
	if tagged && names > 0 && same == 0 {
		return 0
	}
	if x.Name != "" && y.Name != "" {
		l -= 0.3
	}
	if !sameTypes(x.Types, y.Types) {
		l -= 0.1
	}
	return l
}

// otherTags reports whether a property has one value in the one branch and another in the other.
func otherTags(a, b *view) bool {
	for _, p := range a.schema.Properties {
		x, y := tagOn(a.schema, p.Name), tagOn(b.schema, p.Name)
		if x != nil && y != nil && !x.Same(y) {
			return true
		}
	}
	return false
}

// tagOn is the one value that a property must have, nil where it may have several or may be missing.
func tagOn(s *contract.Schema, name string) *source.Node {
	p := s.Property(name).Deref()
	if p == nil || !s.Requires(name) {
		return nil
	}
	return onlyValue(p)
}

// onlyValue is the one value that a schema admits because it lists no other, in itself or in a member of its allOf; nil where it may admit
// several.
func onlyValue(s *contract.Schema) *source.Node {
	for _, part := range s.Conjuncts() {
		switch {
		case part.Const != nil:
			return part.Const
		case part.HasEnum && len(part.Enum) == 1:
			return part.Enum[0]
		}
	}
	return nil
}
