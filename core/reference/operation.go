package reference

import (
	"net/url"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/value"
)

func (m *maker) operation(op *contract.Operation) *OperationPage {
	p := &OperationPage{
		Slug: Slug(op), Title: op.Name(), Method: op.Method, Path: op.Path, Calls: op.Webhook,
		Description: op.Description, Deprecated: op.Deprecated, Margin: m.operationMargin(op), Security: m.security(op),
	}
	if p.Title == op.Key() {
		p.Title = op.Method + " " + op.Path
	}
	for _, place := range []string{"path", "query", "header", "cookie"} {
		g := ParameterGroup{Place: place}
		for _, prm := range op.Parameters {
			if prm.In == place {
				g.Fields = append(g.Fields, m.parameter(op, prm))
			}
		}
		if len(g.Fields) > 0 {
			p.Parameters = append(p.Parameters, g)
		}
	}
	client := op.Direction == contract.ClientCalls
	if op.Body != nil {
		p.Body = &BodySection{Description: op.Body.Description, Required: op.Body.Required, Media: m.media(op.Body.Content, client)}
	}
	for _, r := range op.Responses {
		s := ResponseSection{Status: r.Status, Description: r.Description, Media: m.media(r.Content, !client)}
		for _, h := range r.Headers {
			s.Headers = append(s.Headers, m.parameter(nil, h))
		}
		p.Responses = append(p.Responses, s)
	}
	if client {
		p.Sample = m.call(op)
	}
	return p
}

func (m *maker) security(op *contract.Operation) []string {
	var ways []string
	for _, r := range op.Security {
		var parts []string
		for _, u := range r.Schemes {
			text := u.Scheme.Name
			if len(u.Scopes) > 0 {
				text += " with " + strings.Join(u.Scopes, ", ")
			}
			parts = append(parts, text)
		}
		if len(parts) == 0 {
			parts = []string{"nothing"}
		}
		ways = append(ways, strings.Join(parts, " and "))
	}
	return ways
}

func (m *maker) parameter(op *contract.Operation, p *contract.Parameter) *Field {
	schema, mediaType := p.Payload()
	f := m.field(p.Name, schema, nil)
	f.Required, f.Deprecated = p.Required, f.Deprecated || p.Deprecated
	if p.Description != "" {
		f.Description = p.Description
	}
	if mediaType != "" {
		f.Limits = append(f.Limits, "written as "+mediaType)
	}
	if len(p.Examples) > 0 && p.Examples[0].Value != nil {
		f.Example = text(p.Examples[0].Value.Value())
	}
	if op != nil {
		f.Margin = Margin{Since: m.since(func(c *contract.Contract) bool {
			old := c.Lookup(op.Key())
			return old != nil && hasParameter(old, p)
		})}
	}
	return f
}

func hasParameter(op *contract.Operation, p *contract.Parameter) bool {
	for _, o := range op.Parameters {
		if o.In == p.In && (o.Name == p.Name || p.In == "path") {
			return true
		}
	}
	return false
}

func (m *maker) media(list []*contract.Media, clientSends bool) []MediaSection {
	var sections []MediaSection
	for _, one := range list {
		s := MediaSection{Type: one.Type}
		if one.Schema != nil {
			s.Schema = m.field("", one.Schema, nil)
		}
		s.Sample = m.sample(one, clientSends)
		sections = append(sections, s)
	}
	return sections
}

// sample shows an authored example that its schema admits, or a generated one.
func (m *maker) sample(one *contract.Media, clientSends bool) *Sample {
	role := shape.Role{Sends: true, Request: clientSends}
	tolerated := m.space.Lower(one.Schema, shape.Role{Request: clientSends})
	for _, e := range one.Examples {
		if e.Value == nil {
			continue
		}
		v := e.Value.Value()
		if holds, known := m.space.Holds(tolerated, v); holds || !known {
			return &Sample{Text: shown(v)}
		}
	}
	if one.Schema == nil || !strings.Contains(one.Type, "json") {
		return nil
	}
	v, authored := m.space.Sample(one.Schema, role)
	if v == nil {
		return nil
	}
	return &Sample{Text: v.Indented(), Generated: !authored}
}

func shown(v *value.Value) string {
	if v.Kind == value.String {
		return v.Text
	}
	return v.Indented()
}

// call writes the operation as a command line of curl.
func (m *maker) call(op *contract.Operation) *Sample {
	var lines []string
	first := "curl"
	if op.Method != "GET" {
		first += " -X " + op.Method
	}
	lines = append(lines, first+" "+quote(m.address(op)))
	lines = append(lines, m.credentials(op)...)
	for _, p := range op.Parameters {
		if p.In == "header" && p.Required {
			lines = append(lines, "-H "+quote(p.Name+": "+m.parameterText(p)))
		}
	}
	if op.Body != nil && len(op.Body.Content) > 0 {
		media := op.Body.Content[0]
		lines = append(lines, "-H "+quote("Content-Type: "+media.Type))
		if s := m.sample(media, true); s != nil {
			lines = append(lines, "-d "+quote(s.Text))
		}
	}
	return &Sample{Text: strings.Join(lines, " \\\n  "), Generated: true}
}

// quote writes text as one word of a POSIX shell.
func quote(text string) string {
	return "'" + strings.ReplaceAll(text, "'", `'\''`) + "'"
}

// credentials are the words that carry the first accepted alternative; $KEY and the like are the reader's own.
func (m *maker) credentials(op *contract.Operation) []string {
	if len(op.Security) == 0 {
		return nil
	}
	var words []string
	for _, u := range op.Security[0].Schemes {
		switch s := u.Scheme; {
		case s.Type == "apiKey" && s.In == "header":
			words = append(words, `-H "`+s.Parameter+`: $KEY"`)
		case s.Type == "apiKey" && s.In == "cookie":
			words = append(words, `-b "`+s.Parameter+`=$KEY"`)
		case s.Type == "http" && strings.EqualFold(s.Scheme, "basic"):
			words = append(words, `-u "$NAME:$PASSWORD"`)
		case s.Type != "apiKey" && s.Type != "mutualTLS":
			words = append(words, `-H "Authorization: Bearer $TOKEN"`)
		}
	}
	return words
}

func (m *maker) address(op *contract.Operation) string {
	base := ""
	if len(op.Servers) > 0 {
		base = op.Servers[0].URL
		for _, v := range op.Servers[0].Variables {
			base = strings.ReplaceAll(base, "{"+v.Name+"}", v.Default)
		}
	}
	path := op.Path
	var query []string
	for _, p := range op.Parameters {
		switch {
		case p.In == "path":
			path = strings.ReplaceAll(path, "{"+p.Name+"}", url.PathEscape(m.parameterText(p)))
		case p.In == "query" && p.Required:
			query = append(query, url.QueryEscape(p.Name)+"="+url.QueryEscape(m.parameterText(p)))
		}
	}
	if len(query) > 0 {
		path += "?" + strings.Join(query, "&")
	}
	return strings.TrimRight(base, "/") + path
}

func (m *maker) parameterText(p *contract.Parameter) string {
	for _, e := range p.Examples {
		if e.Value != nil {
			return text(e.Value.Value())
		}
	}
	schema, _ := p.Payload()
	if v, _ := m.space.Sample(schema, shape.Role{Sends: true, Request: true}); v != nil {
		return text(v)
	}
	return p.Name
}

// text is a plain value as it stands on the wire; a list is joined by commas.
func text(v *value.Value) string {
	switch v.Kind {
	case value.String:
		return v.Text
	case value.Array:
		parts := make([]string, len(v.Items))
		for i, it := range v.Items {
			parts[i] = text(it)
		}
		return strings.Join(parts, ",")
	}
	return v.String()
}
