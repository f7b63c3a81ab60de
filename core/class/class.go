// Package class numbers schemas by what they say, so that two that say the same are known without a look into them.
//
//	classes := class.New(b, append(old.Roots(), new.Roots()...))
//	if classes.Of(x).Set == classes.Of(y).Set {
//		// the same values, whatever the names, the words, the wrappers and the order
//	}
//
// Schemas that contain no recursion are numbered from their parts upwards; the others by partition refinement: they begin in one class
// for each form and are told apart while their parts are. Both take about linear time, and what is inlined in a thousand places has one
// class. Two classes may still be one set: package shape decides that. Terms follow JSON Schema 2020-12.
package class

import (
	"oldledger/core/budget"
	"oldledger/core/contract"
)

// Class is what a schema says, as numbers that mean nothing but themselves. 0 is no class.
type Class struct {
	Own   int32 // its own keywords and words, and the names of its properties; what its parts say is left out
	Set   int32 // what it admits
	Whole int32 // what it admits and all its words, down to the last part
}

// Classes are the classes of schemas. They are not for concurrent use.
type Classes struct {
	budget *budget.Budget
	index  map[*contract.Schema]int32
	nodes  []node
	owns   map[string]int32
	sets   map[string]int32
	wholes map[string]int32
	heirs  map[*contract.Schema][]*contract.Schema
	last   int32
	first  map[int32]*contract.Schema // the first schema of each Set
	key    writer
}

type node struct {
	schema *contract.Schema
	core   int32 // the node that admits the same: itself, or what it only wraps
	bare   int32 // the node that says the same: itself, or what it only refers to
	class  Class
}

// New numbers the schemas and all their parts, heirs among those that a base stands for. What the budget does not suffice for is equal to
// itself alone.
func New(b *budget.Budget, schemas []*contract.Schema, heirs map[*contract.Schema][]*contract.Schema) *Classes {
	c := &Classes{
		budget: b, heirs: heirs, index: make(map[*contract.Schema]int32, 4*len(schemas)),
		owns: map[string]int32{}, sets: map[string]int32{}, wholes: map[string]int32{}, first: map[int32]*contract.Schema{},
	}
	c.key.heirs = heirs
	c.number(schemas)
	return c
}

// Of is the class of a schema. One that was made since New is numbered when it is first asked for.
func (c *Classes) Of(s *contract.Schema) Class {
	i, known := c.index[s]
	if !known {
		c.number([]*contract.Schema{s})
		i = c.index[s]
	}
	return c.nodes[i].class
}

// Equal reports whether two schemas say the same about values. Where they do not, they may still admit the same.
func (c *Classes) Equal(a, b *contract.Schema) bool { return a == b || c.Of(a).Set == c.Of(b).Set }

// Representative is the first schema that admits the same and does not only wrap another.
func (c *Classes) Representative(s *contract.Schema) *contract.Schema {
	if c == nil {
		return s
	}
	return c.first[c.Of(s).Set]
}

func (c *Classes) number(schemas []*contract.Schema) {
	d := discovery{Classes: c}
	for _, s := range schemas {
		if _, known := c.index[s]; !known {
			d.visit(s)
		}
	}
	c.refine(d.pending)
}

func (c *Classes) fresh() int32 {
	c.last++
	return c.last
}

// intern gives a key its number.
func (c *Classes) intern(table map[string]int32, key []byte) int32 {
	if n, known := table[string(key)]; known {
		return n
	}
	c.budget.Hold(len(key) + 64)
	n := c.fresh()
	table[string(key)] = n
	return n
}

// settle numbers a schema all of whose parts are numbered.
func (c *Classes) settle(i int32) {
	n := &c.nodes[i]
	if c.budget.Over() {
		n.class = Class{c.fresh(), c.fresh(), c.fresh()}
		c.first[n.class.Set] = n.schema
		return
	}
	n.class.Own = c.intern(c.owns, c.key.own(n.schema))
	if n.core != i {
		n.class.Set = c.nodes[n.core].class.Set
	} else {
		n.class.Set = c.intern(c.sets, c.key.set(n.schema, c.setOf))
	}
	if n.bare != i {
		n.class.Whole = c.nodes[n.bare].class.Whole
	} else {
		n.class.Whole = c.intern(c.wholes, c.key.whole(n.class.Own, n.schema, c.wholeOf))
	}
	c.represent(i)
}

// represent lets a node stand for its class, if it is the first that does not only wrap another.
func (c *Classes) represent(i int32) {
	n := &c.nodes[i]
	if n.core == i && c.first[n.class.Set] == nil {
		c.first[n.class.Set] = n.schema
	}
}

func (c *Classes) setOf(s *contract.Schema) int32 { return c.nodes[c.nodes[c.index[s]].core].class.Set }

func (c *Classes) wholeOf(s *contract.Schema) int32 {
	return c.nodes[c.nodes[c.index[s]].bare].class.Whole
}

// discovery walks through schemas that have no class yet (Tarjan's algorithm): parts come before what is made of them, and what is
// recursive, or made of what is, is left pending.
type discovery struct {
	*Classes
	low     []int32 // by node, less base
	stack   []int32
	base    int32
	pending []int32
}

const finished = 1<<31 - 1

func (d *discovery) visit(s *contract.Schema) int32 {
	i := int32(len(d.nodes))
	if len(d.low) == 0 {
		d.base = i
	}
	d.index[s] = i
	d.nodes = append(d.nodes, node{schema: s, core: i, bare: i})
	d.low = append(d.low, i)
	d.stack = append(d.stack, i)
	d.budget.Step(30)
	d.budget.Hold(64)
	recursive := false
	part := func(in *contract.Schema) {
		j, known := d.index[in]
		if !known {
			j = d.visit(in)
		}
		recursive = recursive || j == i || d.nodes[j].class.Set == 0
		if j >= d.base && d.low[j-d.base] != finished {
			d.low[i-d.base] = min(d.low[i-d.base], d.low[j-d.base])
		}
	}
	s.EachInner(part)
	for _, heir := range d.heirs[s] {
		part(heir)
	}
	if d.low[i-d.base] != i {
		return i
	}
	at := len(d.stack) - 1
	for d.stack[at] != i {
		at--
	}
	for _, j := range d.stack[at:] {
		d.low[j-d.base] = finished
		d.nodes[j].core, d.nodes[j].bare = d.wrapped(j), d.referred(j)
	}
	if len(d.stack)-at == 1 && !recursive {
		d.settle(i)
	} else {
		d.pending = append(d.pending, d.stack[at:]...)
	}
	d.stack = d.stack[:at]
	return i
}

// mostWrappers bounds how many wrappers one looks through.
const mostWrappers = 100

// wrapped is the node that admits what a node admits: what is left without references and unions of one.
func (d *discovery) wrapped(i int32) int32 {
	s := d.nodes[i].schema
	for range mostWrappers {
		inner := s.Wrapped()
		if inner == nil {
			return d.index[s]
		}
		s = inner
	}
	return i // it wraps itself
}

// referred is the node that a bare reference leads to.
func (d *discovery) referred(i int32) int32 {
	s := d.nodes[i].schema
	for range mostWrappers {
		if s.Ref == nil || !s.Bare() {
			return d.index[s]
		}
		s = s.Ref
	}
	return i
}
