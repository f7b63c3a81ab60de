package raml

import (
	"slices"
	"strconv"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

var (
	rootKeys = []string{
		"title", "description", "version", "baseUri", "baseUriParameters", "protocols", "mediaType", "documentation", "schemas", "types",
		"traits",
		"resourceTypes", "annotationTypes", "securitySchemes", "securedBy", "uses", "extends", "usage",
	}
	oldRootKeys = []string{
		"title", "version", "baseUri", "baseUriParameters", "uriParameters", "protocols", "mediaType", "documentation", "schemas", "traits",
		"resourceTypes",
		"securitySchemes", "securedBy",
	}
	libraryKeys = []string{"usage", "uses", "types", "schemas", "traits", "resourceTypes", "annotationTypes", "securitySchemes"}
)

// contract reads the whole description.
func (r *reader) contract() *contract.Contract {
	f := r.set.Entry
	root := r.opened(f)
	if root == nil {
		return nil
	}
	r.tree = root
	r.knownRootKeys(root)
	c := &contract.Contract{
		Dialect: "raml-1.0", Node: root, Title: r.text(root, "title"), Version: r.text(root, "version"),
		Description: r.text(root, "description"),
	}
	if r.old {
		c.Dialect = "raml-0.8"
	}
	if v := r.field(root, "version"); v != nil {
		c.VersionNode = root.Get("version")
	}
	if c.Title == "" {
		r.report(root.Wrong(contract.KeyMissing, "the key title is missing; an API begins with a line such as title: Tide Tables"))
	}
	c.Extensions = r.annotations(root, "API")
	for _, e := range c.Extensions {
		if e.Name == "x-ledger-name" {
			c.Name = e.Node.Text
		}
	}
	c.Extensions = slices.DeleteFunc(c.Extensions, func(e contract.Extension) bool { return e.Name == "x-ledger-name" })
	r.version = c.Version
	r.mediaTypes = r.words(root, "mediaType")
	r.pages(c, root)
	r.declarationsOf(r.root)
	c.Servers = r.servers(root, root)
	base := inherited{security: r.secured(root.Get("securedBy")), servers: c.Servers, protocols: r.protocols(root)}
	for _, m := range root.Members {
		if strings.HasPrefix(m.Key, "/") {
			c.Tags = append(c.Tags, r.tag(m)...)
			c.Operations = append(c.Operations, r.resource(m, base)...)
		}
	}
	r.onePath(c)
	r.finish()
	c.Schemas, c.Schemes = r.types, r.schemeList
	return c
}

// opened gives the tree of the entry: its own, or, for an overlay or extension, that of what it extends with what it says.
func (r *reader) opened(f *source.File) *source.Node {
	h, ok := headerOf(f)
	switch {
	case !ok:
		r.report(f.Root.Wrong(contract.NoDescription, "the first line is not that of a RAML description; it would be #%%RAML 1.0 or #%%RAML 0.8"))
		return nil
	case h.version != "1.0" && h.version != "0.8":
		r.report(f.Root.Wrong(contract.NoDescription, "RAML %s is not known; the versions 1.0 and 0.8 are", h.version))
		return nil
	case f.Root.Kind != source.Mapping:
		r.report(f.Root.Wrong(contract.NoDescription, "a RAML description is an object with the key title; this is %s", f.Root.Kind))
		return nil
	}
	if h.version == "0.8" {
		r.old = true
	}
	if r.root == nil {
		r.root = &scope{file: f}
	}
	r.scopes[f] = r.root
	switch {
	case h.fragment == "" || r.old:
		return f.Root
	case h.fragment != "Overlay" && h.fragment != "Extension":
		near := source.DidYouMean(h.fragment, fragments)
		if slices.Contains(fragments, h.fragment) {
			near = "; it is read where a description uses or includes it"
		}
		r.report(f.Root.Wrong(contract.NoDescription, "this file holds a RAML %s, which is no API of its own%s", h.fragment, near))
		return nil
	}
	return r.extended(f, h.fragment)
}

func (r *reader) knownRootKeys(root *source.Node) {
	known := rootKeys
	if r.old {
		known = oldRootKeys
	}
	for _, m := range root.Members {
		if !strings.HasPrefix(m.Key, "/") {
			r.keyOf(m, known, "a description")
		}
	}
}

// pages are the documentation of the API (RAML 1.0, User Documentation).
func (r *reader) pages(c *contract.Contract, root *source.Node) {
	for _, it := range r.items(root, "documentation") {
		if !r.is(it, source.Mapping) {
			continue
		}
		r.keysOf(it, []string{"title", "content", "uses", "usage"}, "a page of documentation")
		r.annotations(it, "DocumentationItem")
		page := contract.Page{Title: r.text(it, "title"), Content: r.text(it, "content"), Node: it}
		for _, key := range []string{"title", "content"} {
			if r.text(it, key) == "" {
				r.report(it.Wrong(contract.KeyMissing, "this page of documentation has no %s; write one", key))
			}
		}
		c.Pages = append(c.Pages, page)
	}
}

// declarationsOf reads what the description and its libraries declare, so that a fault is found in what nothing uses, too.
func (r *reader) declarationsOf(root *scope) {
	all := r.withLibraries(root, nil)
	for _, s := range all {
		for _, m := range r.typesOf(s) {
			r.nameType(m)
		}
	}
	for _, s := range all {
		for _, m := range r.typesOf(s) {
			r.types = append(r.types, r.typ(m.Value, asString))
		}
		for _, m := range r.declarations(r.rootOf(s), securityList) {
			if scheme := r.scheme(m.Key, m.Value); scheme != nil {
				r.schemeList = append(r.schemeList, scheme)
			}
		}
		for _, list := range []string{traitList, resourceList, annotationList} {
			for _, m := range r.declarations(r.rootOf(s), list) {
				r.declaration(list, m)
			}
		}
	}
}

// withLibraries lists a scope and the libraries that it uses, and those that they use.
func (r *reader) withLibraries(s *scope, seen []*scope) []*scope {
	if slices.Contains(seen, s) {
		return seen
	}
	r.declared(s)
	seen = append(seen, s)
	for _, m := range r.members(r.rootOf(s), "uses") {
		if lib := s.uses[m.Key]; lib != nil {
			seen = r.withLibraries(lib, seen)
		}
	}
	return seen
}

func (r *reader) rootOf(s *scope) *source.Node {
	if s == r.root {
		return r.tree
	}
	return s.file.Root
}

func (r *reader) typesOf(s *scope) []source.Member {
	return slices.Concat(r.declarations(r.rootOf(s), typeList), r.declarations(r.rootOf(s), "schemas"))
}

// nameType gives a declared type the name under which readers see it: its own, with a number behind it where libraries share it.
func (r *reader) nameType(m source.Member) {
	n := r.val(m.Value)
	if n == nil || r.named[n] != "" {
		return
	}
	name := m.Key
	for i := 2; r.names[name] != nil; i++ {
		name = m.Key + strconv.Itoa(i)
	}
	r.names[name], r.named[n] = n, name
}

var traitExtras = []string{"usage", "uses"}

// declaration holds the keys of a trait, resource type or annotation type against those that are known.
func (r *reader) declaration(list string, m source.Member) {
	n := r.holding(m.Value, map[string]string{
		traitList: "Trait", resourceList: "ResourceType",
		annotationList: "AnnotationTypeDeclaration",
	}[list])
	if n == nil || n.Kind == source.Null {
		return
	}
	switch list {
	case annotationList:
		if n.Kind == source.Mapping {
			for _, t := range r.words(n, "allowedTargets") {
				if !slices.Contains(targets, t) {
					r.report(n.Get("allowedTargets").Wrong(contract.WordUnknown, "there is no target %s; %s", t, source.DidYouMean(t, targets)))
				}
			}
		}
	case traitList:
		if r.is(n, source.Mapping) {
			r.templateKeys(n, slices.Concat(r.methodKeys(), traitExtras), "a trait", false)
		}
	case resourceList:
		if r.is(n, source.Mapping) {
			r.templateKeys(n, slices.Concat(r.resourceKeys(), traitExtras), "a resource type", true)
		}
	}
}

func (r *reader) templateKeys(n *source.Node, known []string, what string, resource bool) {
	for _, m := range n.Members {
		key := strings.TrimSuffix(m.Key, "?")
		if strings.Contains(key, "<<") {
			continue
		}
		if key != m.Key && !r.old && !slices.Contains(r.methods(), key) {
			key = m.Key
		}
		if key != m.Key && slices.Contains(known, key) {
			continue
		}
		if resource && strings.HasPrefix(key, "/") {
			r.report(m.Value.KeyWrong(contract.TemplateBroken, "a resource type holds no nested resources; declare %s at the resource", m.Key))
			continue
		}
		r.keyOf(m, known, what)
	}
}

// tag makes a group of operations of a top resource that says something of itself.
func (r *reader) tag(m source.Member) []*contract.Tag {
	n := r.val(m.Value)
	if name := r.text(n, "displayName"); name != "" {
		return []*contract.Tag{{Name: name, Description: r.text(n, "description"), Node: n}}
	}
	return nil
}

// onePath reports resources that stand twice under one path.
func (r *reader) onePath(c *contract.Contract) {
	seen := map[string]*contract.Operation{}
	for _, op := range c.Operations {
		if first := seen[op.Key()]; first != nil {
			r.report(op.Node.KeyWrong(contract.OperationTwice, "%s stands in line %d already; put both under one resource", op.Key(),
				first.Node.Place().Line))
		}
		seen[op.Key()] = op
	}
}
