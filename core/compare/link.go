package compare

import (
	"cmp"
	"fmt"
	"net/url"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// links compares where a response leads. A link stands on no wire; clients that were made to follow it no longer can.
func (c *comparer) links(m match, at Location, x, y *contract.Response) {
	key := m.key()
	find := func(list []contract.Link, name string) *contract.Link {
		for i := range list {
			if list[i].Name == name {
				return &list[i]
			}
		}
		return nil
	}
	add := func(f *finding, name string) {
		f.operation, f.at, f.reach = key, at, []string{key}
		f.at.Link = name
		c.add(f, name)
	}
	for i := range x.Links {
		was := &x.Links[i]
		is := find(y.Links, was.Name)
		switch {
		case is == nil:
			add(&finding{
				kind: "response.link-removed", backward: Hazard, forward: Editorial, old: was.Node, new: keyOf(y.Node, "links"),
				title: fmt.Sprintf("the link %s is no longer described", was.Name), why: "programs that follow it no longer know where it leads",
			}, was.Name)
		case !c.sameTarget(was, is) || !c.sameSent(m, was, is):
			add(&finding{
				kind: "response.link-changed", backward: Hazard, forward: Hazard, old: was.Node, new: is.Node,
				title: fmt.Sprintf("the link %s leads elsewhere, or is followed in another way", was.Name),
				why:   "programs that follow it call another operation, or send it other values",
			}, was.Name)
		case was.Description != is.Description:
			add(&finding{
				kind: "response.link-wording-changed", old: was.Node, new: is.Node,
				title: fmt.Sprintf("the description of the link %s has changed", was.Name),
			}, was.Name)
		}
	}
	for i := range y.Links {
		if is := &y.Links[i]; find(x.Links, is.Name) == nil {
			add(&finding{
				kind: "response.link-added", backward: Editorial, forward: Hazard, old: keyOf(x.Node, "links"), new: is.Node,
				title: fmt.Sprintf("the link %s is described", is.Name), why: "nobody has to follow it",
			}, is.Name)
		}
	}
}

// sameTarget reports whether two links lead to one operation, which may have moved.
func (c *comparer) sameTarget(x, y *contract.Link) bool {
	a, b := linked(c.old, x), linked(c.new, y)
	if a == nil || b == nil {
		return a == b && x.OperationID == y.OperationID && x.OperationRef == y.OperationRef
	}
	return c.matched[a] == b
}

// sameSent reports whether two links send the same: a path parameter that only has another name is the same (docs/design/compatibility.md,
// Rows that are settled).
func (c *comparer) sameSent(m match, x, y *contract.Link) bool {
	there := map[string]string{}
	if a, b := linked(c.old, x), linked(c.new, y); a != nil && b != nil {
		there = renamedInPath(a.Path, b.Path)
	}
	here := renamedInPath(m.old.Path, m.new.Path)
	same := func(a, b *source.Node) bool {
		if a.Same(b) {
			return true
		}
		name, found := "", false
		if a != nil && b != nil && a.Kind == source.String && b.Kind == source.String {
			name, found = strings.CutPrefix(a.Text, "$request.path.")
		}
		return found && here[name] != "" && b.Text == "$request.path."+here[name]
	}
	if a, b := x.Parameters, y.Parameters; a != nil && b != nil && a.Kind == source.Mapping && b.Kind == source.Mapping &&
		len(a.Members) == len(b.Members) {
		for _, p := range a.Members {
			place, name := "", p.Key
			if rest, cut := strings.CutPrefix(name, "path."); cut {
				place, name = "path.", rest
			}
			q := b.Get(place + cmp.Or(there[name], name))
			if q == nil || !same(p.Value, q) {
				return false
			}
		}
	} else if !a.Same(b) {
		return false
	}
	return same(x.Body, y.Body)
}

// renamedInPath are the names of path parameters after, by those before.
func renamedInPath(old, new string) map[string]string {
	names := map[string]string{}
	a, b := contract.PathNames(old), contract.PathNames(new)
	for i := range min(len(a), len(b)) {
		names[a[i]] = b[i]
	}
	return names
}

// linked is the operation that a link names, where it is one of this description.
func linked(in *contract.Contract, l *contract.Link) *contract.Operation {
	if l.OperationID != "" {
		return in.Lookup(l.OperationID)
	}
	_, pointer, _ := strings.Cut(l.OperationRef, "#")
	if text, err := url.PathUnescape(pointer); err == nil && text != "" {
		at := in.Node.Resolve(text)
		for _, op := range in.Operations {
			if op.Node == at {
				return op
			}
		}
	}
	return nil
}
