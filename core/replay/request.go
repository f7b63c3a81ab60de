package replay

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/check"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// request finds what of a request is refused, or read by nobody.
func (s *side) request(e *exchange.Exchange, at match, refuses bool) []*Finding {
	q := &asked{side: s, e: e, op: at.op, written: writtenIn(e, at), refuses: refuses}
	for _, p := range at.op.Parameters {
		q.parameter(p)
	}
	q.undeclared()
	q.security()
	q.body()
	return q.found
}

// asked is a request that is held against an operation.
type asked struct {
	*side
	e       *exchange.Exchange
	op      *contract.Operation
	written written
	refuses bool
	found   []*Finding
}

func (q *asked) tell(kind Kind, grade compare.Grade, at compare.Location, title, message string) {
	q.found = append(q.found, &Finding{
		Kind: kind, Grade: grade, Undecided: kind == NotLooked, Operation: q.op.Written(), Location: at, Title: title, Message: message,
		aspect: title,
	})
}

// refused tells of a value that is refused: once for all values that are for one reason.
func (q *asked) refused(at compare.Location, why refusal, message string) {
	q.tell(Request, compare.Breaking, at, why.title, message)
	if why.valued {
		q.found[len(q.found)-1].aspect = "value"
	}
}

// refusal is why a value is refused.
type refusal struct {
	title  string
	valued bool // whether the title tells the value
}

// maxQuery is how much of a query is shown, in bytes.
const maxQuery = 300

func (q *asked) line() string {
	line := q.e.Method + " " + q.e.URL.EscapedPath()
	if query := q.e.Query(); len(query) > maxQuery {
		line += "?" + strings.ToValidUTF8(query[:maxQuery], "") + "…"
	} else if query != "" {
		line += "?" + query
	}
	return line
}

// parameter holds one parameter against its declaration.
func (q *asked) parameter(p *contract.Parameter) {
	at := compare.Location{Part: compare.PartParameter, In: p.In, Name: p.Name}
	v, there, known := q.written.value(p)
	schema, mediaType := p.Payload()
	switch {
	case p.In == "path" && !there:
		return // several stand in one step
	case !there && p.Required && p.In == "cookie" && len(q.written.cookie) == 0:
		q.tell(NotLooked, compare.Hazard, at, "the recording holds no cookies; "+p.Name+" must be sent", "")
	case !there && p.Required:
		q.tell(Request, compare.Breaking, at, fmt.Sprintf("the %s parameter %s must be sent, and is not", p.In, p.Name), q.line())
	case !there:
	case !known && exchange.IsJSON(mediaType):
		q.refused(at, refusal{title: p.Name + " is no JSON"}, q.line())
	case !known:
		if !q.plainlyAdmitted(schema, v) {
			q.tell(NotLooked, compare.Hazard, at, fmt.Sprintf("how %s is written is not looked into", p.Name), "")
		}
	default:
		role := shape.Role{Request: true, Text: mediaType == ""}
		if holds, decided := q.contains(schema, role, v); decided && !holds {
			q.refused(at, q.whyNot(p.Name, schema, v), q.line())
		} else if !decided {
			q.tell(NotLooked, compare.Hazard, at, "whether "+p.Name+" is admitted could not be decided", q.line())
		}
	}
}

// plainlyAdmitted reports whether a schema says nothing, or admits what a text seems to be, of which nobody can tell whether it is
// meant so.
func (q *asked) plainlyAdmitted(schema *contract.Schema, v *value.Value) bool {
	if schema == nil || !schema.Deref().Asserts() {
		return true
	}
	if v == nil {
		return false
	}
	holds, decided := q.contains(schema, shape.Role{Request: true, Text: true}, v)
	return holds && decided
}

// whyNot says of a parameter what of its value is refused.
func (q *asked) whyNot(name string, schema *contract.Schema, v *value.Value) refusal {
	v = shape.Decode(schema, v)
	f, err := source.Parse("parameter.json", []byte(v.String()))
	if err != nil {
		return refusal{title: name + " is refused"}
	}
	part, why := q.holder().Fault(schema, f.Root)
	if exchange.IsCredential(name, v.Text) || strings.HasSuffix(strings.ToLower(name), "key") {
		return refusal{title: name + " is refused"}
	}
	return q.says(append([]string{name}, wayTo(part)...), schemaAt(schema, wayTo(part)), part, why)
}

func (q *asked) holder() check.Holder {
	return check.Holder{Space: q.space, Roles: []shape.Role{{Request: true}}}
}

// says is why a part is refused, with what would be admitted where only that tells it.
func (q *asked) says(way []string, of *contract.Schema, part *source.Node, why string) refusal {
	valued := of != nil && why == "is refused"
	if valued {
		why = fmt.Sprintf("is %s, and must be %s", shortly(exchange.MaskedValue(part.Value())), check.Admitted(of))
	}
	return refusal{compare.FieldsText(way, "the body") + " " + why, valued}
}

// contains reports whether a schema admits a value, what was masked in it left open.
func (s *side) contains(schema *contract.Schema, role shape.Role, v *value.Value) (holds, known bool) {
	set := s.space.Lower(schema, role)
	if !strings.Contains(v.String(), exchange.Mask) {
		return s.space.Contains(set, v)
	}
	switch s.space.Find(set, s.like(v, true)).Answer {
	case shape.Refuted:
		return true, true
	case shape.Proved:
		return false, true
	}
	return false, false
}

// like is the set of the values that say what a value says, what was masked left open; exact: and nothing else.
func (s *side) like(v *value.Value, exact bool) shape.Shape {
	switch v.Kind {
	case value.String:
		if v.Text == exchange.Mask {
			return s.space.Any()
		}
	case value.Object:
		sets := []shape.Shape{s.kind("object")}
		names := make([]string, 0, len(v.Members))
		for _, m := range v.Members {
			sets = append(sets, s.space.InProperty(m.Name, s.like(m.Value, exact)))
			names = append(names, m.Name)
		}
		if exact {
			sets = append(sets, s.space.EveryOther(names, s.space.Not(s.space.Any())))
		}
		return s.space.All(sets...)
	case value.Array:
		sets := []shape.Shape{s.kind("array")}
		for i, it := range v.Items {
			if exact {
				sets = append(sets, s.space.InItem(i, s.like(it, exact)))
			} else {
				sets = append(sets, s.space.InItemFrom(0, s.like(it, exact)))
			}
		}
		if exact {
			sets = append(sets, s.space.EveryItemFrom(len(v.Items), s.space.Not(s.space.Any())))
		}
		return s.space.All(sets...)
	}
	return s.space.Only(v)
}

func (s *side) kind(name string) shape.Shape {
	return s.space.Lower(&contract.Schema{Types: []string{name}}, shape.Role{})
}

// maxUndeclared is of how many parameters, and of how many members of a body, is told that nobody declares them.
const maxUndeclared = 100

// undeclared tells of parameters of the query that nobody declares.
func (q *asked) undeclared() {
	var declared []*contract.Parameter
	for _, p := range q.op.Parameters {
		if p.In == "query" {
			declared = append(declared, p)
		}
	}
	for _, alternative := range q.op.Security {
		for _, use := range alternative.Schemes {
			if use.Scheme.In == "query" {
				declared = append(declared, &contract.Parameter{Name: use.Scheme.Parameter})
			}
		}
	}
	seen := map[string]bool{}
	for _, f := range q.written.query {
		if len(seen) == maxUndeclared {
			return
		}
		if seen[f.Name] || slices.ContainsFunc(declared, func(p *contract.Parameter) bool { return takes(p, f.Name) }) {
			continue
		}
		seen[f.Name] = true
		at := compare.Location{Part: compare.PartParameter, In: "query", Name: f.Name}
		if q.refuses {
			q.tell(Request, compare.Breaking, at, f.Name+" is not declared, and the server refuses that", q.line())
		} else {
			q.tell(Ignored, compare.Hazard, at, f.Name+" is sent, and nobody reads it", q.line())
		}
	}
}

// takes reports whether a name in the query belongs to a parameter.
func takes(p *contract.Parameter, name string) bool {
	if p.Name == name || p.Name+"[]" == name || p.Style == "deepObject" && strings.HasPrefix(name, p.Name+"[") {
		return true
	}
	schema, _ := p.Payload()
	if schema == nil || p.Schema == nil || !p.Explode || kindOf(schema) != "object" {
		return false
	}
	for _, part := range schema.Conjuncts() {
		if part.Property(name) != nil || len(part.PatternProperties()) > 0 || len(part.Properties) == 0 {
			return true
		}
	}
	return false
}

// security looks whether the request carries one of the credentials that are asked for: not whether they would do.
func (q *asked) security() {
	if len(q.op.Security) == 0 {
		return
	}
	any := false
	for _, alternative := range q.op.Security {
		all := true
		for _, use := range alternative.Schemes {
			carries := q.carries(use.Scheme)
			all = all && carries
		}
		if all {
			return
		}
	}
	for _, h := range q.e.Request.Headers {
		any = any || strings.EqualFold(h.Name, "authorization") || strings.EqualFold(h.Name, "cookie") || h.Value == exchange.Mask
	}
	for _, f := range q.written.query {
		any = any || f.Value == exchange.Mask
	}
	at := compare.Location{Part: compare.PartSecurity}
	if any {
		q.tell(Request, compare.Breaking, at, "the request carries none of the credentials that are asked for", q.line())
		return
	}
	q.tell(NotLooked, compare.Hazard, at, "the recording holds no credentials, and some are asked for", "")
}

func (q *asked) carries(s *contract.SecurityScheme) bool {
	switch s.Type {
	case "apiKey":
		there := false
		switch s.In {
		case "header":
			_, there = q.e.Request.Header(s.Parameter)
		case "query":
			there = slices.ContainsFunc(q.written.query, func(f exchange.Field) bool { return f.Name == s.Parameter })
		case "cookie":
			there = slices.ContainsFunc(q.written.cookie, func(f exchange.Field) bool { return f.Name == s.Parameter })
		}
		return there
	case "http", "oauth2", "openIdConnect":
		scheme := s.Scheme
		if s.Type != "http" {
			scheme = "bearer"
		}
		text, there := q.e.Request.Header("authorization")
		given, _, _ := strings.Cut(text, " ")
		return there && strings.EqualFold(given, scheme)
	}
	return true // it does not stand in the request
}

// body holds the body against what is declared.
func (q *asked) body() {
	body := q.e.Request
	at := compare.Location{Part: compare.PartRequest}
	sent := body.Body != nil || len(body.Form) > 0 || body.Left
	switch {
	case q.op.Body == nil && sent:
		q.tell(Ignored, compare.Hazard, at, "a body is sent, and nobody reads it", q.line())
		return
	case q.op.Body == nil:
		return
	case !sent && q.op.Body.Required:
		q.tell(Request, compare.Breaking, at, "a body must be sent, and is not", q.line())
		return
	case !sent || len(q.op.Body.Content) == 0:
		return
	}
	m := mediaFor(q.op.Body.Content, body.Type)
	if m == nil {
		title := "bodies as " + exchange.Base(body.Type) + " are not read"
		if body.Type == "" {
			title = "the body does not say its media type"
		}
		q.tell(Request, compare.Breaking, at, title, q.line())
		return
	}
	at.MediaType = m.Type
	if m.Schema == nil {
		return
	}
	switch base := exchange.Base(body.Type); {
	case exchange.IsJSON(base) && body.Body != nil:
		q.json(at, m)
	case base == "application/x-www-form-urlencoded" || base == "multipart/form-data":
		q.form(at, m)
	default:
		q.tell(NotLooked, compare.Hazard, at, "bodies as "+base+" are not looked into", "")
	}
}

// mediaFor is the content that a media type is of: the one that names it, or the narrowest range.
func mediaFor(all []*contract.Media, mediaType string) *contract.Media {
	base := exchange.Base(mediaType)
	kind, _, _ := strings.Cut(base, "/")
	for _, like := range []string{base, kind + "/*", "*/*"} {
		for _, m := range all {
			if exchange.Base(m.Type) == like && like != "" {
				return m
			}
		}
	}
	return nil
}

func (q *asked) json(at compare.Location, m *contract.Media) {
	v, err := value.Parse(q.e.Request.Body)
	if err != nil {
		q.refused(at, refusal{title: "the body is no JSON"}, q.line())
		return
	}
	for _, way := range undeclared(m.Schema, v, nil, 0) {
		at.Fields = way
		shown := q.line() + "\n" + projected(exchange.MaskedValue(v), [][]string{way}).Spaced()
		if q.refuses {
			q.tell(Request, compare.Breaking, at, compare.FieldsText(way, "")+" is not declared, and the server refuses that", shown)
			v = without(v, way) // what else is refused is told, too
		} else {
			q.tell(Ignored, compare.Hazard, at, compare.FieldsText(way, "")+" is sent, and nobody reads it", shown)
		}
		q.found[len(q.found)-1].of = ownerOf(m.Schema, way)
	}
	at.Fields = nil
	holds, known := q.contains(m.Schema, shape.Role{Request: true}, v)
	switch {
	case !known:
		q.tell(NotLooked, compare.Hazard, at, "whether the body is admitted could not be decided", q.line())
	case !holds:
		q.refusedBody(at, m, v)
	}
}

// refusedBody tells which part of a body is refused.
func (q *asked) refusedBody(at compare.Location, m *contract.Media, v *value.Value) {
	f, err := source.Parse("body.json", []byte(v.String()))
	if err != nil {
		q.refused(at, refusal{title: "the body is refused"}, q.line())
		return
	}
	part, why := q.holder().Fault(m.Schema, f.Root)
	at.Fields = wayTo(part)
	shown := exchange.MaskedValue(v)
	if len(at.Fields) > 0 {
		shown = projected(shown, [][]string{at.Fields})
	}
	q.refused(at, q.says(at.Fields, schemaAt(m.Schema, at.Fields), part, why), q.line()+"\n"+shown.Spaced())
	q.found[len(q.found)-1].of = ownerOf(m.Schema, at.Fields)
}

// without is a value without what stands at the end of a way.
func without(v *value.Value, way []string) *value.Value {
	switch {
	case v.Kind == value.Array && way[0] == "[]":
		out := value.Arr()
		for _, it := range v.Items {
			out.Items = append(out.Items, without(it, way[1:]))
		}
		return out
	case v.Kind == value.Object:
		out := value.Obj()
		for _, m := range v.Members {
			switch {
			case m.Name != way[0]:
				out.Members = append(out.Members, m)
			case len(way) > 1:
				out.Members = append(out.Members, value.Member{Name: m.Name, Value: without(m.Value, way[1:])})
			}
		}
		return out
	}
	return v
}

// wayTo is the way to a part of a body.
func wayTo(n *source.Node) []string {
	var way []string
	for ; n.Parent() != nil; n = n.Parent() {
		step := n.Step()
		if n.Parent().Kind == source.Sequence {
			step = "[]"
		}
		way = append(way, step)
	}
	slices.Reverse(way)
	return way
}

// undeclared are the members of a value that nothing declares, each once.
func undeclared(schema *contract.Schema, v *value.Value, way []string, depth int) [][]string {
	if schema == nil || depth > 30 {
		return nil
	}
	parts := schema.Conjuncts()
	for _, p := range parts {
		more := p.AdditionalProperties
		if len(p.AnyOf)+len(p.OneOf) > 0 || p.If() != nil || p.Not() != nil || more != nil && more.Bool == nil ||
			len(p.PatternProperties()) > 0 || len(p.PrefixItems()) > 0 || p.Discriminator() != nil {
			return nil // it is declared in more than one way
		}
	}
	var found [][]string
	add := func(ways [][]string) {
		for _, w := range ways {
			if len(found) < maxUndeclared && !slices.ContainsFunc(found, func(f []string) bool { return slices.Equal(f, w) }) {
				found = append(found, w)
			}
		}
	}
	switch v.Kind {
	case value.Array:
		for _, p := range parts {
			for _, it := range v.Items {
				add(undeclared(p.Items, it, append(slices.Clone(way), "[]"), depth+1))
			}
		}
	case value.Object:
		says := slices.ContainsFunc(parts, func(p *contract.Schema) bool { return len(p.Properties) > 0 })
		for _, m := range v.Members {
			below := append(slices.Clone(way), m.Name)
			var own *contract.Schema
			for _, p := range parts {
				if s := p.Property(m.Name); s != nil {
					own = s
				}
			}
			if own == nil && says {
				add([][]string{below})
			}
			add(undeclared(own, m.Value, below, depth+1))
		}
	}
	return found
}

// form holds a form against its schema: every field is text.
func (q *asked) form(at compare.Location, m *contract.Media) {
	fields := q.e.Request.Form
	if len(fields) == 0 && exchange.Base(q.e.Request.Type) == "application/x-www-form-urlencoded" {
		for pair := range bytes.SplitSeq(q.e.Request.Body, []byte("&")) {
			name, text, _ := strings.Cut(string(pair), "=")
			fields = append(fields, exchange.Field{Name: unescaped(name), Value: unescaped(text)})
		}
	}
	if len(fields) == 0 {
		q.tell(NotLooked, compare.Hazard, at, "the recording does not hold the form", "")
		return
	}
	for _, p := range m.Schema.Conjuncts() {
		for _, name := range p.Required {
			if !slices.ContainsFunc(fields, func(f exchange.Field) bool { return f.Name == name }) {
				at.Fields = []string{name}
				q.tell(Request, compare.Breaking, at, "the form lacks "+name+", which is required", q.line())
			}
		}
	}
	for _, f := range fields {
		schema := propertyOf(m.Schema, f.Name)
		if schema == nil || f.File != "" || f.Value == exchange.Mask || kindOf(schema) != "text" {
			continue
		}
		if holds, known := q.contains(schema, shape.Role{Request: true, Text: true}, value.Str(f.Value)); known && !holds {
			at.Fields = []string{f.Name}
			q.refused(at, q.whyNot(f.Name, schema, value.Str(f.Value)), q.line())
		}
	}
}

func propertyOf(s *contract.Schema, name string) *contract.Schema {
	for _, p := range s.Conjuncts() {
		if own := p.Property(name); own != nil {
			return own
		}
	}
	return nil
}
