package shape

import (
	"unicode/utf8"

	"oldledger/core/value"
)

// tri is a three-valued truth.
type tri uint8

const (
	no tri = iota
	maybe
	yes
)

func triOf(b bool) tri {
	if b {
		return yes
	}
	return no
}

func (t tri) not() tri { return yes - t }

// worst is the least that is told of the nodes, yes for none of them; no other is asked when it is settled.
func worst(ns []*node, tell func(*node) tri) tri {
	least := yes
	for _, n := range ns {
		if least = min(least, tell(n)); least == no {
			break
		}
	}
	return least
}

// best is the most that is told of the nodes, no for none of them; no other is asked when it is settled.
func best(ns []*node, tell func(*node) tri) tri {
	most := no
	for _, n := range ns {
		if most = max(most, tell(n)); most == yes {
			break
		}
	}
	return most
}

// eval reports whether v satisfies n. It is written independently of the search, which it checks.
func (s *Space) eval(n *node, v *value.Value) tri {
	if !s.budget.Step(2) {
		return maybe
	}
	switch n.op {
	case opTrue:
		return yes
	case opFalse:
		return no
	case opAnd:
		return s.all(n.kids, v)
	case opOr:
		return best(n.kids, func(k *node) tri { return s.eval(k, v) })
	case opOne:
		return s.exactlyOne(n, v)
	case opNotOne:
		return s.exactlyOne(n.sub, v).not()
	case opOverlap, opTold:
		return s.overlap(n)
	case opRef:
		return s.evalRef(n, v)
	case opUnknown:
		return maybe
	case opType:
		return triOf(n.types.has(v.Kind))
	case opEnum:
		return triOf(n.keys[v.Key()])
	case opNotEnum:
		return triOf(!n.keys[v.Key()])
	}
	if v.Kind != n.on {
		return yes
	}
	switch v.Kind {
	case value.Number:
		return evalNumber(n, v)
	case value.String:
		return s.evalText(n, v)
	case value.Array:
		return s.evalArray(n, v)
	}
	return s.evalObject(n, v)
}

// judgedKey is a schema, or its complement, and a value that was held against it.
type judgedKey struct {
	n *node
	v *value.Value
}

// maxJudged bounds how many answers are kept; beyond it, all are let go.
const maxJudged = 1 << 18

// evalRef asks of each schema and value once: schemas share their parts, and a tree of them may have more paths than anybody can walk.
func (s *Space) evalRef(n *node, v *value.Value) tri {
	key := judgedKey{n, v}
	if known, asked := s.judged[key]; asked {
		return known
	}
	t := s.eval(s.follow(n), v)
	if s.budget.Over() {
		return t // not what it would be
	}
	if len(s.judged) >= maxJudged {
		clear(s.judged)
	}
	s.judged[key] = t
	return t
}

func (s *Space) all(ns []*node, v *value.Value) tri {
	return worst(ns, func(n *node) tri { return s.eval(n, v) })
}

// exactlyOne reports whether v is in one of the kids, and in none of the others.
func (s *Space) exactlyOne(n *node, v *value.Value) tri {
	conds := make([]tri, len(n.conds))
	for i, c := range n.conds {
		conds[i] = s.eval(c, v)
	}
	best := no
	for i, k := range n.kids {
		only := s.eval(k, v)
		for j, c := range conds {
			if j != i {
				only = min(only, c.not())
			}
		}
		best = max(best, only)
	}
	return best
}

func evalNumber(n *node, v *value.Value) tri {
	switch n.op {
	case opRange:
		return triOf(n.rng.contains(v.Num))
	case opMultiple:
		return triOf(isMultiple(v.Num, n.step))
	}
	return triOf(!isMultiple(v.Num, n.step))
}

func (s *Space) evalText(n *node, v *value.Value) tri {
	switch n.op {
	case opLength:
		l := utf8.RuneCountInString(v.Text)
		return triOf(l >= n.low && (n.high < 0 || l <= n.high))
	case opMatch:
		return n.lang.contains(v.Text)
	case opNotMatch:
		return n.lang.contains(v.Text).not()
	case opFormat:
		return triOf(formats[n.format].holds(v.Text))
	case opNotFormat:
		return triOf(!formats[n.format].holds(v.Text))
	}
	num, err := value.ParseNumber(v.Text)
	if err != nil {
		return yes
	}
	return s.eval(n.sub, value.Rat(num))
}

func (s *Space) evalArray(n *node, v *value.Value) tri {
	switch n.op {
	case opItem, opSomeItem:
		if n.index >= len(v.Items) {
			return triOf(n.op == opItem)
		}
		return s.eval(n.sub, v.Items[n.index])
	case opItems:
		worst := yes
		for i := n.index; i < len(v.Items); i++ {
			worst = min(worst, s.eval(n.sub, v.Items[i]))
		}
		return worst
	case opSomeFrom:
		best := no
		for i := n.index; i < len(v.Items); i++ {
			best = max(best, s.eval(n.sub, v.Items[i]))
		}
		return best
	case opContains:
		held, unsure := 0, 0
		for _, it := range v.Items {
			switch s.eval(n.sub, it) {
			case yes:
				held++
			case maybe:
				unsure++
			}
		}
		in := func(k int) bool { return k >= n.low && (n.high < 0 || k <= n.high) }
		if in(held) == in(held+unsure) && (unsure == 0 || n.high < 0 || n.low == 0) {
			return triOf(in(held))
		}
		return maybe
	case opCount:
		return triOf(len(v.Items) >= n.low && (n.high < 0 || len(v.Items) <= n.high))
	}
	seen := map[string]bool{}
	for _, it := range v.Items {
		seen[it.Key()] = true
	}
	return triOf((len(seen) == len(v.Items)) == (n.op == opUnique))
}

func (s *Space) evalObject(n *node, v *value.Value) tri {
	s.budget.Step(len(v.Members) / 8)
	switch n.op {
	case opHas:
		return triOf(v.Get(n.name) != nil)
	case opLacks:
		return triOf(v.Get(n.name) == nil)
	case opSize:
		return triOf(len(v.Members) >= n.low && (n.high < 0 || len(v.Members) <= n.high))
	}
	if (n.op == opProps || n.op == opSomeProp) && n.names.one {
		if member := v.Get(n.names.name); member != nil {
			return s.eval(n.sub, member)
		}
		return triOf(n.op == opProps)
	}
	all, any := yes, no
	for _, m := range v.Members {
		in := yes
		var held tri
		if n.op == opNames || n.op == opSomeName {
			held = s.eval(n.sub, value.Str(m.Name))
		} else {
			if in = n.names.contains(m.Name); in == no {
				continue // it says nothing about this member
			}
			held = s.eval(n.sub, m.Value)
		}
		all = min(all, max(in.not(), held))
		any = max(any, min(in, held))
	}
	if n.op == opProps || n.op == opNames {
		return all
	}
	return any
}
