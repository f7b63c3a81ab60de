// Package contract is the one model of an API version, whatever dialect it was written in: the operations
// that clients call and that the API calls back, with all that stands on the wire and all that a reader
// of the reference wants to know.
//
// Readers (core/openapi, core/raml) make a Contract; compare, reference and guide use it. Every part keeps
// its source node, so that whatever is said of it names the place where its author wrote it. Terms follow
// OpenAPI 3.1 and JSON Schema 2020-12; older dialects are lowered to them where nothing is lost, and what
// only one dialect means (nullable, for one) is kept under its own name.
package contract

import (
	"strings"

	"oldledger/core/source"
)

// Contract is one version of an API.
type Contract struct {
	Name           string // the short name that the description gives its API in the ledger, "" where it gives none
	Title          string
	VersionNode    *source.Node
	Version        string // the description's own text: "1.2.0", "v1", "2026-03-01"
	Dialect        string // "openapi-3.0", "openapi-3.1", …
	Summary        string
	Description    string
	Terms          string
	Contact        Contact
	InfoExtensions []Extension
	License        License
	Servers        []*Server
	Tags           []*Tag
	Operations     []*Operation // what clients call, in the author's order
	Webhooks       []*Operation // what the API calls
	Schemas        []*Schema    // the named schemas, in the author's order
	Schemes        []*SecurityScheme
	Docs           ExternalDocs
	Pages          []Page // documentation beside the operations
	Extensions     []Extension
	Shared         Shared // what the description itself shares under names, used or not
	Node           *source.Node

	Diagnostics source.Diagnostics // what is wrong with the description, in the order of its files; what is read instead, Rules say

	Size int // how many values its files hold together: a measure for what may be spent on it

	operations map[string]*Operation // by key and by id
	schemas    map[string]*Schema    // by name
}

// Index prepares Lookup and Schema. A reader calls it once, when the contract is complete.
func (c *Contract) Index() {
	c.operations, c.schemas = map[string]*Operation{}, map[string]*Schema{}
	for _, op := range c.All() {
		for _, name := range []string{op.Key(), op.ID} {
			if _, taken := c.operations[name]; !taken && name != "" {
				c.operations[name] = op
			}
		}
	}
	for _, s := range c.Schemas {
		c.schemas[s.Name] = s
	}
}

// Page is a page of documentation in Markdown that the description brings along.
type Page struct {
	Title, Content string
	Node           *source.Node
}

// Shared are the parts that stand under names of their own, for others to refer to.
type Shared struct{ Parameters, Bodies, Responses, Headers []Named }

// Named is one of them: one of its fields is set.
type Named struct {
	Name      string
	Parameter *Parameter
	Body      *Body
	Response  *Response
}

// Resource is what a description says of a path, above its operations.
type Resource struct{ Name, Description string }

// About is what an API says of itself: its description, and its pages of documentation as sections.
func (c *Contract) About() string {
	if len(c.Pages) == 0 {
		return c.Description
	}
	var texts []string
	if c.Description != "" {
		texts = append(texts, strings.TrimRight(c.Description, "\n"))
	}
	for _, p := range c.Pages {
		texts = append(texts, "# "+p.Title+"\n\n"+strings.TrimRight(p.Content, "\n"))
	}
	return strings.Join(texts, "\n\n") + "\n"
}

// Contact is who answers for the API.
type Contact struct{ Name, URL, Email string }

// License is under what the API may be used.
type License struct{ Name, Identifier, URL string }

// ExternalDocs points at documentation outside the description.
type ExternalDocs struct{ URL, Description string }

// Extension is an unknown field whose name begins with x-.
type Extension struct {
	Name string
	Node *source.Node
}

// DeprecatedField is the extension by which a description announces what leaves.
const DeprecatedField = "x-ledger-deprecated"

// Tag groups operations.
type Tag struct {
	Name, Description string
	Docs              ExternalDocs
	Node              *source.Node
}

// Server is an address at which the API answers, its variables still in braces.
type Server struct {
	URL, Description string
	Variables        []Variable
	Node             *source.Node
}

// Variable is one variable of a server's address.
type Variable struct {
	Name, Default, Description string
	Enum                       []string
}

// Direction tells who sends the request of an operation.
type Direction uint8

// Clients call an API's operations; the provider calls webhooks and callbacks.
const (
	ClientCalls Direction = iota
	ProviderCalls
)

// Operation is one method at one path, or one webhook or callback.
type Operation struct {
	Direction   Direction
	Webhook     string // the webhook's or callback's name, "" for an ordinary operation
	Owner       string // for a callback: the key of the operation that owns it
	Method      string // upper case
	Path        string // as written, with {names}; a callback's expression
	ID          string
	Summary     string
	Description string
	Tags        []string
	Deprecated  bool
	Parameters  []*Parameter // of path and operation, merged
	Body        *Body        // nil when it has none
	Responses   []*Response
	Security    []Requirement // the alternatives in force; none: nothing is asked
	Servers     []*Server     // those in force
	Callbacks   []*Operation
	Docs        ExternalDocs
	Extensions  []Extension
	Node        *source.Node
	Resource    Resource
	PathNode    *source.Node // the path item
}

// Key names the operation by what stands on the wire: "POST /berths/{}/bookings", "webhook arrival POST".
func (o *Operation) Key() string {
	switch {
	case o.Owner != "":
		return "callback " + o.Webhook + " " + o.Method + " of " + o.Owner
	case o.Webhook != "":
		return "webhook " + o.Webhook + " " + o.Method
	}
	return o.Method + " " + WirePath(o.Path)
}

// Name is what a reader calls the operation: its summary, its id, or its key.
func (o *Operation) Name() string {
	switch {
	case o.Summary != "":
		return o.Summary
	case o.ID != "":
		return o.ID
	}
	return o.Written()
}

// Written is the operation as its author wrote it: "POST /berths/{berth}/bookings".
func (o *Operation) Written() string {
	if o.Owner != "" || o.Webhook != "" {
		return o.Key()
	}
	return o.Method + " " + o.Path
}

// WirePath empties the braces of a path's parameters: their names never reach the wire.
func WirePath(path string) string {
	if !strings.Contains(path, "{") {
		return path
	}
	var b strings.Builder
	for {
		open := strings.IndexByte(path, '{')
		if open < 0 {
			break
		}
		end := strings.IndexByte(path[open:], '}')
		if end < 0 {
			break
		}
		b.WriteString(path[:open])
		b.WriteString("{}")
		path = path[open+end+1:]
	}
	b.WriteString(path)
	return b.String()
}

// PathNames lists the names in a path's braces, in their order.
func PathNames(path string) []string {
	var names []string
	for {
		_, rest, found := strings.Cut(path, "{")
		if !found {
			return names
		}
		name, after, closed := strings.Cut(rest, "}")
		if !closed {
			return names
		}
		names = append(names, name)
		path = after
	}
}

// Parameter is a value outside the body: in the path, the query, a header or a cookie. A response header is
// a Parameter, too, with In "header".
type Parameter struct {
	Name            string
	In              string
	Description     string
	Required        bool
	Deprecated      bool
	AllowEmptyValue bool
	Style           string // filled in with the default of In
	Explode         bool   // filled in with the default of Style
	AllowReserved   bool
	Schema          *Schema // nil when Content is used
	Content         []*Media
	Examples        []Example
	Extensions      []Extension
	Node            *source.Node
}

// Payload is the schema of the parameter's value, and the media type it is written in ("" for a styled value).
func (p *Parameter) Payload() (*Schema, string) {
	if p.Schema == nil && len(p.Content) > 0 {
		return p.Content[0].Schema, p.Content[0].Type
	}
	return p.Schema, ""
}

// Body is a request body.
type Body struct {
	Description string
	Required    bool
	Content     []*Media
	Extensions  []Extension
	Node        *source.Node
}

// Media is one media type of a body, response or parameter.
type Media struct {
	Type       string  // as written: "application/json"
	Schema     *Schema // nil: anything
	Encoding   []*Encoding
	Examples   []Example
	Extensions []Extension
	Node       *source.Node
}

// Encoding tells how one property of a form or multipart body is written.
type Encoding struct {
	Property      string
	ContentType   string
	Style         string // "" where the content type speaks
	Explode       bool
	AllowReserved bool
	Headers       []*Parameter
	Node          *source.Node
}

// Example is an authored example.
type Example struct {
	Name, Summary, Description string
	Value                      *source.Node // nil when it is only linked
	External                   string
}

// Response is what comes back under one status.
type Response struct {
	Status      string // "200", "4XX" or "default"
	Description string
	Headers     []*Parameter
	Content     []*Media
	Links       []Link
	Extensions  []Extension
	Node        *source.Node
}

// Link tells where a response leads.
type Link struct {
	Name, OperationID, OperationRef, Description string
	Parameters, Body                             *source.Node // what to send there: values, or expressions that find them
	Node                                         *source.Node
}

// UnknownScheme is the type of a scheme of which the description does not say how it works.
const UnknownScheme = "unknown"

// SecurityScheme is one way to prove who calls.
type SecurityScheme struct {
	Name         string // its component name
	Type         string // apiKey, http, mutualTLS, oauth2, openIdConnect
	Description  string
	In           string // for apiKey
	Parameter    string // for apiKey: the name of the header, query or cookie field
	Scheme       string // for http: basic, bearer, …
	BearerFormat string
	OpenIDURL    string
	Flows        []Flow
	Extensions   []Extension
	Node         *source.Node
}

// Flow is one OAuth 2 flow.
type Flow struct {
	Name, AuthorizationURL, TokenURL, RefreshURL, DeviceURL string
	Scopes                                                  []Scope
	Node                                                    *source.Node
}

// Scope is one permission that a flow can grant.
type Scope struct{ Name, Description string }

// Requirement is one accepted alternative: all its schemes together.
type Requirement struct {
	Schemes []SchemeUse
	Node    *source.Node
}

// SchemeUse is one scheme with the scopes that must be granted.
type SchemeUse struct {
	Scheme *SecurityScheme
	Scopes []string
}

// All lists every operation: calls, webhooks, and the callbacks of both.
func (c *Contract) All() []*Operation {
	var all []*Operation
	for _, group := range [][]*Operation{c.Operations, c.Webhooks} {
		for _, op := range group {
			all = append(all, op)
			all = append(all, op.Callbacks...)
		}
	}
	return all
}

// Lookup finds an operation by its id or by its key, path parameter names given or left out; nil where there is none.
func (c *Contract) Lookup(ref string) *Operation {
	if op := c.operations[ref]; op != nil {
		return op
	}
	method, path, _ := strings.Cut(ref, " ")
	return c.operations[strings.ToUpper(method)+" "+WirePath(path)]
}

// Schema finds a named schema, or nil.
func (c *Contract) Schema(name string) *Schema { return c.schemas[name] }
