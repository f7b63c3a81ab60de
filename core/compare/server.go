package compare

import (
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// servers compares the addresses of the whole API. whole tells that a prefix only moved from them into the paths.
func (c *comparer) servers(whole bool) {
	if whole {
		c.add(&finding{
			kind: "server.prefix-moved-to-paths", at: Location{Part: PartServers},
			title: "a prefix moved between the servers and the paths: the addresses are the same",
			old:   serversNode(c.old.Node), new: serversNode(c.new.Node),
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

// serverLists judges by addresses: docs/design/compatibility.md, Rows that are settled.
func (c *comparer) serverLists(old, new []*contract.Server, oldNode, newNode *source.Node, operation string, reach []string) {
	add := func(kind, title, why string, backward, forward Grade, lost, found []address) {
		f := &finding{
			kind: kind, backward: backward, forward: forward, operation: operation, at: Location{Part: PartServers}, reach: reach,
			title: title, why: why, old: oldNode, new: newNode,
		}
		for d, g := range map[Direction]Grade{Backward: backward, Forward: forward} {
			if g == Breaking {
				f.witnesses = append(f.witnesses, &Witness{Direction: d, Operation: operation, Position: "server"})
			}
		}
		if len(lost) > 0 {
			f.was = value.Str(lost[0].String())
		}
		if len(found) > 0 {
			f.is = value.Str(found[0].String())
		}
		c.add(f, fmt.Sprint(lost, found))
	}
	a, b := addresses(old), addresses(new)
	lost, found := notIn(pathsOf(a), pathsOf(b)), notIn(pathsOf(b), pathsOf(a))
	if len(lost)+len(found) > 0 {
		grade := func(missing []address) Grade {
			if len(missing) > 0 {
				return Breaking
			}
			return Safe
		}
		switch {
		case len(pathsOf(a)) == 1 && len(pathsOf(b)) == 1 && len(lost) == 1 && len(found) == 1:
			add("server.base-path-changed", fmt.Sprintf("all addresses begin with %s, was %s", found[0], lost[0]),
				"a request to the old address finds nothing there", Breaking, Breaking, lost, found)
			a, b = originsOf(a), originsOf(b)
		default:
			title, why := fmt.Sprintf("addresses may begin with %s", joined(found)),
				"nobody has to call them; after a rollback they find nothing there"
			if len(lost) > 0 {
				title, why = fmt.Sprintf("no address begins with %s any more", joined(lost)), "a request to such an address finds nothing there"
			}
			if len(lost) > 0 && len(found) > 0 {
				title += fmt.Sprintf(", they may begin with %s", joined(found))
			}
			add("server.base-path-changed", title, why, grade(lost), grade(found), lost, found)
			under := func(list, paths []address) []address {
				return slices.DeleteFunc(slices.Clone(list), func(x address) bool { return slices.Contains(paths, address{"", x.path}) })
			}
			a, b = under(a, lost), under(b, found)
		}
	}
	gone, came := notIn(a, b), notIn(b, a)
	switch {
	case len(gone) == 0 && len(came) == 0:
	case len(gone) == 0:
		add("server.added", fmt.Sprintf("the API also answers at %s", joined(came)), "nobody has to call it", Safe, Hazard, nil, came)
	case len(came) == 0:
		add("server.removed", fmt.Sprintf("the API no longer answers at %s", joined(gone)), "clients that call it must move to another", Hazard,
			Safe, gone, nil)
	default:
		add("server.host-changed", fmt.Sprintf("the API answers at %s, no longer at %s", joined(came), joined(gone)),
			"clients that call the old address must move", Hazard, Hazard, gone, came)
	}
	if len(lost)+len(found)+len(gone)+len(came) == 0 && !sameServerWords(old, new) && len(old) > 0 && len(new) > 0 {
		add("server.wording-changed", "the servers are described in other words", "", Editorial, Editorial, nil, nil)
	}
}

// joined names a few addresses.
func joined(list []address) string {
	const most = 3
	var texts []string
	for i, a := range list {
		if i == most {
			texts = append(texts, fmt.Sprintf("%d more", len(list)-most))
			break
		}
		texts = append(texts, a.String())
	}
	return strings.Join(texts, ", ")
}

func originsOf(list []address) []address {
	var out []address
	for _, a := range list {
		if only := (address{a.origin, ""}); !slices.Contains(out, only) {
			out = append(out, only)
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
