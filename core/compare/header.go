package compare

import (
	"fmt"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// headers compares the headers of a response, or of a part of a body, matched by name.
func (c *comparer) headers(key string, at Location, old, new []*contract.Parameter, oldNode, newNode *source.Node, role shape.Role) {
	var gone, came []*contract.Parameter
	for _, x := range old {
		if y := findParameter(new, "header", x.Name); y != nil {
			c.header(key, at, x, y, role)
		} else {
			gone = append(gone, x)
		}
	}
	for _, y := range new {
		if findParameter(old, "header", y.Name) == nil {
			came = append(came, y)
		}
	}
	pairs, gone, came := renamed(gone, came, parameterName, c.sameParameter)
	for _, r := range pairs {
		c.headerRenamed(key, at, r[0], r[1], role)
		c.header(key, at, r[0], r[1], role)
	}
	for _, x := range gone {
		c.headerRemoved(key, at, x, newNode, role)
	}
	for _, y := range came {
		c.headerAdded(key, at, y, oldNode, role)
	}
}

// missed is how bad it is for the receiver of a message that a header is not there.
func missed(h *contract.Parameter) Grade {
	if h.Required {
		return Breaking
	}
	return Hazard
}

func headerWitness(key string, at Location, d Direction, h *contract.Parameter) *Witness {
	return &Witness{Direction: d, Operation: key, Position: at.header(h.Name).position()}
}

// witnessed adds the witnesses that the grades of a finding owe.
func (f *finding) witnessed(key string, at Location, backward, forward *contract.Parameter) {
	if f.backward == Breaking {
		f.witnesses = append(f.witnesses, headerWitness(key, at, Backward, backward))
	}
	if f.forward == Breaking {
		f.witnesses = append(f.witnesses, headerWitness(key, at, Forward, forward))
	}
}

func (c *comparer) headerRemoved(key string, at Location, h *contract.Parameter, holder *source.Node, role shape.Role) {
	f := &finding{
		kind: "header.removed", backward: missed(h), forward: Safe, operation: key, at: at.header(h.Name), reach: []string{key},
		title: fmt.Sprintf("the response header %s no longer comes", h.Name), why: "clients that read it no longer find it", old: h.Node,
		new: keyOf(holder, "headers"),
	}
	switch {
	case role.Request:
		f.backward, f.forward = Hazard, Safe
		if h.Required {
			f.forward = Breaking
		}
		f.title, f.why = fmt.Sprintf("the header %s of a part is no longer read", h.Name), "clients that send it are answered as if they had not"
	case h.Required:
		f.why = "clients were promised this header"
	}
	f.witnessed(key, at, h, h)
	c.add(f, h.Name)
}

func (c *comparer) headerAdded(key string, at Location, h *contract.Parameter, holder *source.Node, role shape.Role) {
	f := &finding{
		kind: "header.added", backward: Safe, forward: missed(h), operation: key, at: at.header(h.Name), reach: []string{key},
		title: fmt.Sprintf("the response header %s is new", h.Name), why: "clients that do not know it ignore it", old: keyOf(holder, "headers"),
		new: h.Node,
	}
	if role.Request {
		f.backward, f.forward = Safe, Hazard
		f.title, f.why = fmt.Sprintf("the header %s of a part is read", h.Name), "it may be left out"
		if h.Required {
			f.kind, f.backward = "header.required-added", Breaking
			f.title, f.why = fmt.Sprintf("the header %s of a part must now be sent", h.Name), "a request that was accepted without it is refused"
		}
	}
	f.witnessed(key, at, h, h)
	c.add(f, h.Name)
}

func (c *comparer) headerRenamed(key string, at Location, x, y *contract.Parameter, role shape.Role) {
	f := &finding{
		kind: "header.renamed", backward: missed(x), forward: missed(y), operation: key, at: at.header(y.Name), reach: []string{key},
		title:   fmt.Sprintf("the header %s was renamed to %s", x.Name, y.Name),
		why:     fmt.Sprintf("clients look for %s and find %s", x.Name, y.Name),
		renamed: &FromTo{x.Name, y.Name}, old: x.Node, new: y.Node,
		advice: besides(x.Name, y.Name, "reads"),
	}
	if role.Request {
		f.backward, f.forward = missed(y), missed(x)
		f.why = fmt.Sprintf("%s is sent where %s is read", x.Name, y.Name)
		f.witnessed(key, at, y, x)
	} else {
		f.witnessed(key, at, x, y)
	}
	c.add(f, x.Name)
}

func (c *comparer) header(key string, at Location, x, y *contract.Parameter, role shape.Role) {
	at = at.header(y.Name)
	witness := func(d Direction) []*Witness {
		return []*Witness{{Direction: d, Operation: key, Position: at.position()}}
	}
	f := &finding{operation: key, at: at, reach: []string{key}, old: x.Node, new: y.Node}
	switch {
	case x.Required == y.Required:
	case x.Required == role.Request: // may be left out by a client, or always comes
		f.kind, f.backward, f.forward, f.witnesses = "header.now-required", Safe, Breaking, witness(Forward)
		f.title, f.why = y.Name+" always comes now", "after a rollback it may be missing"
		if role.Request {
			f.kind, f.title, f.why = "header.now-optional", y.Name+" may now be left out", "after a rollback a request without it is refused"
		}
		c.add(f, "")
	default:
		f.kind, f.backward, f.forward, f.witnesses = "header.now-optional", Breaking, Safe, witness(Backward)
		f.title, f.why = y.Name+" may now be missing", "clients were promised this header"
		if role.Request {
			f.kind, f.title, f.why = "header.now-required", y.Name+" must now be sent", "a request that was accepted without it is refused"
		}
		c.add(f, "")
	}
	if x.Description != y.Description || !sameExamples(x.Examples, y.Examples) || x.Deprecated != y.Deprecated {
		c.add(&finding{
			kind: "header.wording-changed", operation: key, at: at, reach: []string{key},
			title: "the description of the header " + y.Name + " has changed", old: x.Node, new: y.Node,
		}, "")
	}
	c.written(key, at, x, y, role)
}
