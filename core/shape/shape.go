// Package shape decides questions about sets of JSON values.
//
// A Shape is the set of values that a schema admits for one role: sent or received, in a request or in a
// response. A Space lowers the schemas of every dialect to shapes and compares them:
//
//	space := shape.NewSpace(shape.Declared, budget.New(ctx, budget.For(size)))
//	sent := space.Lower(oldSchema, shape.Role{Sends: true, Request: true})
//	received := space.Lower(newSchema, shape.Role{Request: true})
//	v := space.Included(sent, received)
//	switch v.Answer {
//	case shape.Proved:
//	case shape.Refuted:   // v.Witness is sent and not received
//	case shape.Undecided: // v.Reason says why
//	}
//
// One search answers everything: a is included in b when "a and not b" has no value (search.go). A shape is a small formula in negation
// normal form (formula.go) whose assertions each speak of one JSON type. Recursive shapes are compared coinductively, and every search has
// a bound of steps, and the space a budget: once it is over, what is asked is undecided. Terms follow JSON Schema 2020-12 (Validation).
// Everything here is a pure function of its arguments; a Space is not for concurrent use.
package shape

import (
	"oldledger/core/budget"
	"oldledger/core/class"
	"oldledger/core/contract"
	"oldledger/core/value"
)

// Reading tells how a description is read: docs/design/compatibility.md, Two readings.
type Reading uint8

// Declared takes senders at their word: they send what their version declares. Exact is the plain set of instances.
const (
	Declared Reading = iota
	Exact
)

func (r Reading) String() string { return [...]string{"declared", "exact"}[r] }

// ParseReading reads the name of a reading.
func ParseReading(s string) (Reading, bool) {
	switch s {
	case "declared":
		return Declared, true
	case "exact":
		return Exact, true
	}
	return 0, false
}

// Role is the part that a schema plays at a position.
type Role struct {
	Sends   bool // whether this side sends the value, or receives it
	Request bool // whether it travels in a request, or in a response
	Text    bool // whether the value is text on the wire: a parameter or header in the declared reading
}

// Shape is a set of JSON values. The zero Shape is not usable; a Space makes them.
type Shape struct{ n *node }

// Answer is what Included found.
type Answer uint8

// Proved: every value is included. Refuted: the witness is not. Undecided: neither could be shown.
const (
	Proved Answer = iota
	Refuted
	Undecided
)

// Verdict is an answer with its evidence.
type Verdict struct {
	Answer  Answer
	Witness *value.Value // for Refuted
	Reason  string       // for Undecided
}

// Space holds the shapes of one comparison, so that equal questions are asked once. All that it keeps holds as long as it lives.
type Space struct {
	// How it reads; set by NewSpace, Refuse and Equate, before anything is lowered.
	reading Reading
	strict  bool           // whether who receives requests refuses what is not declared
	classes *class.Classes // which schemas say the same; nil where nobody asked
	budget  *budget.Budget // of all questions together

	// Nodes, each made once.
	next        int // the id of the next
	top, bottom *node
	lowered     map[lowerKey]*node
	negated     map[*node]*node
	types       [allTypes]*node // by mask
	texts       map[string]*language

	// What was learnt of them.
	supersets map[*node][]*node // sets that are known to hold a set
	subsets   map[*node][]*node // the reverse
	plain     map[*node]facts   // what is plain about their objects
	asked     map[*node]bool    // nodes whose facts are being found
	cuts      int               // how often that was cut short
	memo      map[string]found
	judged    map[judgedKey]tri // what values were found to be in

	// Values made so far.
	sampled    map[sampleKey]*value.Value
	parts      map[sampleKey]int    // of a sample, as estimated
	partCounts map[*value.Value]int // the parts of values

	scratch scratch
}

// NewSpace makes an empty space for one reading. Its questions spend of b together; nil has no end.
func NewSpace(reading Reading, b *budget.Budget) *Space {
	s := &Space{
		reading:    reading,
		budget:     b,
		judged:     map[judgedKey]tri{},
		lowered:    map[lowerKey]*node{},
		partCounts: map[*value.Value]int{},
		supersets:  map[*node][]*node{},
		subsets:    map[*node][]*node{},
		negated:    map[*node]*node{},
		plain:      map[*node]facts{},
		asked:      map[*node]bool{},
		texts:      map[string]*language{},
		memo:       map[string]found{},
		sampled:    map[sampleKey]*value.Value{},
		parts:      map[sampleKey]int{},
	}
	s.top = s.make(node{op: opTrue})
	s.bottom = s.make(node{op: opFalse})
	return s
}

// Refuse says that who receives requests refuses properties that are not declared, wherever a schema leaves that open.
func (s *Space) Refuse() { s.strict = s.reading == Declared }

// Equate says which schemas say the same: from now on they are lowered as one.
func (s *Space) Equate(classes *class.Classes) { s.classes = classes }

// assumeIncluded says that every value of a is a value of b, so that it need not be found out.
func (s *Space) assumeIncluded(a, b *node) {
	s.supersets[a] = append(s.supersets[a], b)
	s.subsets[b] = append(s.subsets[b], a)
}

// Any is the set of all values; a nil schema means it.
func (s *Space) Any() Shape { return Shape{s.top} }

// Lower makes the shape of a schema in a role. A nil schema admits every value.
func (s *Space) Lower(schema *contract.Schema, role Role) Shape {
	if schema == nil {
		return s.Any()
	}
	return Shape{s.lower(schema, role, true)}
}

// Beside makes the shape of what is sent under a schema beside others that speak of the same value: what it leaves open is not closed.
func (s *Space) Beside(schema *contract.Schema, role Role) Shape {
	return Shape{s.lower(schema, role, false)}
}

// InPlace makes the shape of a schema as one of several that speak of the same value: nothing is closed in it.
func (s *Space) InPlace(schema *contract.Schema, role Role) Shape {
	role.Sends = false
	return Shape{s.lower(schema, role, false)}
}

// Included reports whether every value of a is a value of b.
func (s *Space) Included(a, b Shape) Verdict {
	if a.n == b.n {
		return Verdict{Answer: Proved}
	}
	return s.verdict(a.n, s.not(b.n))
}

// Find looks for a value that all the shapes share: Refuted carries it as the witness, Proved says that there is none.
func (s *Space) Find(shapes ...Shape) Verdict {
	ns := make([]*node, len(shapes))
	for i, sh := range shapes {
		ns[i] = sh.n
	}
	return s.verdict(ns...)
}

func (s *Space) verdict(ns ...*node) Verdict {
	f := s.search(ns)
	switch f.answer {
	case none:
		return Verdict{Answer: Proved}
	case some:
		if s.all(ns, f.value) == yes { // the evaluator has the last word
			return Verdict{Answer: Refuted, Witness: f.value}
		}
		f.reason = "a message was found that could not be checked"
	}
	return Verdict{Answer: Undecided, Reason: f.reason}
}

// Not is the complement of a shape.
func (s *Space) Not(a Shape) Shape { return Shape{s.not(a.n)} }

// Contains reports whether v is in the shape; known is false when that cannot be told.
func (s *Space) Contains(a Shape, v *value.Value) (holds, known bool) {
	switch s.eval(a.n, v) {
	case yes:
		return true, true
	case no:
		return false, true
	}
	return false, false
}

// All is the set of values that are in every one of the shapes.
func (s *Space) All(shapes ...Shape) Shape {
	ns := make([]*node, len(shapes))
	for i, sh := range shapes {
		ns[i] = sh.n
	}
	return Shape{s.and(ns...)}
}

// InProperty is the set of objects whose property name is there and has a value in a.
func (s *Space) InProperty(name string, a Shape) Shape {
	return Shape{s.and(s.typed(maskOf(value.Object)), s.has(name),
		s.make(node{op: opProps, on: value.Object, names: oneName(name), sub: a.n}))}
}

// InItem is the set of arrays whose item at index is there and in a.
func (s *Space) InItem(index int, a Shape) Shape {
	return Shape{s.and(s.typed(maskOf(value.Array)), s.make(node{op: opSomeItem, on: value.Array, index: index, sub: a.n}))}
}

// InItemFrom is the set of arrays that hold an item in a from index on.
func (s *Space) InItemFrom(index int, a Shape) Shape {
	return Shape{s.and(s.typed(maskOf(value.Array)), s.make(node{op: opSomeFrom, on: value.Array, index: index, sub: a.n}))}
}

// InSomeProperty is the set of objects that have a property with a name outside names and a value in a.
func (s *Space) InSomeProperty(names []string, a Shape) Shape {
	except := map[string]bool{}
	for _, n := range names {
		except[n] = true
	}
	return Shape{s.and(s.typed(maskOf(value.Object)), s.make(node{
		op: opSomeProp, on: value.Object, names: &nameSet{except: except},
		sub: a.n,
	}))}
}

// Only is the set of one value.
func (s *Space) Only(v *value.Value) Shape { return Shape{s.enum([]*value.Value{v})} }

// Unless is the set of values that are not in a, or in b as well. A search looks at it when it has chosen all else: it narrows and leads
// nowhere.
func (s *Space) Unless(a, b Shape) Shape {
	outside := s.not(a.n)
	if outside.op == opFalse || b.n.op == opTrue {
		return b
	}
	return Shape{s.make(node{op: opOr, kids: []*node{outside, b.n}, late: true})}
}

// EveryProperty is the set of values whose property name, if there, has a value in a.
func (s *Space) EveryProperty(name string, a Shape) Shape {
	return Shape{s.make(node{op: opProps, on: value.Object, names: oneName(name), sub: a.n})}
}

// EveryOther is the set of values all of whose properties with names outside names have values in a.
func (s *Space) EveryOther(names []string, a Shape) Shape {
	except := map[string]bool{}
	for _, n := range names {
		except[n] = true
	}
	return Shape{s.make(node{op: opProps, on: value.Object, names: &nameSet{except: except}, sub: a.n})}
}

// EveryItem is the set of values whose item at index, if there, is in a.
func (s *Space) EveryItem(index int, a Shape) Shape {
	return Shape{s.make(node{op: opItem, on: value.Array, index: index, sub: a.n})}
}

// EveryItemFrom is the set of values all of whose items from index on are in a.
func (s *Space) EveryItemFrom(index int, a Shape) Shape {
	return Shape{s.make(node{op: opItems, on: value.Array, index: index, sub: a.n})}
}
