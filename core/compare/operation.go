package compare

import (
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// operations compares everything that stands under an operation.
func (c *comparer) operations() {
	whole := c.wholePaths()
	c.servers(whole)
	matches := c.matchOperations(whole)
	for _, m := range matches {
		if m.old != nil && m.new != nil {
			c.matched[m.old] = m.new
		}
	}
	for _, m := range matches {
		switch {
		case m.new == nil:
			c.operationRemoved(m.old)
		case m.old == nil:
			c.operationAdded(m.new)
		default:
			c.operation(m, whole)
		}
	}
}

func opening(op *contract.Operation) string {
	if op.Direction == contract.ProviderCalls {
		return "the API no longer calls it"
	}
	return "a request that was answered finds no operation"
}

func (c *comparer) operationRemoved(op *contract.Operation) {
	f := &finding{
		kind: "operation.removed", backward: Breaking, forward: Safe, operation: op.Key(), reach: []string{op.Key()},
		title: op.Name() + " is no longer there", why: opening(op), old: op.Node, new: c.holderOf(op, c.new),
		advice: ways("go on answering it", "deprecate it with a sunset date, and say what to call instead",
			"remove it when nobody calls it any more"),
	}
	if op.Direction == contract.ProviderCalls {
		f.kind, f.backward = roomName(op)+".removed", Hazard
		f.why = "receivers of the old version wait for it in vain, and refuse nothing"
	} else {
		f.witnesses = []*Witness{{Direction: Backward, Operation: op.Key(), Position: "request"}}
		if c.shadowed(op, c.new) != nil {
			f.forward = Hazard
		}
	}
	c.add(f, "")
}

// holderOf is where an operation of one version would stand in another: its path, or what holds the paths.
func (c *comparer) holderOf(op *contract.Operation, in *contract.Contract) *source.Node {
	if c.paths[in] == nil {
		c.paths[in] = map[pathKey]*source.Node{}
		for _, other := range in.All() {
			c.paths[in][pathOf(other)] = other.PathNode
		}
	}
	if n := c.paths[in][pathOf(op)]; n != nil {
		return n
	}
	switch {
	case op.Owner != "" && in.Lookup(op.Owner) != nil:
		return keyOf(in.Lookup(op.Owner).Node, "callbacks")
	case op.Direction == contract.ProviderCalls:
		return keyOf(in.Node, "webhooks")
	}
	return keyOf(in.Node, "paths")
}

// pathKey names a path, of the API, of a webhook or of a callback.
type pathKey struct{ owner, webhook, path string }

func pathOf(op *contract.Operation) pathKey {
	return pathKey{op.Owner, op.Webhook, contract.WirePath(op.Path)}
}

func roomName(op *contract.Operation) string {
	switch {
	case op.Owner != "":
		return "callback"
	case op.Webhook != "":
		return "webhook"
	}
	return "operation"
}

func (c *comparer) operationAdded(op *contract.Operation) {
	f := &finding{
		kind: roomName(op) + ".added", backward: Safe, forward: Breaking, operation: op.Key(), reach: []string{op.Key()},
		title: op.Name() + " is new", why: "clients of the old version do not call it; after a rollback those of the new one find it gone",
		old: c.holderOf(op, c.old), new: op.Node,
	}
	if op.Direction == contract.ProviderCalls {
		f.forward, f.why = Hazard, "receivers may leave it unanswered; after a rollback it does not come"
	} else {
		f.witnesses = []*Witness{{Direction: Forward, Operation: op.Key(), Position: "request"}}
		if old := c.shadowed(op, c.old); old != nil {
			f.backward = Hazard
			f.why = fmt.Sprintf("it answers requests that %s answered before", old.Written())
		}
	}
	c.add(f, "")
}

// shadowed finds an operation with a templated path that answers what a literal path of the other version takes.
func (c *comparer) shadowed(op *contract.Operation, in *contract.Contract) *contract.Operation {
	templated, known := c.templated[in]
	if !known {
		for _, other := range in.Operations {
			if strings.Contains(other.Path, "{") {
				templated = append(templated, other)
			}
		}
		if c.templated == nil {
			c.templated = map[*contract.Contract][]*contract.Operation{}
		}
		c.templated[in] = templated
	}
	for _, other := range templated {
		if other.Method == op.Method && covers(other.Path, op.Path) {
			return other
		}
	}
	return nil
}

// covers reports whether every request for path also fits template, and template is wider.
func covers(template, path string) bool {
	wider := false
	var x, y string
	var also bool
	for a, b, more := contract.WirePath(template), contract.WirePath(path), true; more; {
		x, a, more = strings.Cut(a, "/")
		y, b, also = strings.Cut(b, "/")
		if more != also {
			return false
		}
		switch {
		case x == y:
		case x == "{}" && !strings.Contains(y, "{}"):
			wider = true
		default:
			return false
		}
	}
	return wider
}

func (c *comparer) operation(m match, whole bool) {
	c.operationWords(m)
	switch {
	case m.moved:
		c.operationMoved(m)
	case m.old.Webhook == "":
		c.pathNames(m)
	case m.old.Owner != "":
		c.callbackAddress(m)
	}
	c.parameters(m)
	c.body(m)
	c.responses(m)
	c.security(m)
	if !whole {
		c.operationServers(m)
	}
}

func (c *comparer) operationMoved(m match) {
	from, to := m.old.Key(), m.new.Key()
	f := &finding{
		kind: roomName(m.old) + ".moved", backward: Breaking, forward: Breaking, operation: from, reach: []string{from},
		title: fmt.Sprintf("%s moved to %s", m.old.Name(), m.new.Written()), why: "a request to the old address finds no operation",
		moved: &FromTo{from, to}, old: m.old.Node, new: m.new.Node,
		advice: ways("go on answering "+m.old.Written(), "answer both addresses", "deprecate the old one with a sunset date",
			"remove it when nobody calls it any more"),
	}
	if m.old.Direction == contract.ClientCalls {
		f.witnesses = []*Witness{
			{Direction: Backward, Operation: from, Position: "request"},
			{Direction: Forward, Operation: to, Position: "request"},
		}
	}
	c.add(f, "")
}

// callbackAddress compares the expressions that say where a callback goes.
func (c *comparer) callbackAddress(m match) {
	if m.old.Path == m.new.Path {
		return
	}
	c.add(&finding{
		kind: "callback.address-changed", backward: Hazard, forward: Hazard, operation: m.key(), reach: []string{m.key()},
		title: fmt.Sprintf("%s goes to %s, was %s", m.new.Name(), m.new.Path, m.old.Path),
		why:   "clients that gave their address in the old place are not called", old: m.old.PathNode, new: m.new.PathNode,
	}, "")
}

// pathNames notes path parameters that only changed their names.
func (c *comparer) pathNames(m match) {
	a, b := contract.PathNames(m.old.Path), contract.PathNames(m.new.Path)
	for i := range min(len(a), len(b)) {
		if a[i] == b[i] {
			continue
		}
		c.add(&finding{
			kind: "parameter.path.renamed", operation: m.key(), at: Location{Part: PartParameter, In: "path", Name: b[i]}, reach: []string{m.key()},
			title: fmt.Sprintf("the path parameter %s is now called %s", a[i], b[i]), renamed: &FromTo{a[i], b[i]},
			old: m.old.PathNode, new: m.new.PathNode,
		}, a[i])
	}
}

// operationWords compares what an operation says about itself.
func (c *comparer) operationWords(m match) {
	a, b := m.old, m.new
	note := func(kind, key, title, why string, backward, forward Grade) {
		c.add(&finding{
			kind: kind, backward: backward, forward: forward, operation: m.key(), reach: []string{m.key()},
			title: title, why: why, old: keyOf(a.Node, key), new: keyOf(b.Node, key),
		}, "")
	}
	switch {
	case a.ID == b.ID:
	case a.ID == "":
		note("operation.id-added", "operationId", fmt.Sprintf("%s has the operationId %s", b.Name(), b.ID), "", Editorial, Hazard)
	case b.ID == "":
		note("operation.id-removed", "operationId", fmt.Sprintf("%s no longer has an operationId", a.Name()),
			"client code generated from the description changes its names", Hazard, Editorial)
	default:
		note("operation.id-changed", "operationId", fmt.Sprintf("the operationId %s is now %s", a.ID, b.ID),
			"client code generated from the description changes its names", Hazard, Hazard)
	}
	if a.Deprecated != b.Deprecated {
		kind, title := "operation.deprecated", b.Name()+" is now deprecated"
		if a.Deprecated {
			kind, title = "operation.undeprecated", b.Name()+" is no longer deprecated"
		}
		note(kind, "deprecated", title, "", Editorial, Editorial)
	}
	var changed []string
	if a.Summary != b.Summary {
		changed = append(changed, "summary")
	}
	if a.Description != b.Description {
		changed = append(changed, "description")
	}
	if !slices.Equal(a.Tags, b.Tags) {
		changed = append(changed, "tags")
	}
	if a.Docs != b.Docs {
		changed = append(changed, "externalDocs")
	}
	if len(changed) > 0 {
		note("operation.wording-changed", changed[0], fmt.Sprintf("%s has new wording: %s", b.Name(), strings.Join(changed, ", ")), "", Editorial,
			Editorial)
	}
	told := a.Deprecated != b.Deprecated
	if !sameExtensions(unannounced(a.Extensions, told), unannounced(b.Extensions, told)) {
		note("operation.extension-changed", "", b.Name()+" has other extension fields", "", Editorial, Editorial)
	}
}

func sameExtensions(a, b []contract.Extension) bool {
	if len(a) != len(b) {
		return false
	}
	for _, x := range a {
		if !slices.ContainsFunc(b, func(y contract.Extension) bool { return x.Name == y.Name && x.Node.Same(y.Node) }) {
			return false
		}
	}
	return true
}

// requestRole is the role of what travels with a request; the provider sends the requests of webhooks and callbacks.
func requestRole(op *contract.Operation) shape.Role {
	return shape.Role{Request: op.Direction == contract.ClientCalls}
}

// responseRole is the role of what travels back.
func responseRole(op *contract.Operation) shape.Role {
	return shape.Role{Request: op.Direction == contract.ProviderCalls}
}
