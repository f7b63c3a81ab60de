package edit

import (
	"fmt"

	"oldledger/core/source"
	"oldledger/core/value"
)

// maxSteps bounds in how many steps a place is changed part by part. What takes more is written anew.
const maxSteps = 40

// less are the wishes that together set a container to another, part by part, so that what is the same in both stays as it is written; nil
// where they are too many, or it is no container.
func less(root *source.Node, w Wish) []Wish {
	if w.act != set {
		return nil
	}
	n := root.Resolve(w.at)
	if n != nil && sameAs(n, w.value) {
		return []Wish{}
	}
	if n == nil || !alike(n, w.value) {
		return nil
	}
	d := &difference{}
	d.between(w.at, n, w.value)
	if len(d.steps) > maxSteps || d.whole {
		return nil
	}
	return d.steps
}

type difference struct {
	steps []Wish
	whole bool // the place itself says something else
}

// alike reports whether both are objects, or lists, which hold something.
func alike(n *source.Node, v *value.Value) bool {
	return n.Kind == source.Mapping && v.Kind == value.Object && len(n.Members) > 0 && len(v.Members) > 0 ||
		n.Kind == source.Sequence && v.Kind == value.Array && len(n.Items()) > 0 && len(v.Items) > 0
}

func (d *difference) wish(w Wish) { d.steps = append(d.steps, w) }

func (d *difference) between(at string, n *source.Node, v *value.Value) {
	switch {
	case len(d.steps) > maxSteps || sameAs(n, v):
	case !alike(n, v):
		d.wish(Set(at, v))
	case n.Kind == source.Mapping:
		d.members(at, n, v)
	default:
		d.items(at, n, v)
	}
}

func (d *difference) members(at string, n *source.Node, v *value.Value) {
	kept := 0
	for _, m := range v.Members {
		below := at + "/" + source.EscapeStep(m.Name)
		if there := n.Get(m.Name); there != nil {
			d.between(below, there, m.Value)
			kept++
		}
	}
	d.whole = d.whole || kept == 0
	for _, m := range v.Members {
		if n.Get(m.Name) == nil {
			d.wish(Insert(at+"/"+source.EscapeStep(m.Name), m.Value))
		}
	}
	for _, m := range n.Members {
		if v.Get(m.Key) == nil {
			d.wish(Remove(at + "/" + source.EscapeStep(m.Key)))
		}
	}
}

// items changes what differs between the items that both begin with and those that both end with.
func (d *difference) items(at string, n *source.Node, v *value.Value) {
	old, head := n.Items(), 0
	for head < min(len(old), len(v.Items)) && sameAs(old[head], v.Items[head]) {
		head++
	}
	tail := 0
	for tail < min(len(old), len(v.Items))-head && sameAs(old[len(old)-1-tail], v.Items[len(v.Items)-1-tail]) {
		tail++
	}
	from, to := len(old)-tail, len(v.Items)-tail
	for i := head; i < min(from, to); i++ {
		d.between(fmt.Sprintf("%s/%d", at, i), old[i], v.Items[i])
	}
	for i := min(from, to); i < to; i++ {
		d.wish(Insert(fmt.Sprintf("%s/%d", at, i), v.Items[i]))
	}
	for i := from - 1; i >= to && i >= head; i-- {
		d.wish(Remove(fmt.Sprintf("%s/%d", at, i)))
	}
}
