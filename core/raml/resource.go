package raml

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// inherited is what a resource takes over from above when it says nothing itself.
type inherited struct {
	path       string
	own        string // the resource's own part of the path
	name       string // the last part of the path that is no parameter
	parameters []*contract.Parameter
	security   []contract.Requirement
	servers    []*contract.Server
	protocols  []string
	tag        string
	depth      int
}

func (r *reader) methods() []string {
	all := []string{"get", "post", "put", "patch", "delete", "head", "options"}
	if r.old {
		all = append(all, "trace", "connect")
	}
	return all
}

func (r *reader) resourceKeys() []string {
	keys := slices.Concat([]string{"displayName", "description", "type", "is", "securedBy", "uriParameters"}, r.methods())
	if r.old {
		keys = append(keys, "baseUriParameters")
	}
	return keys
}

func (r *reader) methodKeys() []string {
	keys := []string{
		"displayName", "description", "queryParameters", "headers", "queryString", "responses", "body", "protocols", "is",
		"securedBy",
	}
	if r.old {
		keys = slices.DeleteFunc(keys, func(k string) bool { return k == "displayName" || k == "queryString" })
		keys = append(keys, "baseUriParameters")
	}
	return keys
}

// resource reads the methods of a resource and of those nested in it.
func (r *reader) resource(m source.Member, up inherited) []*contract.Operation {
	n := r.val(m.Value)
	if up.depth++; up.depth > maxDepth {
		r.report(m.Value.KeyWrong(contract.TooMuch, "resources are nested deeper than %d levels", maxDepth))
		return nil
	}
	up.own, up.path = m.Key, strings.TrimSuffix(up.path, "/")+m.Key
	for part := range strings.SplitSeq(m.Key, "/") {
		if part != "" && !strings.Contains(part, "{") {
			up.name = part
		}
	}
	if n == nil || n.Kind == source.Null || !r.is(n, source.Mapping) || !r.grow(m.Value, len(n.Members)) {
		return nil
	}
	for _, k := range n.Members {
		if !strings.HasPrefix(k.Key, "/") {
			r.keyOf(k, r.resourceKeys(), "a resource")
		}
	}
	r.annotations(n, "Resource")
	if up.tag == "" {
		up.tag = r.text(n, "displayName")
	}
	levels := r.levels(n, up)
	var ops []*contract.Operation
	r.within(up.path, n, func() { ops = r.methodsOf(n, levels, &up) })
	for _, k := range n.Members {
		if strings.HasPrefix(k.Key, "/") {
			ops = append(ops, r.resource(k, up)...)
		}
	}
	return ops
}

// levels are the layers of what a resource is: what it says itself, then its resource type, then that one's own, each with its
// arguments set in (RAML 1.0, Resource Types and Traits).
func (r *reader) levels(n *source.Node, up inherited) []*source.Node {
	all := []*source.Node{n}
	seen := []*source.Node{}
	for at := n; ; {
		t := r.val(at.Get("type"))
		if t == nil || t.Kind == source.Null {
			return all
		}
		a, ok := r.application(t, "resource type")
		if !ok {
			return all
		}
		decl := r.find(resourceList, a.name.Text, a.name)
		if decl == nil {
			r.within(up.path, n, func() { r.missing(resourceList, a.name.Text, a.name) })
			return all
		}
		if slices.Contains(seen, decl) {
			r.report(a.name.Wrong(contract.ReferenceCircular, "the resource type %s leads back to itself", a.name.Text))
			return all
		}
		seen = append(seen, decl)
		v := r.holding(decl, "ResourceType")
		if v == nil || v.Kind != source.Mapping {
			return all
		}
		var made *source.Node
		r.within(up.path, n, func() {
			r.unused(a, v)
			made = r.instance(v, a.with(r.reserved(n, up, "")))
		})
		all = append(all, made)
		at = made
	}
}

// reserved are the arguments that every template is given.
func (r *reader) reserved(n *source.Node, up inherited, method string) arguments {
	args := arguments{
		"resourcePath":     n.WithText(strings.ReplaceAll(up.path, "{mediaTypeExtension}", "")),
		"resourcePathName": n.WithText(strings.TrimSuffix(up.name, "{mediaTypeExtension}")),
	}
	if method != "" {
		args["methodName"] = n.WithText(method)
	}
	return args
}

// layered is what the levels of a resource say together, methods and nested resources left out.
func (r *reader) layered(levels []*source.Node) *source.Node {
	whole := r.rest(levels[0])
	for _, l := range levels[1:] {
		whole = merging{r, r.old}.merge(whole, r.rest(l), "")
	}
	return whole
}

// rest is a level without what is looked at apart.
func (r *reader) rest(n *source.Node) *source.Node {
	var kept []source.Member
	for _, m := range n.Members {
		plain := strings.TrimSuffix(m.Key, "?")
		if strings.HasPrefix(m.Key, "/") || slices.Contains([]string{"type", "is", "usage", "uses"}, m.Key) ||
			slices.Contains(r.methods(), plain) {
			continue
		}
		kept = append(kept, m)
	}
	return n.With(kept)
}

func (r *reader) methodsOf(n *source.Node, levels []*source.Node, up *inherited) []*contract.Operation {
	whole := r.layered(levels)
	own := r.uriParameters(whole, up.own, up.path)
	up.parameters = append(slices.Clone(up.parameters), own...)
	var ops []*contract.Operation
	security := up.security
	if whole.Get("securedBy") != nil {
		security = r.secured(whole.Get("securedBy"))
	}
	for _, method := range r.methods() {
		node := r.method(method, n, levels, *up)
		if node == nil {
			continue
		}
		if r.calls++; r.calls > maxCalls {
			if r.calls == maxCalls+1 {
				r.report(node.KeyWrong(contract.TooMuch, "with its files and resource types set in, the description has more than %d operations",
					maxCalls))
			}
			return ops
		}
		r.within(up.path+" "+method, node, func() {
			ops = append(ops, r.operation(method, node, whole, *up, security))
		})
	}
	return ops
}

// method merges what the levels and their traits say of a method; nil when the resource does not have it.
func (r *reader) method(method string, n *source.Node, levels []*source.Node, up inherited) *source.Node {
	var whole *source.Node
	var traits []*source.Node
	has := false
	for _, l := range levels {
		here := l.Get(method)
		if here == nil && has {
			here = l.Get(method + "?")
		}
		if here != nil {
			has = true
			v := r.val(here)
			if v != nil && v.Kind != source.Null && !r.is(v, source.Mapping) {
				continue
			}
			traits = append(traits, r.items(v, "is")...)
			if l != levels[0] && whole == nil && v != nil {
				v = n.With(v.Members) // a method that only a resource type has stands at the resource
			}
			if whole == nil {
				whole = v
			} else {
				whole = merging{r, r.old}.merge(whole, v, "")
			}
		}
		traits = append(traits, r.items(l, "is")...)
	}
	if !has {
		return nil
	}
	if whole == nil || whole.Kind == source.Null {
		at := n
		if whole != nil {
			at = whole
		}
		whole = at.With(nil)
	}
	for _, t := range traits {
		if a, ok := r.application(t, "trait"); ok {
			whole = r.traited(whole, a, n, up, method)
		}
	}
	return whole
}

func (r *reader) traited(whole *source.Node, a applied, n *source.Node, up inherited, method string) *source.Node {
	decl := r.find(traitList, a.name.Text, a.name)
	if decl == nil {
		r.within(up.path+" "+method, n, func() { r.missing(traitList, a.name.Text, a.name) })
		return whole
	}
	v := r.holding(decl, "Trait")
	if v == nil || v.Kind != source.Mapping {
		return whole
	}
	r.within(up.path+" "+method, whole, func() {
		r.unused(a, v)
		v = r.instance(v, a.with(r.reserved(n, up, method)))
	})
	kept := slices.DeleteFunc(slices.Clone(v.Members), func(m source.Member) bool {
		return slices.Contains(traitExtras, m.Key) ||
			m.Key == "is"
	})
	if len(kept) < len(v.Members) {
		v = v.With(kept)
	}
	return merging{r, r.old}.merge(whole, v, "")
}
