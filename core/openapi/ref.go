package openapi

import (
	"net/url"
	"strings"

	"oldledger/core/source"
)

// maxHops is how many references may lead to one another before they count as a circle.
const maxHops = 64

// follow resolves n where it is a reference object, through several hops. It returns nil when it has reported why it cannot.
func (r *reader) follow(n *source.Node) *source.Node {
	for hops := 0; n != nil; hops++ {
		ref := n.Get("$ref")
		if ref == nil {
			return n
		}
		if hops > maxHops {
			r.report(ref.Problem("the reference %s leads back to itself", ref.Text))
			return nil
		}
		n = r.target(ref)
	}
	return nil
}

// target finds the node that a $ref names, in this document.
func (r *reader) target(ref *source.Node) *source.Node {
	if !r.is(ref, source.String) {
		return nil
	}
	fragment, inside := strings.CutPrefix(ref.Text, "#")
	if !inside {
		r.report(ref.Problem("%s is outside this document; only references that begin with # are read, so move what it names under components", ref.Text))
		return nil
	}
	pointer, err := url.PathUnescape(fragment)
	if err != nil {
		r.report(ref.Problem("%s is not a reference: %v", ref.Text, err))
		return nil
	}
	if pointer != "" && pointer[0] != '/' {
		if n := r.anchor(pointer); n != nil {
			return n
		}
		r.report(ref.Problem("%s names no $anchor of this document", ref.Text))
		return nil
	}
	if n := r.file.Root.Resolve(pointer); n != nil {
		return n
	}
	r.report(ref.Problem("%s leads nowhere%s", ref.Text, r.nearby(pointer)))
	return nil
}

// nearby says what the last step of a broken pointer may have meant.
func (r *reader) nearby(pointer string) string {
	cut := strings.LastIndexByte(pointer, '/')
	parent := r.file.Root.Resolve(pointer[:max(cut, 0)])
	if parent == nil || parent.Kind != source.Mapping {
		return ""
	}
	keys := make([]string, len(parent.Members))
	for i, m := range parent.Members {
		keys[i] = m.Key
	}
	return source.DidYouMean(pointer[cut+1:], keys)
}

// anchor finds a $anchor by walking the document once.
func (r *reader) anchor(name string) *source.Node {
	if r.anchors == nil {
		r.anchors = map[string]*source.Node{}
		var walk func(n *source.Node)
		walk = func(n *source.Node) {
			if a := n.Get("$anchor"); a != nil && a.Kind == source.String {
				if _, taken := r.anchors[a.Text]; !taken {
					r.anchors[a.Text] = n
				}
			}
			for _, m := range n.Members {
				walk(m.Value)
			}
			for _, it := range n.Items {
				walk(it)
			}
		}
		walk(r.file.Root)
	}
	return r.anchors[name]
}
