package housestyle

import (
	"oldledger/core/budget"
	"oldledger/core/jsonpath"
	"oldledger/core/source"
)

// pathQuery finds the places of a text that a rule is about.
type pathQuery struct{ path *jsonpath.Path }

// paths judges the places that a rule's JSONPath finds, in every file.
func (x *examination) paths(r *Rule) {
	for _, f := range x.files {
		if x.ctx.Err() != nil {
			return
		}
		v := x.values[f]
		if v == nil {
			v = f.Root.Value()
			x.values[f] = v
		}
		found, err := r.path.path.SelectWithin(budget.New(x.ctx, budget.For(x.c.Size)), v)
		if err != nil {
			x.fail(r, x.node(f.Root), err)
			continue
		}
		seen := map[*source.Node]bool{}
		for _, at := range found {
			n := f.Root
			for _, s := range at.Steps {
				n = stepInto(n, s)
			}
			if n == nil || seen[n] {
				continue
			}
			seen[n] = true
			e := x.node(n)
			switch kept, err := r.keeps(&scope{e}); {
			case err != nil:
				x.fail(r, e, err)
			case !kept:
				r.broken(x, e)
			}
		}
	}
}

func stepInto(n *source.Node, s jsonpath.Step) *source.Node {
	if n == nil {
		return nil
	}
	if n.Kind == source.Sequence {
		items := n.Items()
		if s.Index < 0 || s.Index >= len(items) {
			return nil
		}
		return items[s.Index]
	}
	return n.Get(s.Name)
}
