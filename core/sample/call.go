// Package sample writes calls of an API's operations as code that a reader can run.
//
//	call, ok := sample.Make(op, values)
//	for _, l := range sample.Languages {
//		text := l.Write(call)
//	}
//
// A Call is one concrete request: what stands on the wire, each part still apart from the others, with the credentials of the first
// accepted alternative left to the reader's environment. Parameters are written by their style (OpenAPI 3.1.1, Style Values).
package sample

import (
	"net/url"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/value"
)

// Call is one request.
type Call struct {
	Method      string
	Address     string // of the server and the path, without the query
	Query       []Pair
	Headers     []Pair
	Cookies     []Pair
	Credentials []Credential
	Type        string       // the media type of the body, "" for none
	JSON        *value.Value // the body, when it is JSON
	Text        string       // the body, when it is a text of another kind
	Form        []Pair       // the body, when it is a form (application/x-www-form-urlencoded)
	Parts       []Part       // the body, when it is made of parts (multipart/form-data)

	written string // JSON, once it has been written out
}

// Pair is a name and its value, neither of them escaped.
type Pair struct{ Name, Value string }

// Part is one part of a multipart body: a value, or a file of that name.
type Part struct {
	Name, Value string
	File        string
}

// Credential is something that proves who calls. Its value is the reader's own, and stands in environment variables.
type Credential struct {
	Kind   CredentialKind
	Name   string   // of the header, query parameter or cookie, for a key
	Scopes []string // that it must carry
}

// CredentialKind tells how a credential travels.
type CredentialKind uint8

// A token and a password travel in the header Authorization, a key where its scheme says.
const (
	Bearer CredentialKind = iota
	Basic
	KeyInHeader
	KeyInQuery
	KeyInCookie
)

// Values gives what a parameter or a body is filled with: an authored example, or a value made for it; nil where there is none.
type Values interface {
	Parameter(p *contract.Parameter) *value.Value
	Body(m *contract.Media) *value.Value
}

// Make makes the call of an operation that clients make: all that must be sent, and what has an example. ok is false for what only
// the provider calls.
func Make(op *contract.Operation, values Values) (c *Call, ok bool) {
	if op.Direction != contract.ClientCalls {
		return nil, false
	}
	c = &Call{Method: op.Method}
	path := op.Path
	for _, p := range op.Parameters {
		if p.In != "path" && !p.Required {
			continue
		}
		v := values.Parameter(p)
		if v == nil {
			v = value.Str(p.Name)
		}
		switch p.In {
		case "path":
			path = strings.ReplaceAll(path, "{"+p.Name+"}", inPath(p, v))
		case "query":
			c.Query = append(c.Query, inQuery(p, v)...)
		case "header":
			c.Headers = append(c.Headers, Pair{p.Name, simple(v, p.Explode)})
		case "cookie":
			c.Cookies = append(c.Cookies, inQuery(p, v)...)
		}
	}
	c.Address = Server(op) + path
	c.credentials(op)
	c.body(op, values)
	return c, true
}

// Server is the first address at which the operation answers, its variables filled in; "" where none is said.
func Server(op *contract.Operation) string {
	if len(op.Servers) == 0 {
		return ""
	}
	base := op.Servers[0].URL
	for _, v := range op.Servers[0].Variables {
		base = strings.ReplaceAll(base, "{"+v.Name+"}", v.Default)
	}
	return strings.TrimRight(base, "/")
}

func (c *Call) credentials(op *contract.Operation) {
	if len(op.Security) == 0 {
		return
	}
	for _, u := range op.Security[0].Schemes {
		switch s := u.Scheme; {
		case s.Type == "apiKey":
			kinds := map[string]CredentialKind{"header": KeyInHeader, "query": KeyInQuery, "cookie": KeyInCookie}
			c.Credentials = append(c.Credentials, Credential{kinds[s.In], s.Parameter, u.Scopes})
		case s.Type == "http" && strings.EqualFold(s.Scheme, "basic"):
			c.Credentials = append(c.Credentials, Credential{Kind: Basic, Scopes: u.Scopes})
		case s.Type != "mutualTLS":
			c.Credentials = append(c.Credentials, Credential{Kind: Bearer, Scopes: u.Scopes})
		}
	}
}

// body fills in the first media type that can be written: JSON before a form before all else.
func (c *Call) body(op *contract.Operation, values Values) {
	if op.Body == nil || len(op.Body.Content) == 0 {
		return
	}
	media := op.Body.Content[0]
	for _, m := range op.Body.Content {
		if strings.Contains(m.Type, "json") {
			media = m
			break
		}
	}
	c.Type = media.Type
	v := values.Body(media)
	switch base, _, _ := strings.Cut(media.Type, ";"); {
	case strings.Contains(base, "json"):
		c.JSON = v
		if v == nil {
			c.JSON = value.Obj()
		}
	case base == "application/x-www-form-urlencoded":
		c.Form = pairs(v)
	case strings.HasPrefix(base, "multipart/"):
		c.parts(v, media)
	case v != nil && v.Kind == value.String:
		c.Text = v.Text
	case v != nil:
		c.Text = v.String()
	}
}

func pairs(v *value.Value) []Pair {
	if v == nil {
		return nil
	}
	var all []Pair
	for _, m := range v.Members {
		items := []*value.Value{m.Value}
		if m.Value.Kind == value.Array {
			items = m.Value.Items
		}
		for _, it := range items {
			all = append(all, Pair{m.Name, scalar(it)})
		}
	}
	return all
}

func (c *Call) parts(v *value.Value, media *contract.Media) {
	for _, p := range pairs(v) {
		part := Part{Name: p.Name, Value: p.Value}
		if s := media.Schema.Deref(); s != nil {
			if prop := s.Property(p.Name).Deref(); prop != nil && prop.ContentMediaType() != "" {
				part = Part{Name: p.Name, File: fileName(p.Name)}
			}
		}
		c.Parts = append(c.Parts, part)
	}
}

// fileName is the name of a file that a part sends: one in the reader's own folder, whatever the part is called.
func fileName(part string) string {
	name := strings.Trim(strings.Map(func(c rune) rune {
		if c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '.' || c == '-' {
			return c
		}
		return '_'
	}, part), "._-")
	if name == "" {
		return "file"
	}
	return name
}

// URL is the whole address: the query escaped and behind it.
func (c *Call) URL() string {
	var query []string
	for _, p := range c.Query {
		query = append(query, url.QueryEscape(p.Name)+"="+strings.ReplaceAll(url.QueryEscape(p.Value), "+", "%20"))
	}
	if len(query) == 0 {
		return c.Address
	}
	return c.Address + "?" + strings.Join(query, "&")
}
