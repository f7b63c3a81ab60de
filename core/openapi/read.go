// Package openapi reads OpenAPI descriptions into contracts.
//
// It reads OpenAPI 3.0 (3.0.4) and 3.1 (3.1.1) with every reference inside the document. What it cannot read is a
// problem with its place and its mend; a description with a problem gives no contract at all, so that nothing is
// compared or published on a guess. Unknown fields whose names begin with x- are kept.
package openapi

import (
	"sort"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// dialect is one version of the OpenAPI Specification.
type dialect uint8

const (
	v30 dialect = iota
	v31
)

func (d dialect) String() string { return [...]string{"openapi-3.0", "openapi-3.1"}[d] }

// Read makes the contract of a description. The error is source.Problems: all that is wrong, in the order of the file.
func Read(f *source.File) (*contract.Contract, error) {
	r := &reader{
		file:       f,
		schemas:    map[*source.Node]*contract.Schema{},
		parameters: map[*source.Node]*contract.Parameter{},
		bodies:     map[*source.Node]*contract.Body{},
		responses:  map[*source.Node]*contract.Response{},
		schemes:    map[string]*contract.SecurityScheme{},
	}
	c := r.contract(f.Root)
	if len(r.problems) > 0 {
		sort.SliceStable(r.problems, func(i, j int) bool {
			a, b := r.problems[i].Place, r.problems[j].Place
			return a.Line < b.Line || a.Line == b.Line && a.Column < b.Column
		})
		return nil, r.problems[:min(len(r.problems), maxProblems)]
	}
	c.Index()
	return c, nil
}

// maxProblems is how many problems one reading tells: more would hide the first.
const maxProblems = 50

// reader reads one description. Shared components are read once, so that one place is one pointer.
type reader struct {
	file       *source.File
	dialect    dialect
	problems   source.Problems
	schemas    map[*source.Node]*contract.Schema
	parameters map[*source.Node]*contract.Parameter
	bodies     map[*source.Node]*contract.Body
	responses  map[*source.Node]*contract.Response
	schemes    map[string]*contract.SecurityScheme
	anchors    map[string]*source.Node
}

func (r *reader) contract(root *source.Node) *contract.Contract {
	if root.Kind != source.Mapping {
		r.report(root.Problem("a description is an object with the keys openapi, info and paths; this is %s", root.Kind))
		return nil
	}
	if !r.version(root) {
		return nil
	}
	c := &contract.Contract{Dialect: r.dialect.String(), Node: root, Extensions: extensions(root)}
	r.info(c, root)
	r.components(c, root.Get("components"))
	c.Docs = r.docs(root)
	c.Servers = r.servers(root)
	for _, t := range r.list(root, "tags") {
		c.Tags = append(c.Tags, &contract.Tag{Name: r.text(t, "name"), Description: r.text(t, "description"), Docs: r.docs(t), Node: t})
	}
	base := inherited{servers: c.Servers, security: r.security(root.Get("security"))}
	c.Operations = r.paths(root, base)
	for _, m := range r.members(root, "webhooks") {
		c.Webhooks = append(c.Webhooks, r.pathItem(m.Key, m.Value, place{direction: contract.ProviderCalls, webhook: m.Key}, base)...)
	}
	if root.Get("paths") == nil && root.Get("webhooks") == nil && root.Get("components") == nil {
		r.report(root.Problem("a description has paths, webhooks or components; this one has none of them"))
	}
	return c
}

// version finds the dialect, or reports that there is none to read by.
func (r *reader) version(root *source.Node) bool {
	n := root.Get("openapi")
	switch {
	case n == nil && root.Get("swagger") != nil:
		r.report(root.Get("swagger").KeyProblem("OpenAPI 2.0 is not read yet; openapi: 3.0.x and 3.1.x are"))
	case n == nil:
		r.report(root.Problem("the key openapi is missing; a description begins with a line such as openapi: 3.1.0"))
	case n.Kind != source.String && n.Kind != source.Number:
		r.report(n.Problem("openapi must be a version such as 3.1.0, not %s", n.Kind))
	case n.Text == "3.0" || strings.HasPrefix(n.Text, "3.0."):
		r.dialect = v30
		return true
	case n.Text == "3.1" || strings.HasPrefix(n.Text, "3.1."):
		r.dialect = v31
		return true
	default:
		r.report(n.Problem("OpenAPI %q is not known here; openapi: 3.0.x and 3.1.x are read", n.Text))
	}
	return false
}

func (r *reader) info(c *contract.Contract, root *source.Node) {
	info := root.Get("info")
	if info == nil {
		r.report(root.Problem("the key info is missing; it holds title and version"))
		return
	}
	if !r.is(info, source.Mapping) {
		return
	}
	for _, key := range []string{"title", "version"} {
		if n := info.Get(key); n == nil || n.Kind == source.Null || n.Text == "" && n.Kind == source.String {
			r.report(info.KeyProblem("info.%s is missing", key))
		}
	}
	c.Title, c.Version = r.text(info, "title"), r.text(info, "version")
	c.Summary, c.Description, c.Terms = r.text(info, "summary"), r.text(info, "description"), r.text(info, "termsOfService")
	contact, license := info.Get("contact"), info.Get("license")
	c.Contact = contract.Contact{Name: r.text(contact, "name"), URL: r.text(contact, "url"), Email: r.text(contact, "email")}
	c.License = contract.License{Name: r.text(license, "name"), Identifier: r.text(license, "identifier"), URL: r.text(license, "url")}
}

// components reads what has a name of its own: schemas even when nothing uses them, since the reference shows them,
// and the others so that a fault in them is found.
func (r *reader) components(c *contract.Contract, n *source.Node) {
	if n == nil || !r.is(n, source.Mapping) {
		return
	}
	for _, m := range r.members(n, "securitySchemes") {
		if s := r.scheme(m.Key, m.Value); s != nil {
			c.Schemes = append(c.Schemes, s)
			r.schemes[m.Key] = s
		}
	}
	for _, m := range r.members(n, "schemas") {
		if s := r.schema(m.Value); s != nil {
			c.Schemas = append(c.Schemas, s)
		}
	}
	for _, m := range r.members(n, "parameters") {
		r.parameter(m.Value)
	}
	for _, m := range r.members(n, "headers") {
		r.header(m.Key, m.Value)
	}
	for _, m := range r.members(n, "requestBodies") {
		r.body(m.Value)
	}
	for _, m := range r.members(n, "responses") {
		r.response("", m.Value)
	}
}

func (r *reader) servers(n *source.Node) []*contract.Server {
	var servers []*contract.Server
	for _, s := range r.list(n, "servers") {
		server := &contract.Server{URL: r.text(s, "url"), Description: r.text(s, "description"), Node: s}
		if s.Get("url") == nil {
			r.report(s.Problem("a server needs a url"))
		}
		for _, v := range r.members(s, "variables") {
			server.Variables = append(server.Variables, contract.Variable{
				Name: v.Key, Default: r.text(v.Value, "default"), Description: r.text(v.Value, "description"), Enum: r.words(v.Value, "enum"),
			})
		}
		servers = append(servers, server)
	}
	return servers
}

func (r *reader) docs(n *source.Node) contract.ExternalDocs {
	d := n.Get("externalDocs")
	return contract.ExternalDocs{URL: r.text(d, "url"), Description: r.text(d, "description")}
}
