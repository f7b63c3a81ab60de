package guide

import (
	"net/url"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// request writes a request of the operation; a body that is handed in stands in place of a sample.
func (w writer) request(op *contract.Operation, body *value.Value) *Message {
	if op.Direction == contract.ProviderCalls {
		return w.event(op)
	}
	m := &Message{Head: op.Method + " " + w.address(op)}
	if op.Body == nil || len(op.Body.Content) == 0 {
		return m
	}
	if body == nil {
		body, _ = w.space.Sample(op.Body.Content[0].Schema, shape.Role{Sends: true, Request: true})
	}
	m.Value = body
	return m
}

// event writes what the API sends to a webhook or callback.
func (w writer) event(op *contract.Operation) *Message {
	m := &Message{Head: op.Method + " to your address, " + op.Webhook}
	if op.Body != nil && len(op.Body.Content) > 0 {
		m.Value, _ = w.space.Sample(op.Body.Content[0].Schema, shape.Role{Sends: true})
	}
	return m
}

// address fills the path with samples and adds the required query parameters.
func (w writer) address(op *contract.Operation) string {
	path := op.Path
	var query []string
	for _, p := range op.Parameters {
		sc, _ := p.Payload()
		if p.In != "path" && (p.In != "query" || !p.Required) || sc == nil {
			continue
		}
		text := "1"
		if v, _ := w.space.Sample(sc, shape.Role{Sends: true, Request: true}); v != nil {
			text = v.String()
			if v.Kind == value.String {
				text = v.Text
			}
		}
		if p.In == "path" {
			path = strings.ReplaceAll(path, "{"+p.Name+"}", url.PathEscape(text))
		} else {
			query = append(query, url.QueryEscape(p.Name)+"="+url.QueryEscape(text))
		}
	}
	base := ""
	if len(op.Servers) > 0 {
		if u, err := url.Parse(op.Servers[0].URL); err == nil {
			base = strings.TrimRight(u.EscapedPath(), "/")
		}
	}
	if len(query) > 0 {
		path += "?" + strings.Join(query, "&")
	}
	return base + path
}

// answer writes what comes back at a witness's position, in one version.
func (w writer) answer(op *contract.Operation, position string) *Message {
	if op == nil {
		return nil
	}
	words := strings.Fields(position)
	for _, r := range op.Responses {
		if r.Status != words[1] {
			continue
		}
		m := &Message{Head: op.Method + " " + w.address(op) + " → " + r.Status}
		if len(r.Content) > 0 {
			m.Head += ", " + r.Content[0].Type
			m.Value, _ = w.space.Sample(r.Content[0].Schema, shape.Role{Sends: true})
		}
		return m
	}
	return nil
}
