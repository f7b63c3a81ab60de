package compare

import (
	"fmt"
	"slices"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// servers compares the addresses of the whole API. whole tells that a prefix only moved from them into the paths.
func (c *comparer) servers(whole bool) {
	if whole {
		c.add(&finding{
			kind: "server.prefix-moved-to-paths", at: "servers", title: "a prefix moved between the servers and the paths: the addresses are the same",
			old: serversNode(c.old.Node), new: serversNode(c.new.Node),
		}, "")
		return
	}
	var keys []string
	for _, op := range c.old.Operations {
		if op.Node.Get("servers") == nil && op.PathNode.Get("servers") == nil {
			keys = append(keys, op.Key())
		}
	}
	c.serverLists(c.old.Servers, c.new.Servers, serversNode(c.old.Node), serversNode(c.new.Node), "", keys)
}

// operationServers compares the addresses that one operation has of its own.
func (c *comparer) operationServers(m match) {
	own := func(op *contract.Operation) *source.Node {
		if n := op.Node.Get("servers"); n != nil {
			return n
		}
		return op.PathNode.Get("servers")
	}
	a, b := own(m.old), own(m.new)
	if a == nil && b == nil || m.old.Direction == contract.ProviderCalls {
		return
	}
	if a == nil {
		a = serversNode(c.old.Node)
	}
	if b == nil {
		b = serversNode(c.new.Node)
	}
	c.serverLists(m.old.Servers, m.new.Servers, a, b, m.key(), []string{m.key()})
}

func serversNode(root *source.Node) *source.Node {
	if n := root.Get("servers"); n != nil {
		return n
	}
	return root
}

// serverLists judges by addresses: COMPATIBILITY section 5, server, and section 7b, Servers.
func (c *comparer) serverLists(old, new []*contract.Server, oldNode, newNode *source.Node, operation string, reach []string) {
	add := func(kind, title, why string, backward, forward Grade) {
		f := &finding{
			kind: kind, backward: backward, forward: forward, operation: operation, at: "servers", reach: reach,
			title: title, why: why, old: oldNode, new: newNode,
		}
		for d, g := range map[Direction]Grade{Backward: backward, Forward: forward} {
			if g == Breaking {
				f.witnesses = append(f.witnesses, &Witness{Direction: d, Operation: operation, Position: "server"})
			}
		}
		c.add(f, title)
	}
	oldBase, ok1 := basePath(old)
	newBase, ok2 := basePath(new)
	if ok1 && ok2 && oldBase != newBase {
		add("server.base-path-changed", fmt.Sprintf("all addresses begin with %s, was %s", orRoot(newBase), orRoot(oldBase)),
			"a request to the old address finds nothing there", Breaking, Breaking)
		old, new = onlyOrigins(old), onlyOrigins(new)
	}
	gone, came := addressesMissing(old, new), addressesMissing(new, old)
	switch {
	case len(gone) == 0 && len(came) == 0:
	case len(gone) == 0:
		add("server.added", fmt.Sprintf("the server %s is new", came[0]), "nobody has to call it", Safe, Hazard)
	case len(came) == 0:
		add("server.removed", fmt.Sprintf("the server %s is no longer named", gone[0]), "clients that call it must move to another", Hazard, Safe)
	default:
		add("server.host-changed", fmt.Sprintf("the server %s takes the place of %s", came[0], gone[0]), "clients that call the old address must move", Hazard, Hazard)
	}
	if len(gone)+len(came) == 0 && ok1 && ok2 && oldBase == newBase && !sameServerWords(old, new) {
		add("server.wording-changed", "the servers are described in other words", "", Editorial, Editorial)
	}
}

func orRoot(path string) string {
	if path == "" {
		return "/"
	}
	return path
}

func onlyOrigins(servers []*contract.Server) []*contract.Server {
	var out []*contract.Server
	for _, s := range servers {
		origin, _ := splitServer(s)
		out = append(out, &contract.Server{URL: origin, Description: s.Description, Node: s.Node})
	}
	return out
}

// addressesMissing lists the addresses of a that b does not name. No server at all means the place of the description.
func addressesMissing(a, b []*contract.Server) []string {
	var out []string
	for _, s := range a {
		origin, path := splitServer(s)
		named := slices.ContainsFunc(b, func(o *contract.Server) bool {
			oo, op := splitServer(o)
			return oo == origin && op == path
		})
		if !named {
			out = append(out, origin+path)
		}
	}
	return out
}

func sameServerWords(a, b []*contract.Server) bool {
	return slices.EqualFunc(a, b, func(x, y *contract.Server) bool {
		return x.Description == y.Description && x.URL == y.URL && slices.EqualFunc(x.Variables, y.Variables, func(v, w contract.Variable) bool {
			return v.Name == w.Name && v.Default == w.Default && v.Description == w.Description && slices.Equal(v.Enum, w.Enum)
		})
	})
}
