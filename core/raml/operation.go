package raml

import (
	"cmp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// operation reads a method with all that its resource type and traits say.
func (r *reader) operation(method string, n, resource *source.Node, up inherited, security []contract.Requirement) *contract.Operation {
	for _, m := range n.Members {
		if m.Key != "usage" {
			r.keyOf(m, r.methodKeys(), "a method")
		}
	}
	op := &contract.Operation{
		Method: strings.ToUpper(method), Path: up.path, Summary: r.text(n, "displayName"), Description: r.text(n, "description"),
		Resource: contract.Resource{Name: r.text(resource, "displayName"), Description: r.text(resource, "description")},
		Servers:  up.servers, Security: security, Extensions: r.annotations(n, "Method"), Node: n, PathNode: resource,
	}
	op.Summary, op.Description = cmp.Or(op.Summary, op.Resource.Name), cmp.Or(op.Description, op.Resource.Description)
	op.Deprecated = isDeprecated(op.Extensions)
	if up.tag != "" {
		op.Tags = []string{up.tag}
	}
	if n.Get("protocols") != nil || n.Get("baseUriParameters") != nil {
		op.Servers = r.servers(r.tree, n)
	} else if resource.Get("baseUriParameters") != nil {
		op.Servers = r.servers(r.tree, resource)
	}
	if n.Get("securedBy") != nil {
		op.Security = r.secured(n.Get("securedBy"))
	}
	op.Parameters = slices.Clone(up.parameters)
	op.Parameters = append(op.Parameters, r.parametersOf(n, "queryParameters", "query")...)
	op.Parameters = append(op.Parameters, r.queryString(n)...)
	op.Parameters = append(op.Parameters, r.parametersOf(n, "headers", "header")...)
	op.Body = r.body(n)
	for _, m := range r.members(n, "responses") {
		if resp := r.response(m.Key, m); resp != nil {
			op.Responses = append(op.Responses, resp)
		}
	}
	r.describedBy(op)
	return op
}

// uriParameters are those that a resource's own path mentions; one that is not declared is a string (RAML 1.0, Template URIs and
// URI Parameters).
func (r *reader) uriParameters(n *source.Node, own, path string) []*contract.Parameter {
	names := contract.PathNames(path)
	declared := r.members(n, "uriParameters")
	var all []*contract.Parameter
	for _, m := range declared {
		name := strings.TrimSuffix(m.Key, "?")
		if !slices.Contains(names, name) {
			if name == "version" || slices.Contains(contract.PathNames(r.text(r.tree, "baseUri")), name) {
				continue
			}
			r.report(m.Value.KeyWrong(contract.ParameterUnused, "the path %s has no parameter {%s}; %s", path, name, source.DidYouMean(name, names)))
			continue
		}
		all = append(all, r.parameter(name, m.Value, "path"))
	}
	for _, name := range undeclared(contract.PathNames(own), declared) {
		p := &contract.Parameter{
			Name: name, In: "path", Required: true, Style: "simple",
			Schema: &contract.Schema{Node: n, Types: []string{"string"}}, Node: n,
		}
		if name == "mediaTypeExtension" {
			p.Schema.HasEnum = len(r.mediaTypes) > 0
			for _, t := range r.mediaTypes {
				p.Schema.Enum = append(p.Schema.Enum, n.WithText("."+t[strings.LastIndexAny(t, "/+")+1:]))
			}
		}
		all = append(all, p)
	}
	return all
}

// undeclared are the names that no declaration speaks of.
func undeclared(names []string, declared []source.Member) []string {
	var all []string
	for _, name := range names {
		if !slices.Contains(all, name) && !slices.ContainsFunc(declared,
			func(m source.Member) bool { return strings.TrimSuffix(m.Key, "?") == name }) {
			all = append(all, name)
		}
	}
	return all
}

type parameterKey struct {
	n        *source.Node
	in, name string
}

func (r *reader) parametersOf(n *source.Node, key, in string) []*contract.Parameter {
	var all []*contract.Parameter
	for _, m := range r.members(n, key) {
		all = append(all, r.parameter(m.Key, m.Value, in))
	}
	return all
}

// optional takes the question mark off a name that says by it that it need not be there. Where required is said, the mark belongs
// to the name (RAML 1.0, Property Declarations). Query parameters and headers of RAML 0.8 are optional unless they say otherwise.
func (r *reader) optional(name string, n *source.Node, in string) (string, bool) {
	if v := r.val(n); v != nil && v.Kind == source.Mapping && r.field(v, "required") != nil {
		return name, !r.flag(v, "required", true)
	}
	if r.old {
		return name, in != "path"
	}
	plain := strings.TrimSuffix(name, "?")
	return plain, plain != name
}

// parameter reads a named parameter: a declaration of a type, with the name that it goes by.
func (r *reader) parameter(key string, n *source.Node, in string) *contract.Parameter {
	k := parameterKey{n, in, key}
	if p := r.parameters[k]; p != nil {
		return p
	}
	name, optional := r.optional(key, n, in)
	p := &contract.Parameter{Name: name, In: in, Required: !optional, Style: "simple", Node: n}
	if in == "query" {
		p.Style, p.Explode = "form", true
	}
	r.parameters[k] = p
	s := r.typ(n, asString)
	if s.Ref == nil || len(s.Node.Members) > 0 {
		s = s.Copy() // the words and examples of a parameter are said of the parameter
		p.Description, s.Description = s.Description, ""
		p.Examples = r.examplesOf(n)
		if s.Rare != nil {
			p.Extensions, s.Rare.Extensions, s.Rare.Examples = s.Rare.Extensions, nil, nil
		}
		p.Deprecated, s.Deprecated = s.Deprecated, false
	}
	p.Schema = s
	return p
}

// queryString is the whole query as one type (RAML 1.0, The Query String). One that only lists properties is as many parameters;
// anything else is one parameter whose members stand in the query.
func (r *reader) queryString(n *source.Node) []*contract.Parameter {
	q := n.Get("queryString")
	if q == nil {
		return nil
	}
	if n.Get("queryParameters") != nil {
		r.report(q.KeyWrong(contract.BodyTwice, "queryString and queryParameters exclude each other; keep one of them"))
		return nil
	}
	s := r.typ(q, asString)
	if flat := s.Deref(); len(flat.Properties) > 0 && flat.Ref == nil && flat.AllOf == nil && flat.Rare == nil &&
		flat.AdditionalProperties == nil {
		var all []*contract.Parameter
		for _, p := range flat.Properties {
			all = append(all, &contract.Parameter{
				Name: p.Name, In: "query", Required: flat.Requires(p.Name), Style: "form", Explode: true, Schema: p.Schema, Node: p.Schema.Node,
			})
		}
		return all
	}
	return []*contract.Parameter{{Name: "queryString", In: "query", Required: true, Style: "form", Explode: true, Schema: s, Node: q}}
}

// body reads what a request holds. It must be there unless its type admits nothing (null).
func (r *reader) body(n *source.Node) *contract.Body {
	b := r.val(n.Get("body"))
	if b == nil {
		return nil
	}
	media := r.media(b, "RequestBody")
	if len(media) == 0 {
		return nil
	}
	body := &contract.Body{Required: true, Content: media, Node: b}
	for _, m := range media {
		if m.Schema != nil && r.admitsNil(m.Schema, 0) {
			body.Required = false
		}
	}
	return body
}

// media reads the media types of a body, or one declaration for all the default ones (RAML 1.0, Bodies; Default Media Types).
func (r *reader) media(b *source.Node, target string) []*contract.Media {
	members := []source.Member{}
	switch {
	case b.Kind == source.Mapping && hasMediaTypes(b):
		for _, m := range b.Members {
			if isAnnotation(m.Key) {
				continue
			}
			if !strings.Contains(m.Key, "/") {
				r.report(m.Value.KeyWrong(contract.MediaTypeBroken,
					"%s stands beside media types; a body has either media types or one declaration for the default ones", m.Key))
				continue
			}
			members = append(members, m)
		}
	case b.Kind == source.Null || b.Kind == source.Mapping && len(b.Members) == 0:
		return nil
	case len(r.mediaTypes) == 0:
		r.report(b.Wrong(contract.TooLittle,
			"this body has no media type; write it under one such as application/json, or say a default mediaType at the top"))
		return nil
	default:
		for _, t := range r.mediaTypes {
			members = append(members, source.Member{Key: t, Value: b})
		}
	}
	var all []*contract.Media
	for _, m := range members {
		all = append(all, r.medium(m.Key, m.Value, target))
	}
	return all
}

func (r *reader) medium(name string, n *source.Node, target string) *contract.Media {
	m := &contract.Media{Type: name, Node: n}
	v := r.val(n)
	if v == nil || v.Kind == source.Null {
		return m
	}
	if r.old {
		r.oldMedium(m, n, v)
		return m
	}
	r.annotationTarget[v] = target
	s := r.typ(n, asAnything)
	if v.Kind == source.Mapping {
		s = s.Copy()
		m.Examples = r.examplesOf(n)
		if s.Rare != nil {
			s.Rare.Examples = nil
		}
	}
	if s.Asserts() || s.Ref != nil || s.Description != "" || s.Title != "" {
		m.Schema = s
	}
	return m
}

// response reads what comes back under a status.
func (r *reader) response(status string, m source.Member) *contract.Response {
	n := r.val(m.Value)
	if len(status) != 3 || strings.Trim(status, "0123456789") != "" || status[0] < '1' || status[0] > '5' {
		r.report(m.Value.KeyWrong(contract.StatusUnknown, "%q is no status; write one such as 200", status))
		return nil
	}
	if resp := r.responses[m.Value]; resp != nil && resp.Status == status {
		return resp
	}
	resp := &contract.Response{Status: status, Node: m.Value}
	r.responses[m.Value] = resp
	if n == nil || n.Kind == source.Null || !r.is(n, source.Mapping) {
		return resp
	}
	r.keysOf(n, []string{"description", "headers", "body"}, "a response")
	resp.Description, resp.Extensions = r.text(n, "description"), r.annotations(n, "Response")
	resp.Headers = r.parametersOf(n, "headers", "header")
	if b := r.val(n.Get("body")); b != nil {
		resp.Content = r.media(b, "ResponseBody")
	}
	return resp
}
