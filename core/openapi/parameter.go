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
		key := [2]string{in, name}
		if in == "header" {
			key[1] = strings.ToLower(name)
		}
		if seen[key] && name != "" {
			r.report(it.Wrong(contract.ParameterTwice, "the %s parameter %s is declared twice; keep one of them", in, name))
			continue
		}
		seen[key] = true
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
		r.keys(n, "parameter")
		r.report(n.Wrong(contract.ParameterBroken, "this parameter has no name, and is left out; write one"))
		return nil
	case in == "":
		r.keys(n, "parameter")
		r.report(n.Wrong(contract.ParameterBroken,
			"the parameter %s does not say where it stands, and is left out; write in: query, header, path or cookie", name))
		return nil
	case (in == "body" || in == "formData") && r.dialectOf(n) != v20:
		r.report(n.Get("in").Wrong(contract.ParameterBroken,
			"the parameter %s stands in %s, as OpenAPI 2.0 has it, and is left out; write requestBody", name, in))
		return nil
	case !slices.Contains(places, in):
		at := n.Get("in")
		r.report(r.nearFix(at.Wrong(contract.ParameterBroken, "the parameter %s stands in %q, and is left out; write %s%s", name, in,
			orList(places), strings.Replace(source.DidYouMean(in, places), ";", ":", 1)), at, in, places))
		return nil
	}
	r.keys(n, "parameter")
	p := r.styled(n, name, in)
	p.Required = r.flag(n, "required")
	if in == "path" && !p.Required {
		at := n
		if required := n.Get("required"); required != nil {
			at = required
		}
		d := at.Wrong(contract.ParameterOptional, "the path parameter %s does not say that it is required, as every one is; write required: true",
			name)
		if at != n {
			d.Replace(at, "true")
		}
		r.report(d)
		p.Required = true
	}
	r.parameters[n] = p
	return p
}

// pathParameters holds the parameters of the operations of a path against it: one that it uses and nobody declares is a required string,
// and one that it does not use does not exist. key is the path where it stands.
func (r *reader) pathParameters(key *source.Node, path string, ops []*contract.Operation) {
	used := contract.PathNames(path)
	missing := map[string][]*contract.Operation{}
	misspelt := map[string]bool{} // told where it is declared
	for _, op := range ops {
		var undeclared []string
		for _, name := range used {
			if !slices.ContainsFunc(op.Parameters, func(p *contract.Parameter) bool { return p.In == "path" && p.Name == name }) {
				missing[name] = append(missing[name], op)
				undeclared = append(undeclared, name)
			}
		}
		op.Parameters = slices.DeleteFunc(op.Parameters, func(p *contract.Parameter) bool {
			if p.In != "path" || slices.Contains(used, p.Name) {
				return false
			}
			at := cmp.Or(p.Node.Get("name"), p.Node)
			d := r.nearFix(at.Wrong(contract.ParameterUnused, "the path %s does not use the parameter %s; %s", path, p.Name,
				source.DidYouMean(p.Name, undeclared)), at, p.Name, undeclared)
			if near := source.Nearest(p.Name, undeclared); near != "" {
				misspelt[near] = true
				d.Also(key, "the path, which uses {"+near+"}")
			}
			r.report(d)
			return true
		})
	}
	for _, name := range used {
		lacking := missing[name]
		if lacking == nil {
			continue
		}
		at, who := key, "nobody declares it"
		if len(lacking) < len(ops) {
			at, who = lacking[0].Node, lacking[0].Method+" does not declare it"
		}
		if !misspelt[name] {
			r.report(at.KeyWrong(contract.ParameterUndeclared, "the path %s uses {%s}, and %s; declare it under parameters, with in: path", path,
				name, who))
		}
		for _, op := range lacking {
			op.Parameters = append(op.Parameters, &contract.Parameter{
				Name: name, In: "path", Required: true, Style: "simple", Node: key, Schema: &contract.Schema{Types: []string{"string"}, Node: key},
			})
		}
		missing[name] = nil
	}
}

// header reads a response header, which is a parameter whose key is its name.
func (r *reader) header(name string, n *source.Node) *contract.Parameter {
	n = r.object(n, "headers")
	if n == nil {
		return nil
	}
	p, done := r.parameters[n]
	if !done {
		r.keys(n, "header")
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
		at := n.Get("style")
		r.report(r.nearFix(at.Wrong(contract.WordUnknown, "a %s parameter has no style %q; it may be %s", in, p.Style,
			strings.Join(styles[in], ", ")), at, p.Style, styles[in]))
		p.Style = styles[in][0]
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
		r.report(n.Wrong(contract.KeyMissing, "the querystring parameter %s has no content; it is the whole query in some media type", name))
	}
	switch {
	case p.Schema != nil && len(p.Content) > 0:
		r.report(n.Get("content").KeyWrong(contract.ContentTwice,
			"the parameter %s has both schema and content, of which schema counts; keep one of them", name))
		p.Content = nil
	case len(p.Content) > 1:
		r.report(p.Content[1].Node.KeyWrong(contract.ContentTwice,
			"the parameter %s has %d media types, of which the first counts; keep one of them", name, len(p.Content)))
		p.Content = p.Content[:1]
	case p.Schema == nil && len(p.Content) == 0 && in != "querystring" && n.Get("schema") == nil && n.Get("content") == nil:
		r.report(n.KeyWrong(contract.KeyMissing, "%s says nothing of its values; write schema", name))
	}
	return p
}
