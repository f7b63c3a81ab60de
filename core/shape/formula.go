package shape

import (
	"math/big"
	"slices"

	"oldledger/core/value"
)

// op is what a node of a formula says.
type op uint8

const (
	opTrue op = iota
	opFalse
	opAnd
	opOr
	opOne     // exactly one of the kids; becomes an opOr when it is first used
	opNotOne  // not exactly one of the kids of sub, which is an opOne
	opOverlap // true where no tag tells the kids of sub, an opOne, apart
	opTold    // true where a tag tells them apart
	opRef     // stands for its target, which follow makes when it is first asked for
	opUnknown
	opType
	opEnum
	opNotEnum
	// The rest are assertions: each holds for every value that is not of the type it speaks of.
	opRange
	opMultiple
	opNotMultiple
	opLength // of a string
	opMatch
	opNotMatch
	opFormat
	opNotFormat
	opNumeric // where a string spells a number, that number is in sub
	opItem    // the item at index, if there, is in sub
	opItems   // every item from index on is in sub
	opSomeItem
	opSomeFrom
	opContains // between low and high items are in sub
	opCount    // number of items
	opUnique
	opNotUnique
	opHas
	opLacks
	opProps    // every property whose name is in names has a value in sub
	opSomeProp // some property whose name is in names has a value in sub
	opNames    // every property name is in sub
	opSomeName
	opSize // number of properties
)

// node is one subformula. Nodes are compared by identity; id orders them.
type node struct {
	id       int
	op       op
	on       value.Kind // the type that an assertion speaks of
	types    mask
	choice   bool // opOr: the alternatives of a union: choosing among them settles most
	late     bool // opOr: what it leaves to choose follows from other choices, most often
	kids     []*node
	conds    []*node   // opOne: the kids as the others rule them out; a sender's closing of objects is left aside there
	target   *node     // opRef once it was followed; and opOne once expanded
	pending  *lowerKey // opRef: the schema that it stands for
	outside  *node     // opRef: the node that it is the complement of
	values   []*value.Value
	keys     map[string]bool
	rng      interval
	step     *big.Rat
	low      int
	high     int // -1: no limit
	lang     *language
	format   string
	index    int
	sub      *node
	name     string
	names    *nameSet
	reason   string
	hints    []*value.Value // authored examples of the schema that the node was made from
	declared []string       // property names in the author's order
}

// mask is a set of JSON types.
type mask uint8

const allTypes mask = 1<<6 - 1

func maskOf(kinds ...value.Kind) mask {
	var m mask
	for _, k := range kinds {
		m |= 1 << k
	}
	return m
}

func (m mask) has(k value.Kind) bool { return m&(1<<k) != 0 }

func (s *Space) make(n node) *node {
	s.next++
	s.budget.Step(5)
	s.budget.Hold(420 + 8*(len(n.kids)+len(n.conds)))
	n.id = s.next
	return &n
}

func (s *Space) and(kids ...*node) *node {
	var kept []*node
	for _, k := range kids {
		switch {
		case k.op == opTrue:
		case k.op == opFalse:
			return s.bottom
		case !containsNode(kept, k):
			kept = append(kept, k)
		}
	}
	switch len(kept) {
	case 0:
		return s.top
	case 1:
		return kept[0]
	}
	return s.make(node{op: opAnd, kids: kept})
}

// fewKids is among how many one looks for a child that stands twice.
const fewKids = 64

func containsNode(kids []*node, k *node) bool {
	return len(kids) <= fewKids && slices.Contains(kids, k)
}

func (s *Space) or(kids ...*node) *node {
	var kept []*node
	for _, k := range kids {
		switch {
		case k.op == opFalse:
		case k.op == opTrue:
			return s.top
		case !containsNode(kept, k):
			kept = append(kept, k)
		}
	}
	switch len(kept) {
	case 0:
		return s.bottom
	case 1:
		return kept[0]
	}
	return s.make(node{op: opOr, kids: kept})
}

func (s *Space) typed(m mask) *node {
	switch m {
	case allTypes:
		return s.top
	case 0:
		return s.bottom
	}
	if s.types[m] == nil {
		s.types[m] = s.make(node{op: opType, types: m})
	}
	return s.types[m]
}

func (s *Space) enum(values []*value.Value) *node {
	if len(values) == 0 {
		return s.bottom
	}
	return s.make(node{op: opEnum, values: values, keys: keysOf(values)})
}

func (s *Space) notEnum(values []*value.Value) *node {
	if len(values) == 0 {
		return s.top
	}
	return s.make(node{op: opNotEnum, values: values, keys: keysOf(values)})
}

func keysOf(values []*value.Value) map[string]bool {
	keys := make(map[string]bool, len(values))
	for _, v := range values {
		keys[v.Key()] = true
	}
	return keys
}

func (s *Space) has(name string) *node {
	return s.make(node{op: opHas, on: value.Object, name: name})
}

func (s *Space) lacks(name string) *node {
	return s.make(node{op: opLacks, on: value.Object, name: name})
}

func (s *Space) unknown(reason string) *node { return s.make(node{op: opUnknown, reason: reason}) }

// counted is an assertion about how many: characters, items or properties.
func (s *Space) counted(o op, on value.Kind, low, high int) *node {
	if low <= 0 && high < 0 {
		return s.top
	}
	if high >= 0 && low > high {
		return s.typed(allTypes &^ maskOf(on))
	}
	return s.make(node{op: o, on: on, low: low, high: high})
}

// not is the complement of n. The negation of an assertion says that the value is of its type, too.
func (s *Space) not(n *node) *node {
	if m, done := s.negated[n]; done {
		return m
	}
	if n.op == opTrue {
		return s.bottom
	}
	if n.op == opFalse {
		return s.top
	}
	// A place only: the complement of a recursive node meets itself, and most are never asked for.
	ref := s.make(node{op: opRef, outside: n})
	s.negated[n], s.negated[ref] = ref, n
	return ref
}

// follow gives what a reference stands for, made when it is first asked for.
func (s *Space) follow(n *node) *node {
	switch {
	case n.target != nil:
	case n.pending != nil:
		key := *n.pending
		n.pending = nil
		n.target = s.lowerNow(key)
	default:
		n.target = s.negate(n.outside)
	}
	return n.target
}

func (s *Space) negate(n *node) *node {
	is := func(m *node) *node { return s.and(s.typed(maskOf(n.on)), m) }
	flip := func(o op) *node {
		m := *n
		m.op = o
		return is(s.make(m))
	}
	flipSub := func(o op) *node {
		m := *n
		m.op, m.sub = o, s.not(n.sub)
		return is(s.make(m))
	}
	switch n.op {
	case opTrue:
		return s.bottom
	case opFalse:
		return s.top
	case opAnd, opOr:
		kids := make([]*node, len(n.kids))
		for i, k := range n.kids {
			kids[i] = s.not(k)
		}
		if n.op == opAnd {
			return s.make(node{op: opOr, kids: kids})
		}
		return s.make(node{op: opAnd, kids: kids})
	case opOne:
		return s.make(node{op: opNotOne, sub: n})
	case opNotOne:
		return n.sub
	case opOverlap:
		return s.make(node{op: opTold, sub: n.sub})
	case opTold:
		return s.make(node{op: opOverlap, sub: n.sub})
	case opRef:
		return s.not(s.follow(n))
	case opUnknown:
		return s.unknown(n.reason)
	case opType:
		return s.typed(allTypes &^ n.types)
	case opEnum:
		return s.notEnum(n.values)
	case opNotEnum:
		return s.enum(n.values)
	case opRange:
		return is(s.or(s.below(n.rng), s.above(n.rng)))
	case opMultiple:
		return flip(opNotMultiple)
	case opNotMultiple:
		return flip(opMultiple)
	case opLength, opCount, opSize:
		return is(s.outside(n))
	case opMatch:
		return flip(opNotMatch)
	case opNotMatch:
		return flip(opMatch)
	case opFormat:
		return flip(opNotFormat)
	case opNotFormat:
		return flip(opFormat)
	case opNumeric:
		return is(s.and(s.match(s.numberText()), s.make(node{op: opNumeric, on: value.String, sub: s.not(n.sub)})))
	case opItem:
		return flipSub(opSomeItem)
	case opSomeItem:
		return flipSub(opItem)
	case opItems:
		return flipSub(opSomeFrom)
	case opSomeFrom:
		return flipSub(opItems)
	case opContains:
		fewer, more := *n, *n
		fewer.low, fewer.high = 0, n.low-1
		more.low, more.high = n.high+1, -1
		var ways []*node
		if n.low > 0 {
			ways = append(ways, s.make(fewer))
		}
		if n.high >= 0 {
			ways = append(ways, s.make(more))
		}
		return is(s.or(ways...))
	case opUnique:
		return flip(opNotUnique)
	case opNotUnique:
		return flip(opUnique)
	case opHas:
		return flip(opLacks)
	case opLacks:
		return flip(opHas)
	case opProps:
		return flipSub(opSomeProp)
	case opSomeProp:
		return flipSub(opProps)
	case opNames:
		return flipSub(opSomeName)
	case opSomeName:
		return flipSub(opNames)
	}
	panic("shape: no complement of this node")
}

// outside is the complement of a count, within its type.
func (s *Space) outside(n *node) *node {
	var ways []*node
	if n.low > 0 {
		ways = append(ways, s.counted(n.op, n.on, 0, n.low-1))
	}
	if n.high >= 0 {
		ways = append(ways, s.counted(n.op, n.on, n.high+1, -1))
	}
	return s.or(ways...)
}

// maxSearched bounds the pairs of branches of a oneOf of which a search tells whether they exclude each other.
const maxSearched = 800

// expandOne turns "exactly one of" into an "or" whose ways rule out those of the others with which they may have a value in common: none,
// where a tag tells all apart.
func (s *Space) expandOne(n *node) *node {
	if n.target != nil {
		return n.target
	}
	n.target = s.unknown("a oneOf that decides itself could not be decided") // while the question is open, inside itself
	if s.toldApart(n.conds) {
		n.target = s.make(node{op: opOr, kids: n.kids, choice: true})
		return n.target
	}
	beside := s.overlapping(n.conds)
	ways := make([]*node, len(n.kids))
	for i, k := range n.kids {
		parts := []*node{k}
		for _, j := range beside[i] {
			parts = append(parts, s.not(n.conds[j]))
		}
		ways[i] = s.and(parts...)
	}
	n.target = s.make(node{op: opOr, kids: ways, choice: true})
	return n.target
}

// overlapping lists, for each branch, the others with which it may have a value in common.
func (s *Space) overlapping(kids []*node) [][]int {
	beside := make([][]int, len(kids))
	searched := 0
	for i, a := range kids {
		for j, b := range kids[:i] {
			common := s.kinds(a, 0) & s.kinds(b, 0)
			if common == 0 || common == maskOf(value.Object) && apart(s.facts(a), s.facts(b)) {
				continue
			}
			searched++
			if searched <= maxSearched && !s.budget.Over() && s.search([]*node{a, b}).answer == none {
				continue
			}
			beside[i], beside[j] = append(beside[i], j), append(beside[j], i)
		}
	}
	return beside
}
