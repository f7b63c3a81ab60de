package shape

import "oldledger/core/value"

// flatten takes conjunctions and references apart, and follows each choice of which one way is left; ok is false when nothing can satisfy
// what it found.
func (r *run) flatten(ns []*node, types mask) (st *state, ok bool) {
	st = &state{types: types}
	seen, stack := r.s.room()
	f := &flatter{run: r, st: st, seen: seen, stack: append(stack, ns...)}
	defer func() { r.s.giveBack(f.seen, f.stack) }()
	for {
		if !f.take() || st.types == 0 {
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
	st     *state
	seen   map[*node]bool
	stack  []*node
	pinned []pin // of the state, when it had so many literals
	at     int
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
		case opOne:
			f.stack = append(f.stack, f.s.expandOne(n))
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
		worst := yes
		for _, k := range n.kids {
			if worst = min(worst, f.judge(k, depth+1)); worst == no {
				break
			}
		}
		return worst
	case opOr:
		best := no
		for _, k := range n.kids {
			if best = max(best, f.judge(k, depth+1)); best == yes {
				break
			}
		}
		return best
	case opOne, opUnknown:
		return maybe
	}
	if !types.has(n.on) {
		return yes
	}
	return maybe
}

// byPins decides a reference by a property that the state and the schema list other values for: a tag.
func (f *flatter) byPins(n *node) tri {
	if f.st.types != maskOf(value.Object) {
		return maybe
	}
	if f.at != len(f.st.lits) {
		f.pinned, f.at = f.s.pinsOf(f.st.lits, 0), len(f.st.lits)
	}
	switch {
	case len(f.pinned) == 0:
	case n.outside != nil:
		if apart(f.s.pins(n.outside), f.pinned) {
			return yes
		}
	case apart(f.s.pins(n), f.pinned):
		return no
	}
	return maybe
}

// flattening is room that one flattening after the other works in: they are many and short.
type flattening struct {
	seen  map[*node]bool
	stack []*node
}

func (s *Space) room() (map[*node]bool, []*node) {
	f := s.flattening
	s.flattening = flattening{} // who comes while it is in use makes room of their own
	if f.seen == nil {
		f.seen = map[*node]bool{}
	}
	return f.seen, f.stack
}

func (s *Space) giveBack(seen map[*node]bool, stack []*node) {
	if len(seen) > 200 {
		return // emptying a large map takes as long as it once was
	}
	clear(seen)
	s.flattening = flattening{seen, stack[:0]}
}
