package compare

import (
	"fmt"
	"slices"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// structuralKeywords are those whose parts are compared one by one.
var structuralKeywords = []string{
	"properties", "patternProperties", "items", "prefixItems", "allOf", "anyOf", "oneOf", "type", "not", "if",
	"then", "else",
}

// unclear makes an undecided edit of every keyword whose value is a mistake without a settled meaning on one side, and not the same mistake
// on the other. It tells whether nothing else of the pair can be compared.
func (c *comparer) unclear(p *pair) (whole bool) {
	was, is := mistakes(p.old), mistakes(p.new)
	for _, key := range keysOfBoth(was, is) {
		x, y := was[key], is[key]
		if x != nil && y != nil && x.Same(y) {
			continue
		}
		e := &edit{kind: "keyword-unclear", old: p.a.place(key), new: p.b.place(key)}
		switch {
		case y == nil:
			e.title = fmt.Sprintf("%s of %s was %s, which says nothing", key, p.subject, x.Kind)
			e.unclear = fmt.Sprintf("what %s meant as %s cannot be known, so nobody can tell what has changed", key, x.Kind)
		default:
			e.title = fmt.Sprintf("%s of %s is %s, which says nothing", key, p.subject, y.Kind)
			e.unclear = fmt.Sprintf("what %s means as %s cannot be known, so nobody can tell what has changed", key, y.Kind)
		}
		if p.mistaken == nil {
			p.mistaken = map[*source.Node]bool{}
		}
		for _, v := range []*view{p.a, p.b} {
			if n := v.at[key]; n != nil {
				p.mistaken[n] = true
			}
		}
		c.edit(p, e)
		whole = whole || slices.Contains(structuralKeywords, key)
	}
	return whole
}

// mistakes are the unclear keywords of a schema and of what it composes in place, by their names.
func mistakes(s *contract.Schema) map[string]*source.Node {
	var found map[string]*source.Node
	seen := map[*contract.Schema]bool{}
	var visit func(s *contract.Schema)
	visit = func(s *contract.Schema) {
		if s == nil || seen[s] {
			return
		}
		seen[s] = true
		for _, n := range s.Unclear() {
			if found == nil {
				found = map[string]*source.Node{}
			}
			found[n.Step()] = n
		}
		visit(s.Ref)
		for _, b := range s.AllOf {
			visit(b)
		}
	}
	visit(s)
	return found
}

func keysOfBoth(a, b map[string]*source.Node) []string {
	var keys []string
	for _, m := range []map[string]*source.Node{a, b} {
		for key := range m {
			if !slices.Contains(keys, key) {
				keys = append(keys, key)
			}
		}
	}
	slices.Sort(keys)
	return keys
}
