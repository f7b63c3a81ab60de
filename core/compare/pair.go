package compare

import (
	"crypto/sha256"
	"slices"

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
	if old.Name == new.Name && old.Name != "" {
		p.subject = old.Name // a shared component, wherever it is met
	}
	if c.identical(old.Node, new.Node) {
		p.same = true
		return p
	}
	p.a, p.b = newView(old), newView(new)
	c.detect(p)
	return p
}

// identical tells whether two schemas read the same in the same dialect, and refer to nothing that could differ.
func (c *comparer) identical(a, b *source.Node) bool {
	if c.old.Dialect != c.new.Dialect {
		return false
	}
	return c.digest(a) == c.digest(b) && !c.digest(a).refers
}

type digest struct {
	sum    [sha256.Size]byte
	refers bool // a reference stands inside
}

// digest is a structural hash: equal for equal values, whatever the order of keys and the spelling of numbers.
func (c *comparer) digest(n *source.Node) digest {
	if d, done := c.digests[n]; done {
		return d
	}
	h := sha256.New()
	var d digest
	h.Write([]byte{byte(n.Kind)})
	write := func(s string) {
		h.Write([]byte(s))
		h.Write([]byte{0})
	}
	switch n.Kind {
	case source.Boolean:
		if n.Bool {
			write("true")
		}
	case source.Number:
		write(n.Num.RatString())
	case source.String:
		write(n.Text)
	case source.Sequence:
		for _, it := range n.Items {
			sub := c.digest(it)
			h.Write(sub.sum[:])
			d.refers = d.refers || sub.refers
		}
	case source.Mapping:
		members := slices.Clone(n.Members)
		slices.SortFunc(members, func(a, b source.Member) int {
			if a.Key < b.Key {
				return -1
			}
			return 1
		})
		for _, m := range members {
			sub := c.digest(m.Value)
			write(m.Key)
			h.Write(sub.sum[:])
			d.refers = d.refers || sub.refers || m.Key == "$ref" || m.Key == "$dynamicRef"
		}
	}
	h.Sum(d.sum[:0])
	c.digests[n] = d
	return d
}

// reached is a pair that an operation reaches, with the shortest way to it.
type reached struct {
	pair *pair
	way  []step
}

// reach walks from a pair to all pairs below it, nearest first.
func reach(root *pair) []reached {
	seen := map[*pair]bool{root: true}
	queue := []reached{{pair: root}}
	for i := 0; i < len(queue); i++ {
		at := queue[i]
		for _, l := range at.pair.links {
			if !seen[l.to] {
				seen[l.to] = true
				queue = append(queue, reached{l.to, append(slices.Clip(at.way), l.step)})
			}
		}
	}
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
