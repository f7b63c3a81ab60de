package compare

import (
	"fmt"
	"slices"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// pair is one schema of the old version beside the one that took its place. Pairs form a graph, made once for each two
// schemas; operations reach into it, which is how one edit in a shared component stays one change.
type pair struct {
	old, new   *contract.Schema
	a, b       *view
	subject    string // what a reader calls it: its component, its property
	edits      []*edit
	links      []link
	identical  bool // nothing differs here or below
	equivalent bool // only words differ, here or below
	ownEqual   bool // nothing differs here; what it is made of may
	below      []reached
	mistaken   map[*source.Node]bool                 // keywords of which no more is said than that they are unclear
	branches   map[*contract.Schema]*contract.Schema // of a union: the new one of each old one
	met        []occurrence                          // where it is reached
	remainder  *edit                                 // what is left of it when all edits are told, once that was asked
}

type pairKey struct{ old, new *contract.Schema }

// link leads from a pair to one that stands inside it.
type link struct {
	step step
	to   *pair
}

// step is the way from a value to a part of it.
type step struct {
	kind  stepKind
	name  string
	index int      // of an item: the position, or the first of those that are meant
	not   []string // for stepRest: the names that have schemas of their own

	old, new *contract.Schema // for stepBranch: the branch on either side
	when     string           // and in which case it is the one, where a condition says so
}

type stepKind uint8

const (
	stepProperty stepKind = iota
	stepItem
	stepPrefix
	stepRest   // a property that only additionalProperties or a pattern speaks of
	stepBranch // the same value, in a branch of a union
	stepHeir   // the same value, in an heir that a tag chooses
)

// pair gives the pair of two schemas, with all that differs in it and below.
func (c *comparer) pair(old, new *contract.Schema, subject string) *pair {
	old, new = old.Deref(), new.Deref()
	key := pairKey{old, new}
	if p, done := c.pairs[key]; done {
		return p
	}
	p := &pair{old: old, new: new, subject: subject}
	c.pairs[key] = p
	c.budget.Hold(600)
	if old.Name == new.Name && old.Name != "" {
		p.subject = old.Name // a shared component, wherever it is met
	}
	x, y := c.classes.Of(old), c.classes.Of(new)
	if x.Whole == y.Whole {
		p.identical = true
		return p
	}
	p.equivalent = x.Set == y.Set
	c.heirPairs(p)
	if x.Own == y.Own && c.linkUnchanged(p) {
		p.ownEqual = true
		return p
	}
	p.a, p.b = newView(old), newView(new)
	if c.budget.Over() {
		c.edit(p, &edit{
			kind: "schema-changed", old: old.Node, new: new.Node, title: p.subject + " was not compared any more",
			unclear: "the comparison ended at its budget, so nobody can tell what has changed here",
		})
		return p
	}
	if p.equivalent {
		c.reworded(p)
	} else {
		c.detect(p)
	}
	return p
}

// linkUnchanged links what stands inside two schemas that say the same themselves; false where their parts must be looked at closely.
func (c *comparer) linkUnchanged(p *pair) bool {
	s := p.old
	if x, y := inner(p.old), inner(p.new); x != nil && y != nil {
		c.link(p, step{kind: stepBranch}, x, y, p.subject) // it is what it holds, or null as well on both sides
		return true
	}
	if s.Ref != nil || s.AllOf != nil || s.AnyOf != nil || s.OneOf != nil || s.Rare != nil && s.Rare.Composes() ||
		s.AdditionalProperties != nil {
		return false
	}
	for _, x := range s.Properties {
		c.link(p, step{kind: stepProperty, name: x.Name}, x.Schema, p.new.Property(x.Name), x.Name)
	}
	for i, x := range s.PrefixItems() {
		c.link(p, step{kind: stepPrefix, index: i}, x, p.new.PrefixItems()[i], fmt.Sprintf("%s[%d]", p.subject, i))
	}
	if s.Items != nil {
		c.link(p, step{kind: stepItem, index: len(s.PrefixItems())}, s.Items, p.new.Items, itemSubject(p.subject))
	}
	return true
}

// inner is the one schema that a schema consists of, null beside it left aside: of a wrapper, and of a union of one and null.
func inner(s *contract.Schema) *contract.Schema {
	if w := s.Wrapped(); w != nil {
		return w
	}
	rest := s.Copy()
	list := s.AnyOf
	if rest.AnyOf = nil; list == nil {
		list, rest.OneOf = s.OneOf, nil
	}
	if len(list) != 2 || rest.Asserts() || rest.OneOf != nil || s.Discriminator() != nil {
		return nil
	}
	switch {
	case isNull(list[0]) && !isNull(list[1]):
		return list[1]
	case isNull(list[1]) && !isNull(list[0]):
		return list[0]
	}
	return nil
}

// reworded compares the words of two schemas that admit the same, and links their parts.
func (c *comparer) reworded(p *pair) {
	c.words(p)
	a, b := p.a.schema, p.b.schema
	for _, x := range a.Properties {
		if y := b.Property(x.Name); y != nil {
			c.link(p, step{kind: stepProperty, name: x.Name}, x.Schema, y, x.Name)
		}
	}
	for i := range min(len(a.PrefixItems()), len(b.PrefixItems())) {
		c.link(p, step{kind: stepPrefix, index: i}, a.PrefixItems()[i], b.PrefixItems()[i], fmt.Sprintf("%s[%d]", p.subject, i))
	}
	if a.Items != nil && b.Items != nil {
		c.link(p, step{kind: stepItem, index: len(a.PrefixItems())}, a.Items, b.Items, itemSubject(p.subject))
	}
	if x, y := a.AdditionalProperties, b.AdditionalProperties; x != nil && y != nil {
		c.link(p, step{kind: stepRest, not: p.names()}, x, y, "a further property of "+p.subject)
	}
	c.branchPairs(p, a.AnyOf, b.AnyOf)
	c.branchPairs(p, a.OneOf, b.OneOf)
}

// names are the properties that either side declares.
func (p *pair) names() (all []string) {
	for _, v := range []*view{p.a, p.b} {
		for _, q := range v.schema.Properties {
			all = append(all, q.Name)
		}
	}
	return all
}

// reached is a pair that an operation reaches, with the shortest way to it.
type reached struct {
	pair *pair
	way  []step
	heir *pair // where the way leads through an heir: the pair of the heir, from which the way goes on
}

// reach walks from a pair to all pairs below it, nearest first. It is asked once the graph is made.
func (c *comparer) reach(root *pair) []reached {
	if root.below != nil {
		return root.below
	}
	seen := map[*pair]bool{root: true}
	queue := []reached{{pair: root}}
	for i := 0; i < len(queue); i++ {
		at := queue[i]
		for _, l := range at.pair.links {
			if !seen[l.to] && c.budget.Step(10) && c.budget.Hold(64+80*len(at.way)) {
				seen[l.to] = true
				next := reached{l.to, append(slices.Clip(at.way), l.step), at.heir}
				if l.step.kind == stepHeir {
					next = reached{l.to, nil, l.to}
				}
				queue = append(queue, next)
			}
		}
	}
	root.below = queue
	return queue
}

// inWhole is the set of whole messages that have a value of set at the end of way, in the branches on it as the sender has them.
func (c *comparer) inWhole(way []step, set shape.Shape, s sense, role shape.Role) shape.Shape {
	senderIsOld := s.senderIsOld()
	for _, s := range slices.Backward(way) {
		switch s.kind {
		case stepBranch:
			if branch := map[bool]*contract.Schema{true: s.old, false: s.new}[senderIsOld]; branch != nil {
				set = c.space.All(set, c.space.InPlace(branch, role))
			}
		case stepProperty:
			set = c.space.InProperty(s.name, set)
		case stepItem:
			set = c.space.InItemFrom(s.index, set)
		case stepPrefix:
			set = c.space.InItem(s.index, set)
		case stepRest:
			set = c.space.InSomeProperty(s.not, set)
		}
	}
	return set
}
