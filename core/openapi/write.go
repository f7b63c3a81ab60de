package openapi

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Target is a dialect that Write writes.
type Target string

// The dialects that Write writes: OpenAPI 3.1.1 and 3.0.4.
const (
	To31 Target = "openapi-3.1"
	To30 Target = "openapi-3.0"
)

// Targets lists them, the better one first.
var Targets = []Target{To31, To30}

// Write makes an OpenAPI description of a contract, whatever it was read from. Comparing the two finds nothing above editorial, but
// for what the warnings name: each is the place of something that the target has no words for, or that is written another way.
func Write(c *contract.Contract, to Target) (*value.Value, source.Diagnostics) {
	w := &writer{
		c: c, old: to == To30,
		schemas: map[*contract.Schema]string{}, parts: map[partKey]*part{}, taken: map[string]bool{}, open: map[*contract.Schema]bool{},
	}
	whole := w.whole()
	return whole, w.warnings.Sorted(c.Node.File().Name)
}

// writer writes one description.
type writer struct {
	c        *contract.Contract
	old      bool // OpenAPI 3.0
	warnings source.Diagnostics
	schemas  map[*contract.Schema]string // the component names of schemas
	queue    []*contract.Schema          // named and not yet written
	parts    map[partKey]*part
	order    []*part
	taken    map[string]bool // section/name
	open     map[*contract.Schema]bool
}

// partKey tells parameters, responses and bodies that are one from those that only look alike.
type partKey struct {
	section string
	node    *source.Node
	apart   string // what else tells two of one node apart
}

// part is something that may be shared: how often it is met, and its name once it is a component.
type part struct {
	key   partKey
	hint  string // what it may be called
	uses  int
	named string // its name in the source, or one made for it
	write func() *value.Value
}

// NotCarried is the rule of what another dialect has no words for.
var NotCarried = source.Rule{Name: "not-carried-over", Severity: source.Warning, Means: "The other dialect has no words for it."}

func (w *writer) warn(n *source.Node, format string, args ...any) {
	w.warnings = append(w.warnings, n.KeyWrong(NotCarried, format, args...))
}

// object gathers members, leaving out what says nothing.
type object struct{ members []value.Member }

func (o *object) add(name string, v *value.Value) {
	if v != nil {
		o.members = append(o.members, value.Member{Name: name, Value: v})
	}
}

func (o *object) text(name, text string) {
	if text != "" {
		o.add(name, value.Str(text))
	}
}

func (o *object) flag(name string, set bool) {
	if set {
		o.add(name, value.Bool(true))
	}
}

func (o *object) words(name string, words []string) {
	if words != nil {
		o.add(name, list(words))
	}
}

func (o *object) value() *value.Value { return value.Obj(o.members...) }

// orNil is the object, or nil where nothing was added.
func (o *object) orNil() *value.Value {
	if len(o.members) == 0 {
		return nil
	}
	return o.value()
}

func list(words []string) *value.Value {
	v := value.Arr()
	for _, s := range words {
		v.Items = append(v.Items, value.Str(s))
	}
	return v
}

func (w *writer) whole() *value.Value {
	w.name()
	w.count()
	var o object
	if w.old {
		o.text("openapi", "3.0.4")
	} else {
		o.text("openapi", "3.1.1")
	}
	o.add("info", w.info())
	o.add("servers", w.servers(w.c.Servers))
	o.add("tags", w.tags())
	common := w.commonSecurity()
	if common != nil {
		o.add("security", w.security(*common))
	}
	o.add("externalDocs", w.docs(w.c.Docs))
	paths := w.paths(w.c.Operations, common)
	if paths == nil && (w.old || len(w.c.Webhooks) == 0 && len(w.c.Schemas) == 0) {
		paths = value.Obj()
	}
	o.add("paths", paths)
	if w.old {
		for _, hook := range w.c.Webhooks {
			w.warn(hook.Node, "OpenAPI 3.0 has no webhooks: %s is left out", hook.Webhook)
		}
	} else {
		o.add("webhooks", w.webhooks(common))
	}
	o.add("components", w.components())
	w.extensions(&o, w.c.Extensions, "x-ledger-name")
	return o.value()
}

func (w *writer) info() *value.Value {
	c := w.c
	var o object
	o.add("title", value.Str(c.Title))
	if w.old && c.Summary != "" {
		w.warn(c.Node, "OpenAPI 3.0 has no summary of an API: %q is left out", c.Summary)
	} else {
		o.text("summary", c.Summary)
	}
	if c.Version == "" {
		w.warn(c.Node, "the description says no version, and OpenAPI needs one: 0.0.0 is written")
	}
	o.add("version", value.Str(cmp.Or(c.Version, "0.0.0")))
	o.text("description", c.About())
	o.text("termsOfService", c.Terms)
	var contact, license object
	contact.text("name", c.Contact.Name)
	contact.text("url", c.Contact.URL)
	contact.text("email", c.Contact.Email)
	o.add("contact", contact.orNil())
	license.text("name", c.License.Name)
	if w.old && c.License.Identifier != "" {
		w.warn(c.Node, "OpenAPI 3.0 names no license by an identifier: %s is left out", c.License.Identifier)
	} else {
		license.text("identifier", c.License.Identifier)
	}
	license.text("url", c.License.URL)
	o.add("license", license.orNil())
	o.text("x-ledger-name", c.Name)
	w.extensions(&o, c.InfoExtensions, "x-ledger-name")
	return o.value()
}

func (w *writer) servers(all []*contract.Server) *value.Value {
	if len(all) == 0 {
		return nil
	}
	v := value.Arr()
	for _, s := range all {
		var o object
		o.text("url", s.URL)
		o.text("description", s.Description)
		var variables object
		for _, x := range s.Variables {
			var one object
			if x.Enum != nil {
				one.words("enum", x.Enum)
			}
			if x.Default == "" {
				w.warn(s.Node, "the server parameter {%s} has no default, and OpenAPI needs one: its name is written", x.Name)
			}
			one.text("default", cmp.Or(x.Default, x.Name))
			one.text("description", x.Description)
			variables.add(x.Name, one.value())
		}
		o.add("variables", variables.orNil())
		v.Items = append(v.Items, o.value())
	}
	return v
}

func (w *writer) tags() *value.Value {
	if len(w.c.Tags) == 0 {
		return nil
	}
	v := value.Arr()
	for _, t := range w.c.Tags {
		var o object
		o.text("name", t.Name)
		o.text("description", t.Description)
		o.add("externalDocs", w.docs(t.Docs))
		v.Items = append(v.Items, o.value())
	}
	return v
}

func (w *writer) docs(d contract.ExternalDocs) *value.Value {
	var o object
	o.text("url", d.URL)
	o.text("description", d.Description)
	return o.orNil()
}

func (w *writer) extensions(o *object, all []contract.Extension, but ...string) {
	for _, e := range all {
		if !slices.Contains(but, e.Name) {
			o.add(e.Name, e.Node.Value())
		}
	}
}

// paths writes operations under their paths, in the order in which the paths come.
func (w *writer) paths(ops []*contract.Operation, common *[]contract.Requirement) *value.Value {
	var order []string
	byPath := map[string][]*contract.Operation{}
	for _, op := range ops {
		if byPath[op.Path] == nil {
			order = append(order, op.Path)
		}
		byPath[op.Path] = append(byPath[op.Path], op)
	}
	if len(order) == 0 {
		return nil
	}
	var o object
	for _, p := range order {
		o.add(p, w.pathItem(byPath[p], common))
	}
	return o.value()
}

func (w *writer) webhooks(common *[]contract.Requirement) *value.Value {
	var order []string
	byName := map[string][]*contract.Operation{}
	for _, op := range w.c.Webhooks {
		if byName[op.Webhook] == nil {
			order = append(order, op.Webhook)
		}
		byName[op.Webhook] = append(byName[op.Webhook], op)
	}
	var o object
	for _, name := range order {
		o.add(name, w.pathItem(byName[name], common))
	}
	return o.orNil()
}

// pathItem writes the operations of one path. The path's parameters that all of them have stand above them.
func (w *writer) pathItem(ops []*contract.Operation, common *[]contract.Requirement) *value.Value {
	var o object
	above := ops[0].Resource
	o.text("summary", above.Name)
	o.text("description", above.Description)
	var shared []*contract.Parameter
	for _, p := range ops[0].Parameters {
		if p.In == "path" && !slices.ContainsFunc(ops[1:], func(op *contract.Operation) bool { return !slices.Contains(op.Parameters, p) }) {
			shared = append(shared, p)
		}
	}
	o.add("parameters", w.parameters(shared, nil))
	for _, op := range ops {
		method := strings.ToLower(op.Method)
		if !slices.Contains(methods, method) || method == "query" {
			w.warn(op.Node, "OpenAPI before 3.2 has no method %s: the operation is left out", op.Method)
			continue
		}
		o.add(method, w.operation(op, shared, above, common))
	}
	return o.value()
}

func (w *writer) operation(op *contract.Operation, shared []*contract.Parameter, above contract.Resource,
	common *[]contract.Requirement,
) *value.Value {
	var o object
	o.text("operationId", op.ID)
	if op.Summary != above.Name {
		o.text("summary", op.Summary)
	}
	if op.Description != above.Description {
		o.text("description", op.Description)
	}
	if len(op.Tags) > 0 {
		o.words("tags", op.Tags)
	}
	o.add("externalDocs", w.docs(op.Docs))
	o.flag("deprecated", op.Deprecated)
	if !sameServers(op.Servers, w.c.Servers) {
		o.add("servers", w.servers(op.Servers))
	}
	if op.Owner == "" && (common == nil && len(op.Security) > 0 || common != nil && !sameSecurity(op.Security, *common)) {
		o.add("security", w.security(op.Security))
	}
	o.add("parameters", w.parameters(op.Parameters, shared))
	if op.Body != nil {
		o.add("requestBody", w.referred(w.bodyKey(op.Body)))
	}
	var responses object
	for _, r := range op.Responses {
		name := r.Status
		responses.add(name, w.referred(w.responseKey(r)))
	}
	if len(responses.members) == 0 && w.old {
		w.warn(op.Node, "%s has no response, and OpenAPI 3.0 needs one: default is written", op.Name())
		var nothing object
		nothing.text("description", "What comes back is not described.")
		responses.add("default", nothing.value())
	}
	o.add("responses", responses.orNil())
	o.add("callbacks", w.callbacks(op))
	w.extensions(&o, op.Extensions)
	return o.value()
}

func (w *writer) callbacks(op *contract.Operation) *value.Value {
	var names []string
	byName := map[string][]*contract.Operation{}
	for _, cb := range op.Callbacks {
		if byName[cb.Webhook] == nil {
			names = append(names, cb.Webhook)
		}
		byName[cb.Webhook] = append(byName[cb.Webhook], cb)
	}
	var o object
	for _, name := range names {
		o.add(name, w.paths(byName[name], nil))
	}
	return o.orNil()
}

func sameServers(a, b []*contract.Server) bool {
	return slices.EqualFunc(a, b, func(x, y *contract.Server) bool { return x == y || x.URL == y.URL && x.Description == y.Description })
}

// commonSecurity is what most operations ask for: it is written once, above them. nil where none asks for anything.
func (w *writer) commonSecurity() *[]contract.Requirement {
	var best *[]contract.Requirement
	most := 0
	for i, op := range w.c.Operations {
		n := 0
		for _, other := range w.c.Operations[i:] {
			if sameSecurity(op.Security, other.Security) {
				n++
			}
		}
		if len(op.Security) > 0 && n > most {
			best, most = &op.Security, n
		}
		if i > 50 {
			break // enough to know what is common
		}
	}
	return best
}

func sameSecurity(a, b []contract.Requirement) bool {
	return slices.EqualFunc(a, b, func(x, y contract.Requirement) bool {
		return slices.EqualFunc(x.Schemes, y.Schemes, func(u, v contract.SchemeUse) bool {
			return u.Scheme == v.Scheme &&
				slices.Equal(u.Scopes, v.Scopes)
		})
	})
}

func (w *writer) security(all []contract.Requirement) *value.Value {
	v := value.Arr()
	for _, alternative := range all {
		var o object
		for _, use := range alternative.Schemes {
			o.add(componentKey(use.Scheme.Name), list(use.Scopes))
		}
		v.Items = append(v.Items, o.value())
	}
	return v
}

func (w *writer) components() *value.Value {
	sections := map[string]*object{}
	section := func(name string) *object {
		if sections[name] == nil {
			sections[name] = &object{}
		}
		return sections[name]
	}
	for i := 0; i < len(w.order); i++ { // writing one may meet more
		if p := w.order[i]; p.named != "" {
			section(p.key.section).add(p.named, p.write())
		}
	}
	for i := 0; i < len(w.queue); i++ {
		s := w.queue[i]
		section("schemas").add(w.schemas[s], w.schema(s))
	}
	for _, s := range w.c.Schemes {
		section("securitySchemes").add(componentKey(s.Name), w.scheme(s))
	}
	var o object
	for _, name := range []string{"parameters", "requestBodies", "responses", "headers", "schemas", "securitySchemes"} {
		if sections[name] != nil {
			o.add(name, sections[name].value())
		}
	}
	return o.orNil()
}

func (w *writer) scheme(s *contract.SecurityScheme) *value.Value {
	var o object
	if w.old && s.Type == "mutualTLS" {
		w.warn(s.Node, "OpenAPI 3.0 has no security scheme mutualTLS: %s is written as http with the scheme mutual", s.Name)
		o.text("type", "http")
		o.text("scheme", "mutual")
		o.text("description", s.Description)
		return o.value()
	}
	o.text("type", s.Type)
	o.text("description", s.Description)
	o.text("in", s.In)
	o.text("name", s.Parameter)
	o.text("scheme", s.Scheme)
	o.text("bearerFormat", s.BearerFormat)
	o.text("openIdConnectUrl", s.OpenIDURL)
	var flows object
	for _, f := range s.Flows {
		if f.DeviceURL != "" {
			w.warn(f.Node, "OpenAPI before 3.2 has no flow for devices: %s is left out", f.Name)
			continue
		}
		var one, scopes object
		one.text("authorizationUrl", f.AuthorizationURL)
		one.text("tokenUrl", f.TokenURL)
		one.text("refreshUrl", f.RefreshURL)
		for _, sc := range f.Scopes {
			scopes.add(sc.Name, value.Str(sc.Description))
		}
		one.add("scopes", scopes.value())
		flows.add(f.Name, one.value())
	}
	o.add("flows", flows.orNil())
	w.extensions(&o, s.Extensions)
	return o.value()
}

// componentKey writes a name with the letters that names of components may have (OpenAPI 3.1.1, Components Object).
func componentKey(name string) string {
	return strings.Map(func(c rune) rune {
		if c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || strings.ContainsRune("._-", c) {
			return c
		}
		return '-'
	}, name)
}

// claim takes a free name in a section, with a number behind it where the name is taken.
func (w *writer) claim(section, name string) string {
	name = cmp.Or(componentKey(name), "Part")
	free := name
	for i := 2; w.taken[section+"/"+free]; i++ {
		free = fmt.Sprintf("%s%d", name, i)
	}
	w.taken[section+"/"+free] = true
	return free
}
