// Package openapi reads OpenAPI descriptions into contracts, and writes the files of one as a single one (Bundle).
//
// It reads OpenAPI 2.0, 3.0 (3.0.4), 3.1 (3.1.1) and 3.2 (3.2.0), of one file or of several that refer to one another. What is wrong with a
// description is a diagnostic of its contract, with its range and its mend, and the rest is read: what each mistake is taken to mean,
// contract.Rules say. Refused is only what is no description, or not whole. Unknown fields whose names begin with x- are kept.
package openapi

import (
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// Read makes the contract of a description in a single file. The error is source.Diagnostics: all for which it cannot be read.
func Read(f *source.File) (*contract.Contract, error) { return ReadSet(source.SetOf(f)) }

// ReadSet makes the contract of a description that may refer to other files of its set, which it opens as it meets them.
// The error is source.Diagnostics: all for which it cannot be read, those of the entry first; or that of the set's context.
func ReadSet(set *source.Set) (*contract.Contract, error) {
	r := newReader(set)
	c := r.contract(set.Entry.Root)
	if err := r.set.Err(); err != nil {
		return nil, err
	}
	if refusing := r.diagnostics.Refusing(); len(refusing) > 0 {
		return nil, refusing.Sorted(set.Entry.Name)
	}
	c.Diagnostics, c.Size = r.told(), set.Size()
	c.Index()
	return c, nil
}

func newReader(set *source.Set) *reader {
	return &reader{
		set:        set,
		dialects:   map[*source.File]dialect{},
		resources:  map[*source.File]resources{},
		ids:        map[string]*source.Node{},
		broken:     map[*source.Diagnostic]bool{},
		ops:        map[string]*contract.Operation{},
		undeclared: map[string]*contract.SecurityScheme{}, declared: map[*contract.SecurityScheme]map[string]bool{},
		schemas:    map[*source.Node]*contract.Schema{},
		scoped:     map[schemaKey]*contract.Schema{},
		names:      map[string]*source.Node{},
		nameOf:     map[*source.Node]string{},
		parameters: map[*source.Node]*contract.Parameter{},
		bodies:     map[*source.Node]*contract.Body{},
		responses:  map[*source.Node]*contract.Response{},
		schemes:    map[string]*contract.SecurityScheme{},
		open:       map[*source.Node]bool{},
	}
}

// told is what a reading tells of what is wrong.
func (r *reader) told() source.Diagnostics {
	return r.diagnostics.Sorted(r.set.Entry.Name).Bounded(r.set.Entry.Root)
}

// reader reads one description. Shared components are read once, so that one place is one pointer.
type reader struct {
	// What is read; set by newReader and contract.
	set     *source.Set
	dialect dialect         // of the entry
	alone   bool            // schemas are read that no description is around
	grouped bool            // whether the description declares its tags
	groups  map[string]bool // the tags that it declares

	// What is told; grows until the contract is done.
	diagnostics source.Diagnostics
	broken      map[*source.Diagnostic]bool

	// What is being read.
	unclear     []*source.Node // keywords of the schema under way whose values are mistakes without a settled meaning
	scope       *scope
	open        map[*source.Node]bool // path items
	spare       []*contract.Rare      // given back by schemas that have no rare keyword
	lastFile    *source.File          // dialectOf is asked for one file many times in a row
	lastDialect dialect

	// What was read, by where it stands; each is made once and shared.
	schemas    map[*source.Node]*contract.Schema
	scoped     map[schemaKey]*contract.Schema // those met in a dynamic scope
	parameters map[*source.Node]*contract.Parameter
	bodies     map[*source.Node]*contract.Body
	responses  map[*source.Node]*contract.Response
	schemes    map[string]*contract.SecurityScheme
	declared   map[*contract.SecurityScheme]map[string]bool // the scopes of schemes; from when they are asked
	undeclared map[string]*contract.SecurityScheme          // schemes that are used and not declared
	dialects   map[*source.File]dialect
	resources  map[*source.File]resources
	ids        map[string]*source.Node // what gave itself an address

	// What the whole is put together from when all is read.
	ops       map[string]*contract.Operation // by operationId
	names     map[string]*source.Node        // the named schemas
	nameOf    map[*source.Node]string        // those of the entry, by their nodes
	elsewhere []*source.Node                 // those of other files
	uses      []use                          // for Bundle: what refers to what, and as what
}

func (r *reader) contract(root *source.Node) *contract.Contract {
	if root.Kind != source.Mapping {
		r.report(root.Wrong(contract.NoDescription, "a description is an object with the keys openapi, info and paths; this is %s", root.Kind))
		return nil
	}
	d, ok := r.spoken(root)
	if !ok {
		if len(r.diagnostics) == 0 {
			r.report(root.Wrong(contract.NoDescription, "the key openapi is missing%s; a description begins with a line such as openapi: 3.1.0",
				otherFormat(root)))
		}
		return nil
	}
	r.dialect = d
	c := &contract.Contract{Dialect: d.String(), Node: root, Extensions: extensions(root)}
	r.keys(root, "description")
	r.info(c, root)
	r.tags(c, root)
	r.components(c, root)
	c.Docs = r.docs(root)
	c.Servers = r.servers(root)
	if d == v20 {
		c.Servers = r.hosts(root, root)
	}
	base := inherited{servers: c.Servers, security: r.security(root.Get("security"))}
	c.Operations = r.paths(root, base)
	for _, m := range r.members(root, "webhooks") {
		c.Webhooks = append(c.Webhooks, r.pathItem(m.Key, m.Value, place{direction: contract.ProviderCalls, webhook: m.Key}, base)...)
	}
	for i := 0; i < len(r.elsewhere); i++ { // reading one may name more
		c.Schemas = append(c.Schemas, r.schema(r.elsewhere[i]))
	}
	if root.Get("paths") == nil && root.Get("webhooks") == nil && root.Get("components") == nil && root.Get("definitions") == nil {
		r.report(root.Wrong(contract.KeyMissing, "the description has neither paths nor webhooks nor components; it describes nothing"))
	}
	r.links(c)
	return c
}

// otherFormat says what a text is that is no OpenAPI.
func otherFormat(root *source.Node) string {
	for _, key := range []string{"asyncapi", "graphql", "wsdl", "arazzo", "overlay"} {
		if v := root.Get(key); v != nil {
			return fmt.Sprintf(" (this is %s %s, which is not read here)", key, v.Text)
		}
	}
	if near := source.Nearest("openapi", keysOf(root)); near != "" {
		return " (there is " + near + ")"
	}
	return ""
}

func keysOf(n *source.Node) []string {
	keys := make([]string, len(n.Members))
	for i, m := range n.Members {
		keys[i] = m.Key
	}
	return keys
}

func (r *reader) tags(c *contract.Contract, root *source.Node) {
	r.groups = map[string]bool{}
	for _, t := range r.list(root, "tags") {
		r.keys(t, "tag")
		name := r.text(t, "name")
		c.Tags = append(c.Tags, &contract.Tag{Name: name, Description: r.text(t, "description"), Docs: r.docs(t), Node: t})
		r.grouped, r.groups[name] = true, true
	}
}

// links tells of links that name operations which are not there.
func (r *reader) links(c *contract.Contract) {
	var ids []string
	for _, op := range c.All() {
		if op.ID != "" {
			ids = append(ids, op.ID)
		}
	}
	for _, op := range c.All() {
		for _, resp := range op.Responses {
			for _, l := range resp.Links {
				if l.OperationID != "" && !slices.Contains(ids, l.OperationID) {
					at := l.Node.Get("operationId")
					r.report(r.nearFix(at.Wrong(contract.TargetMissing, "no operation has the operationId %s; %s", l.OperationID,
						source.DidYouMean(l.OperationID, ids)), at, l.OperationID, ids))
				}
				if at := l.Node.Get("operationRef"); strings.HasPrefix(l.OperationRef, "#/") && at.File().Root.Resolve(l.OperationRef[1:]) == nil {
					r.report(at.Wrong(contract.TargetMissing, "no operation stands at %s; write its place, such as #/paths/~1berths/get", l.OperationRef))
				}
			}
		}
	}
}

func (r *reader) info(c *contract.Contract, root *source.Node) {
	info := root.Get("info")
	if info == nil {
		r.report(root.Wrong(contract.KeyMissing, "the key info is missing; it holds title and version"))
		return
	}
	if !r.is(info, source.Mapping) {
		return
	}
	for _, key := range []string{"title", "version"} {
		if n := info.Get(key); n == nil || n.Kind == source.Null || n.Text == "" && n.Kind == source.String {
			r.report(info.KeyWrong(contract.KeyMissing, "info has no %s; write one", key))
		}
	}
	r.keys(info, "info")
	r.keys(info.Get("contact"), "contact")
	r.keys(info.Get("license"), "license")
	c.Title, c.Version = r.text(info, "title"), r.text(info, "version")
	c.InfoExtensions = extensions(info)
	c.VersionNode = info.Get("version")
	if name := info.Get("x-ledger-name"); name != nil && r.is(name, source.String) {
		c.Name = name.Text
	}
	c.Summary, c.Description, c.Terms = r.text(info, "summary"), r.text(info, "description"), r.text(info, "termsOfService")
	contact, license := info.Get("contact"), info.Get("license")
	c.Contact = contract.Contact{Name: r.text(contact, "name"), URL: r.text(contact, "url"), Email: r.text(contact, "email")}
	c.License = contract.License{Name: r.text(license, "name"), Identifier: r.text(license, "identifier"), URL: r.text(license, "url")}
}

// components reads what has a name of its own: schemas even when nothing uses them, since the reference shows them,
// and the others so that a fault in them is found.
func (r *reader) components(c *contract.Contract, root *source.Node) {
	n, schemas, schemes := root.Get("components"), "schemas", "securitySchemes"
	if r.dialect == v20 {
		n, schemas, schemes = root, "definitions", "securityDefinitions"
	}
	if n == nil || !r.is(n, source.Mapping) {
		return
	}
	if r.dialect != v20 {
		r.keys(n, "components")
	}
	for _, m := range r.members(n, schemes) {
		if s := r.scheme(m.Key, m.Value); s != nil {
			c.Schemes = append(c.Schemes, s)
			r.schemes[m.Key] = s
		}
	}
	for _, m := range r.members(n, schemas) {
		r.names[m.Key], r.nameOf[m.Value] = m.Value, m.Key
	}
	for _, m := range r.members(n, schemas) {
		c.Schemas = append(c.Schemas, r.schema(m.Value))
	}
	if r.dialect == v20 {
		r.sharedTwo(c, n)
		return
	}
	shared := &c.Shared
	for _, m := range r.members(n, "parameters") {
		if p := r.parameter(m.Value); p != nil {
			shared.Parameters = append(shared.Parameters, contract.Named{Name: m.Key, Parameter: p})
		}
	}
	for _, m := range r.members(n, "headers") {
		if p := r.header(m.Key, m.Value); p != nil {
			shared.Headers = append(shared.Headers, contract.Named{Name: m.Key, Parameter: p})
		}
	}
	for _, m := range r.members(n, "requestBodies") {
		if b := r.body(m.Value); b != nil {
			shared.Bodies = append(shared.Bodies, contract.Named{Name: m.Key, Body: b})
		}
	}
	for _, m := range r.members(n, "responses") {
		if resp := r.response("", m.Value); resp != nil {
			shared.Responses = append(shared.Responses, contract.Named{Name: m.Key, Response: resp})
		}
	}
}

func (r *reader) servers(n *source.Node) []*contract.Server {
	var servers []*contract.Server
	for _, s := range r.list(n, "servers") {
		r.keys(s, "server")
		server := &contract.Server{URL: r.text(s, "url"), Description: r.text(s, "description"), Node: s}
		if s.Get("url") == nil {
			r.report(s.Wrong(contract.ServerBroken, "this server has no url; write one, such as /v1"))
			continue
		}
		for _, v := range r.members(s, "variables") {
			r.keys(v.Value, "variable")
			server.Variables = append(server.Variables, contract.Variable{
				Name: v.Key, Default: r.text(v.Value, "default"), Description: r.text(v.Value, "description"), Enum: r.words(v.Value, "enum"),
			})
		}
		if r.address(server) {
			servers = append(servers, server)
		}
	}
	return servers
}

// variable is a variable of an address, with what says whether it is a scheme, a port or something else.
var variable = regexp.MustCompile(`:?\{[^{}]*\}`)

// address reports whether a server's address can be one (OpenAPI 3.x, Server Object), and tells of what lacks.
func (r *reader) address(s *contract.Server) bool {
	at := s.Node.Get("url")
	plain := variable.ReplaceAllStringFunc(s.URL, func(written string) string {
		if written[0] == ':' {
			return ":1" // a port is a number
		}
		return "x"
	})
	if strings.ContainsAny(plain, "{}") {
		r.report(at.Wrong(contract.ServerBroken, "a brace in %s has no other one; write each variable as {name}", s.URL))
		return false
	}
	if _, err := url.Parse(plain); err != nil {
		var why *url.Error
		if errors.As(err, &why) {
			err = why.Err
		}
		r.report(at.Wrong(contract.ServerBroken, "this is no address: %s", err))
		return false
	}
	known := make([]string, len(s.Variables))
	for i, v := range s.Variables {
		known[i] = v.Name
	}
	for _, written := range variable.FindAllString(s.URL, -1) {
		name := strings.Trim(written, ":{}")
		if slices.Contains(known, name) {
			continue
		}
		right := fmt.Sprintf("write variables: {%s: {default: …}}", name)
		if near := source.Nearest(name, known); near != "" {
			right = fmt.Sprintf("did you mean %q?", near)
		}
		r.report(at.Wrong(contract.TooLittle, "nobody says what stands for {%s} in this address; %s", name, right))
	}
	return true
}

func (r *reader) docs(n *source.Node) contract.ExternalDocs {
	d := n.Get("externalDocs")
	r.keys(d, "docs")
	return contract.ExternalDocs{URL: r.text(d, "url"), Description: r.text(d, "description")}
}
