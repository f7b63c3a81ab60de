package openapi

import (
	"cmp"
	"maps"
	"slices"
	"strconv"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// methods are the operations of a path item, in the order in which a reference shows them.
var methods = []string{"get", "query", "post", "put", "patch", "delete", "head", "options", "trace"}

// pathItemKeys are the fields that a path item has in a dialect.
func pathItemKeys(d dialect) []string {
	keys := slices.Concat([]string{"$ref", "parameters"}, methods)
	if d != v20 {
		keys = append(keys, "summary", "description", "servers")
	}
	if d == v32 {
		return append(keys, "additionalOperations")
	}
	return slices.DeleteFunc(keys, func(k string) bool { return k == "query" || d == v20 && k == "trace" })
}

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
	keys := map[string]bool{} // of operations
	for _, m := range r.members(root, "paths") {
		path := m.Key
		switch {
		case strings.HasPrefix(path, "/"):
		case path == "" || strings.Contains(path, "://") || slices.Contains(methods, path):
			r.report(m.Value.KeyWrong(contract.PathBroken, "%q is no path; one begins with a slash, such as /berths", path))
			continue
		default:
			r.report(m.Value.KeyWrong(contract.PathBroken, "the path %s has no slash at its beginning; write /%s", path, path).Rename(m.Value,
				"/"+path))
			path = "/" + path
		}
		if open := unbalanced(path); open != "" {
			r.report(m.Value.KeyWrong(contract.PathBroken, "a brace in %s is never closed; write {%s}", path, open))
		}
		names := contract.PathNames(path)
		for i, name := range names {
			if name == "" || slices.Contains(names[:i], name) {
				r.report(m.Value.KeyWrong(contract.PathBroken, "the path %s has {%s} more than once, or without a name; give each its own", path, name))
				break
			}
		}
		wire := contract.WirePath(path)
		first, twice := seen[wire]
		if twice {
			r.report(m.Value.KeyWrong(contract.PathTwice, "%s is the same path as %s in line %d; put both under one key", m.Key, first.Key,
				first.KeyLine).
				Also(first.Value, "the same path"))
		} else {
			seen[wire] = m
		}
		for _, op := range r.pathItem(path, m.Value, place{}, base) {
			if keys[op.Key()] {
				r.report(op.Node.KeyWrong(contract.OperationTwice, "%s stands twice, here and under %s in line %d; keep one of them",
					op.Method+" "+op.Path, first.Key, first.KeyLine).Also(first.Value, "the first"))
				continue
			}
			keys[op.Key()] = true
			ops = append(ops, op)
		}
	}
	return ops
}

// unbalanced is the name that a brace begins which nothing closes, "" where all are closed.
func unbalanced(path string) string {
	for {
		_, rest, found := strings.Cut(path, "{")
		if !found {
			return ""
		}
		name, after, closed := strings.Cut(rest, "}")
		if !closed || strings.ContainsAny(name, "{/") {
			name, _, _ = strings.Cut(rest, "/")
			return name
		}
		path = after
	}
}

// pathItem reads the operations of one path, webhook or callback expression.
func (r *reader) pathItem(path string, n *source.Node, at place, base inherited) []*contract.Operation {
	if n.Kind == source.Null || !r.is(n, source.Mapping) {
		return nil
	}
	if ref := n.Get("$ref"); ref != nil {
		for _, m := range n.Members {
			if slices.Contains(methods, m.Key) || m.Key == "parameters" || m.Key == "additionalOperations" {
				r.report(m.Value.KeyWrong(contract.KeyIgnored,
					"%s stands beside $ref, which leaves open what holds, and is left out; put it into what %s names", m.Key, ref.Text))
			}
		}
	}
	item := r.follow(n, "pathItems")
	if item == nil || !r.is(item, source.Mapping) {
		return nil
	}
	if r.open[item] {
		r.report(n.Wrong(contract.ReferenceCircular, "this leads back to the path item in which it stands, without end; it must lead to another"))
		return nil
	}
	r.open[item] = true
	defer delete(r.open, item)
	known := pathItemKeys(r.dialectOf(item))
	for _, m := range item.Members {
		if !slices.Contains(known, m.Key) && !isExtension(m.Key) {
			r.report(r.noMethod(item, m, known))
		}
	}
	if s := r.servers(item); s != nil {
		base.servers = s
	}
	shared := r.parameterList(item)
	var ops []*contract.Operation
	add := func(method string, node *source.Node) {
		if node != nil && node.Kind != source.Null && r.is(node, source.Mapping) {
			ops = append(ops, r.operation(path, method, item, node, at, base, shared))
		}
	}
	for _, method := range methods {
		if slices.Contains(known, method) {
			add(strings.ToUpper(method), item.Get(method))
		}
	}
	for _, m := range r.members(item, "additionalOperations") {
		if slices.Contains(methods, strings.ToLower(m.Key)) {
			r.report(m.Value.KeyWrong(contract.WordUnknown, "%s has a key of its own in a path; write %s", m.Key, strings.ToLower(m.Key)))
			continue
		}
		add(m.Key, m.Value)
	}
	if at.webhook == "" && len(ops) > 0 {
		key := n
		if n.Parent() != nil {
			key = cmp.Or(n.Parent().Named(n.Step()), n)
		}
		r.pathParameters(key, path, ops)
	}
	return ops
}

// noMethod says what is wrong with a key of a path item.
func (r *reader) noMethod(item *source.Node, m source.Member, known []string) *source.Diagnostic {
	if near := source.Nearest(m.Key, known); near != "" && item.Get(near) == nil {
		return m.Value.KeyWrong(contract.KeyMisspelt, "%s is no method and no key of a path; did you mean %q?", m.Key, near).Rename(m.Value, near)
	}
	return m.Value.KeyWrong(contract.KeyUnknown, "%s is no method and no key of a path; a key of your own begins with x-", m.Key)
}

func (r *reader) operation(path, method string, item, n *source.Node, at place, base inherited, shared parameters) *contract.Operation {
	op := &contract.Operation{
		Direction: at.direction, Webhook: at.webhook, Owner: at.owner,
		Method: method, Path: path,
		ID: r.text(n, "operationId"), Summary: r.text(n, "summary"), Description: r.text(n, "description"),
		Tags: r.words(n, "tags"), Deprecated: r.flag(n, "deprecated"), Docs: r.docs(n),
		Servers: base.servers, Security: base.security,
		Resource:   contract.Resource{Name: r.text(item, "summary"), Description: r.text(item, "description")},
		Extensions: extensions(n), Node: n, PathNode: item,
	}
	if op.Summary == "" {
		op.Summary = r.text(item, "summary")
	}
	if op.Description == "" {
		op.Description = r.text(item, "description")
	}
	r.keys(n, "operation")
	r.identify(op)
	for i, tag := range op.Tags {
		if r.grouped && !r.groups[tag] {
			at := n.Get("tags").Items()[i]
			r.report(r.nearFix(at.Wrong(contract.GroupUndeclared, "the tag %s is not declared under tags; %s", tag,
				source.DidYouMean(tag, slices.Sorted(maps.Keys(r.groups)))), at, tag, slices.Sorted(maps.Keys(r.groups))))
		}
	}
	all := shared.overriddenBy(r.parameterList(n))
	op.Parameters = all.list
	if b := n.Get("requestBody"); b != nil && r.dialectOf(n) != v20 {
		op.Body = r.body(b)
	}
	if r.dialectOf(n) == v20 {
		r.operationTwo(op, all)
	}
	if n.Get("responses") == nil && r.dialectOf(n).before31() {
		r.report(n.KeyWrong(contract.KeyMissing, "%s describes no responses; write at least one under responses", method+" "+path))
	}
	for _, m := range r.members(n, "responses") {
		if !isStatus(m.Key) {
			r.report(m.Value.KeyWrong(contract.StatusUnknown, "%q is no status; write one such as 200, 4XX or default", m.Key))
			continue
		}
		if resp := r.responseIn(op, strings.ToUpper(m.Key), m.Value); resp != nil {
			op.Responses = append(op.Responses, resp)
		}
	}
	if s := n.Get("security"); s != nil {
		op.Security = r.security(s)
	}
	if s := r.servers(n); s != nil {
		op.Servers = s
	}
	r.callbacks(op, n)
	return op
}

// identify tells of an operationId that another operation has.
func (r *reader) identify(op *contract.Operation) {
	if op.ID == "" {
		return
	}
	if first := r.ops[op.ID]; first != nil && first.Node != op.Node {
		r.report(op.Node.Get("operationId").Wrong(contract.IDTwice, "the operationId %s is that of %s, too; give each its own", op.ID,
			first.Method+" "+first.Path).Also(first.Node.Get("operationId"), "the first"))
		return
	}
	r.ops[op.ID] = op
}

// responseIn reads a response; in 2.0 its media types are those that the operation produces.
func (r *reader) responseIn(op *contract.Operation, status string, n *source.Node) *contract.Response {
	if r.dialectOf(op.Node) == v20 {
		return r.responseTwo(op, status, n)
	}
	return r.response(status, n)
}

func (r *reader) callbacks(op *contract.Operation, n *source.Node) {
	for _, cb := range r.members(n, "callbacks") {
		item := r.follow(cb.Value, "callbacks")
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
	n = r.object(n, "requestBodies")
	if n == nil {
		return nil
	}
	if b, done := r.bodies[n]; done {
		return b
	}
	r.keys(n, "request body")
	b := &contract.Body{Description: r.text(n, "description"), Required: r.flag(n, "required"), Extensions: extensions(n), Node: n}
	r.bodies[n] = b
	b.Content = r.content(n)
	return b
}

func (r *reader) response(status string, n *source.Node) *contract.Response {
	n = r.object(n, "responses")
	if n == nil {
		return nil
	}
	resp, done := r.responses[n]
	if !done {
		resp = &contract.Response{Description: r.text(n, "description"), Node: n, Extensions: extensions(n)}
		r.responses[n] = resp
		r.responseKeys(n)
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
			if t := r.object(l.Value, "links"); t != nil {
				r.keys(t, "link")
				resp.Links = append(resp.Links, contract.Link{
					Name: l.Key, OperationID: r.text(t, "operationId"), OperationRef: r.text(t, "operationRef"),
					Description: r.text(t, "description"), Parameters: t.Get("parameters"), Body: t.Get("requestBody"), Node: t,
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

// responseKeys tells of the keys of a response, and of the description that each must have.
func (r *reader) responseKeys(n *source.Node) {
	r.keys(n, "response")
	if n.Get("description") == nil && r.dialectOf(n) != v32 {
		r.report(n.KeyWrong(contract.KeyMissing, "this response has no description; write one, if only a word"))
	}
}

// object follows a reference and makes sure that an object stands at its end.
func (r *reader) object(n *source.Node, as string) *source.Node {
	n = r.follow(n, as)
	if n == nil || !r.is(n, source.Mapping) {
		return nil
	}
	return n
}

func (r *reader) content(n *source.Node) []*contract.Media {
	var media []*contract.Media
	for _, m := range r.members(n, "content") {
		if !strings.Contains(m.Key, "/") {
			r.report(m.Value.KeyWrong(contract.MediaTypeBroken, "%q is no media type; write one such as application/json", m.Key))
			continue
		}
		if n := r.object(m.Value, "mediaTypes"); n != nil {
			media = append(media, r.media(m.Key, n))
		}
	}
	return media
}

func (r *reader) media(name string, n *source.Node) *contract.Media {
	r.keys(n, "media type")
	m := &contract.Media{Type: name, Node: n, Examples: r.examples(n), Extensions: extensions(n)}
	if s := n.Get("schema"); s != nil {
		m.Schema = r.schema(s)
	}
	if item := n.Get("itemSchema"); item != nil && r.dialectOf(n) == v32 {
		// A sequence of items is told as the array of them (OpenAPI 3.2.0 section 4.14.3).
		whole := &contract.Schema{Node: n, Types: []string{"array"}, Items: r.schema(item)}
		if m.Schema != nil {
			whole.AllOf = []*contract.Schema{m.Schema}
		}
		m.Schema = whole
	}
	for _, e := range r.members(n, "encoding") {
		m.Encoding = append(m.Encoding, r.encoding(e))
	}
	for i, e := range r.list(n, "prefixEncoding") {
		m.Encoding = append(m.Encoding, r.encoding(source.Member{Key: strconv.Itoa(i), Value: e}))
	}
	if e := n.Get("itemEncoding"); e != nil {
		m.Encoding = append(m.Encoding, r.encoding(source.Member{Key: "every item", Value: e}))
	}
	return m
}

func (r *reader) encoding(m source.Member) *contract.Encoding {
	r.keys(m.Value, "encoding")
	e := &contract.Encoding{
		Property: m.Key, ContentType: r.text(m.Value, "contentType"), Style: r.text(m.Value, "style"),
		Explode: r.flag(m.Value, "explode"), AllowReserved: r.flag(m.Value, "allowReserved"), Node: m.Value,
	}
	if m.Value.Get("explode") == nil {
		e.Explode = e.Style == "" || e.Style == "form"
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
			e := r.object(m.Value, "examples")
			if e == nil {
				continue
			}
			r.keys(e, "example")
			all = append(all, contract.Example{
				Name: m.Key, Summary: r.text(e, "summary"), Description: r.text(e, "description"),
				Value: cmp.Or(e.Get("value"), e.Get("dataValue")), External: r.text(e, "externalValue"),
			})
		}
	}
	return all
}
