package openapi

import (
	"bytes"
	"net/url"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// A resource is what a fragment is looked up in: a document, or a schema inside it that has an $id of its own
// (JSON Schema 2020-12, Core section 8.2).
type resource struct {
	base     *url.URL
	anchors  map[string]*source.Node
	dynamics map[string]*source.Node
}

// resources are those of one file, by their root nodes. Most files have just themselves.
type resources map[*source.Node]*resource

// namesUnder are the keywords whose members are named by the author.
var namesUnder = []string{
	"properties", "patternProperties", "dependentSchemas", "$defs", "definitions", "schemas", "paths", "responses", "parameters",
	"headers", "requestBodies", "callbacks", "webhooks", "pathItems", "content", "encoding", "links", "securitySchemes", "mediaTypes",
}

// valuesUnder are the keywords that hold values, in which nothing is a keyword.
var valuesUnder = []string{"enum", "const", "default", "example", "examples", "value", "dataValue"}

// resourcesOf finds the resources of a file once.
func (r *reader) resourcesOf(f *source.File) resources {
	if found, done := r.resources[f]; done {
		return found
	}
	own := &resource{
		base: &url.URL{Scheme: "set", Path: "/" + f.Path()}, anchors: map[string]*source.Node{},
		dynamics: map[string]*source.Node{},
	}
	found := resources{f.Root: own}
	r.resources[f] = found
	if r.dialectOf(f.Root).before31() || !speaksOfResources(f.Text) {
		return found
	}
	if self := f.Root.Get("$self"); self != nil && self.Kind == source.String {
		r.rebase(own, self)
		r.ids[own.base.String()] = f.Root
	}
	var walk func(n *source.Node, in *resource, names bool)
	walk = func(n *source.Node, in *resource, names bool) {
		if !names && n.Kind == source.Mapping {
			if id := n.Get("$id"); id != nil && id.Kind == source.String {
				in = &resource{base: in.base, anchors: map[string]*source.Node{}, dynamics: map[string]*source.Node{}}
				if n == f.Root {
					in = own
				}
				r.rebase(in, id)
				found[n] = in
				r.ids[in.base.String()] = n
			}
			if a := n.Get("$anchor"); a != nil && a.Kind == source.String && in.anchors[a.Text] == nil {
				in.anchors[a.Text] = n
			}
			if a := n.Get("$dynamicAnchor"); a != nil && a.Kind == source.String && in.dynamics[a.Text] == nil {
				in.dynamics[a.Text] = n
			}
		}
		for _, m := range n.Members {
			if names || !slices.Contains(valuesUnder, m.Key) && !isExtension(m.Key) {
				walk(m.Value, in, !names && slices.Contains(namesUnder, m.Key))
			}
		}
		for _, it := range n.Items() {
			walk(it, in, false)
		}
	}
	walk(f.Root, own, false)
	return found
}

func speaksOfResources(text []byte) bool {
	for _, key := range []string{"$id", "$self", "$anchor", "$dynamicAnchor"} {
		if bytes.Contains(text, []byte(key)) {
			return true
		}
	}
	return false
}

// rebase sets the address of a resource from its $id or $self.
func (r *reader) rebase(in *resource, id *source.Node) {
	u, err := url.Parse(id.Text)
	if err != nil || u.Fragment != "" {
		r.report(id.Wrong(contract.KindWrong, "%s is no address without a fragment; write one, such as berth.json", id.Text))
		return
	}
	in.base = in.base.ResolveReference(u)
}

// resource is the root node of the resource in which n stands.
func (r *reader) resource(n *source.Node) *source.Node {
	found := r.resourcesOf(n.File())
	if len(found) > 1 {
		for at := n; at != nil; at = at.Parent() {
			if found[at] != nil {
				return at
			}
		}
	}
	return n.File().Root
}

// base is the address against which references in n are resolved.
func (r *reader) base(n *source.Node) *url.URL { return r.resourcesOf(n.File())[r.resource(n)].base }

// identified finds the schema or document that gave itself an address, among the files opened so far.
func (r *reader) identified(address string) *source.Node {
	for _, f := range r.set.Files() {
		r.resourcesOf(f)
	}
	return r.ids[strings.TrimSuffix(address, "#")]
}

// anchor finds a named place of a resource.
func (r *reader) anchor(root *source.Node, name string) *source.Node {
	res := r.resourcesOf(root.File())[root]
	if n := res.anchors[name]; n != nil {
		return n
	}
	return res.dynamics[name]
}

// scope is the dynamic scope of JSON Schema 2020-12 (Core section 7.1), as far as it matters: for each $dynamicAnchor, the
// outermost resource that has it. Scopes are immutable; nil is the empty one.
type scope struct {
	outer *scope
	name  string
	node  *source.Node
	key   string
}

func (s *scope) find(name string) *source.Node {
	for ; s != nil; s = s.outer {
		if s.name == name {
			return s.node
		}
	}
	return nil
}

func (s *scope) text() string {
	if s == nil {
		return ""
	}
	return s.key
}

// enter widens a scope by the dynamic anchors of the resource in which n stands.
func (r *reader) enter(s *scope, n *source.Node) *scope {
	found := r.resourcesOf(n.File())
	dynamics := found[r.resource(n)].dynamics
	if len(dynamics) == 0 {
		return s
	}
	names := make([]string, 0, len(dynamics))
	for name := range dynamics {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		if s.find(name) == nil {
			at := dynamics[name]
			s = &scope{outer: s, name: name, node: at, key: s.text() + "\n" + name + " " + at.File().Path() + "#" + at.Pointer()}
		}
	}
	return s
}

// dynamicTarget finds what a $dynamicRef names in the scope under way (JSON Schema 2020-12, Core section 8.2.3.2).
func (r *reader) dynamicTarget(ref *source.Node) *source.Node {
	n := r.target(ref)
	_, name, _ := strings.Cut(ref.Text, "#")
	if a := n.Get("$dynamicAnchor"); a != nil && a.Text == name {
		if outer := r.scope.find(name); outer != nil {
			return outer
		}
	}
	return n
}
