package shape

import "oldledger/core/value"

// pin is a property that every object of a set has, with one of the values of an enum: the tag of a branch.
type pin struct {
	name   string
	values *node // opEnum
}

// maxPinDepth bounds how far one looks for pins through what is composed.
const maxPinDepth = 12

// pins are those of a node.
func (s *Space) pins(n *node) []pin { return s.pinsWithin(n, 0) }

func (s *Space) pinsWithin(n *node, depth int) []pin {
	if known, done := s.pinned[n]; done {
		return known
	}
	if depth > maxPinDepth || !s.budget.Step(4) {
		return nil
	}
	s.pinned[n] = nil // while it is being asked for
	var found []pin
	switch n.op {
	case opRef:
		if n.outside == nil {
			found = s.pinsWithin(s.follow(n), depth+1)
		}
	case opAnd:
		found = s.pinsOf(n.kids, depth+1)
	case opOr, opOne:
		found = s.pinsOfEach(n.kids, depth+1)
	}
	s.pinned[n] = found
	return found
}

// pinsOf are the pins of what satisfies all nodes.
func (s *Space) pinsOf(ns []*node, depth int) []pin {
	var found []pin
	var has map[string]bool
	for _, n := range ns {
		if n.op == opHas {
			if has == nil {
				has = map[string]bool{}
			}
			has[n.name] = true
		}
	}
	for _, n := range ns {
		switch n.op {
		case opProps:
			if !n.names.one || !has[n.names.name] {
				continue
			}
			if listed := s.listed(n.sub, 0); listed != nil {
				found = append(found, pin{n.names.name, listed})
			}
		case opRef, opAnd, opOr, opOne:
			found = append(found, s.pinsWithin(n, depth+1)...)
		}
	}
	return found
}

// pinsOfEach are the pins that each of the nodes has, with the values of all.
func (s *Space) pinsOfEach(ns []*node, depth int) []pin {
	if len(ns) == 0 || len(ns) > maxTags {
		return nil
	}
	common := s.pinsWithin(ns[0], depth+1)
	for _, n := range ns[1:] {
		var both []pin
		for _, p := range common {
			for _, q := range s.pinsWithin(n, depth+1) {
				if p.name == q.name {
					both = append(both, pin{p.name, s.enum(append(append([]*value.Value{}, p.values.values...), q.values.values...))})
					break
				}
			}
		}
		if common = both; len(common) == 0 {
			return nil
		}
	}
	return common
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

// apart tells whether no object has both: a property that both pin, to other values.
func apart(a, b []pin) bool {
	for _, p := range a {
		for _, q := range b {
			if p.name == q.name && !meet(p.values, q.values) {
				return true
			}
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

// toldApart tells whether the sets are objects that a tag tells apart: no two have a value in common.
func (s *Space) toldApart(ns []*node) bool {
	if len(ns) > maxTags {
		return false
	}
	for _, p := range s.pins(ns[0]) {
		taken := map[string]bool{}
		if s.pinnedApart(ns, p.name, taken) {
			return true
		}
	}
	return false
}

func (s *Space) pinnedApart(ns []*node, name string, taken map[string]bool) bool {
	for _, n := range ns {
		if s.kinds(n, 0) != maskOf(value.Object) {
			return false
		}
		var own *node
		for _, p := range s.pins(n) {
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
