package compare

import (
	"net/url"
	"slices"
	"sort"
	"strings"

	"oldledger/core/contract"
)

// match is one operation in both versions, or in one of them.
type match struct {
	old, new *contract.Operation
	moved    bool
}

// key is what the operation is called in the comparison: its old key, where it has one.
func (m match) key() string {
	if m.old != nil {
		return m.old.Key()
	}
	return m.new.Key()
}

// basePath is the path that all servers share, without a trailing slash; ok is false where they differ.
func basePath(servers []*contract.Server) (path string, ok bool) {
	for i, s := range servers {
		p := serverPath(s)
		if i > 0 && p != path {
			return "", false
		}
		path = p
	}
	return path, true
}

// serverPath is the path of a server's address, its variables filled with their defaults.
func serverPath(s *contract.Server) string {
	_, path := splitServer(s)
	return path
}

func splitServer(s *contract.Server) (origin, path string) {
	address := s.URL
	for _, v := range s.Variables {
		address = strings.ReplaceAll(address, "{"+v.Name+"}", v.Default)
	}
	u, err := url.Parse(address)
	if err != nil {
		return address, ""
	}
	path = strings.TrimRight(u.EscapedPath(), "/")
	if u.Host == "" {
		return "", path
	}
	return u.Scheme + "://" + u.Host, path
}

// wholePaths reports whether operations are found by their whole path: when a prefix moved from the servers into the paths,
// nothing changed on the wire (docs/design/compatibility.md, Rows that are settled).
func (c *comparer) wholePaths() bool {
	oldBase, ok1 := basePath(c.old.Servers)
	newBase, ok2 := basePath(c.new.Servers)
	if !ok1 || !ok2 || oldBase == newBase {
		return false
	}
	whole, plain := 0, 0
	inOld, inOldWhole := map[string]bool{}, map[string]bool{}
	for _, op := range c.old.Operations {
		inOld[op.Key()], inOldWhole[op.Method+" "+oldBase+contract.WirePath(op.Path)] = true, true
	}
	for _, op := range c.new.Operations {
		if inOld[op.Key()] {
			plain++
		}
		if inOldWhole[op.Method+" "+newBase+contract.WirePath(op.Path)] {
			whole++
		}
	}
	return whole > plain
}

// matchOperations pairs the operations of both versions: by what stands on the wire, then by recognition. The callbacks of
// two operations that belong together are paired with one another; those of an operation that went or came go with it.
func (c *comparer) matchOperations(whole bool) []match {
	identity := func(op *contract.Operation, servers []*contract.Server) string {
		if whole && op.Webhook == "" {
			base, _ := basePath(servers)
			return op.Method + " " + base + contract.WirePath(op.Path)
		}
		return op.Key()
	}
	top := func(list *contract.Contract) []*contract.Operation {
		return slices.Concat(list.Operations, list.Webhooks)
	}
	matches := pairUp(top(c.old), top(c.new), func(op *contract.Operation) string { return identity(op, c.old.Servers) },
		func(op *contract.Operation) string { return identity(op, c.new.Servers) })
	for _, m := range slices.Clone(matches) {
		if m.old != nil && m.new != nil {
			name := func(op *contract.Operation) string { return op.Webhook + " " + op.Method + " " + op.Path }
			matches = append(matches, callbackPairs(m.old.Callbacks, m.new.Callbacks, name)...)
		}
	}
	return matches
}

// callbackPairs pairs the callbacks of one operation: by name, method and address, then by name and method alone.
func callbackPairs(old, new []*contract.Operation, name func(*contract.Operation) string) []match {
	var matches []match
	var gone, came []*contract.Operation
	for _, m := range pairUp(old, new, name, name) {
		switch {
		case m.old != nil && m.new != nil && !m.moved:
			matches = append(matches, m)
			continue
		case m.old != nil:
			gone = append(gone, m.old)
		}
		if m.new != nil {
			came = append(came, m.new)
		}
	}
	short := func(op *contract.Operation) string { return op.Webhook + " " + op.Method }
	return append(matches, pairUp(gone, came, short, short)...)
}

// pairUp pairs operations of one name, then those that are recognised under another.
func pairUp(old, new []*contract.Operation, oldName, newName func(*contract.Operation) string) []match {
	byName := map[string]*contract.Operation{}
	for _, op := range new {
		byName[newName(op)] = op
	}
	taken := map[*contract.Operation]bool{}
	var matches []match
	var gone, came []*contract.Operation
	for _, op := range old {
		if n := byName[oldName(op)]; n != nil && !taken[n] {
			matches = append(matches, match{old: op, new: n})
			taken[n] = true
			continue
		}
		gone = append(gone, op)
	}
	for _, op := range new {
		if !taken[op] {
			came = append(came, op)
		}
	}
	return append(matches, recognise(gone, came)...)
}

// recognise finds operations that moved: the same operationId, or the same method and alike messages with exactly one candidate.
func recognise(gone, came []*contract.Operation) []match {
	var matches []match
	movedTo := map[*contract.Operation]*contract.Operation{}
	used := map[*contract.Operation]bool{}
	byID := map[string][]*contract.Operation{}
	for _, n := range came {
		byID[n.ID] = append(byID[n.ID], n)
	}
	for _, o := range gone {
		for _, n := range byID[o.ID] {
			if o.ID != "" && !used[n] && sameRoom(o, n) {
				movedTo[o], used[n] = n, true
				break
			}
		}
	}
	candidates := map[*contract.Operation][]*contract.Operation{}
	bySignature := map[string][]*contract.Operation{}
	for _, n := range came {
		if !used[n] {
			carries := signature(n)
			bySignature[carries] = append(bySignature[carries], n)
		}
	}
	wanted := map[*contract.Operation]int{}
	for _, o := range gone {
		if movedTo[o] != nil {
			continue
		}
		carries := signature(o)
		if !strings.Contains(carries, "#") {
			continue // there is nothing to go by
		}
		for _, n := range bySignature[carries] {
			if len(candidates[o]) < 2 && o.Method == n.Method && sameRoom(o, n) {
				candidates[o] = append(candidates[o], n)
			}
			if wanted[n] < 2 && o.Method == n.Method && sameRoom(o, n) {
				wanted[n]++
			}
		}
	}
	for _, o := range gone {
		n := movedTo[o]
		if list := candidates[o]; n == nil && len(list) == 1 && wanted[list[0]] == 1 {
			n = list[0]
		}
		if n == nil {
			matches = append(matches, match{old: o})
			continue
		}
		used[n] = true
		matches = append(matches, match{old: o, new: n, moved: true})
	}
	for _, n := range came {
		if !used[n] {
			matches = append(matches, match{new: n})
		}
	}
	return matches
}

// sameRoom keeps calls, webhooks and callbacks apart.
func sameRoom(o, n *contract.Operation) bool {
	return (o.Webhook == "") == (n.Webhook == "") && (o.Owner == "") == (n.Owner == "")
}

// signature is what an operation carries, by component names and property names.
func signature(op *contract.Operation) string {
	var parts []string
	if op.Body != nil {
		for _, m := range op.Body.Content {
			parts = append(parts, "in "+m.Type+" "+outline(m.Schema, 0))
		}
	}
	for _, r := range op.Responses {
		if strings.HasPrefix(r.Status, "2") {
			for _, m := range r.Content {
				parts = append(parts, "out "+r.Status+" "+m.Type+" "+outline(m.Schema, 0))
			}
		}
	}
	sort.Strings(parts)
	return strings.Join(parts, "\n")
}

func outline(s *contract.Schema, depth int) string {
	s = s.Deref()
	switch {
	case s == nil || depth > 3:
		return ""
	case s.Name != "":
		return "#" + s.Name
	case s.Items != nil:
		return "[" + outline(s.Items, depth+1) + "]"
	}
	names := make([]string, 0, len(s.Properties))
	for _, p := range s.Properties {
		names = append(names, "#"+p.Name+":"+strings.Join(p.Schema.Deref().Types, "|"))
	}
	sort.Strings(names)
	return "{" + strings.Join(names, ",") + "}"
}
