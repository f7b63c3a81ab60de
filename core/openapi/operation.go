package openapi

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// methods are the operations of a path item, in the order in which a reference shows them.
var methods = []string{"get", "post", "put", "patch", "delete", "head", "options", "trace"}

var pathItemKeys = append([]string{"$ref", "summary", "description", "servers", "parameters"}, methods...)

// inherited is what an operation takes over from above when it says nothing itself.
type inherited struct {
	servers  []*contract.Server
	security []contract.Requirement
}

// place says whose operations a path item holds.
type place struct {
	direction      contract.Direction
	webhook, owner string
}

func (r *reader) paths(root *source.Node, base inherited) []*contract.Operation {
	var ops []*contract.Operation
	seen := map[string]source.Member{}
	for _, m := range r.members(root, "paths") {
		if !strings.HasPrefix(m.Key, "/") {
			r.report(m.Value.KeyProblem("a path begins with a slash; write /%s", m.Key))
			continue
		}
		wire := contract.WirePath(m.Key)
		if first, twice := seen[wire]; twice {
			r.report(m.Value.KeyProblem("%s is the same path as %s in line %d; put both under one key", m.Key, first.Key, first.KeyLine))
			continue
		}
		seen[wire] = m
		ops = append(ops, r.pathItem(m.Key, m.Value, place{}, base)...)
	}
	return ops
}

// pathItem reads the operations of one path, webhook or callback expression.
func (r *reader) pathItem(path string, n *source.Node, at place, base inherited) []*contract.Operation {
	if n.Kind == source.Null || !r.is(n, source.Mapping) {
		return nil
	}
	item := r.follow(n)
	if item == nil || !r.is(item, source.Mapping) {
		return nil
	}
	for _, m := range item.Members {
		if !slices.Contains(pathItemKeys, m.Key) && !isExtension(m.Key) {
			r.report(m.Value.KeyProblem("%s is no method and no field of a path%s", m.Key, source.DidYouMean(m.Key, pathItemKeys)))
		}
	}
	if s := r.servers(item); s != nil {
		base.servers = s
	}
	shared := r.parameterList(item)
	var ops []*contract.Operation
	for _, method := range methods {
		node := item.Get(method)
		if node == nil || node.Kind == source.Null || !r.is(node, source.Mapping) {
			continue
		}
		ops = append(ops, r.operation(path, method, item, node, at, base, shared))
	}
	return ops
}

func (r *reader) operation(path, method string, item, n *source.Node, at place, base inherited, shared []*contract.Parameter) *contract.Operation {
	op := &contract.Operation{
		Direction: at.direction, Webhook: at.webhook, Owner: at.owner,
		Method: strings.ToUpper(method), Path: path,
		ID: r.text(n, "operationId"), Summary: r.text(n, "summary"), Description: r.text(n, "description"),
		Tags: r.words(n, "tags"), Deprecated: r.flag(n, "deprecated"), Docs: r.docs(n),
		Servers: base.servers, Security: base.security,
		Extensions: extensions(n), Node: n, PathNode: item,
	}
	if op.Summary == "" {
		op.Summary = r.text(item, "summary")
	}
	if op.Description == "" {
		op.Description = r.text(item, "description")
	}
	op.Parameters = merge(shared, r.parameterList(n))
	if b := n.Get("requestBody"); b != nil {
		op.Body = r.body(b)
	}
	for _, m := range r.members(n, "responses") {
		if !isStatus(m.Key) {
			r.report(m.Value.KeyProblem("%q is no status; write one such as 200, 4XX or default", m.Key))
			continue
		}
		if resp := r.response(strings.ToUpper(m.Key), m.Value); resp != nil {
			op.Responses = append(op.Responses, resp)
		}
	}
	if s := n.Get("security"); s != nil {
		op.Security = r.security(s)
	}
	if s := r.servers(n); s != nil {
		op.Servers = s
	}
	for _, cb := range r.members(n, "callbacks") {
		item := r.follow(cb.Value)
		if item == nil || !r.is(item, source.Mapping) {
			continue
		}
		for _, m := range item.Members {
			if !isExtension(m.Key) {
				op.Callbacks = append(op.Callbacks, r.pathItem(m.Key, m.Value,
					place{direction: contract.ProviderCalls, webhook: cb.Key, owner: op.Key()}, inherited{security: nil})...)
			}
		}
	}
	return op
}

// merge joins the parameters of a path with those of its operation, which win by name and place.
func merge(shared, own []*contract.Parameter) []*contract.Parameter {
	var all []*contract.Parameter
	for _, p := range shared {
		overridden := slices.ContainsFunc(own, func(o *contract.Parameter) bool { return o.In == p.In && o.Name == p.Name })
		if !overridden {
			all = append(all, p)
		}
	}
	return append(all, own...)
}

// isStatus accepts 100 to 599, the classes 1XX to 5XX in either case, and default.
func isStatus(s string) bool {
	if s == "default" {
		return true
	}
	if len(s) != 3 || s[0] < '1' || s[0] > '5' {
		return false
	}
	rest := strings.ToUpper(s[1:])
	return rest == "XX" || rest[0] >= '0' && rest[0] <= '9' && rest[1] >= '0' && rest[1] <= '9'
}

func (r *reader) body(n *source.Node) *contract.Body {
	n = r.object(n)
	if n == nil {
		return nil
	}
	if b, done := r.bodies[n]; done {
		return b
	}
	b := &contract.Body{Description: r.text(n, "description"), Required: r.flag(n, "required"), Node: n}
	r.bodies[n] = b
	b.Content = r.content(n)
	return b
}

func (r *reader) response(status string, n *source.Node) *contract.Response {
	n = r.object(n)
	if n == nil {
		return nil
	}
	resp, done := r.responses[n]
	if !done {
		resp = &contract.Response{Description: r.text(n, "description"), Node: n, Extensions: extensions(n)}
		r.responses[n] = resp
		resp.Content = r.content(n)
		for _, h := range r.members(n, "headers") {
			if strings.EqualFold(h.Key, "Content-Type") {
				continue // the media type says it (OpenAPI 3.1.1, Response Object)
			}
			if p := r.header(h.Key, h.Value); p != nil {
				resp.Headers = append(resp.Headers, p)
			}
		}
		for _, l := range r.members(n, "links") {
			if t := r.object(l.Value); t != nil {
				resp.Links = append(resp.Links, contract.Link{
					Name: l.Key, OperationID: r.text(t, "operationId"), OperationRef: r.text(t, "operationRef"),
					Description: r.text(t, "description"), Node: t,
				})
			}
		}
	}
	shared := *resp // one component may stand under several statuses
	shared.Status = status
	if status == "DEFAULT" {
		shared.Status = "default"
	}
	return &shared
}

// object follows a reference and makes sure that an object stands at its end.
func (r *reader) object(n *source.Node) *source.Node {
	n = r.follow(n)
	if n == nil || !r.is(n, source.Mapping) {
		return nil
	}
	return n
}

func (r *reader) content(n *source.Node) []*contract.Media {
	var media []*contract.Media
	for _, m := range r.members(n, "content") {
		if !r.is(m.Value, source.Mapping) {
			continue
		}
		if !strings.Contains(m.Key, "/") {
			r.report(m.Value.KeyProblem("%q is no media type; write one such as application/json", m.Key))
			continue
		}
		one := &contract.Media{Type: m.Key, Node: m.Value, Examples: r.examples(m.Value)}
		if s := m.Value.Get("schema"); s != nil {
			one.Schema = r.schema(s)
		}
		for _, e := range r.members(m.Value, "encoding") {
			one.Encoding = append(one.Encoding, r.encoding(e))
		}
		media = append(media, one)
	}
	return media
}

func (r *reader) encoding(m source.Member) *contract.Encoding {
	e := &contract.Encoding{
		Property: m.Key, ContentType: r.text(m.Value, "contentType"), Style: r.text(m.Value, "style"),
		Explode: r.flag(m.Value, "explode"), AllowReserved: r.flag(m.Value, "allowReserved"), Node: m.Value,
	}
	if e.Style == "" {
		e.Style = "form"
	}
	if m.Value.Get("explode") == nil {
		e.Explode = e.Style == "form"
	}
	for _, h := range r.members(m.Value, "headers") {
		if p := r.header(h.Key, h.Value); p != nil {
			e.Headers = append(e.Headers, p)
		}
	}
	return e
}

func (r *reader) examples(n *source.Node) []contract.Example {
	var all []contract.Example
	if e := n.Get("example"); e != nil {
		all = append(all, contract.Example{Value: e})
	}
	if list := n.Get("examples"); list != nil && list.Kind == source.Mapping {
		for _, m := range list.Members {
			e := r.object(m.Value)
			if e == nil {
				continue
			}
			all = append(all, contract.Example{
				Name: m.Key, Summary: r.text(e, "summary"), Description: r.text(e, "description"),
				Value: e.Get("value"), External: r.text(e, "externalValue"),
			})
		}
	}
	return all
}
