package housestyle

import (
	"context"

	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/class"
	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// examination is one description under the rules of one style.
type examination struct {
	ctx     context.Context
	c       *contract.Contract
	files   []*source.File
	style   *Style
	options Options
	house   *element

	asLists map[string]ref.Val        // lists as values, from when they are asked
	lists   map[string][]*element     // the elements of the few kinds that conditions may list, in the author's order
	ways    map[*contract.Schema]ways // in which directions the values of each schema travel; shared counts, too
	asks    map[string]bool           // the security schemes that an operation asks for, by their names; from when it is asked
	tags    map[string]bool           // the groups that have operations; from when it is asked
	most    func() map[string]string  // how most names of each setting are written; from when it is asked, or begun beside the walk
	seen    map[*source.Node]visited  // what the walk met

	fields   map[string][]*element // the fields by their names, of the rules that look at several
	objects  []*element            // the schemas that declare fields
	failures []*element            // the answers that are failures

	classes func() *class.Classes // the schemas by what they say; begun beside the walk
	secrets func() []shown        // what looks like a credential; begun beside the walk

	spent   uint64 // what the questions of the house's own rules cost so far
	found   Findings
	choices bool                          // whether a rule speaks of single values of lists
	values  map[*source.File]*value.Value // of the files in which JSONPaths look
	failed  map[string]bool               // the rules that could not be judged somewhere
	judged  map[string]bool               // the rules that are judged
	stands  []*exception                  // what authors let stand
}

// visited are the kinds as which a node was met.
type visited uint8

const (
	asSchema visited = 1 << iota
	asField
	asOther
)

// shared is a way, too: that of what is shared under a name, whether anything uses it or not.
const shared ways = 1 << 2

// declared is that of what stands under a name, whether anything reaches it or not.
const declared ways = 1 << 3

// heldKinds are the kinds of which the examination holds the elements.
var heldKinds = []string{"api", "server", "group", "scheme", "scope", "path", "operation", "type"}

func (x *examination) of(kind string) []*element { return x.lists[kind] }

// listed are the elements of a kind as a value.
func (x *examination) listed(kind string) ref.Val {
	v, ok := x.asLists[kind]
	if !ok {
		v = elements(x.lists[kind])
		x.asLists[kind] = v
	}
	return v
}

func (x *examination) make(kind string, n *source.Node, name string, part any, of *element) *element {
	return &element{x: x, kind: kindByName[kind], node: n, name: name, part: part, of: of}
}

func (x *examination) parameter(kind string, p *contract.Parameter, of *element, w ways) *element {
	e := x.make(kind, p.Node, p.Name, p, of)
	e.schema, _ = p.Payload()
	e.ways = w
	return e
}

func (x *examination) contents(list []*contract.Media, of *element, w ways) []*element {
	all := make([]*element, len(list))
	for i, m := range list {
		all[i] = x.make("content", m.Node, m.Type, m, of)
		all[i].schema, all[i].ways = m.Schema, w
	}
	return all
}

func (x *examination) schemaElement(s *contract.Schema, of *element, role string, w ways) *element {
	e := x.make("schema", s.Node, s.Name, nil, of)
	e.schema, e.role, e.ways = s, role, w|x.ways[s]
	if e.name == "" && of != nil && role == "" {
		e.name = of.name
	}
	return e
}

func (x *examination) field(owner *contract.Schema, p contract.Property, of *element, w ways) *element {
	e := x.make("field", p.Schema.Node, p.Name, nil, of)
	e.schema, e.owner, e.ways = p.Schema, owner, w
	return e
}

func (x *examination) scopesOf(s *contract.SecurityScheme, of *element) []*element {
	var all []*element
	for _, f := range s.Flows {
		for _, scope := range f.Scopes {
			n := f.Node
			if in := n.Get("scopes"); in != nil && in.Get(scope.Name) != nil {
				n = in.Get(scope.Name)
			}
			all = append(all, x.make("scope", n, scope.Name, scope, of))
		}
	}
	return all
}

func (x *examination) node(n *source.Node) *element { return x.make("node", n, n.Step(), nil, nil) }

// grouped are the groups that have operations.
func (x *examination) grouped() map[string]bool {
	if x.tags == nil {
		x.tags = map[string]bool{}
		for _, op := range x.c.All() {
			for _, t := range op.Tags {
				x.tags[t] = true
			}
		}
	}
	return x.tags
}

// asked are the security schemes that an operation asks for.
func (x *examination) asked() map[string]bool {
	if x.asks == nil {
		x.asks = map[string]bool{}
		for _, op := range x.c.All() {
			for _, r := range op.Security {
				for _, s := range r.Schemes {
					x.asks[s.Scheme.Name] = true
				}
			}
		}
	}
	return x.asks
}

// direct finds out in which directions the values of each schema travel.
func (x *examination) direct() {
	heirs := x.c.Heirs()
	var mark func(s *contract.Schema, w ways)
	mark = func(s *contract.Schema, w ways) {
		if s == nil || x.ways[s]|w == x.ways[s] {
			return
		}
		x.ways[s] |= w
		mark(s.Ref, w)
		s.EachInner(func(in *contract.Schema) { mark(in, w) })
		for _, h := range heirs[s] {
			mark(h, w)
		}
		if d := s.Discriminator(); d != nil {
			for _, m := range d.Mapping {
				mark(x.c.Schema(m.Target), w)
			}
		}
	}
	parameters := func(list []*contract.Parameter, w ways) {
		for _, p := range list {
			s, _ := p.Payload()
			mark(s, w)
		}
	}
	media := func(list []*contract.Media, w ways) {
		for _, m := range list {
			mark(m.Schema, w)
		}
	}
	for _, op := range x.c.All() {
		in, out := sent, received
		if op.Direction == contract.ProviderCalls {
			in, out = received, sent
		}
		parameters(op.Parameters, in)
		if op.Body != nil {
			media(op.Body.Content, in)
		}
		for _, r := range op.Responses {
			parameters(r.Headers, out)
			media(r.Content, out)
		}
	}
	x.c.Visit(contract.Visitor{
		Parameter: func(p *contract.Parameter) { parameters([]*contract.Parameter{p}, shared) },
		Media:     func(m *contract.Media) { mark(m.Schema, shared) },
	})
	for _, s := range x.c.Schemas {
		mark(s, declared)
	}
}

// list makes the elements of the few kinds that conditions may list.
func (x *examination) list() {
	add := func(e *element) *element {
		if e.node == nil || !x.first(e.node, asOther) {
			return nil
		}
		x.lists[e.kind.name] = append(x.lists[e.kind.name], e)
		return e
	}
	about := x.c.Node
	if info := about.Get("info"); info != nil {
		about = info
	}
	x.lists["api"] = []*element{x.make("api", about, x.c.Name, x.c, nil)}
	api := x.lists["api"][0]
	listed := map[*contract.Server]bool{} // the first of each list
	for i, s := range x.c.Servers {
		listed[s] = listed[s] || i == 0
		add(x.make("server", s.Node, s.URL, s, api))
	}
	for _, t := range x.c.Tags {
		add(x.make("group", t.Node, t.Name, t, api))
	}
	for _, s := range x.c.Schemes {
		if e := add(x.make("scheme", s.Node, s.Name, s, api)); e != nil {
			x.lists["scope"] = append(x.lists["scope"], x.scopesOf(s, e)...)
		}
	}
	for _, op := range x.c.All() {
		if op.Webhook == "" && op.PathNode != nil {
			add(x.make("path", op.PathNode, op.Path, nil, api))
		}
		add(x.make("operation", op.Node, op.Name(), op, api))
		if len(op.Servers) == 0 || listed[op.Servers[0]] {
			continue // it has those of the API, or of its path
		}
		listed[op.Servers[0]] = true
		for _, s := range op.Servers {
			add(x.make("server", s.Node, s.URL, s, api))
		}
	}
	for _, s := range x.c.Schemas {
		e := x.make("type", s.Node, s.Name, nil, api)
		e.schema, e.ways = s, x.ways[s]
		if s.Node != nil {
			x.lists["type"] = append(x.lists["type"], e)
		}
	}
}

// first reports whether a node is met as something for the first time.
func (x *examination) first(n *source.Node, as visited) bool {
	if n == nil {
		return false
	}
	n = n.Origin()
	if x.seen[n]&as != 0 {
		return false
	}
	x.seen[n] |= as
	return true
}

// walk visits every element once, each where its author wrote it, as long as visit says so.
func (x *examination) walk(visit func(*element)) {
	for _, kind := range heldKinds {
		for _, e := range x.lists[kind] {
			visit(e)
		}
	}
	w := &walker{x, visit}
	for _, e := range x.lists["operation"] {
		w.operation(e, e.part.(*contract.Operation))
	}
	api := x.lists["api"][0]
	for _, p := range x.c.Shared.Parameters {
		w.parameter(x.parameter("parameter", p.Parameter, api, sent))
	}
	for _, b := range x.c.Shared.Bodies {
		w.body(x.make("body", b.Body.Node, b.Name, b.Body, api), b.Body, sent)
	}
	for _, r := range x.c.Shared.Responses {
		w.response(x.make("response", r.Response.Node, r.Name, r.Response, api), r.Response, received)
	}
	for _, h := range x.c.Shared.Headers {
		w.parameter(x.parameter("header", h.Parameter, api, received))
	}
	for _, e := range x.lists["type"] {
		w.schema(e.schema, e, "", e.ways)
	}
}

// walker visits the elements below the operations.
type walker struct {
	x     *examination
	visit func(*element)
}

func (w *walker) operation(e *element, op *contract.Operation) {
	in, out := sent, received
	if op.Direction == contract.ProviderCalls {
		in, out = received, sent
	}
	for _, p := range op.Parameters {
		w.parameter(w.x.parameter("parameter", p, e, in))
	}
	if op.Body != nil {
		w.body(w.x.make("body", op.Body.Node, "", op.Body, e), op.Body, in)
	}
	for _, r := range op.Responses {
		w.response(w.x.make("response", r.Node, r.Status, r, e), r, out)
	}
}

func (w *walker) parameter(e *element) {
	if !w.x.first(e.node, asOther) {
		return
	}
	w.visit(e)
	p := e.part.(*contract.Parameter)
	w.schema(p.Schema, e, "", e.ways)
	w.contents(p.Content, e, e.ways)
}

func (w *walker) body(e *element, b *contract.Body, to ways) {
	if !w.x.first(e.node, asOther) {
		return
	}
	w.visit(e)
	w.contents(b.Content, e, to)
}

func (w *walker) response(e *element, r *contract.Response, to ways) {
	if !w.x.first(e.node, asOther) {
		return
	}
	w.visit(e)
	for _, h := range r.Headers {
		w.parameter(w.x.parameter("header", h, e, to))
	}
	w.contents(r.Content, e, to)
}

func (w *walker) contents(list []*contract.Media, of *element, to ways) {
	for _, e := range w.x.contents(list, of, to) {
		if e.node != nil && w.x.first(e.node, asOther) {
			w.visit(e)
		}
		w.schema(e.schema, e, "", to)
	}
}

// schema visits a schema in its place, and all parts of it; what has a name is visited there.
func (w *walker) schema(s *contract.Schema, of *element, role string, to ways) {
	if s == nil || s.Node == nil || w.x.ctx.Err() != nil || s.Name != "" && of.kind.name != "type" {
		return
	}
	if s.Ref != nil && s.Ref.Name == "" && s.Bare() {
		w.schema(s.Ref, of, role, to)
		return
	}
	if !w.x.first(s.Node, asSchema) {
		return
	}
	e := w.x.schemaElement(s, of, role, to)
	if !s.Bare() {
		w.visit(e)
	}
	if s.HasEnum && w.x.choices {
		w.listed(s, e)
	}
	for _, p := range s.Properties {
		if p.Schema == nil || p.Schema.Node == nil {
			continue
		}
		f := w.x.field(s, p, e, e.ways)
		if w.x.first(p.Schema.Node, asField) {
			w.visit(f)
		}
		w.schema(p.Schema, f, "", e.ways)
	}
	w.schema(s.Items, e, "items", e.ways)
	w.schema(s.AdditionalProperties, e, "members", e.ways)
	for _, list := range [][]*contract.Schema{s.AllOf, s.AnyOf, s.OneOf} {
		for _, part := range list {
			w.schema(part, e, "part", e.ways)
		}
	}
	if s.Rare == nil {
		return
	}
	inner := map[*contract.Schema]bool{s.Items: true, s.AdditionalProperties: true}
	for _, p := range s.Properties {
		inner[p.Schema] = true
	}
	s.EachInner(func(in *contract.Schema) {
		if !inner[in] {
			w.schema(in, e, "part", e.ways)
		}
	})
}

func (w *walker) listed(s *contract.Schema, of *element) {
	for _, n := range s.Enum {
		if n == nil || n.Kind != source.String {
			continue
		}
		e := w.x.make("value", n, n.Text, nil, of)
		e.schema, e.ways = s, of.ways
		w.visit(e)
	}
}
