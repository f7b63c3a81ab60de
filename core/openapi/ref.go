package openapi

import (
	"errors"
	"net/url"
	"path"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// maxHops is how many references may lead to one another before they count as a circle.
const maxHops = 64

// use is one reference that was followed: what it leads to, and the section of components in which such a thing stands.
type use struct {
	ref, target *source.Node
	as          string
}

func (r *reader) note(ref, target *source.Node, as string) {
	r.uses = append(r.uses, use{ref, target, as})
}

// follow resolves n where it is a reference object, through several hops; as is the section of components in which such a
// thing stands. It returns nil when it has reported why it cannot.
func (r *reader) follow(n *source.Node, as string) *source.Node {
	for hops := 0; n != nil; hops++ {
		ref := n.Get("$ref")
		if ref == nil {
			return n
		}
		if hops > maxHops {
			r.report(ref.Wrong(contract.ReferenceBroken, "the reference %s leads back to itself; it must lead to something", ref.Text))
			return nil
		}
		if n = r.target(ref); n != nil {
			r.note(ref, n, as)
		}
	}
	return nil
}

// target finds the node that a $ref names, in this document or in another of the set (RFC 3986, RFC 6901). It returns nil
// when it has reported why there is none.
func (r *reader) target(ref *source.Node) *source.Node {
	if ref.Kind != source.String {
		r.report(ref.Wrong(contract.ReferenceBroken, "$ref is %s; it must be an address such as #/components/schemas/Berth", ref.Kind))
		return nil
	}
	address, fragment, _ := strings.Cut(ref.Text, "#")
	pointer, err := url.PathUnescape(fragment)
	if err != nil {
		r.report(ref.Wrong(contract.ReferenceBroken, "%s is not a reference: %v", ref.Text, err))
		return nil
	}
	root := r.resource(ref)
	if address != "" {
		if root = r.document(ref, address); root == nil {
			return nil
		}
	}
	if pointer != "" && pointer[0] != '/' {
		if n := r.anchor(root, pointer); n != nil {
			return n
		}
		r.report(ref.Wrong(contract.ReferenceBroken, "%s names no $anchor of %s", ref.Text, here(root, ref)))
		return nil
	}
	if n := root.Resolve(pointer); n != nil {
		return n
	}
	r.report(ref.Wrong(contract.ReferenceBroken, "%s leads nowhere; %s", ref.Text, nearby(root, pointer)))
	return nil
}

func here(root, ref *source.Node) string {
	if root.File() == ref.File() {
		return "this document"
	}
	return root.File().Name
}

// document finds the root of what an address names, its fragment left aside: a schema with that $id, or a file of the set.
func (r *reader) document(ref *source.Node, address string) *source.Node {
	given, err := url.Parse(address)
	if err != nil {
		r.report(ref.Wrong(contract.ReferenceBroken, "%s is not a reference: %v", ref.Text, err))
		return nil
	}
	base := r.base(ref)
	if n := r.identified(base.ResolveReference(given).String()); n != nil {
		return n
	}
	switch {
	case given.Scheme != "" || given.Host != "":
		r.report(ref.Wrong(source.OutsideSet,
			"%s is outside the set of files: nothing is fetched; record that file beside this one and refer to it by its path", ref.Text))
		return nil
	case strings.HasPrefix(given.Path, "/"):
		r.report(ref.Wrong(source.OutsideSet, "%s begins at the root of a file system; write the path from this file, such as schemas/name.yaml",
			ref.Text))
		return nil
	}
	at := path.Join(path.Dir(ref.File().Path()), given.Path)
	if strings.HasPrefix(at, "../") {
		r.report(ref.Wrong(source.OutsideSet, "%s is outside the folder of the description; only what stands below it is read", ref.Text))
		return nil
	}
	f, err := r.set.File(at)
	var wrong source.Diagnostics
	switch broken := errors.As(err, &wrong); {
	case broken && !r.broken[wrong[0]]:
		r.broken[wrong[0]] = true
		r.diagnostics = append(r.diagnostics, wrong...)
		return nil
	case broken:
		return nil
	case err != nil:
		r.report(ref.Wrong(source.NoFile, "%s cannot be read: %v", ref.Text, err))
		return nil
	}
	return f.Root
}

// nearby says what the last step of a broken pointer may have meant.
func nearby(root *source.Node, pointer string) string {
	cut := strings.LastIndexByte(pointer, '/')
	parent := root.Resolve(pointer[:max(cut, 0)])
	if parent == nil || parent.Kind != source.Mapping {
		return ""
	}
	keys := make([]string, len(parent.Members))
	for i, m := range parent.Members {
		keys[i] = m.Key
	}
	return source.DidYouMean(pointer[cut+1:], keys)
}
