package shape

import (
	"maps"

	"oldledger/core/value"
)

// pin is a property that every object of a set has, with one of the values of an enum: the tag of a branch. The name of one further in is
// the way to it.
type pin struct {
	name   string
	values *node // opEnum
}

// pinSeparator stands between the names on the way to a pin.
const pinSeparator = "\x00"

// facts are what is plain about every object of a set, without a search: what its tags are, and which properties it has and has not.
type facts struct {
	pins  []pin
	there *presence // nil for nothing
}

// maxPinDepth bounds how far one looks for facts through what is composed.
const maxPinDepth = 12

// facts are those of a node.
func (s *Space) facts(n *node) facts { return s.factsWithin(n, 0) }

func (s *Space) factsWithin(n *node, depth int) facts {
	if known, done := s.plain[n]; done {
		return known
	}
	if depth > maxPinDepth || s.asked[n] || !s.budget.Step(4) {
		s.cuts++
		return facts{}
	}
	s.asked[n] = true
	defer delete(s.asked, n)
	before := s.cuts
	var found facts
	switch n.op {
	case opRef:
		if n.outside == nil {
			found = s.factsWithin(s.follow(n), depth+1)
		}
	case opAnd:
		found = s.factsOf(n.kids, depth+1)
	case opOr, opOne:
		found = s.factsOfEach(n.kids, depth+1)
	}
	if s.cuts == before { // otherwise more may be found where one comes upon it in another way
		s.plain[n] = found
	}
	return found
}

// factsOf are the facts of what satisfies all nodes. One of them may demand a property, another list its values.
func (s *Space) factsOf(ns []*node, depth int) facts {
	there := &presence{}
	parts := s.conjuncts(nil, ns, depth)
	there.note(parts)
	for _, n := range parts {
		if n.op == opOr || n.op == opOne {
			if either := s.factsWithin(n, depth+1); either.there != nil {
				there.add(either.there)
			}
		}
	}
	found := facts{pins: s.pinsOf(parts, there, depth)}
	if len(there.has)+len(there.lacks)+len(there.closed) > 0 {
		found.there = there
	}
	return found
}

// pinsOf are the pins of what satisfies all parts, of which it is known what is there.
func (s *Space) pinsOf(parts []*node, there *presence, depth int) []pin {
	var found []pin
	for _, n := range parts {
		switch n.op {
		case opProps:
			if !n.names.one || !there.has[n.names.name] {
				continue
			}
			if listed := s.listed(n.sub, 0); listed != nil {
				found = append(found, pin{n.names.name, listed})
			} else if s.kinds(n.sub, 0) == maskOf(value.Object) {
				for _, p := range s.factsWithin(n.sub, depth+1).pins {
					found = append(found, pin{n.names.name + pinSeparator + p.name, p.values})
				}
			}
		case opOr, opOne:
			found = append(found, s.factsWithin(n, depth+1).pins...)
		}
	}
	return found
}

// factsOfEach are the facts that each of the nodes has: pins with the values of all.
func (s *Space) factsOfEach(ns []*node, depth int) facts {
	if len(ns) == 0 || len(ns) > maxTags {
		return facts{}
	}
	common := s.factsWithin(ns[0], depth+1)
	there := common.there.copied()
	for _, n := range ns[1:] {
		other := s.factsWithin(n, depth+1)
		var both []pin
		for _, p := range common.pins {
			for _, q := range other.pins {
				if p.name == q.name {
					both = append(both, pin{p.name, s.enum(append(append([]*value.Value{}, p.values.values...), q.values.values...))})
					break
				}
			}
		}
		common.pins = both
		if there = there.common(other.there); there == nil && len(both) == 0 {
			return facts{}
		}
	}
	common.there = there
	return common
}

// copied is what is had, and no more; nil for nothing.
func (p *presence) copied() *presence {
	if p == nil || len(p.has) == 0 {
		return nil
	}
	return &presence{has: maps.Clone(p.has)}
}

// common keeps what is had by both; nil for nothing.
func (p *presence) common(q *presence) *presence {
	if p == nil || q == nil {
		return nil
	}
	maps.DeleteFunc(p.has, func(name string, _ bool) bool { return !q.has[name] })
	if len(p.has) == 0 {
		return nil
	}
	return p
}

// add notes what else is had.
func (p *presence) add(q *presence) {
	if p.has == nil {
		p.has, p.lacks = map[string]bool{}, map[string]bool{}
	}
	maps.Copy(p.has, q.has)
}

// maxConjuncts bounds the parts of a conjunction in which pins are looked for.
const maxConjuncts = 4_000

// conjuncts adds all that what satisfies the nodes satisfies, through what is composed.
func (s *Space) conjuncts(all, ns []*node, depth int) []*node {
	for _, n := range ns {
		if depth > maxPinDepth || len(all) > maxConjuncts || !s.budget.Step(1) {
			s.cuts++
			return all
		}
		switch {
		case n.op == opAnd:
			all = s.conjuncts(all, n.kids, depth+1)
		case n.op == opRef && n.outside == nil:
			all = s.conjuncts(all, []*node{s.follow(n)}, depth+1)
		default:
			all = append(all, n)
		}
	}
	return all
}

// maxTags bounds the branches of a union of which tags are looked at.
const maxTags = 1_000

// listed is an enum that holds all values of a node, nil where none is plain.
func (s *Space) listed(n *node, depth int) *node {
	switch {
	case depth > maxPinDepth:
	case n.op == opEnum:
		return n
	case n.op == opRef && n.outside == nil:
		return s.listed(s.follow(n), depth+1)
	case n.op == opAnd:
		for _, k := range n.kids {
			if e := s.listed(k, depth+1); e != nil {
				return e
			}
		}
	}
	return nil
}

// apart reports whether no object is in both of two sets: a property that both pin, to other values, or one that all of the one have and
// none of the other.
func apart(a, b facts) bool {
	for _, p := range a.pins {
		for _, q := range b.pins {
			if p.name == q.name && !meet(p.values, q.values) {
				return true
			}
		}
	}
	return a.there.without(b.there) || b.there.without(a.there)
}

// without reports whether what is had is missing in another set.
func (p *presence) without(q *presence) bool {
	if p == nil || q == nil || len(q.lacks)+len(q.closed) == 0 {
		return false
	}
	for name := range p.has {
		if q.missing(name) {
			return true
		}
	}
	return false
}

func meet(a, b *node) bool {
	if len(a.keys) > len(b.keys) {
		a, b = b, a
	}
	for key := range a.keys {
		if b.keys[key] {
			return true
		}
	}
	return false
}

// overlap decides an opOverlap, or its complement: whether nothing but the search could tell the alternatives apart.
func (s *Space) overlap(n *node) tri { return triOf(s.toldApart(n.sub.conds) == (n.op == opTold)) }

// maxApart bounds the sets that are told apart two by two.
const maxApart = 120

// toldApart reports whether the sets are objects that are plainly apart: no two have a value in common.
func (s *Space) toldApart(ns []*node) bool {
	if len(ns) > maxTags {
		return false
	}
	for _, p := range s.facts(ns[0]).pins {
		if s.pinnedApart(ns, p.name, map[string]bool{}) {
			return true
		}
	}
	if len(ns) > maxApart {
		return false
	}
	for i, n := range ns {
		if s.kinds(n, 0) != maskOf(value.Object) {
			return false
		}
		for _, m := range ns[:i] {
			if !s.budget.Step(4) || !apart(s.facts(n), s.facts(m)) {
				return false
			}
		}
	}
	return true
}

// pinnedApart reports whether one property is a tag that tells all of the sets apart.
func (s *Space) pinnedApart(ns []*node, name string, taken map[string]bool) bool {
	for _, n := range ns {
		if s.kinds(n, 0) != maskOf(value.Object) {
			return false
		}
		var own *node
		for _, p := range s.facts(n).pins {
			if p.name == name {
				own = p.values
			}
		}
		if own == nil {
			return false
		}
		for key := range own.keys {
			if taken[key] {
				return false
			}
		}
		for key := range own.keys {
			taken[key] = true
		}
	}
	return true
}

// kinds are the types that a node can have at most.
func (s *Space) kinds(n *node, depth int) mask {
	if depth > maxPinDepth {
		return allTypes
	}
	switch n.op {
	case opFalse:
		return 0
	case opType:
		return n.types
	case opEnum:
		var m mask
		for _, v := range n.values {
			m |= maskOf(v.Kind)
		}
		return m
	case opRef:
		if n.outside == nil {
			return s.kinds(s.follow(n), depth+1)
		}
	case opAnd:
		m := allTypes
		for _, k := range n.kids {
			m &= s.kinds(k, depth+1)
		}
		return m
	case opOr, opOne:
		var m mask
		for _, k := range n.kids {
			m |= s.kinds(k, depth+1)
		}
		return m
	}
	return allTypes
}
