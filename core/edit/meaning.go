package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"oldledger/core/source"
	"oldledger/core/value"
)

// meaning is what a text says once a wish is fulfilled: as before, but for some nodes. What aliases share is one node (source.Node.Origin).
type meaning struct {
	root    *source.Node
	changed map[*source.Node]*container
	whole   *value.Value // in place of the root; nil for none
}

// container is what an object or a list holds from then on, or a value in its place.
type container struct {
	value   *value.Value
	members []held
	list    bool
}

// held is a member or an item: one of before, or a new one.
type held struct {
	key string
	old *source.Node
	new *value.Value
}

// meant is what the text shall say.
func meant(root *source.Node, w Wish) (*meaning, error) {
	m := &meaning{root: root, changed: map[*source.Node]*container{}}
	return m, m.fulfil(w)
}

// fulfil has it say what a wish makes of it.
func (m *meaning) fulfil(w Wish) error {
	switch w.act {
	case set:
		return m.set(w.at, w.value)
	case insert:
		return m.insert(w.at, held{new: w.value})
	case remove:
		_, err := m.remove(w.at)
		return err
	case rename:
		return m.rename(w.at, w.to)
	}
	moved, err := m.remove(w.at)
	if err == nil {
		err = m.insert(w.to, moved)
	}
	return err
}

func split(pointer string) (parent, step string, err error) {
	i := strings.LastIndexByte(pointer, '/')
	if pointer != "" && (pointer[0] != '/' || i < 0) {
		return "", "", fmt.Errorf("%w: %q is no JSON Pointer; one begins with a slash", ErrPlace, pointer)
	}
	if i < 0 {
		return "", "", fmt.Errorf("%w: it is the whole text", ErrPlace)
	}
	return pointer[:i], unescape(pointer[i+1:]), nil
}

func unescape(step string) string {
	return strings.ReplaceAll(strings.ReplaceAll(step, "~1", "/"), "~0", "~")
}

// of is what a node holds.
func (m *meaning) of(n *source.Node) *container {
	if c := m.changed[n.Origin()]; c != nil {
		return c
	}
	c := &container{list: n.Kind == source.Sequence}
	for _, member := range n.Members {
		c.members = append(c.members, held{key: member.Key, old: member.Value})
	}
	for _, item := range n.Items() {
		c.members = append(c.members, held{old: item})
	}
	return c
}

// at is where a step leads to in a container; -1 where nothing stands there.
func (c *container) at(step string) int {
	if !c.list {
		return slices.IndexFunc(c.members, func(h held) bool { return h.key == step })
	}
	i, err := strconv.Atoi(step)
	if err != nil || i < 0 || i >= len(c.members) || strconv.Itoa(i) != step {
		return -1
	}
	return i
}

// holder is the node that holds what a pointer leads to, and what it holds.
func (m *meaning) holder(pointer string) (*source.Node, *container, string, error) {
	parent, step, err := split(pointer)
	if err != nil {
		return nil, nil, "", err
	}
	n := m.root
	if parent != "" {
		for s := range strings.SplitSeq(parent[1:], "/") {
			c := m.of(n)
			i := c.at(unescape(s))
			if i < 0 || c.members[i].old == nil {
				return nil, nil, "", fmt.Errorf("%w: there is nothing at %s", ErrPlace, parent)
			}
			n = c.members[i].old
		}
	}
	if n.Kind != source.Mapping && n.Kind != source.Sequence {
		return nil, nil, "", fmt.Errorf("%w: at %s stands %s, which holds nothing", ErrPlace, parent, n.Kind)
	}
	return n, m.of(n), step, nil
}

func (m *meaning) keep(n *source.Node, c *container) { m.changed[n.Origin()] = c }

func (m *meaning) set(pointer string, v *value.Value) error {
	if pointer == "" {
		m.whole = v
		return nil
	}
	n, c, step, err := m.holder(pointer)
	if err != nil {
		return err
	}
	i := c.at(step)
	switch {
	case i < 0 && c.list:
		return fmt.Errorf("%w: there is nothing at %s", ErrPlace, pointer)
	case i < 0:
		return m.insert(pointer, held{new: v})
	case c.members[i].old != nil && c.members[i].old.Origin() == c.members[i].old: // as it stands, for all who share it
		m.changed[c.members[i].old] = &container{value: v}
		return nil
	}
	c.members[i] = held{key: step, new: v}
	m.keep(n, c)
	return nil
}

func (m *meaning) insert(pointer string, what held) error {
	n, c, step, err := m.holder(pointer)
	if err != nil {
		return err
	}
	i := c.at(step)
	switch {
	case !c.list && i >= 0:
		return fmt.Errorf("%w: there is a %s already", ErrPlace, pointer)
	case !c.list:
		what.key, i = step, len(c.members)
	case step == "-" || step == strconv.Itoa(len(c.members)):
		what.key, i = "", len(c.members)
	case i < 0:
		return fmt.Errorf("%w: a list of %d takes nothing at %s", ErrPlace, len(c.members), pointer)
	default:
		what.key = ""
	}
	c.members = slices.Insert(c.members, i, what)
	m.keep(n, c)
	return nil
}

func (m *meaning) remove(pointer string) (held, error) {
	n, c, step, err := m.holder(pointer)
	if err != nil {
		return held{}, err
	}
	i := c.at(step)
	if i < 0 {
		return held{}, fmt.Errorf("%w: there is nothing at %s", ErrPlace, pointer)
	}
	gone := c.members[i]
	c.members = slices.Delete(c.members, i, i+1)
	m.keep(n, c)
	return gone, nil
}

func (m *meaning) rename(pointer, key string) error {
	n, c, step, err := m.holder(pointer)
	if err != nil {
		return err
	}
	i := c.at(step)
	switch {
	case c.list:
		return fmt.Errorf("%w: an item of a list has no key", ErrPlace)
	case i < 0:
		return fmt.Errorf("%w: there is nothing at %s", ErrPlace, pointer)
	case key != step && c.at(key) >= 0:
		return fmt.Errorf("%w: there is a %s already", ErrPlace, key)
	}
	c.members[i].key = key
	m.keep(n, c)
	return nil
}

// says reports whether a text says what is meant.
func says(n *source.Node, m *meaning) bool {
	if m.whole != nil {
		return sameAs(n, m.whole)
	}
	return m.same(n, held{old: m.root})
}

func (m *meaning) same(n *source.Node, h held) bool {
	if h.new != nil {
		return sameAs(n, h.new)
	}
	if c := m.changed[h.old.Origin()]; c != nil {
		return m.holds(n, c)
	}
	old := h.old
	if n.Kind != old.Kind || n.Include != old.Include {
		return false
	}
	switch n.Kind {
	case source.Mapping:
		if len(n.Members) != len(old.Members) {
			return false
		}
		for i, member := range old.Members {
			there := n.Members[i].Value
			if n.Members[i].Key != member.Key {
				if there = n.Get(member.Key); there == nil {
					return false
				}
			}
			if !m.same(there, held{old: member.Value}) {
				return false
			}
		}
	case source.Sequence:
		items := n.Items()
		if len(items) != len(old.Items()) {
			return false
		}
		for i, item := range old.Items() {
			if !m.same(items[i], held{old: item}) {
				return false
			}
		}
	default:
		return n.Same(old)
	}
	return true
}

func (m *meaning) holds(n *source.Node, c *container) bool {
	if c.value != nil {
		return sameAs(n, c.value)
	}
	if c.list {
		if n.Kind != source.Sequence || len(n.Items()) != len(c.members) {
			return false
		}
		for i, h := range c.members {
			if !m.same(n.Items()[i], h) {
				return false
			}
		}
		return true
	}
	if n.Kind != source.Mapping || len(n.Members) != len(c.members) {
		return false
	}
	for _, h := range c.members {
		if there := n.Get(h.key); there == nil || !m.same(there, h) {
			return false
		}
	}
	return true
}

// sameAs reports whether a text says a value that a program made.
func sameAs(n *source.Node, v *value.Value) bool { return !n.Include && n.Value().Equal(v) }
