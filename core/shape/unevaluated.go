package shape

import (
	"slices"

	"oldledger/core/contract"
	"oldledger/core/value"
)

// What unevaluatedProperties and unevaluatedItems speak of depends on which branches hold (JSON Schema 2020-12, Core section 11).
// So for every set of names or positions that is looked at alike: either one of the branches that look at it holds, or the
// values there are in the schema. That is a conjunction, however many branches there are.

// looker is a schema that looks at properties or items of the value, where it holds.
type looker struct {
	schema *contract.Schema
	holds  *node
	beside *node // for an alternative of a oneOf: true where no tag tells it from the others; nil for all else
}

// maxLookers bounds the branches below one schema.
const maxLookers = 300

// lookers are the schemas in place below a schema that leave annotations, each with the condition under which it does; ok is
// false where there are too many.
func (l lowering) lookers() (all []looker, ok bool) {
	open := map[*contract.Schema]bool{}
	var visit func(sc *contract.Schema, holds, beside *node, around []string)
	visit = func(sc *contract.Schema, holds, beside *node, around []string) {
		if sc == nil || open[sc] || len(all) > maxLookers {
			return
		}
		open[sc] = true
		defer delete(open, sc)
		all = append(all, looker{sc, holds, beside})
		under := func(b *contract.Schema, beside *node) {
			visit(b, l.and(holds, l.condition(b)), beside, spokenOf(b, around))
		}
		visit(sc.Ref, holds, beside, around) // what is demanded holds wherever its holder does
		for _, b := range sc.AllOf {
			visit(b, holds, beside, around)
		}
		for _, b := range sc.AnyOf {
			under(b, beside)
		}
		if len(sc.OneOf) > 0 {
			conds := make([]*node, len(sc.OneOf))
			for i, b := range sc.OneOf {
				conds[i] = l.condition(b)
			}
			var overlap *node
			if !aloneApart(sc.OneOf, around) {
				overlap = l.make(node{op: opOverlap, sub: l.make(node{op: opOne, kids: conds, conds: conds})})
			}
			for _, b := range sc.OneOf {
				under(b, overlap)
			}
		}
		if sc.If() != nil {
			condition := l.condition(sc.If())
			visit(sc.If(), l.and(holds, condition), beside, around)
			visit(sc.Then(), l.and(holds, condition), beside, around)
			visit(sc.Else(), l.and(holds, l.not(condition)), beside, around)
		}
		for _, d := range sc.DependentSchemas() {
			visit(d.Schema, l.and(holds, l.typed(maskOf(value.Object)), l.has(d.Name)), beside, around)
		}
	}
	visit(l.schema, l.top, nil, spokenOf(l.schema, nil))
	return all, len(all) <= maxLookers
}

// spokenOf adds the names that a schema declares wherever it holds.
func spokenOf(sc *contract.Schema, names []string) []string {
	names = slices.Clip(names)
	for _, part := range sc.Conjuncts() {
		names = append(names, declaredNames(part)...)
	}
	return names
}

// maxAlone bounds the alternatives that are held against one another by what they require.
const maxAlone = 60

// aloneApart reports whether a message with the names of one alternative alone fits no other: each requires a property of which no other
// speaks, and nothing around them does.
func aloneApart(list []*contract.Schema, around []string) bool {
	if len(list) > maxAlone {
		return false
	}
	spoken, required := make([]map[string]bool, len(list)), make([][]string, len(list))
	for i, b := range list {
		if !plainObject(b) {
			return false
		}
		spoken[i] = map[string]bool{}
		for _, name := range spokenOf(b, around) {
			spoken[i][name] = true
		}
		required[i] = requiredNames(b)
	}
	for i := range list {
		for j := range list {
			if i != j && !slices.ContainsFunc(required[j], func(name string) bool { return !spoken[i][name] }) {
				return false
			}
		}
	}
	return true
}

// plainObject tells of an object that only declares names and demands some: nothing in it chooses, nothing speaks of all names.
func plainObject(sc *contract.Schema) bool {
	speaksOfAll := func(rest *contract.Schema) bool { return rest != nil && (rest.Bool == nil || *rest.Bool) }
	return !slices.ContainsFunc(sc.Conjuncts(), func(part *contract.Schema) bool {
		chooses := part.AnyOf != nil || part.OneOf != nil || part.If() != nil || part.DependentSchemas() != nil
		return chooses || part.PatternProperties() != nil || declaresAll(part) ||
			speaksOfAll(part.AdditionalProperties) || speaksOfAll(part.UnevaluatedProperties())
	})
}

// requiredNames are those that must be there wherever a schema holds, and that travel both ways.
func requiredNames(sc *contract.Schema) []string {
	var names []string
	for _, part := range sc.Conjuncts() {
		for _, name := range part.Required {
			if p := part.Property(name); p != nil {
				if readOnly, writeOnly := p.Access(); !readOnly && !writeOnly {
					names = append(names, name)
				}
			}
		}
	}
	return names
}

// unevaluatedProperties lowers the keyword: every property that no branch looked at is in u.
func (l lowering) unevaluatedProperties(u *contract.Schema) *node {
	var names []string
	var patterns []*language
	var everything []*node // conditions under which all properties are looked at
	byName, byPattern := map[string][]*node{}, map[*language][]*node{}
	all, ok := l.lookers()
	if !ok {
		return l.unknown("unevaluatedProperties beside so many branches could not be decided")
	}
	for _, k := range all {
		if k.schema.AdditionalProperties != nil || k.schema != l.schema && k.schema.UnevaluatedProperties() != nil {
			everything = append(everything, k.holds)
		}
		for _, p := range k.schema.Properties {
			if byName[p.Name] == nil {
				names = append(names, p.Name)
			}
			byName[p.Name] = append(byName[p.Name], k.holds)
		}
		for _, p := range k.schema.PatternProperties() {
			lang := l.language(p.Name)
			if byPattern[lang] == nil {
				patterns = append(patterns, lang)
			}
			byPattern[lang] = append(byPattern[lang], k.holds)
		}
	}
	conditional := slices.ContainsFunc(patterns, func(p *language) bool { return !slices.Contains(byPattern[p], l.top) })
	if len(patterns) > 1 && conditional {
		return l.unknown("unevaluatedProperties beside several patterns in alternatives could not be decided")
	}
	sub := l.nested(u)
	in := func(ns nameSet, holds []*node) *node {
		ways := append([]*node{l.assert(node{op: opProps, names: &ns, sub: sub}, value.Object)}, everything...)
		return l.or(append(ways, holds...)...)
	}
	rest := nameSet{except: map[string]bool{}, unlike: patterns}
	var parts []*node
	for _, name := range names {
		rest.except[name] = true
		holds := slices.Clone(byName[name])
		for _, p := range patterns {
			switch p.contains(name) {
			case yes:
				holds = append(holds, byPattern[p]...)
			case maybe:
				return l.unknown(p.why)
			}
		}
		parts = append(parts, in(*oneName(name), holds))
	}
	for _, p := range patterns {
		parts = append(parts, in(nameSet{pattern: p, apart: rest.except}, byPattern[p]))
	}
	return l.and(append(parts, in(rest, nil))...)
}

// maxContainsBranches bounds the contains keywords that are weighed against one another.
const maxContainsBranches = 4

// unevaluatedItems lowers the keyword: every item that no branch looked at is in u.
func (l lowering) unevaluatedItems(u *contract.Schema) *node {
	var everything []*node
	var containing []looker
	ends := map[int][]*node{} // items before the index are looked at, where one of the nodes holds
	all, ok := l.lookers()
	if !ok {
		return l.unknown("unevaluatedItems beside so many branches could not be decided")
	}
	for _, k := range all {
		if k.schema.Items != nil || k.schema != l.schema && k.schema.UnevaluatedItems() != nil {
			everything = append(everything, k.holds)
		}
		if n := len(k.schema.PrefixItems()); n > 0 {
			ends[n] = append(ends[n], k.holds)
		}
		if k.schema.Contains() != nil {
			containing = append(containing, k)
		}
	}
	if len(containing) > maxContainsBranches {
		return l.unknown("unevaluatedItems beside so many contains could not be decided")
	}
	indexes := []int{0}
	for n := range ends {
		indexes = append(indexes, n)
	}
	slices.Sort(indexes)
	var parts []*node
	for i, from := range indexes {
		ways := slices.Clone(everything)
		for n, holds := range ends {
			if from < n {
				ways = append(ways, holds...)
			}
		}
		to := -1
		if i+1 < len(indexes) {
			to = indexes[i+1]
		}
		parts = append(parts, l.or(append(ways, l.itemsBetween(from, to, u, containing)...)...))
	}
	return l.and(parts...)
}

// itemsBetween are the ways in which the items from one index up to another (-1: to the end) are in u, or among those that a
// contains looked at: for every choice of the contains that hold.
func (l lowering) itemsBetween(from, to int, u *contract.Schema, containing []looker) []*node {
	var ways []*node
	for choice := range 1 << len(containing) {
		sub, holds := []*node{l.nested(u)}, l.top
		for i, k := range containing {
			if choice&(1<<i) != 0 {
				sub, holds = append(sub, l.nestedCondition(k.schema.Contains())), l.and(holds, k.holds)
			}
		}
		in := l.or(sub...)
		items := l.top
		if to < 0 {
			items = l.assert(node{op: opItems, index: from, sub: in}, value.Array)
		}
		for i := from; i < to; i++ {
			items = l.and(items, l.assert(node{op: opItem, index: i, sub: in}, value.Array))
		}
		ways = append(ways, l.and(holds, items))
	}
	return ways
}

// nestedCondition lowers what is asked of a part of the value: nothing is closed in it.
func (l lowering) nestedCondition(sc *contract.Schema) *node {
	role := l.role
	role.Sends = false
	return l.lower(sc, role, true)
}
