package openapi

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// count meets every parameter, body and response once, so that those which several operations share become components.
func (w *writer) count() {
	for _, group := range []struct {
		section string
		all     []contract.Named
	}{
		{"parameters", w.c.Shared.Parameters},
		{"responses", w.c.Shared.Responses},
		{"requestBodies", w.c.Shared.Bodies},
		{"headers", w.c.Shared.Headers},
	} {
		for _, n := range group.all {
			w.share(group.section, n)
		}
	}
	perPath := map[[2]any]bool{}
	for _, op := range w.c.All() {
		for _, p := range op.Parameters {
			// What stands above the operations of a path is met once for the path.
			if key := [2]any{op.Path, p}; p.In != "path" || !perPath[key] {
				perPath[key] = true
				w.meet(w.parameterKey(p))
			}
		}
		if op.Body != nil {
			w.meet(w.bodyKey(op.Body))
		}
		for _, r := range op.Responses {
			w.meet(w.responseKey(r))
		}
	}
}

// share keeps what the source itself shares under its name there.
func (w *writer) share(section string, n contract.Named) {
	var p *part
	switch {
	case n.Parameter != nil && section == "headers":
		p = w.headerKey(n.Parameter)
	case n.Parameter != nil:
		p = w.parameterKey(n.Parameter)
	case n.Response != nil:
		p = w.responseKey(n.Response)
	case n.Body != nil:
		p = w.bodyKey(n.Body)
	}
	if p.named == "" {
		p.named = w.claim(section, n.Name)
	}
}

func (w *writer) meet(p *part) {
	if p.uses++; p.uses == 2 && p.named == "" {
		p.named = w.claim(p.key.section, p.hint)
	}
}

func (w *writer) part(key partKey, hint string, write func() *value.Value) *part {
	p := w.parts[key]
	if p == nil {
		p = &part{key: key, hint: hint, write: write}
		w.parts[key] = p
		w.order = append(w.order, p)
	}
	return p
}

// referred writes a reference to a component, or the thing itself where it has no name.
func (w *writer) referred(p *part) *value.Value {
	if p.named != "" {
		return reference("#/components/" + p.key.section + "/" + p.named)
	}
	return p.write()
}

func reference(to string) *value.Value {
	return value.Obj(value.Member{Name: "$ref", Value: value.Str(to)})
}

func (w *writer) parameterKey(p *contract.Parameter) *part {
	hint := upper(p.Name) + map[string]string{"header": "Header", "cookie": "Cookie"}[p.In]
	return w.part(partKey{"parameters", p.Node, p.In + " " + p.Name}, hint, func() *value.Value { return w.parameter(p) })
}

func (w *writer) headerKey(p *contract.Parameter) *part {
	return w.part(partKey{"headers", p.Node, ""}, p.Name, func() *value.Value { return w.header(p) })
}

func (w *writer) bodyKey(b *contract.Body) *part {
	return w.part(partKey{"requestBodies", b.Node, ""}, "Body", func() *value.Value { return w.body(b) })
}

func (w *writer) responseKey(r *contract.Response) *part {
	types := "" // in OpenAPI 2.0 the operation says the media types of a shared response
	for _, m := range r.Content {
		types += m.Type + "\n"
	}
	return w.part(partKey{"responses", r.Node, types}, responseName(r.Status), func() *value.Value { return w.response(r) })
}

func upper(name string) string {
	if name == "" {
		return name
	}
	return strings.ToUpper(name[:1]) + name[1:]
}

// phrases are the names of statuses (RFC 9110 section 15, and the registry that it founds).
var phrases = map[string]string{
	"200": "OK", "201": "Created", "202": "Accepted", "203": "Non-Authoritative Information", "204": "No Content", "205": "Reset Content",
	"206": "Partial Content",
	"300": "Multiple Choices", "301": "Moved Permanently", "302": "Found", "303": "See Other", "304": "Not Modified",
	"307": "Temporary Redirect",
	"308": "Permanent Redirect", "400": "Bad Request", "401": "Unauthorized", "402": "Payment Required", "403": "Forbidden",
	"404": "Not Found",
	"405": "Method Not Allowed", "406": "Not Acceptable", "407": "Proxy Authentication Required", "408": "Request Timeout", "409": "Conflict",
	"410": "Gone",
	"411": "Length Required", "412": "Precondition Failed", "413": "Content Too Large", "414": "URI Too Long", "415": "Unsupported Media Type",
	"416": "Range Not Satisfiable", "417": "Expectation Failed", "421": "Misdirected Request", "422": "Unprocessable Content",
	"426": "Upgrade Required",
	"428": "Precondition Required", "429": "Too Many Requests", "431": "Request Header Fields Too Large", "500": "Internal Server Error",
	"501": "Not Implemented", "502": "Bad Gateway", "503": "Service Unavailable", "504": "Gateway Timeout", "default": "Any other answer",
}

func responseName(status string) string {
	if status == "default" {
		return "Error"
	}
	if phrase := phrases[status]; phrase != "" {
		return strings.NewReplacer(" ", "", "-", "").Replace(phrase)
	}
	return "Status" + status
}

func (w *writer) parameters(all, but []*contract.Parameter) *value.Value {
	v := value.Arr()
	for _, p := range all {
		if p.In == "querystring" {
			w.warn(p.Node, "OpenAPI before 3.2 has no parameter for a whole query: %s is left out", p.Name)
			continue
		}
		if !slices.Contains(but, p) {
			v.Items = append(v.Items, w.referred(w.parameterKey(p)))
		}
	}
	if len(v.Items) == 0 {
		return nil
	}
	return v
}

func (w *writer) parameter(p *contract.Parameter) *value.Value {
	var o object
	o.text("name", p.Name)
	o.text("in", p.In)
	o.text("description", p.Description)
	o.flag("required", p.Required)
	w.styled(&o, p)
	return o.value()
}

// header writes a response header: a parameter whose key is its name.
func (w *writer) header(p *contract.Parameter) *value.Value {
	var o object
	o.text("description", p.Description)
	o.flag("required", p.Required)
	w.styled(&o, p)
	return o.value()
}

func (w *writer) styled(o *object, p *contract.Parameter) {
	o.flag("deprecated", p.Deprecated)
	o.flag("allowEmptyValue", p.AllowEmptyValue)
	style := p.Style
	if style == "cookie" {
		w.warn(p.Node, "OpenAPI before 3.2 has no style cookie: %s is written in the style form", p.Name)
		style = "form"
	}
	if len(p.Content) == 0 {
		if s := styles[p.In]; len(s) > 0 && style != s[0] {
			o.text("style", style)
		}
		if p.Explode != (style == "form") {
			o.add("explode", value.Bool(p.Explode))
		}
		o.flag("allowReserved", p.AllowReserved)
	}
	if p.Schema != nil {
		o.add("schema", w.sub(p.Schema))
	}
	o.add("content", w.content(p.Content))
	if p.Schema == nil && len(p.Content) == 0 {
		o.add("schema", value.Obj())
	}
	w.examples(o, p.Examples)
	w.extensions(o, p.Extensions)
}

func (w *writer) examples(o *object, all []contract.Example) {
	if len(all) == 1 && all[0].Name == "" && all[0].Summary == "" && all[0].Description == "" && all[0].Value != nil {
		o.add("example", all[0].Value.Value())
		return
	}
	var named object
	for i, e := range all {
		var one object
		one.text("summary", e.Summary)
		one.text("description", e.Description)
		if e.Value != nil {
			one.add("value", e.Value.Value())
		}
		one.text("externalValue", e.External)
		name := e.Name
		if name == "" {
			name = "example"
			if i > 0 {
				name += string(rune('0' + i%10))
			}
		}
		named.add(name, one.value())
	}
	o.add("examples", named.orNil())
}

func (w *writer) body(b *contract.Body) *value.Value {
	var o object
	o.text("description", b.Description)
	o.flag("required", b.Required)
	content := w.content(b.Content)
	if content == nil {
		content = value.Obj()
	}
	o.add("content", content)
	w.extensions(&o, b.Extensions)
	return o.value()
}

func (w *writer) content(all []*contract.Media) *value.Value {
	var o object
	for _, m := range all {
		o.add(m.Type, w.media(m))
	}
	return o.orNil()
}

func (w *writer) media(m *contract.Media) *value.Value {
	var o object
	if m.Schema != nil {
		o.add("schema", w.sub(m.Schema))
	}
	w.examples(&o, m.Examples)
	var encodings object
	for _, e := range m.Encoding {
		var one, headers object
		one.text("contentType", e.ContentType)
		one.text("style", e.Style)
		if e.Style != "" && e.Explode != (e.Style == "form") || e.Style == "" && !e.Explode {
			one.add("explode", value.Bool(e.Explode))
		}
		one.flag("allowReserved", e.AllowReserved)
		for _, h := range e.Headers {
			headers.add(h.Name, w.referred(w.headerKey(h)))
		}
		one.add("headers", headers.orNil())
		encodings.add(e.Property, one.value())
	}
	o.add("encoding", encodings.orNil())
	w.extensions(&o, m.Extensions)
	return o.value()
}

func (w *writer) response(r *contract.Response) *value.Value {
	var o object
	text := r.Description
	if text == "" {
		if text = phrases[r.Status]; text == "" {
			text = "Status " + r.Status
		}
	}
	o.text("description", text)
	var headers, links object
	for _, h := range r.Headers {
		headers.add(h.Name, w.referred(w.headerKey(h)))
	}
	o.add("headers", headers.orNil())
	o.add("content", w.content(r.Content))
	for _, l := range r.Links {
		var one object
		one.text("operationId", l.OperationID)
		one.text("operationRef", l.OperationRef)
		one.text("description", l.Description)
		one.add("parameters", valueOf(l.Parameters))
		one.add("requestBody", valueOf(l.Body))
		links.add(l.Name, one.value())
	}
	o.add("links", links.orNil())
	w.extensions(&o, r.Extensions)
	return o.value()
}

func valueOf(n *source.Node) *value.Value {
	if n == nil {
		return nil
	}
	return n.Value()
}
