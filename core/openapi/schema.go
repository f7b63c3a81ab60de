package openapi

import (
	"cmp"
	"fmt"
	"math/big"
	"path"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

var jsonTypes = []string{"null", "boolean", "integer", "number", "string", "array", "object"}

// schemaKey names one reading of a schema: what $dynamicRef means in it depends on the scope in which it is met.
type schemaKey struct {
	node  *source.Node
	scope string
}

// schema reads a schema once; a second visit, also from inside itself, gives the same pointer.
func (r *reader) schema(n *source.Node) *contract.Schema {
	outer := r.scope
	r.scope = r.enter(outer, n)
	defer func() { r.scope = outer }()
	if s := r.known(n); s != nil {
		return s
	}
	s := &contract.Schema{Node: n, Name: r.componentName(n)}
	r.keep(n, s)
	old := r.dialectOf(n).before31()
	if n.Kind == source.Boolean && !old {
		b := n.Bool
		s.Bool = &b
		return s
	}
	if !r.is(n, source.Mapping) {
		return s
	}
	if ref := n.Get("$ref"); ref != nil {
		target := r.target(ref)
		if target == nil {
			return s
		}
		r.note(ref, target, "schemas")
		s.Ref = r.schema(target)
		if r.circular(s) {
			r.report(ref.Problem("the reference %s leads back to itself and describes nothing", ref.Text))
			s.Ref = nil
			return s
		}
		if old {
			return s // siblings of $ref are ignored (OpenAPI 2.0 and 3.0.4, Reference Object)
		}
	}
	s.Rare = r.spareRare()
	if !old {
		r.foreign(s, n)
	}
	said := groupsOf(n)
	if said&ofAnnotations != 0 {
		r.annotations(s, n)
	}
	if said&ofTypes != 0 {
		r.types(s, n)
	}
	if said&ofNumbers != 0 {
		r.numbers(s, n)
	}
	if said&ofStrings != 0 {
		r.strings(s, n)
	}
	if said&ofArrays != 0 {
		r.arrays(s, n)
	}
	if said&ofObjects != 0 {
		r.objects(s, n)
	}
	if said&ofCompositions != 0 {
		r.compositions(s, n)
		if !old {
			r.dynamic(s, n)
		}
	}
	r.settleRare(s)
	return s
}

// spareRare is room for the rare keywords of a schema; settleRare takes it back where there were none.
func (r *reader) spareRare() *contract.Rare {
	if last := len(r.spare) - 1; last >= 0 {
		rare := r.spare[last]
		r.spare = r.spare[:last]
		return rare
	}
	return &contract.Rare{}
}

func (r *reader) settleRare(s *contract.Schema) {
	if s.Rare.Empty() {
		r.spare, s.Rare = append(r.spare, s.Rare), nil
	}
}

// foreign marks a schema that says it is written by other rules than those of JSON Schema 2020-12: what it means is undecided.
func (r *reader) foreign(s *contract.Schema, n *source.Node) {
	named := n.Get("$schema")
	if named == nil {
		named = n.File().Root.Get("jsonSchemaDialect")
	}
	if named == nil || named.Kind != source.String || strings.HasPrefix(named.Text, "https://json-schema.org/draft/2020-12/") || strings.HasPrefix(named.Text, "https://spec.openapis.org/oas/3.") {
		return
	}
	s.Rarely().Unread = append(s.Unread(), "the schema dialect "+named.Text)
}

// group is a set of keywords that are read together. Most schemas speak of one or two.
type group uint8

const (
	ofAnnotations group = 1 << iota
	ofTypes
	ofNumbers
	ofStrings
	ofArrays
	ofObjects
	ofCompositions
)

var groups = func() map[string]group {
	all := map[string]group{}
	for g, keywords := range map[group][]string{
		ofAnnotations: {"title", "description", "default", "example", "examples", "readOnly", "writeOnly", "deprecated", "contentEncoding", "contentMediaType", "externalDocs", "xml"},
		ofTypes:       {"type", "nullable", "enum", "const"},
		ofNumbers:     {"multipleOf", "minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum"},
		ofStrings:     {"minLength", "maxLength", "pattern", "format"},
		ofArrays:      {"minItems", "maxItems", "uniqueItems", "items", "prefixItems", "contains", "minContains", "maxContains", "unevaluatedItems"},
		ofObjects: {"properties", "required", "minProperties", "maxProperties", "additionalProperties", "patternProperties", "propertyNames",
			"unevaluatedProperties", "dependentSchemas", "dependentRequired"},
		ofCompositions: {"allOf", "anyOf", "oneOf", "not", "if", "then", "else", "discriminator", "$dynamicRef"},
	} {
		for _, k := range keywords {
			all[k] = g
		}
	}
	return all
}()

// groupsOf tells of which groups keywords are there.
func groupsOf(n *source.Node) group {
	var said group
	for i := range n.Members {
		key := n.Members[i].Key
		said |= groups[key]
		if isExtension(key) {
			said |= ofAnnotations
		}
	}
	return said
}

// known is the schema that was read at a node in the scope under way, or nil.
func (r *reader) known(n *source.Node) *contract.Schema {
	if r.scope == nil {
		return r.schemas[n]
	}
	return r.scoped[schemaKey{n, r.scope.text()}]
}

func (r *reader) keep(n *source.Node, s *contract.Schema) {
	if r.scope == nil {
		r.schemas[n] = s
	} else {
		r.scoped[schemaKey{n, r.scope.text()}] = s
	}
}

// dynamic reads $dynamicRef, in the scope in which the schema is met.
func (r *reader) dynamic(s *contract.Schema, n *source.Node) {
	ref := n.Get("$dynamicRef")
	if ref == nil {
		return
	}
	target := r.dynamicTarget(ref)
	if target == nil {
		return
	}
	r.note(ref, target, "")
	to := r.schema(target)
	if s.Ref == nil {
		s.Ref = to
	} else {
		s.AllOf = append(s.AllOf, to)
	}
	if r.circular(s) {
		r.report(ref.Problem("the reference %s leads back to itself and describes nothing", ref.Text))
		s.Ref = nil
	}
}

// circular tells whether a chain of references never reaches a schema.
func (r *reader) circular(s *contract.Schema) bool {
	at := s.Ref
	for range maxHops {
		if at == s {
			return true
		}
		if at == nil || at.Ref == nil {
			return false
		}
		at = at.Ref
	}
	return true
}

// componentName is the name of a schema that has one: under components/schemas (definitions in 2.0), or in another file of the
// set by its key or by the name of the file. A named schema of another file joins those of the description.
func (r *reader) componentName(n *source.Node) string {
	parent := n.Parent()
	if n.File() == r.set.Entry {
		if parent != nil && n.Parent().Parent() != nil && r.names[n.Step()] == n {
			return n.Step()
		}
		return ""
	}
	var name string
	switch {
	case parent == nil && !r.alone:
		name = fileStem(n.File())
	case parent == nil:
		return ""
	case parent.Parent() == nil && !r.alone, slices.Contains([]string{"schemas", "definitions", "$defs"}, parent.Step()):
		name = n.Step()
	default:
		return ""
	}
	taken := r.names[name]
	if taken != nil && taken != n {
		if r.leadsTo(taken, n) {
			return name // a component that only points here
		}
		name = r.freeName(fileStem(n.File())+"."+name, n)
	}
	if r.names[name] == nil {
		r.names[name] = n
		r.elsewhere = append(r.elsewhere, n)
	}
	return name
}

func fileStem(f *source.File) string {
	base := path.Base(f.Path())
	return strings.TrimSuffix(base, path.Ext(base))
}

// freeName is a name that no schema but n has.
func (r *reader) freeName(name string, n *source.Node) string {
	free := name
	for i := 2; r.names[free] != nil && r.names[free] != n; i++ {
		free = fmt.Sprintf("%s.%d", name, i)
	}
	return free
}

// leadsTo tells whether a node is a bare reference that ends at n.
func (r *reader) leadsTo(from, n *source.Node) bool {
	for range maxHops {
		ref := from.Get("$ref")
		if ref == nil || len(from.Members) > 1 || ref.Kind != source.String {
			return from == n
		}
		if from = r.target(ref); from == nil {
			return false
		}
	}
	return false
}

func (r *reader) annotations(s *contract.Schema, n *source.Node) {
	s.Title, s.Description = r.text(n, "title"), r.text(n, "description")
	s.Default = n.Get("default")
	if e := n.Get("example"); e != nil {
		s.Rarely().Examples = append(s.Examples(), e)
	}
	if list := n.Get("examples"); list != nil && list.Kind == source.Sequence {
		s.Rarely().Examples = append(s.Examples(), list.Items()...)
	}
	s.ReadOnly, s.WriteOnly, s.Deprecated = r.flag(n, "readOnly"), r.flag(n, "writeOnly"), r.flag(n, "deprecated")
	s.Rarely().ContentEncoding, s.Rarely().ContentMediaType = r.text(n, "contentEncoding"), r.text(n, "contentMediaType")
	s.Rarely().XML = n.Get("xml")
	s.Rarely().Docs, s.Rarely().Extensions = r.docs(n), extensions(n)
}

func (r *reader) types(s *contract.Schema, n *source.Node) {
	if t := n.Get("type"); t != nil {
		switch {
		case t.Kind == source.String:
			r.jsonType(s, t)
		case t.Kind == source.Sequence && r.dialectOf(n) != v30:
			for _, it := range t.Items() {
				if r.is(it, source.String) {
					r.jsonType(s, it)
				}
			}
		case t.Kind == source.Sequence:
			r.report(t.Problem("in OpenAPI 3.0 a schema has one type; for null write nullable: true"))
		default:
			r.report(t.Problem("type must be the name of a JSON type, not %s", t.Kind))
		}
	}
	s.Nullable = r.dialectOf(n) == v30 && r.flag(n, "nullable")
	if e := n.Get("enum"); e != nil && r.is(e, source.Sequence) {
		s.Enum, s.HasEnum = e.Items(), true
	}
	if !r.dialectOf(n).before31() {
		s.Const = n.Get("const")
	}
}

func (r *reader) jsonType(s *contract.Schema, t *source.Node) {
	known := jsonTypes
	if r.dialectOf(t) == v30 {
		known = jsonTypes[1:]
	}
	if !slices.Contains(known, t.Text) {
		if t.Text == "null" {
			r.report(t.Problem("OpenAPI 3.0 has no type null; write nullable: true"))
			return
		}
		r.report(t.Problem("type %q is not a JSON type%s", t.Text, source.DidYouMean(t.Text, known)))
		return
	}
	s.Types = append(s.Types, t.Text)
}

func (r *reader) numbers(s *contract.Schema, n *source.Node) {
	s.MultipleOf = r.number(n, "multipleOf")
	if s.MultipleOf != nil && s.MultipleOf.Sign() <= 0 {
		r.report(n.Get("multipleOf").Problem("multipleOf must be above 0"))
		s.MultipleOf = nil
	}
	s.Minimum, s.ExclusiveMinimum = r.limit(n, "minimum", "exclusiveMinimum")
	s.Maximum, s.ExclusiveMaximum = r.limit(n, "maximum", "exclusiveMaximum")
}

// limit reads one end of a range: a number of its own since 3.1, a flag beside the other in 3.0.
func (r *reader) limit(n *source.Node, inclusive, exclusive string) (in, ex *big.Rat) {
	in = r.number(n, inclusive)
	e := n.Get(exclusive)
	switch {
	case e == nil:
	case r.dialectOf(n).before31() && e.Kind == source.Number:
		r.report(e.Problem("in OpenAPI 3.0 %s is true or false, beside %s", exclusive, inclusive))
	case r.dialectOf(n).before31():
		if r.flag(n, exclusive) {
			return nil, in
		}
	case e.Kind == source.Boolean:
		r.report(e.Problem("since OpenAPI 3.1 %s is the limit itself, a number", exclusive))
	default:
		ex = r.number(n, exclusive)
	}
	return in, ex
}

func (r *reader) strings(s *contract.Schema, n *source.Node) {
	s.MinLength, s.MaxLength = r.count(n, "minLength"), r.count(n, "maxLength")
	if p := n.Get("pattern"); p != nil && r.is(p, source.String) {
		text := p.Text
		s.Pattern = &text
	}
	s.Format = r.text(n, "format")
	// The two formats that 3.1 took back: what they say is how the text is encoded, and what is in it.
	switch s.Format {
	case "byte":
		s.Format, s.Rarely().ContentEncoding = "", cmp.Or(s.ContentEncoding(), "base64")
	case "binary":
		s.Format, s.Rarely().ContentMediaType = "", cmp.Or(s.ContentMediaType(), "application/octet-stream")
	}
}

func (r *reader) arrays(s *contract.Schema, n *source.Node) {
	s.MinItems, s.MaxItems, s.UniqueItems = r.count(n, "minItems"), r.count(n, "maxItems"), r.flag(n, "uniqueItems")
	s.Items = r.sub(n, "items")
	if r.dialectOf(n).before31() {
		return
	}
	s.Rarely().PrefixItems = r.subs(n, "prefixItems")
	s.Rarely().Contains, s.Rarely().MinContains, s.Rarely().MaxContains = r.sub(n, "contains"), r.count(n, "minContains"), r.count(n, "maxContains")
	s.Rarely().UnevaluatedItems = r.sub(n, "unevaluatedItems")
}

func (r *reader) objects(s *contract.Schema, n *source.Node) {
	s.Properties = r.named(n, "properties")
	s.Required = r.words(n, "required")
	s.MinProperties, s.MaxProperties = r.count(n, "minProperties"), r.count(n, "maxProperties")
	if a := n.Get("additionalProperties"); a != nil {
		s.AdditionalProperties = r.openness(a)
	}
	if r.dialectOf(n).before31() {
		return
	}
	s.Rarely().PatternProperties = r.named(n, "patternProperties")
	s.Rarely().PropertyNames = r.sub(n, "propertyNames")
	s.Rarely().UnevaluatedProperties = r.sub(n, "unevaluatedProperties")
	s.Rarely().DependentSchemas = r.named(n, "dependentSchemas")
	for _, m := range r.members(n, "dependentRequired") {
		s.Rarely().DependentRequired = append(s.DependentRequired(), contract.Dependency{Name: m.Key, Needs: r.words(n.Get("dependentRequired"), m.Key)})
	}
}

// openness reads additionalProperties, which may be a boolean in every dialect.
func (r *reader) openness(n *source.Node) *contract.Schema {
	if n.Kind != source.Boolean {
		return r.schema(n)
	}
	if s := r.schemas[n]; s != nil {
		return s
	}
	b := n.Bool
	s := &contract.Schema{Node: n, Bool: &b}
	r.schemas[n] = s
	return s
}

func (r *reader) compositions(s *contract.Schema, n *source.Node) {
	s.AllOf = r.subs(n, "allOf")
	d := n.Get("discriminator")
	if r.dialectOf(n) == v20 {
		for _, keyword := range []string{"anyOf", "oneOf", "not"} {
			if n.Get(keyword) != nil {
				s.Rarely().Unread = append(s.Unread(), keyword+" in OpenAPI 2.0, which does not know it,")
			}
		}
		if d != nil && r.is(d, source.String) {
			s.Rarely().Discriminator = &contract.Discriminator{Property: d.Text, Node: d}
		}
		return
	}
	s.AnyOf, s.OneOf = r.subs(n, "anyOf"), r.subs(n, "oneOf")
	s.Rarely().Not = r.sub(n, "not")
	if !r.dialectOf(n).before31() {
		s.Rarely().If, s.Rarely().Then, s.Rarely().Else = r.sub(n, "if"), r.sub(n, "then"), r.sub(n, "else")
	}
	if d != nil && r.is(d, source.Mapping) {
		s.Rarely().Discriminator = r.discriminator(d)
	}
}

func (r *reader) discriminator(n *source.Node) *contract.Discriminator {
	d := &contract.Discriminator{Property: r.text(n, "propertyName"), Node: n}
	if d.Property == "" {
		r.report(n.Problem("a discriminator needs propertyName"))
	}
	for _, m := range r.members(n, "mapping") {
		if r.is(m.Value, source.String) {
			d.Mapping = append(d.Mapping, contract.MappingEntry{Value: m.Key, Target: r.mapped(m.Value)})
		}
	}
	if to := n.Get("defaultMapping"); to != nil && r.is(to, source.String) {
		d.Default = r.mapped(to)
	}
	return d
}

// mapped is the name of the schema that a mapping stands for; it may be given as a reference.
func (r *reader) mapped(n *source.Node) string {
	isFile := slices.Contains([]string{".yaml", ".yml", ".json"}, path.Ext(n.Text))
	if r.names[n.Text] != nil || !isFile && !strings.ContainsAny(n.Text, "#/") {
		return n.Text
	}
	target := r.target(n)
	if target == nil {
		return n.Text
	}
	r.note(n, target, "schemas")
	return cmp.Or(r.schema(target).Deref().Name, n.Text)
}

func (r *reader) sub(n *source.Node, key string) *contract.Schema {
	if c := n.Get(key); c != nil {
		return r.schema(c)
	}
	return nil
}

func (r *reader) subs(n *source.Node, key string) []*contract.Schema {
	list := n.Get(key)
	if list == nil || !r.is(list, source.Sequence) {
		return nil
	}
	if len(list.Items()) == 0 && key != "prefixItems" {
		r.report(list.Problem("%s needs at least one schema", key))
	}
	var all []*contract.Schema
	for _, it := range list.Items() {
		all = append(all, r.schema(it))
	}
	return all
}

func (r *reader) named(n *source.Node, key string) []contract.Property {
	f := n.Get(key)
	if f == nil || !r.is(f, source.Mapping) {
		return nil
	}
	props := make([]contract.Property, 0, len(f.Members))
	for _, m := range f.Members {
		props = append(props, contract.Property{Name: m.Key, Schema: r.schema(m.Value)})
	}
	return props
}
