package raml

import (
	"errors"
	"path"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// val is what a node stands for: itself, or what the file that it includes holds (RAML 1.0, Includes). nil stays nil.
func (r *reader) val(n *source.Node) *source.Node {
	for range maxDepth {
		if n == nil || !n.Include {
			return n
		}
		n = r.included(n)
	}
	return nil
}

// holding is val of a node that a fragment of that kind may stand for.
func (r *reader) holding(n *source.Node, fragment string) *source.Node {
	v := r.val(n)
	if n == nil || v == nil || !n.Include {
		return v
	}
	if h, ok := headerOf(v.File()); ok && v == v.File().Root && h.fragment != fragment {
		said := h.fragment
		if said == "" {
			said = "API"
		}
		r.report(n.Wrong(contract.FragmentWrong, "%s holds a RAML %s; a %s belongs here", n.Text, said, fragment))
	}
	return v
}

// included opens the file that n names. A fault is told once and reads as nothing.
func (r *reader) included(n *source.Node) *source.Node {
	if known, done := r.includes[n]; done {
		return known
	}
	r.includes[n] = nil
	p, ok := r.pathOf(n)
	if !ok {
		return nil
	}
	open := r.set.Text
	switch strings.ToLower(path.Ext(p)) {
	case ".raml", ".yaml", ".yml", ".json":
		open = r.set.File
	}
	f, err := open(p)
	if err != nil {
		r.notOpened(n, err)
		return nil
	}
	from := n.File()
	if f == r.set.Entry || r.leadsTo(f, from, 0) {
		r.report(n.Wrong(contract.ReferenceBroken, "%s is included by itself, over %s; a file cannot hold itself", n.Text, from.Path()))
		return nil
	}
	if !slices.Contains(r.includedFiles[from], f) {
		r.includedFiles[from] = append(r.includedFiles[from], f)
	}
	r.scopeOf(f, r.scopeOfNode(n))
	root := f.Root
	if _, inner, names := strings.Cut(n.Text, "#"); names && root.Kind == source.Mapping {
		// An element inside a JSON Schema (RAML 1.0, Using XML and JSON Schema, References to Inner Elements).
		if root = root.Resolve(inner); root == nil {
			r.report(n.Wrong(contract.ReferenceBroken, "%s has no element %s", f.Path(), inner))
			return nil
		}
	}
	r.includes[n] = root
	return root
}

// leadsTo reports whether from includes to, over whatever files.
func (r *reader) leadsTo(from, to *source.File, depth int) bool {
	if from == to {
		return true
	}
	return depth < maxDepth && slices.ContainsFunc(r.includedFiles[from], func(f *source.File) bool { return r.leadsTo(f, to, depth+1) })
}

// pathOf is where in the set the file stands that n names: beside the file in which n stands, or, after a slash, below the entry's folder.
func (r *reader) pathOf(n *source.Node) (p string, ok bool) {
	name, _, _ := strings.Cut(n.Text, "#")
	if n.Kind != source.String || name == "" {
		r.report(n.Wrong(contract.ReferenceBroken, "a path of a file belongs here"))
		return "", false
	}
	if strings.Contains(name, "://") {
		r.report(n.Wrong(source.OutsideSet, "%s is an address; only files of the description's own folder are read: put a copy beside it", name))
		return "", false
	}
	dir := path.Dir(n.File().Path())
	if strings.HasPrefix(name, "/") {
		dir = path.Dir(r.set.Entry.Path())
	}
	p = path.Join(dir, name)
	if !source.Inside(p) {
		r.report(n.Wrong(source.OutsideSet, "%s is outside the folder of the description; only what stands below it is read", name))
		return "", false
	}
	return p, true
}

func (r *reader) notOpened(n *source.Node, err error) {
	var inside source.Diagnostics
	if errors.As(err, &inside) {
		r.within("!include "+n.Text, n, func() {
			for _, p := range inside {
				r.report(p)
			}
		})
		return
	}
	r.report(n.Wrong(source.NoFile, "%s cannot be read: %v", n.Text, err))
}
