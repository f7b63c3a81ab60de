package source

import (
	"math/big"
	"strconv"
	"strings"

	"oldledger/core/value"
)

// Kind tells what a node is.
type Kind uint8

// The kinds of node, one for each JSON type.
const (
	Null Kind = iota
	Boolean
	Number
	String
	Sequence
	Mapping
)

var kindNames = [...]string{"null", "a boolean", "a number", "a string", "a list", "an object"}

// String names the kind as a message does: "a list".
func (k Kind) String() string { return kindNames[k] }

// Node is one value of a text, with its place. The zero Place of a child is never copied: pointers are
// made from the parents when they are asked for.
type Node struct {
	Kind         Kind
	Bool         bool
	Include      bool // a string that is the path of a file to read here: !include (RAML 1.0, Includes)
	copied       bool // made from another node, which is its parent here and lends it its place
	Line, Column int32
	at           int32    // the position in the parent, -1 for none
	Text         string   // a scalar's text: the string, or the spelling of the number
	Members      []Member // for Mapping, in the author's order

	file   *File
	parent *Node
	of     any // by kind: a number's *big.Rat, a sequence's []*Node, a large mapping's map of keys to positions
}

// Num is the value of a number, nil for all else.
func (n *Node) Num() *big.Rat {
	num, _ := n.of.(*big.Rat)
	return num
}

// SpelledNumber is the number that a string spells as JSON does.
func (n *Node) SpelledNumber() (num *big.Rat, ok bool) {
	if n.Kind != String || !decimal.MatchString(n.Text) {
		return nil, false
	}
	num, err := value.ParseNumber(n.Text)
	return num, err == nil
}

// Items are the items of a sequence, in their order.
func (n *Node) Items() []*Node {
	items, _ := n.of.([]*Node)
	return items
}

// index is where the members of a large mapping stand.
func (n *Node) index() map[string]int {
	index, _ := n.of.(map[string]int)
	return index
}

// Member is one key and value of a mapping.
type Member struct {
	Key                string
	Value              *Node
	KeyLine, KeyColumn int32
}

// Get returns the member called key, or nil. It may be asked of nil and of any kind.
func (n *Node) Get(key string) *Node {
	if n == nil || n.Kind != Mapping {
		return nil
	}
	index := n.index()
	if index == nil {
		for i := range n.Members {
			if n.Members[i].Key == key {
				return n.Members[i].Value
			}
		}
		return nil
	}
	if i, ok := index[key]; ok {
		return n.Members[i].Value
	}
	return nil
}

// File is the file in which the node stands.
func (n *Node) File() *File { return n.file }

// Parent is the node that holds this one, nil for the root.
func (n *Node) Parent() *Node { return n.origin().parent }

// origin is the node that was written: n itself, or what it was made from.
func (n *Node) origin() *Node {
	for n.copied {
		n = n.parent
	}
	return n
}

// Origin is the node that was written: n itself, or what it was made from. Two nodes of one origin stand at one place.
func (n *Node) Origin() *Node {
	if n == nil {
		return nil
	}
	return n.origin()
}

func (n *Node) copy() *Node {
	return &Node{Line: n.Line, Column: n.Column, file: n.file, parent: n, copied: true}
}

// With is a mapping of other members that stands where n stands. The members keep the places that they have.
func (n *Node) With(members []Member) *Node {
	m := n.copy()
	m.Kind, m.Members = Mapping, members
	m.seal()
	return m
}

// WithItems is a sequence of other items that stands where n stands.
func (n *Node) WithItems(items []*Node) *Node {
	m := n.copy()
	m.Kind, m.of = Sequence, items
	return m
}

// WithText is another string that stands where n stands.
func (n *Node) WithText(text string) *Node {
	m := n.copy()
	m.Kind, m.Text, m.Include = String, text, n.Include
	return m
}

// WithValue has the value of v and stands where n stands.
func (n *Node) WithValue(v *Node) *Node {
	m := n.copy()
	m.Kind, m.Bool, m.Include, m.Text, m.Members, m.of = v.Kind, v.Bool, v.Include, v.Text, v.Members, v.of
	return m
}

// Step is the key or index under which the parent holds the node, "" for the root.
func (n *Node) Step() string {
	n = n.origin()
	switch i := n.place(); {
	case i < 0:
		return ""
	case n.parent.Kind == Mapping:
		return n.parent.Members[i].Key
	default:
		return strconv.Itoa(i)
	}
}

// place is the position of the node in its parent, -1 where it has none.
func (n *Node) place() int {
	if n.parent == nil {
		return -1
	}
	return int(n.at)
}

// Pointer is the node's JSON Pointer.
func (n *Node) Pointer() string {
	var steps []string
	for n = n.origin(); n.parent != nil; n = n.parent {
		if n.place() >= 0 { // a key that stands for itself is at the place of what holds it
			steps = append(steps, n.Step())
		}
	}
	var b strings.Builder
	for i := len(steps) - 1; i >= 0; i-- {
		b.WriteByte('/')
		b.WriteString(EscapeStep(steps[i]))
	}
	return b.String()
}

// Place is where the node's key stands, or the node itself where it has none.
func (n *Node) Place() Place {
	n = n.origin()
	line, column := n.Line, n.Column
	if i := n.place(); i >= 0 && n.parent.Kind == Mapping {
		line, column = n.parent.Members[i].KeyLine, n.parent.Members[i].KeyColumn
	}
	return Place{File: n.file.Name, Pointer: n.Pointer(), Line: int(line), Column: int(column)}
}

// ValuePlace is where the node's value begins, behind its key: the place of a fault in the value.
func (n *Node) ValuePlace() Place {
	return Place{File: n.file.Name, Pointer: n.Pointer(), Line: int(n.Line), Column: int(n.Column)}
}

func (n *Node) position(key string) (int, bool) {
	if index := n.index(); index != nil {
		i, ok := index[key]
		return i, ok
	}
	for i := range n.Members {
		if n.Members[i].Key == key {
			return i, true
		}
	}
	return 0, false
}

// Resolve follows a JSON Pointer from n (RFC 6901), or returns nil.
func (n *Node) Resolve(pointer string) *Node {
	if pointer == "" {
		return n
	}
	if pointer[0] != '/' {
		return nil
	}
	for step := range strings.SplitSeq(pointer[1:], "/") {
		step = strings.ReplaceAll(strings.ReplaceAll(step, "~1", "/"), "~0", "~")
		switch n.Kind {
		case Mapping:
			n = n.Get(step)
		case Sequence:
			i, err := strconv.Atoi(step)
			if err != nil || i < 0 || i >= len(n.Items()) || strconv.Itoa(i) != step {
				return nil
			}
			n = n.Items()[i]
		default:
			return nil
		}
		if n == nil {
			return nil
		}
	}
	return n
}

// EscapeStep writes one step of a JSON Pointer.
func EscapeStep(step string) string {
	return strings.ReplaceAll(strings.ReplaceAll(step, "~", "~0"), "/", "~1")
}

// Value is the node as a JSON value.
func (n *Node) Value() *value.Value {
	switch n.Kind {
	case Boolean:
		return value.Bool(n.Bool)
	case Number:
		return &value.Value{Kind: value.Number, Num: n.Num(), Text: n.Text}
	case String:
		return value.Str(n.Text)
	case Sequence:
		v := &value.Value{Kind: value.Array}
		for _, it := range n.Items() {
			v.Items = append(v.Items, it.Value())
		}
		return v
	case Mapping:
		v := &value.Value{Kind: value.Object}
		for _, m := range n.Members {
			v.Members = append(v.Members, value.Member{Name: m.Key, Value: m.Value.Value()})
		}
		return v
	}
	return value.NullValue
}

// Same reports whether two trees hold the same value, whatever their places and spelling.
func (n *Node) Same(m *Node) bool {
	if n == nil || m == nil {
		return n == m
	}
	if n.Kind != m.Kind {
		return false
	}
	switch n.Kind {
	case Boolean:
		return n.Bool == m.Bool
	case Number:
		return n.Num().Cmp(m.Num()) == 0
	case String:
		return n.Text == m.Text
	case Sequence:
		if len(n.Items()) != len(m.Items()) {
			return false
		}
		for i := range n.Items() {
			if !n.Items()[i].Same(m.Items()[i]) {
				return false
			}
		}
	case Mapping:
		if len(n.Members) != len(m.Members) {
			return false
		}
		for _, x := range n.Members {
			other := m.Get(x.Key)
			if other == nil || !x.Value.Same(other) {
				return false
			}
		}
	}
	return true
}

// adopt hangs a finished child under n, at a position. What an alias or a merge key shares stays where it was written.
func (n *Node) adopt(child *Node, at int) {
	if child.parent == nil {
		child.parent, child.file, child.at = n, n.file, int32(at)
	}
}

// seal builds the key index of a large mapping once all its members are there.
func (n *Node) seal() {
	if len(n.Members) > 8 {
		index := make(map[string]int, len(n.Members))
		for i, m := range n.Members {
			index[m.Key] = i
		}
		n.of = index
	}
}

// Named is the key of a member as a string node of its own, at the key's place: a key may be a reference, too.
func (n *Node) Named(key string) *Node {
	i, ok := n.position(key)
	if !ok {
		return nil
	}
	m := n.Members[i]
	return &Node{Kind: String, Text: key, Line: m.KeyLine, Column: m.KeyColumn, file: n.file, parent: n, at: -1}
}
