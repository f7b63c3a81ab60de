package shape

import (
	"strings"

	"oldledger/core/value"
)

// flatten takes conjunctions and references apart, and follows each choice of which one way is left; ok is false when nothing can satisfy
// what it found.
func (r *run) flatten(ns []*node, types mask) (st *state, ok bool) {
	st = &state{types: types}
	seen, stack := r.s.takeScratch()
	f := &flatter{run: r, st: st, seen: seen, stack: append(stack, ns...)}
	defer func() { r.s.returnScratch(f.seen, f.stack) }()
	for {
		if !f.take() || st.types == 0 {
			return nil, false
		}
		if len(f.ones) > 0 && !r.s.budget.Over() { // what is known by then may settle them
			one := f.ones[len(f.ones)-1]
			f.ones = f.ones[:len(f.ones)-1]
			if one.op == opOne {
				f.stack = append(f.stack, r.s.expandOne(one))
			} else {
				f.stack = append(f.stack, r.s.not(r.s.expandOne(one.sub)))
			}
			continue
		}
		if st.types == maskOf(value.Object) && !f.there.note(st.lits) {
			return nil, false
		}
		if len(st.ors) == 0 || r.s.budget.Over() {
			return st, true
		}
		if !f.narrow() {
			return nil, false
		}
		if len(f.stack) == 0 {
			return st, true
		}
	}
}

// flatter is one flattening under way.
type flatter struct {
	*run
	st    *state
	seen  map[*node]bool
	stack []*node
	ones  []*node // exactly one of several, and not: taken when all else is, for telling their ways apart takes long
	plain facts   // of the state, when it had so many literals
	at    int
	there presence
}

// presence is what the literals of a state say about which properties an object has.
type presence struct {
	at         int // so many literals were looked at
	has, lacks map[string]bool
	closed     []nameSet // no property has a name in one of them
}

// note takes the literals that came; false where a property must be there and must not.
func (p *presence) note(lits []*node) bool {
	for ; p.at < len(lits); p.at++ {
		n := lits[p.at]
		if n.on != value.Object {
			continue
		}
		if p.has == nil {
			p.has, p.lacks = map[string]bool{}, map[string]bool{}
		}
		switch {
		case n.op == opHas:
			p.has[n.name] = true
		case n.op == opLacks:
			p.lacks[n.name] = true
		case n.op == opSomeProp && n.names.one:
			p.has[n.names.name] = true
		case n.op == opProps && n.sub.op == opFalse && n.names.one:
			p.lacks[n.names.name] = true
		case n.op == opProps && n.sub.op == opFalse:
			p.closed = append(p.closed, *n.names)
		}
	}
	for name := range p.has {
		if p.missing(name) {
			return false
		}
	}
	return true
}

// missing reports whether no object of the state has a property of the name.
func (p *presence) missing(name string) bool {
	if p.lacks[name] {
		return true
	}
	for _, ns := range p.closed {
		if ns.contains(name) == yes {
			return true
		}
	}
	return false
}

// judge tells what presence alone says of a literal about one property.
func (p *presence) judge(n *node) tri {
	name := n.name
	if n.op == opProps || n.op == opSomeProp {
		if !n.names.one {
			return maybe
		}
		name = n.names.name
	}
	missing := p.missing(name)
	switch {
	case n.op == opHas && missing, n.op == opSomeProp && missing, n.op == opLacks && p.has[name]:
		return no
	case n.op == opHas && p.has[name], n.op == opLacks && missing, n.op == opProps && missing:
		return yes
	case n.op == opProps && n.sub.op == opFalse && p.has[name]:
		return no
	}
	return maybe
}

// take takes apart what is on the stack; false when nothing can satisfy it.
func (f *flatter) take() bool {
	st := f.st
	for len(f.stack) > 0 {
		n := f.stack[len(f.stack)-1]
		f.stack = f.stack[:len(f.stack)-1]
		if !f.s.budget.Step(8) {
			st.unknown = f.s.exhausted()
			return true
		}
		for n.op == opRef && !f.seen[n] {
			if f.s.ruledOut(n, f.seen) {
				return false
			}
			f.seen[n] = true
			n = f.s.follow(n)
		}
		if f.seen[n] {
			continue
		}
		f.seen[n] = true
		st.hints = append(st.hints, n.hints...)
		if len(n.declared) > len(st.order) {
			st.order = n.declared
		}
		switch n.op {
		case opTrue:
		case opFalse:
			return false
		case opAnd:
			f.stack = append(f.stack, n.kids...)
		case opOverlap, opTold:
			if f.s.overlap(n) == no {
				return false
			}
		case opOne, opNotOne:
			f.ones = append(f.ones, n)
		case opOr:
			st.ors = append(st.ors, n)
		case opUnknown:
			st.unknown = n
		case opType:
			st.types &= n.types
		case opEnum:
			st.enums = append(st.enums, n)
		default:
			st.lits = append(st.lits, n)
		}
	}
	return true
}

// narrow drops the choices that are settled and follows those that have one way left; false where one has none.
func (f *flatter) narrow() bool {
	left := f.st.ors[:0]
	for _, or := range f.st.ors {
		ways, settled := 0, false
		var only *node
		for _, k := range or.kids {
			switch f.judge(k, 0) {
			case yes:
				settled = true
			case maybe:
				ways, only = ways+1, k
			}
			if settled {
				break
			}
		}
		switch {
		case settled:
		case ways == 0:
			return false
		case ways == 1:
			f.stack = append(f.stack, only)
		default:
			left = append(left, or)
		}
	}
	f.st.ors = left
	return true
}

// judge tells what is plain about a node beside what the state demands: yes where it holds anyway, no where it cannot.
func (f *flatter) judge(n *node, depth int) tri {
	if f.seen[n] {
		return yes
	}
	if depth > 8 || !f.s.budget.Step(2) {
		return maybe
	}
	types := f.st.types
	switch n.op {
	case opTrue:
		return yes
	case opFalse:
		return no
	case opRef:
		if f.s.ruledOut(n, f.seen) {
			return no
		}
		for _, smaller := range f.s.subsets[n] {
			if f.seen[smaller] {
				return yes
			}
		}
		if t := f.byPins(n); t != maybe {
			return t
		}
		return f.judge(f.s.follow(n), depth+1)
	case opType:
		switch {
		case n.types&types == 0:
			return no
		case types&^n.types == 0:
			return yes
		}
		return maybe
	case opEnum, opNotEnum:
		for _, v := range n.values {
			if types.has(v.Kind) {
				return maybe
			}
		}
		return triOf(n.op == opNotEnum)
	case opAnd:
		return worst(n.kids, func(k *node) tri { return f.judge(k, depth+1) })
	case opOr:
		return best(n.kids, func(k *node) tri { return f.judge(k, depth+1) })
	case opOverlap, opTold:
		return f.s.overlap(n)
	case opOne, opNotOne, opUnknown:
		return maybe
	}
	if !types.has(n.on) {
		return yes
	}
	switch {
	case types != maskOf(value.Object):
	case n.op == opHas || n.op == opLacks || n.op == opProps || n.op == opSomeProp:
		if t := f.there.judge(n); t != maybe {
			return t
		}
		return f.byValue(n)
	}
	return maybe
}

// byValue decides a literal about a property of which the state lists the values: all of them are in it, or none is.
func (f *flatter) byValue(n *node) tri {
	return f.s.byValues(n, f.facts().pins, 0)
}

// byValues decides a literal about a property of objects whose pins are known.
func (s *Space) byValues(n *node, pins []pin, depth int) tri {
	if (n.op != opProps && n.op != opSomeProp) || !n.names.one {
		return maybe
	}
	var inner []pin
	for _, p := range pins {
		if rest, within := strings.CutPrefix(p.name, n.names.name+pinSeparator); within {
			inner = append(inner, pin{rest, p.values})
			continue
		}
		if p.name != n.names.name || len(p.values.values) > maxValues {
			continue
		}
		all, none := true, true
		for _, v := range p.values.values {
			t := s.eval(n.sub, v)
			all, none = all && t == yes, none && t == no
		}
		switch {
		case all:
			return yes
		case none:
			return no
		}
	}
	if len(inner) == 0 {
		return maybe
	}
	return s.underPins(n.sub, inner, depth+1)
}

// underPins tells what is plain about a node for an object whose pins are known.
func (s *Space) underPins(n *node, pins []pin, depth int) tri {
	if depth > maxPinDepth || !s.budget.Step(2) {
		return maybe
	}
	switch n.op {
	case opTrue:
		return yes
	case opFalse:
		return no
	case opType:
		return triOf(n.types.has(value.Object))
	case opRef:
		if n.outside != nil {
			return s.underPins(n.outside, pins, depth+1).not()
		}
		return s.underPins(s.follow(n), pins, depth+1)
	case opAnd:
		return worst(n.kids, func(k *node) tri { return s.underPins(k, pins, depth+1) })
	case opOr:
		return best(n.kids, func(k *node) tri { return s.underPins(k, pins, depth+1) })
	case opHas, opLacks:
		for _, p := range pins {
			if name, _, _ := strings.Cut(p.name, pinSeparator); name == n.name {
				return triOf(n.op == opHas)
			}
		}
	case opProps, opSomeProp:
		return s.byValues(n, pins, depth)
	}
	return maybe
}

// maxValues bounds the listed values of a property that are looked at one by one.
const maxValues = 8

// facts are those of the state.
func (f *flatter) facts() facts {
	if f.at != len(f.st.lits) {
		f.there.note(f.st.lits)
		f.plain, f.at = facts{f.s.pinsOf(f.st.lits, &f.there, 0), &f.there}, len(f.st.lits)
	}
	return f.plain
}

// byPins decides a reference by a property that the state and the schema list other values for: a tag.
func (f *flatter) byPins(n *node) tri {
	if f.st.types != maskOf(value.Object) {
		return maybe
	}
	plain := f.facts()
	switch {
	case len(plain.pins) == 0 && plain.there == nil:
	case n.outside != nil:
		if apart(f.s.facts(n.outside), plain) {
			return yes
		}
	case apart(f.s.facts(n), plain):
		return no
	}
	return maybe
}

// scratch is room that one flattening after the other works in: they are many and short.
type scratch struct {
	seen  map[*node]bool
	stack []*node
}

func (s *Space) takeScratch() (map[*node]bool, []*node) {
	f := s.scratch
	s.scratch = scratch{} // who comes while it is in use makes room of their own
	if f.seen == nil {
		f.seen = map[*node]bool{}
	}
	return f.seen, f.stack
}

func (s *Space) returnScratch(seen map[*node]bool, stack []*node) {
	if len(seen) > 200 {
		return // emptying a large map takes as long as it once was
	}
	clear(seen)
	s.scratch = scratch{seen, stack[:0]}
}
