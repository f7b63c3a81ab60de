package compare

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// pair is one schema of the old version beside the one that took its place. Pairs form a graph, made once for each two
// schemas; operations reach into it, which is how one edit in a shared component stays one change.
type pair struct {
	old, new *contract.Schema
	a, b     *view
	subject  string // what a reader calls it: its component, its property
	edits    []*edit
	links    []link
	same     bool // nothing differs here or below
	alike    bool // nothing differs here; what is referred to may
	below    []reached
	mistaken map[*source.Node]bool // keywords of which no more is said than that they are unclear
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
	index int
	not   []string // for stepRest: the names that have schemas of their own
}

type stepKind uint8

const (
	stepProperty stepKind = iota
	stepItem
	stepPrefix
	stepRest   // a property that only additionalProperties or a pattern speaks of
	stepBranch // the same value, in a branch of a union
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
	alike, refers := c.alike(old.Node, new.Node)
	if alike && !refers || c.byName() && c.twins(old, new) {
		p.same = true
		return p
	}
	if alike && c.linkUnchanged(p) {
		p.alike = true
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
	c.detect(p)
	return p
}

// identical tells whether two schemas read the same in the same dialect, and refer to nothing that could differ.
func (c *comparer) identical(a, b *source.Node) bool {
	same, refers := c.alike(a, b)
	return same && !refers
}

// alike tells whether two schemas read the same in the same dialect, and, where they do, whether a reference stands inside.
func (c *comparer) alike(a, b *source.Node) (same, refers bool) {
	if c.byName() {
		return false, false
	}
	if c.rules(a.File(), c.old) != c.rules(b.File(), c.new) {
		return false, false
	}
	return sameTree(a, b)
}

// byName tells of descriptions whose schemas refer to others by their names alone: two of the same words may mean different things.
func (c *comparer) byName() bool {
	return strings.HasPrefix(c.old.Dialect, "raml") || strings.HasPrefix(c.new.Dialect, "raml")
}

// untold tells of two schemas in the same words of a language that nobody looks into.
func untold(a, b *contract.Schema) bool {
	return a.Unread() != nil && b.Unread() != nil && a.Types == nil && b.Types == nil && a.Node.Kind == source.String && b.Node.Kind == source.String && a.Node.Text == b.Node.Text
}

// rules names what decides the meaning of a file's schemas: its dialect, or that of its description, and its schema dialect.
func (c *comparer) rules(f *source.File, of *contract.Contract) string {
	if known, done := c.ruled[f]; done {
		return known
	}
	text := of.Dialect
	for _, key := range []string{"openapi", "swagger"} {
		if n := f.Root.Get(key); n != nil && f != of.Node.File() {
			text = n.Text[:min(len(n.Text), len("3.1"))]
		}
	}
	if n := f.Root.Get("jsonSchemaDialect"); n != nil {
		text += " " + n.Text
	}
	c.ruled[f] = text
	return text
}

// sameTree compares two trees whatever the order of keys and the spelling of numbers.
func sameTree(a, b *source.Node) (same, refers bool) {
	if a.Kind != b.Kind || len(a.Members) != len(b.Members) || len(a.Items()) != len(b.Items()) {
		return false, false
	}
	switch a.Kind {
	case source.Boolean:
		return a.Bool == b.Bool, false
	case source.Number:
		return a.Text == b.Text || a.Num().Cmp(b.Num()) == 0, false
	case source.String:
		return a.Text == b.Text, false
	}
	for i, x := range a.Items() {
		sub, leads := sameTree(x, b.Items()[i])
		if !sub {
			return false, false
		}
		refers = refers || leads
	}
	for i := range a.Members {
		x, y := &a.Members[i], b.Members[i].Value
		if b.Members[i].Key != x.Key {
			if y = b.Get(x.Key); y == nil {
				return false, false
			}
		}
		sub, leads := sameTree(x.Value, y)
		if !sub {
			return false, false
		}
		refers = refers || leads || x.Key == "$ref" || x.Key == "$dynamicRef"
	}
	return true, refers
}

// linkUnchanged links what stands inside two schemas that read the same; false where their parts must be looked at closely.
func (c *comparer) linkUnchanged(p *pair) bool {
	s := p.old
	if s.Ref != nil || s.AllOf != nil || s.AnyOf != nil || s.OneOf != nil || s.Not() != nil || s.If() != nil || s.Contains() != nil || s.PropertyNames() != nil ||
		s.DependentSchemas() != nil || s.PatternProperties() != nil || s.UnevaluatedProperties() != nil || s.UnevaluatedItems() != nil ||
		s.AdditionalProperties != nil && s.AdditionalProperties.Bool == nil || len(p.old.Properties) != len(p.new.Properties) {
		return false
	}
	part := func(at step, x, y *contract.Schema, subject string) {
		if !c.identical(x.Node, y.Node) {
			c.link(p, at, x, y, subject)
		}
	}
	for i, x := range s.Properties {
		y := p.new.Properties[i]
		if y.Name != x.Name {
			y.Schema = p.new.Property(x.Name)
		}
		part(step{kind: stepProperty, name: x.Name}, x.Schema, y.Schema, x.Name)
	}
	for i, x := range s.PrefixItems() {
		part(step{kind: stepPrefix, index: i}, x, p.new.PrefixItems()[i], "an item of "+p.subject)
	}
	if s.Items != nil {
		part(step{kind: stepItem}, s.Items, p.new.Items, "an item of "+p.subject)
	}
	return true
}

// shareUnchanged tells the space which schemas of the new version mean what those of the old one do: every pair from which no
// edit and no other difference can be reached.
func (c *comparer) shareUnchanged() {
	holders := map[*pair][]*pair{}
	var loud []*pair
	moved := map[*pair]bool{}
	for _, p := range c.pairs {
		for _, l := range p.links {
			holders[l.to] = append(holders[l.to], p)
		}
		if !p.same && !p.alike {
			moved[p] = true
			loud = append(loud, p)
		}
	}
	for len(loud) > 0 {
		p := loud[len(loud)-1]
		loud = loud[:len(loud)-1]
		for _, h := range holders[p] {
			if !moved[h] {
				moved[h] = true
				loud = append(loud, h)
			}
		}
	}
	for _, p := range c.pairs {
		if !moved[p] {
			c.space.Share(p.new, p.old)
		}
	}
}

// reached is a pair that an operation reaches, with the shortest way to it.
type reached struct {
	pair *pair
	way  []step
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
				queue = append(queue, reached{l.to, append(slices.Clip(at.way), l.step)})
			}
		}
	}
	root.below = queue
	return queue
}

// inWhole is the set of whole messages that have a value of set at the end of way.
func (c *comparer) inWhole(way []step, set shape.Shape) shape.Shape {
	for _, s := range slices.Backward(way) {
		switch s.kind {
		case stepProperty:
			set = c.space.InProperty(s.name, set)
		case stepItem:
			set = c.space.InItem(-1, set)
		case stepPrefix:
			set = c.space.InItem(s.index, set)
		case stepRest:
			set = c.space.InSomeProperty(s.not, set)
		}
	}
	return set
}

// wayText names the end of a way by the words that a reader knows: "stay.nights", "items[].price".
func wayText(way []step) string {
	text := ""
	for _, s := range way {
		switch s.kind {
		case stepProperty:
			if text != "" {
				text += "."
			}
			text += s.name
		case stepItem, stepPrefix:
			text += "[]"
		case stepRest:
			if text != "" {
				text += "."
			}
			text += "*"
		}
	}
	return text
}
