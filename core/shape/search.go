package shape

import (
	"cmp"
	"encoding/binary"
	"slices"

	"oldledger/core/value"
)

// answer is what a search for a value found.
type answer uint8

const (
	none answer = iota
	some
	unsure
)

type found struct {
	answer answer
	value  *value.Value
	reason string
}

// maxSteps bounds one question, whatever its space has left.
const maxSteps = 20_000

// run is one question under way.
type run struct {
	s      *Space
	steps  int
	onPath map[string]int // states being solved, with their depth
	depth  int
	low    int // the shallowest state that the newest "none" leaned on
}

// deep means that a result leaned on no state under way.
const deep = 1 << 30

func (s *Space) search(ns []*node) found {
	r := &run{s: s, onPath: map[string]int{}, low: deep}
	return r.solve(ns, allTypes)
}

func (r *run) spend() bool {
	r.steps++
	return r.s.budget.Step(40) && r.steps <= maxSteps
}

const outOfBudget = "the search for a message ended at its budget"

// solve looks for a value of one of the types that satisfies all of ns.
func (r *run) solve(ns []*node, types mask) found {
	if !r.spend() {
		return found{answer: unsure, reason: outOfBudget}
	}
	st, ok := r.flatten(ns, types)
	if !ok {
		return found{answer: none}
	}
	if v := r.hinted(st); v != nil {
		return found{answer: some, value: v} // what authors wrote is not part of the key
	}
	key := st.key()
	if f, done := r.s.memo[key]; done {
		return f
	}
	if at, cycle := r.onPath[key]; cycle {
		r.low = min(r.low, at) // a finite value holds no copy of itself
		return found{answer: none}
	}
	r.depth++
	r.onPath[key] = r.depth
	outer := r.low
	r.low = deep
	f := r.solveState(st)
	if f.answer == none && r.s.budget.Over() {
		f = found{answer: unsure, reason: outOfBudget} // something may have been cut short
	}
	if f.answer == some && r.s.countParts(f.value) > maxParts {
		f = found{answer: unsure, reason: "the smallest message would be too large to be made"}
	}
	leaned := r.low < r.depth
	if f.answer != none || !leaned {
		if f.reason != outOfBudget && r.s.budget.Hold(len(key)+120) {
			r.s.memo[key] = f
		}
		if f.answer == some {
			r.low = deep
		}
	}
	delete(r.onPath, key)
	if r.low >= r.depth {
		r.low = deep
	}
	r.depth--
	r.low = min(r.low, outer)
	return f
}

// maxParts bounds the parts of a message. Parts that are alike are made once and told as often as they stand: a few lines that demand
// two of each kind, and two of each in these, make messages that nobody can hold.
const maxParts = 100_000

// Parts counts the parts of a value, each as often as it stands there, up to a bound.
func (s *Space) Parts(v *value.Value) int { return s.countParts(v) }

// countParts counts the parts of a value, each as often as it stands there.
func (s *Space) countParts(v *value.Value) int {
	if len(v.Items)+len(v.Members) == 0 {
		return 1
	}
	if known := s.partCounts[v]; known > 0 {
		return known
	}
	n := 1
	for _, it := range v.Items {
		n = min(n+s.countParts(it), maxParts+1)
	}
	for _, m := range v.Members {
		n = min(n+s.countParts(m.Value), maxParts+1)
	}
	s.partCounts[v] = n
	return n
}

// state is a set of literals, with what is left to choose.
type state struct {
	types   mask
	lits    []*node // assertions
	enums   []*node
	ors     []*node
	unknown *node
	hints   []*value.Value
	order   []string // property names in an author's order
}

// exhausted stands for what was not looked at any more.
func (s *Space) exhausted() *node { return s.unknown(outOfBudget) }

// ruledOut reports whether a state that holds the nodes in seen can have no value in n, too: one of them is the complement of n, or
// of a set that is known to hold n.
func (s *Space) ruledOut(n *node, seen map[*node]bool) bool {
	if m := s.negated[n]; m != nil && seen[m] {
		return true
	}
	for _, larger := range s.supersets[n] {
		if m := s.negated[larger]; m != nil && seen[m] {
			return true
		}
	}
	if of := s.negated[n]; of != nil {
		for _, smaller := range s.subsets[of] {
			if seen[smaller] {
				return true
			}
		}
	}
	return false
}

// key names the state: the types and every literal by identity.
func (st *state) key() string {
	var ids []int
	for _, group := range [][]*node{st.lits, st.enums, st.ors} {
		for _, n := range group {
			ids = append(ids, n.id)
		}
	}
	if st.unknown != nil {
		ids = append(ids, st.unknown.id)
	}
	slices.Sort(ids)
	b := []byte{byte(st.types)}
	for _, id := range ids {
		b = binary.AppendUvarint(b, uint64(id))
	}
	return string(b)
}

// everything is all that the state demands, for testing one value.
func (st *state) everything() []*node {
	all := slices.Concat(st.lits, st.enums, st.ors)
	if st.unknown != nil {
		all = append(all, st.unknown)
	}
	return all
}

func (r *run) solveState(st *state) found {
	if len(st.enums) > 0 {
		return r.tryEach(st)
	}
	// Objects and arrays make the more telling witness, null the least.
	result := found{answer: none}
	for kind := value.Object; ; kind-- {
		if st.types.has(kind) {
			f := r.solveKind(st, kind)
			if f.answer == some {
				return f
			}
			if f.answer == unsure {
				result = f
			}
		}
		if kind == value.Null {
			return result
		}
	}
}

// hinted tries the examples that authors wrote: they read better than anything made up.
func (r *run) hinted(st *state) *value.Value {
	if len(st.hints) == 0 {
		return nil
	}
	all := st.everything()
	for _, v := range st.hints {
		if st.types.has(v.Kind) && r.s.all(all, v) == yes {
			return v
		}
	}
	return nil
}

// tryEach decides a state that has a finite set of values.
func (r *run) tryEach(st *state) found {
	smallest := st.enums[0]
	for _, e := range st.enums[1:] {
		if len(e.values) < len(smallest.values) {
			smallest = e
		}
	}
	all := st.everything()
	result := found{answer: none}
	for _, v := range smallest.values {
		if !st.types.has(v.Kind) {
			continue
		}
		switch r.s.all(all, v) {
		case yes:
			return found{answer: some, value: v}
		case maybe:
			result = found{answer: unsure, reason: r.reason(st)}
		}
	}
	return result
}

func (r *run) reason(st *state) string {
	if st.unknown != nil {
		return st.unknown.reason
	}
	for _, n := range st.lits {
		if n.lang != nil && n.lang.why != "" {
			return n.lang.why
		}
	}
	return "whether a listed value is admitted could not be decided"
}

// solveKind looks for a value of one type: first what is left to choose, then the type's own procedure.
func (r *run) solveKind(st *state, kind value.Kind) found {
	only := maskOf(kind)
	if len(st.ors) > 0 {
		return r.choose(st, only)
	}
	if kind == value.Null || kind == value.Boolean {
		return r.trySmall(st, kind)
	}
	var lits []*node
	for _, n := range st.lits {
		if n.op == opNotEnum || n.on == kind {
			lits = append(lits, n)
		}
	}
	var f found
	switch kind {
	case value.Number:
		f = r.s.solveNumber(lits)
	case value.String:
		f = r.s.solveText(lits)
	case value.Array:
		f = r.solveArray(lits)
	case value.Object:
		f = r.solveObject(lits, st.order)
	}
	if f.answer == some && st.unknown != nil {
		return found{answer: unsure, reason: st.unknown.reason}
	}
	return f
}

func (r *run) trySmall(st *state, kind value.Kind) found {
	values := []*value.Value{value.NullValue}
	if kind == value.Boolean {
		values = []*value.Value{value.True, value.False}
	}
	for _, v := range values {
		if r.s.all(st.lits, v) == yes {
			if st.unknown != nil {
				return found{answer: unsure, reason: st.unknown.reason}
			}
			return found{answer: some, value: v}
		}
	}
	return found{answer: none}
}

// choose splits on the disjunction with the fewest branches left, depth first.
func (r *run) choose(st *state, only mask) found {
	best, bestWays := -1, []*node(nil)
	for i, or := range st.ors {
		ways := r.waysLeft(or, only)
		if len(ways) == 0 {
			return found{answer: none}
		}
		if best < 0 || r.before(or, len(ways), st.ors[best], len(bestWays)) {
			best, bestWays = i, ways
		}
	}
	rest := slices.Concat(st.lits, st.enums, st.ors[:best], st.ors[best+1:])
	if len(st.hints)+len(st.order) > 0 {
		rest = append(rest, &node{op: opTrue, hints: st.hints, declared: st.order}) // what authors wrote goes along
	}
	if st.unknown != nil {
		rest = append(rest, st.unknown)
	}
	result := found{answer: none}
	for _, way := range bestWays {
		f := r.solve(append(slices.Clone(rest), way), only)
		if f.answer == some {
			return f
		}
		if f.answer == unsure {
			result = f
			if f.reason == outOfBudget {
				return f
			}
		}
	}
	return result
}

// before reports whether a choice is made before another: what is left for late is last, the alternatives of a union are first, for they
// settle most, those that a tag tells apart before all, and what has fewer ways comes before what has more.
func (r *run) before(x *node, ways int, y *node, others int) bool {
	if x.late != y.late {
		return y.late
	}
	if x.choice != y.choice {
		return x.choice
	}
	if t, u := len(r.s.facts(x).pins) > 0, len(r.s.facts(y).pins) > 0; t != u {
		return t
	}
	return ways < others
}

// waysLeft drops the branches that cannot hold for the type. A branch that always holds for it settles the whole.
func (r *run) waysLeft(or *node, only mask) []*node {
	var ways []*node
	for _, k := range or.kids {
		switch r.quickVerdict(k, only, 0) {
		case yes:
			return []*node{r.s.top}
		case maybe:
			ways = append(ways, k)
		}
	}
	slices.SortStableFunc(ways, func(a, b *node) int { return cmp.Compare(r.more(a, 0), r.more(b, 0)) })
	return ways
}

// more tells how much a way adds to a message: 0 where it can leave something out, 1 else.
func (r *run) more(n *node, depth int) int {
	switch {
	case n.op == opLacks:
		return 0
	case depth > 4:
	case n.op == opRef:
		return r.more(r.s.follow(n), depth+1)
	case n.op == opOr || n.op == opAnd:
		least := 1
		for _, k := range n.kids {
			least = min(least, r.more(k, depth+1))
		}
		return least
	}
	return 1
}

// quickVerdict tells what is plain about a node for values of one type.
func (r *run) quickVerdict(n *node, only mask, depth int) tri {
	if depth > 8 || !r.s.budget.Step(2) {
		return maybe
	}
	switch n.op {
	case opTrue:
		return yes
	case opFalse:
		return no
	case opRef:
		return r.quickVerdict(r.s.follow(n), only, depth+1)
	case opType:
		return triOf(n.types&only != 0)
	case opEnum:
		for _, v := range n.values {
			if only.has(v.Kind) {
				return maybe
			}
		}
		return no
	case opNotEnum:
		for _, v := range n.values {
			if only.has(v.Kind) {
				return maybe
			}
		}
		return yes
	case opAnd:
		return worst(n.kids, func(k *node) tri { return r.quickVerdict(k, only, depth+1) })
	case opOr:
		return best(n.kids, func(k *node) tri { return r.quickVerdict(k, only, depth+1) })
	case opOverlap, opTold:
		return r.s.overlap(n)
	case opOne, opNotOne, opUnknown:
		return maybe
	}
	if !only.has(n.on) {
		return yes
	}
	return maybe
}
