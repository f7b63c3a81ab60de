package openapi

import (
	"cmp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// placesIn are the places where a parameter may stand in a dialect.
func placesIn(d dialect) []string {
	switch d {
	case v20:
		return []string{"path", "query", "header", "formData", "body"}
	case v32:
		return []string{"path", "query", "querystring", "header", "cookie"}
	}
	return []string{"path", "query", "header", "cookie"}
}

var styles = map[string][]string{
	"path":        {"simple", "label", "matrix"},
	"query":       {"form", "spaceDelimited", "pipeDelimited", "deepObject"},
	"querystring": {"form"}, // it has content and no style
	"header":      {"simple"},
	"cookie":      {"form", "cookie"},
}

// parameters are those of a path or an operation. In 2.0 some of them make the request body.
type parameters struct {
	list []*contract.Parameter
	body *source.Node
	form []*source.Node
}

// overriddenBy joins the parameters of a path with those of its operation, which win by name and place.
func (ps parameters) overriddenBy(own parameters) parameters {
	all := parameters{body: cmp.Or(own.body, ps.body)}
	for _, p := range ps.list {
		if !slices.ContainsFunc(own.list, func(o *contract.Parameter) bool { return o.In == p.In && o.Name == p.Name }) {
			all.list = append(all.list, p)
		}
	}
	for _, p := range ps.form {
		if !slices.ContainsFunc(own.form, func(o *source.Node) bool { return o.Get("name").Text == p.Get("name").Text }) {
			all.form = append(all.form, p)
		}
	}
	all.list, all.form = append(all.list, own.list...), append(all.form, own.form...)
	return all
}

// parameterList reads the parameters of a path or an operation.
func (r *reader) parameterList(n *source.Node) parameters {
	var all parameters
	seen := map[[2]string]bool{}
	for _, it := range r.list(n, "parameters") {
		n := r.object(it, "parameters")
		if n == nil {
			continue
		}
		in, name := r.text(n, "in"), r.text(n, "name")
		if seen[[2]string{in, name}] {
			r.report(it.Problem("the %s parameter %s is declared twice", in, name))
			continue
		}
		seen[[2]string{in, name}] = true
		if r.dialectOf(n) == v20 && (in == "body" || in == "formData") {
			r.bodyPart(&all, in, name, n)
			continue
		}
		if p := r.parameter(n); p != nil && !ignored(p) {
			all.list = append(all.list, p)
		}
	}
	return all
}

// ignored tells of header parameters that other parts of a description stand for (OpenAPI 3.1.1, Parameter Object).
func ignored(p *contract.Parameter) bool {
	return p.In == "header" && slices.Contains([]string{"accept", "content-type", "authorization"}, strings.ToLower(p.Name))
}

func (r *reader) parameter(n *source.Node) *contract.Parameter {
	n = r.object(n, "parameters")
	if n == nil {
		return nil
	}
	if p, done := r.parameters[n]; done {
		return p
	}
	name, in := r.text(n, "name"), r.text(n, "in")
	places := placesIn(r.dialectOf(n))
	r.parameters[n] = nil
	switch {
	case name == "":
		r.report(n.Problem("a parameter needs a name"))
		return nil
	case in == "":
		r.report(n.Problem("the parameter %s does not say where it stands; add in: query, header, path or cookie", name))
		return nil
	case !slices.Contains(places, in):
		r.report(n.Get("in").Problem("a parameter stands in %s, not in %q%s", orList(places), in, source.DidYouMean(in, places)))
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
	n = r.object(n, "headers")
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

func orList(words []string) string {
	last := len(words) - 1
	return strings.Join(words[:last], ", ") + " or " + words[last]
}

func (r *reader) styled(n *source.Node, name, in string) *contract.Parameter {
	if r.dialectOf(n) == v20 {
		return r.parameterTwo(n, name, in)
	}
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
	p.Explode = p.Style == "form" || p.Style == "cookie"
	if n.Get("explode") != nil {
		p.Explode = r.flag(n, "explode")
	}
	if s := n.Get("schema"); s != nil {
		p.Schema = r.schema(s)
	}
	p.Content = r.content(n)
	if in == "querystring" && len(p.Content) == 0 {
		r.report(n.Problem("the querystring parameter %s needs content: it is the whole query in some media type", name))
	}
	if p.Schema != nil && len(p.Content) > 0 {
		r.report(n.Get("content").KeyProblem("the parameter %s has both schema and content; keep one of them", name))
	}
	return p
}
