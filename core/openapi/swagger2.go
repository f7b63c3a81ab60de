package openapi

import (
	"cmp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// What OpenAPI 2.0 says in words of its own, told in those of 3.x: the values of parameters in the parameter itself, bodies as
// parameters, media types apart from schemas, one host with several transports.

// hosts makes the servers of host, basePath and schemes; an operation may have transports of its own.
func (r *reader) hosts(root, n *source.Node) []*contract.Server {
	schemes := r.words(n, "schemes")
	host, base := r.text(root, "host"), r.text(root, "basePath")
	if base != "" && base[0] != '/' {
		at := root.Get("basePath")
		r.report(at.Wrong(contract.ServerBroken, "basePath has no slash at its beginning; write /%s", base).Rewrite(at, "/"+base))
		base = "/" + base
	}
	if scheme, rest, whole := strings.Cut(host, "://"); whole || strings.Contains(host, "/") {
		if !whole {
			rest = scheme
		}
		name, path, _ := strings.Cut(rest, "/")
		at := root.Get("host")
		d := at.Wrong(contract.ServerBroken, "host is a name and perhaps a port, without scheme and path; write %s", cmp.Or(name, "api.saltmere.example"))
		if name != "" && path == "" {
			d.Rewrite(at, name)
		}
		r.report(d)
		if host = name; path != "" {
			base = "/" + strings.Trim(path, "/") + base
		}
	}
	if host == "" && base == "" {
		return nil
	}
	at := root
	for _, key := range []string{"basePath", "host"} {
		if k := root.Get(key); k != nil {
			at = k
		}
	}
	if host == "" {
		return []*contract.Server{{URL: base, Node: at}}
	}
	if len(schemes) == 0 {
		return []*contract.Server{{URL: "//" + host + base, Node: at}}
	}
	servers := make([]*contract.Server, len(schemes))
	for i, scheme := range schemes {
		servers[i] = &contract.Server{URL: scheme + "://" + host + base, Node: at}
	}
	return servers
}

// sharedTwo reads the shared parameters and responses, so that a fault in them is found.
func (r *reader) sharedTwo(c *contract.Contract, root *source.Node) {
	for _, m := range r.members(root, "parameters") {
		var all parameters
		switch n := r.object(m.Value, "parameters"); {
		case n == nil:
		case r.text(n, "in") == "body" || r.text(n, "in") == "formData":
			r.bodyPart(&all, r.text(n, "in"), r.text(n, "name"), n)
		default:
			if p := r.parameter(n); p != nil {
				c.Shared.Parameters = append(c.Shared.Parameters, contract.Named{Name: m.Key, Parameter: p})
			}
		}
	}
	for _, m := range r.members(root, "responses") {
		if resp := r.responseTwo(&contract.Operation{Node: root}, "", m.Value); resp != nil {
			c.Shared.Responses = append(c.Shared.Responses, contract.Named{Name: m.Key, Response: resp})
		}
	}
}

// bodyPart keeps a parameter that makes the request body.
func (r *reader) bodyPart(all *parameters, in, name string, n *source.Node) {
	r.keys(n, "parameter")
	switch {
	case name == "":
		r.report(n.Wrong(contract.ParameterBroken, "this parameter has no name, and is left out; write one"))
	case in == "formData":
		all.form = append(all.form, n)
		r.simple(n)
	case n.Get("schema") == nil:
		r.report(n.Wrong(contract.KeyMissing, "the body parameter %s has no schema, and is left out; write one", name))
	case all.body != nil:
		r.report(n.Wrong(contract.BodyTwice, "a request has one body, and %s is the second; keep one of them", name))
	default:
		all.body = n
		r.schema(n.Get("schema"))
	}
}

// operationTwo makes the request body, and the servers where the operation has transports of its own.
func (r *reader) operationTwo(op *contract.Operation, all parameters) {
	switch {
	case all.body != nil && len(all.form) > 0:
		r.report(all.form[0].Wrong(contract.BodyTwice, "a request has either a body or form fields, and the body counts; keep one of them"))
		fallthrough
	case all.body != nil:
		op.Body = &contract.Body{Description: r.text(all.body, "description"), Required: r.flag(all.body, "required"), Node: all.body}
		for _, t := range r.mediaTypes(op.Node, "consumes", "application/json") {
			op.Body.Content = append(op.Body.Content, &contract.Media{Type: t, Schema: r.schema(all.body.Get("schema")), Node: all.body})
		}
	case len(all.form) > 0:
		op.Body = r.form(op, all.form)
	}
	if op.Node.Get("schemes") != nil {
		op.Servers = r.hosts(r.set.Entry.Root, op.Node)
	}
}

// mediaTypes are those of the operation, or of the description, or the one to be assumed.
func (r *reader) mediaTypes(n *source.Node, key, assumed string) []string {
	for _, at := range []*source.Node{n, r.set.Entry.Root} {
		list := at.Get(key)
		if list == nil {
			continue
		}
		var types []string
		for i, t := range r.words(at, key) {
			if !strings.Contains(t, "/") {
				if items := list.Items(); i < len(items) && items[i].Text == t {
					r.report(items[i].Wrong(contract.MediaTypeBroken, "%q is no media type; write one such as application/json", t))
				}
				continue
			}
			types = append(types, t)
		}
		if len(types) > 0 || len(list.Items()) == 0 {
			return types
		}
		return []string{assumed}
	}
	return []string{assumed}
}

// form makes one object of the form fields.
func (r *reader) form(op *contract.Operation, fields []*source.Node) *contract.Body {
	// The place of the whole is the operation, or the path where the path declares some of the fields.
	at := op.Node
	for _, f := range fields {
		if p := f.Parent(); p == nil || p.Parent() != op.Node {
			at = op.PathNode
		}
	}
	whole := &contract.Schema{Node: at, Types: []string{"object"}}
	assumed := "application/x-www-form-urlencoded"
	var encodings []*contract.Encoding
	for _, f := range fields {
		s := r.simple(f)
		name := r.text(f, "name")
		whole.Properties = append(whole.Properties, contract.Property{Name: name, Schema: s})
		if r.flag(f, "required") {
			whole.Required = append(whole.Required, name)
		}
		if r.text(f, "type") == "file" {
			assumed = "multipart/form-data"
		}
		if style, explode := r.collection(f, "query"); s.Items != nil && (style != "form" || !explode) {
			encodings = append(encodings, &contract.Encoding{Property: name, Style: style, Explode: explode, Node: f})
		}
	}
	body := &contract.Body{Required: len(whole.Required) > 0, Node: at}
	for _, t := range r.mediaTypes(op.Node, "consumes", assumed) {
		if t != "multipart/form-data" && t != "application/x-www-form-urlencoded" {
			t = assumed // the fields of a form travel in no other type (2.0, Parameter Object)
		}
		if !slices.ContainsFunc(body.Content, func(m *contract.Media) bool { return m.Type == t }) {
			body.Content = append(body.Content, &contract.Media{Type: t, Schema: whole, Encoding: encodings, Node: at})
		}
	}
	return body
}

// simple reads the schema that stands in a parameter, a header or their items.
func (r *reader) simple(n *source.Node) *contract.Schema {
	if s := r.schemas[n]; s != nil {
		return s
	}
	s := &contract.Schema{Node: n}
	r.schemas[n] = s
	unclear := r.unclear
	r.unclear = nil
	defer func() {
		if r.unclear != nil {
			s.EnsureRare().Unclear = r.unclear
		}
		r.unclear = unclear
	}()
	s.Default = n.Get("default")
	s.EnsureRare().Extensions = extensions(n)
	if in := n.Get("in"); in != nil && in.Text == "formData" {
		s.Description = r.text(n, "description")
	}
	switch t := n.Get("type"); {
	case t == nil:
		r.report(n.Wrong(contract.KeyMissing, "this says no type; write one"))
	case t.Kind == source.String && t.Text == "file":
		s.Types, s.EnsureRare().ContentMediaType = []string{"string"}, "application/octet-stream"
		return s
	case t.Kind == source.String && t.Text == "object":
		r.report(t.Wrong(contract.TypeUnknown,
			"a parameter of OpenAPI 2.0 is an object only in the body, and the type is left out; write it with in: body"))
	default:
		r.types(s, n)
	}
	r.numbers(s, n)
	r.strings(s, n)
	s.MinItems, s.MaxItems, s.UniqueItems = r.count(n, "minItems"), r.count(n, "maxItems"), r.flag(n, "uniqueItems")
	if items := n.Get("items"); items != nil && r.is(items, source.Mapping) {
		r.keys(items, "items of a parameter")
		s.Items = r.simple(items)
	} else if slices.Contains(s.Types, "array") {
		r.report(n.Wrong(contract.KeyMissing, "this array does not say what it holds; write items"))
	}
	return s
}

var collections = []string{"csv", "ssv", "tsv", "pipes", "multi"}

// collection is the style of a collectionFormat.
func (r *reader) collection(n *source.Node, in string) (style string, explode bool) {
	if t := n.Get("type"); t == nil || t.Text != "array" {
		return styles[in][0], styles[in][0] == "form"
	}
	format := r.text(n, "collectionFormat")
	switch format {
	case "", "csv":
		return styles[in][0], false
	case "ssv":
		return "spaceDelimited", false
	case "pipes":
		return "pipeDelimited", false
	case "tsv":
		return "tabDelimited", false
	case "multi":
		if in != "query" {
			r.report(n.Get("collectionFormat").Wrong(contract.WordUnknown,
				"multi stands in the query and in forms only, and is left out; write csv"))
			return styles[in][0], false
		}
		return "form", true
	}
	r.report(n.Get("collectionFormat").Wrong(contract.WordUnknown, "there is no collectionFormat %q; %s", format,
		cmp.Or(source.DidYouMean(format, collections), "they are "+orList(collections))))
	return styles[in][0], false
}

// parameterTwo reads a parameter or a header.
func (r *reader) parameterTwo(n *source.Node, name, in string) *contract.Parameter {
	p := &contract.Parameter{
		Name: name, In: in, Description: r.text(n, "description"), AllowEmptyValue: r.flag(n, "allowEmptyValue"),
		Extensions: extensions(n), Node: n, Schema: r.simple(n),
	}
	p.Style, p.Explode = r.collection(n, in)
	return p
}

// responseTwo reads a response; its media types are those that the operation produces.
func (r *reader) responseTwo(op *contract.Operation, status string, n *source.Node) *contract.Response {
	n = r.object(n, "responses")
	if n == nil {
		return nil
	}
	resp := &contract.Response{Status: status, Description: r.text(n, "description"), Node: n, Extensions: extensions(n)}
	if status == "DEFAULT" {
		resp.Status = "default"
	}
	r.responseKeys(n)
	for _, h := range r.members(n, "headers") {
		if p := r.header(h.Key, h.Value); p != nil {
			resp.Headers = append(resp.Headers, p)
		}
	}
	schema := n.Get("schema")
	if schema == nil {
		return resp
	}
	var s *contract.Schema
	if t := schema.Get("type"); t != nil && t.Kind == source.String && t.Text == "file" {
		s = &contract.Schema{Node: schema, Types: []string{"string"}, Rare: &contract.Rare{ContentMediaType: "application/octet-stream"}}
	} else {
		s = r.schema(schema)
	}
	examples := n.Get("examples")
	for _, t := range r.mediaTypes(op.Node, "produces", "application/json") {
		m := &contract.Media{Type: t, Schema: s, Node: n}
		if e := examples.Get(t); e != nil {
			m.Examples = []contract.Example{{Value: e}}
		}
		resp.Content = append(resp.Content, m)
	}
	return resp
}

var schemeTypesTwo = []string{"basic", "apiKey", "oauth2"}

// flowsTwo are the names of the flows, and what 3.x calls them.
var flowsTwo = map[string]string{
	"implicit": "implicit", "password": "password", "application": "clientCredentials",
	"accessCode": "authorizationCode",
}

// schemeTwo reads a security definition.
func (r *reader) schemeTwo(s *contract.SecurityScheme, n *source.Node) *contract.SecurityScheme {
	switch s.Type {
	case "basic":
		s.Type, s.Scheme = "http", "basic"
	case "apiKey":
		if s.In == "" || s.Parameter == "" {
			r.report(n.Wrong(contract.SchemeBroken,
				"the security scheme %s does not say where the key is sent, and under which name; write in and name", s.Name))
			return unknownScheme(s.Name, n)
		}
		if places := keyPlaces[:2]; !slices.Contains(places, s.In) {
			r.keyPlace(s, n, places)
			return unknownScheme(s.Name, n)
		}
	case "oauth2":
		s.Scheme = ""
		given := r.text(n, "flow")
		name, known := flowsTwo[given]
		if !known {
			r.report(n.Wrong(contract.SchemeBroken, "the security scheme %s has no flow %q; they are implicit, password, application and accessCode",
				s.Name, given))
			return unknownScheme(s.Name, n)
		}
		s.Flows = []contract.Flow{{
			Name: name, AuthorizationURL: r.text(n, "authorizationUrl"), TokenURL: r.text(n, "tokenUrl"), Scopes: r.scopes(n), Node: n,
		}}
	default:
		r.report(n.Wrong(contract.SchemeBroken, "the security scheme %s has no known type %q; it may be %s", s.Name, s.Type,
			orList(schemeTypesTwo)))
		return unknownScheme(s.Name, n)
	}
	return s
}
