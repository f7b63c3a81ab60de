package openapi

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

var places = []string{"path", "query", "header", "cookie"}

var styles = map[string][]string{
	"path":   {"simple", "label", "matrix"},
	"query":  {"form", "spaceDelimited", "pipeDelimited", "deepObject"},
	"header": {"simple"},
	"cookie": {"form"},
}

// parameterList reads the parameters of a path or an operation.
func (r *reader) parameterList(n *source.Node) []*contract.Parameter {
	var all []*contract.Parameter
	for _, it := range r.list(n, "parameters") {
		p := r.parameter(it)
		if p == nil || ignored(p) {
			continue
		}
		if slices.ContainsFunc(all, func(o *contract.Parameter) bool { return o.In == p.In && o.Name == p.Name }) {
			r.report(it.Problem("the %s parameter %s is declared twice", p.In, p.Name))
			continue
		}
		all = append(all, p)
	}
	return all
}

// ignored tells of header parameters that other parts of a description stand for (OpenAPI 3.1.1, Parameter Object).
func ignored(p *contract.Parameter) bool {
	return p.In == "header" && slices.Contains([]string{"accept", "content-type", "authorization"}, strings.ToLower(p.Name))
}

func (r *reader) parameter(n *source.Node) *contract.Parameter {
	n = r.object(n)
	if n == nil {
		return nil
	}
	if p, done := r.parameters[n]; done {
		return p
	}
	name, in := r.text(n, "name"), r.text(n, "in")
	r.parameters[n] = nil
	switch {
	case name == "":
		r.report(n.Problem("a parameter needs a name"))
		return nil
	case in == "":
		r.report(n.Problem("the parameter %s does not say where it stands; add in: query, header, path or cookie", name))
		return nil
	case !slices.Contains(places, in):
		r.report(n.Get("in").Problem("a parameter stands in path, query, header or cookie, not in %q%s", in, source.DidYouMean(in, places)))
		return nil
	}
	p := r.styled(n, name, in)
	p.Required = r.flag(n, "required")
	if in == "path" && !p.Required {
		r.report(n.Problem("the path parameter %s must say required: true", name))
	}
	r.parameters[n] = p
	return p
}

// header reads a response header, which is a parameter whose key is its name.
func (r *reader) header(name string, n *source.Node) *contract.Parameter {
	n = r.object(n)
	if n == nil {
		return nil
	}
	p, done := r.parameters[n]
	if !done {
		p = r.styled(n, name, "header")
		p.Required = r.flag(n, "required")
		r.parameters[n] = p
	}
	if p.Name != name {
		renamed := *p // one component may stand under several names
		renamed.Name = name
		return &renamed
	}
	return p
}

func (r *reader) styled(n *source.Node, name, in string) *contract.Parameter {
	p := &contract.Parameter{
		Name: name, In: in, Description: r.text(n, "description"), Deprecated: r.flag(n, "deprecated"),
		AllowEmptyValue: r.flag(n, "allowEmptyValue"), AllowReserved: r.flag(n, "allowReserved"),
		Style: r.text(n, "style"), Examples: r.examples(n), Extensions: extensions(n), Node: n,
	}
	if p.Style == "" {
		p.Style = styles[in][0]
	} else if !slices.Contains(styles[in], p.Style) {
		r.report(n.Get("style").Problem("a %s parameter has no style %q; it may be %s", in, p.Style, strings.Join(styles[in], ", ")))
	}
	p.Explode = p.Style == "form"
	if n.Get("explode") != nil {
		p.Explode = r.flag(n, "explode")
	}
	if s := n.Get("schema"); s != nil {
		p.Schema = r.schema(s)
	}
	p.Content = r.content(n)
	if p.Schema != nil && len(p.Content) > 0 {
		r.report(n.Get("content").KeyProblem("the parameter %s has both schema and content; keep one of them", name))
	}
	return p
}
