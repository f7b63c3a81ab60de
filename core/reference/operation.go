package reference

import (
	"strings"

	"oldledger/core/contract"
	"oldledger/core/sample"
)

func (m *maker) operation(op *contract.Operation) *OperationPage {
	key := op.Key()
	p := &OperationPage{
		Slug: Slug(op), Title: op.Name(), Key: key, Method: op.Method, Path: op.Path, Calls: op.Webhook,
		Description: op.Description, Deprecated: op.Deprecated, Margin: m.margin(key), Security: m.security(op), Docs: op.Docs,
	}
	if p.Title == key {
		p.Title = op.Method + " " + op.Path
	}
	for _, place := range []string{"path", "query", "header", "cookie", "querystring"} {
		g := ParameterGroup{Place: place}
		for _, prm := range op.Parameters {
			if prm.In == place {
				g.Fields = append(g.Fields, m.parameter(prm, parameterItem(key, prm.In, parameterName(prm))))
			}
		}
		if len(g.Fields) > 0 {
			p.Parameters = append(p.Parameters, g)
		}
	}
	client := op.Direction == contract.ClientCalls
	if op.Body != nil {
		p.Body = &BodySection{Description: op.Body.Description, Required: op.Body.Required}
		for _, one := range op.Body.Content {
			p.Body.Media = append(p.Body.Media, m.media(one, client, bodyItem(key, one.Type)))
		}
	}
	for _, r := range op.Responses {
		p.Responses = append(p.Responses, m.response(r, key, !client))
	}
	for _, cb := range op.Callbacks {
		if hidden(cb) {
			continue
		}
		p.Callbacks = append(p.Callbacks, Link{firstOf(cb.Summary, cb.Webhook), Slug(cb)})
	}
	p.Address = sample.Server(op)
	p.call, p.Code = m.code(op)
	return p
}

func (m *maker) response(r *contract.Response, op string, clientSends bool) ResponseSection {
	s := ResponseSection{Status: r.Status, Description: r.Description, Margin: m.margin(statusItem(op, r.Status))}
	for _, h := range r.Headers {
		s.Headers = append(s.Headers, m.parameter(h, headerItem(op, r.Status, h.Name)))
	}
	for _, one := range r.Content {
		s.Media = append(s.Media, m.media(one, clientSends, answerItem(op, r.Status, one.Type)))
	}
	for _, l := range r.Links {
		to := m.c.Lookup(l.OperationID)
		if to == nil || hidden(to) {
			continue // it leads to another description, or to what readers do not see
		}
		s.Links = append(s.Links, Link{to.Name(), Slug(to)})
	}
	return s
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

func (m *maker) parameter(p *contract.Parameter, item string) *Field {
	schema, mediaType := p.Payload()
	f := m.field(p.Name, schema, item, nil)
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
	f.Margin = m.margin(item)
	return f
}

func (m *maker) media(one *contract.Media, clientSends bool, item string) MediaSection {
	s := MediaSection{Type: one.Type, Margin: m.margin(item)}
	if one.Schema != nil {
		s.Schema = m.sampled(m.whole("", one.Schema, item), one.Type, clientSends)
	}
	s.Sample = m.sample(one, clientSends)
	if s.Sample != nil && s.Sample.Generated && s.Schema != nil && s.Schema.Choices != nil && s.Schema.Choices[0].Sample != nil {
		s.Sample = nil // each choice has its own
	}
	return s
}
