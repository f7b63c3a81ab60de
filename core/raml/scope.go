package raml

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// scope is what names mean in one file: what the file declares, and the libraries that it uses (RAML 1.0, Modularization).
type scope struct {
	file   *source.File
	outer  *scope // of the file that includes this one, for a file that says nothing of itself
	lists  map[string]map[string]*source.Node
	uses   map[string]*scope
	used   map[string]*source.Node // what a library is named by
	opened bool
}

// The lists of declarations.
const (
	typeList       = "types"
	traitList      = "traits"
	resourceList   = "resourceTypes"
	securityList   = "securitySchemes"
	annotationList = "annotationTypes"
)

var singular = map[string]string{
	typeList: "type", traitList: "trait", resourceList: "resource type", securityList: "security scheme", annotationList: "annotation type",
}

func (r *reader) scopeOf(f *source.File, includer *scope) *scope {
	if s := r.scopes[f]; s != nil {
		return s
	}
	s := &scope{file: f}
	if _, typed := headerOf(f); !typed {
		s.outer = includer
	}
	r.scopes[f] = s
	return s
}

func (r *reader) scopeOfNode(n *source.Node) *scope {
	if s := r.scopes[n.File()]; s != nil {
		return s
	}
	return r.root
}

// declared opens what a scope declares, once.
func (r *reader) declared(s *scope) *scope {
	if s.opened {
		return s
	}
	s.opened = true
	s.lists, s.uses, s.used = map[string]map[string]*source.Node{}, map[string]*scope{}, map[string]*source.Node{}
	root := r.rootOf(s)
	for list := range singular {
		s.lists[list] = map[string]*source.Node{}
		for _, m := range r.declarations(root, list) {
			s.lists[list][m.Key] = m.Value
		}
	}
	for _, m := range r.declarations(root, "schemas") { // the older name of types
		if s.lists[typeList][m.Key] == nil {
			s.lists[typeList][m.Key] = m.Value
		}
	}
	for _, m := range r.members(root, "uses") {
		s.used[m.Key] = m.Value
		if lib := r.library(m.Value); lib != nil {
			s.uses[m.Key] = lib
		}
	}
	return s
}

// declarations are the members of a list of declarations: a map, or, as RAML 0.8 writes it, a list of maps.
func (r *reader) declarations(root *source.Node, list string) []source.Member {
	n := r.val(root.Get(list))
	if n == nil || n.Kind == source.Null {
		return nil
	}
	if n.Kind != source.Sequence {
		return r.declaredIn(n, list)
	}
	if !r.old {
		r.report(n.Wrong(contract.KindWrong, "%s is a map from names to declarations, not a list", list))
		return nil
	}
	var all []source.Member
	for _, it := range n.Items() {
		if it = r.val(it); it != nil {
			all = append(all, r.declaredIn(it, list)...)
		}
	}
	return all
}

func (r *reader) declaredIn(n *source.Node, list string) []source.Member {
	if !r.is(n, source.Mapping) {
		return nil
	}
	return n.Members
}

// library opens a library that a file uses.
func (r *reader) library(n *source.Node) *scope {
	p, ok := r.pathOf(n)
	if !ok {
		return nil
	}
	f, err := r.set.File(p)
	if err != nil {
		r.notOpened(n, err)
		return nil
	}
	if h, ok := headerOf(f); !ok || h.fragment != "Library" {
		r.report(n.Wrong(contract.FragmentWrong, "%s is no library; its first line would be #%%RAML 1.0 Library", n.Text))
		return nil
	}
	s, known := r.scopes[f]
	if !known {
		s = r.scopeOf(f, nil)
		r.within("uses "+n.Step(), n, func() { r.keysOf(f.Root, libraryKeys, "a library") })
	}
	return s
}

// find looks a name up for the node that mentions it: in the scope of its file, and, where an argument brought it, in that of the argument.
func (r *reader) find(list, name string, at *source.Node) *source.Node {
	for seen := 0; at != nil && seen < maxDepth; seen++ {
		for s := r.scopeOfNode(at); s != nil; s = s.outer {
			if n := r.findIn(s, list, name); n != nil {
				return n
			}
		}
		at = r.argumentOf[at]
	}
	return nil
}

func (r *reader) findIn(s *scope, list, name string) *source.Node {
	r.declared(s)
	if n := s.lists[list][name]; n != nil {
		return n
	}
	lib, inner, qualified := strings.Cut(name, ".")
	if !qualified || s.uses[lib] == nil {
		return nil
	}
	return r.declared(s.uses[lib]).lists[list][inner]
}

// known lists the names that could have been meant.
func (r *reader) known(list string, at *source.Node) (own, libraries []string) {
	for s := r.scopeOfNode(at); s != nil; s = s.outer {
		r.declared(s)
		for name := range s.lists[list] {
			own = append(own, name)
		}
		for lib, in := range s.uses {
			for name := range r.declared(in).lists[list] {
				libraries = append(libraries, lib+"."+name)
			}
		}
	}
	slices.Sort(own)
	slices.Sort(libraries)
	return own, libraries
}

// missing reports a name that nothing declares, with the nearest that something does.
func (r *reader) missing(list, name string, at *source.Node, more ...string) {
	own, libraries := r.known(list, at)
	what := singular[list]
	text := what + ` "` + name + `" is not declared`
	near := source.Nearest(name, append(slices.Clone(own), more...))
	last := name[strings.LastIndexByte(name, '.')+1:]
	if near != "" {
		r.report(at.Wrong(contract.NameUndeclared, `%s; did you mean "%s"?`, text, near))
		return
	}
	for _, l := range libraries {
		if inner := l[strings.IndexByte(l, '.')+1:]; source.Nearest(last, []string{inner}) != "" {
			lib := l[:strings.IndexByte(l, '.')]
			file := r.scopeOfNode(at).used[lib]
			if file == nil {
				break
			}
			r.report(at.Wrong(contract.NameUndeclared, `%s; the library %s declares "%s": write %s`, text, file.Text, inner, l))
			return
		}
	}
	switch {
	case len(own)+len(libraries) == 0:
		r.report(at.Wrong(contract.NameUndeclared, "%s; no %s is", text, what))
	default:
		r.report(at.Wrong(contract.NameUndeclared, "%s; declared are %s", text, strings.Join(first(append(own, libraries...), 8), ", ")))
	}
}

func first(words []string, n int) []string {
	if len(words) > n {
		return append(slices.Clone(words[:n]), "…")
	}
	return words
}
