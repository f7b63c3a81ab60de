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
	unclear := r.unclear
	r.unclear = nil
	defer func() { r.unclear = unclear }()
	if n.Kind == source.Null {
		r.report(n.KeyWrong(contract.ValueEmpty, "this schema is empty and admits anything; write {} if that is meant"))
		return s
	}
	if !r.is(n, source.Mapping) {
		s.EnsureRare().Unclear = r.unclear
		return s
	}
	if r.set.Err() != nil {
		return s // nobody waits for it
	}
	if ref := n.Get("$ref"); ref != nil {
		target := r.target(ref)
		if target == nil {
			return s
		}
		r.note(ref, target, "schemas")
		s.Ref = r.schema(target)
		if r.circular(s) {
			r.report(ref.Wrong(contract.ReferenceCircular, "the reference %s leads back to itself and describes nothing; it must lead to a schema",
				ref.Text))
			s.Ref = nil
			s.EnsureRare().Unclear = []*source.Node{ref}
			return s
		}
		if old {
			r.siblings(n)
			return s // siblings of $ref are ignored (OpenAPI 2.0 and 3.0.4, Reference Object)
		}
	}
	s.Rare = r.spareRare()
	if !old {
		r.foreign(s, n)
	}
	said := r.groupsOf(n, s)
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
	if r.unclear != nil {
		s.EnsureRare().Unclear = r.unclear
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
	if named == nil || named.Kind != source.String || strings.HasPrefix(named.Text, "https://json-schema.org/draft/2020-12/") ||
		strings.HasPrefix(named.Text, "https://spec.openapis.org/oas/3.") {
		return
	}
	s.EnsureRare().Unsupported = append(s.Unsupported(), "the schema dialect "+named.Text)
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
		r.report(ref.Wrong(contract.ReferenceCircular, "the reference %s leads back to itself and describes nothing; it must lead to a schema",
			ref.Text))
		s.Ref = nil
	}
}

// circular reports whether a chain of references never reaches a schema.
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
		return r.nameOf[n]
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

// leadsTo reports whether a node is a bare reference that ends at n.
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
		s.EnsureRare().Examples = append(s.Examples(), e)
	}
	if list := n.Get("examples"); list != nil && list.Kind == source.Sequence {
		s.EnsureRare().Examples = append(s.Examples(), list.Items()...)
	}
	s.ReadOnly, s.WriteOnly, s.Deprecated = r.flag(n, "readOnly"), r.flag(n, "writeOnly"), r.flag(n, "deprecated")
	s.EnsureRare().ContentEncoding, s.EnsureRare().ContentMediaType = r.text(n, "contentEncoding"), r.text(n, "contentMediaType")
	s.EnsureRare().XML = n.Get("xml")
	s.EnsureRare().Docs, s.EnsureRare().Extensions = r.docs(n), extensions(n)
}

func (r *reader) numbers(s *contract.Schema, n *source.Node) {
	s.MultipleOf = r.number(n, "multipleOf")
	if s.MultipleOf != nil && s.MultipleOf.Sign() <= 0 {
		r.report(n.Get("multipleOf").Wrong(contract.NumberWrong, "multipleOf is %s; it must be above 0", n.Get("multipleOf").Text))
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
		r.report(e.Wrong(contract.LimitOtherWay, "in OpenAPI %s %s is true or false, and not the limit; write it beside %s",
			versionNames[r.dialectOf(n)], exclusive, inclusive))
		ex = e.Num()
	case r.dialectOf(n).before31():
		if r.flag(n, exclusive) {
			return nil, in
		}
	case e.Kind == source.Boolean:
		d := e.Wrong(contract.LimitOtherWay, "since OpenAPI 3.1 %s is the limit itself, and not %s; write the number", exclusive, e.Text)
		r.report(d)
		if e.Bool {
			return nil, in
		}
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
		s.Format, s.EnsureRare().ContentEncoding = "", cmp.Or(s.ContentEncoding(), "base64")
	case "binary":
		s.Format, s.EnsureRare().ContentMediaType = "", cmp.Or(s.ContentMediaType(), "application/octet-stream")
	}
}

func (r *reader) arrays(s *contract.Schema, n *source.Node) {
	s.MinItems, s.MaxItems, s.UniqueItems = r.count(n, "minItems"), r.count(n, "maxItems"), r.flag(n, "uniqueItems")
	s.Items = r.sub(n, "items")
	if r.dialectOf(n).before31() {
		return
	}
	s.EnsureRare().PrefixItems = r.subs(n, "prefixItems")
	s.EnsureRare().Contains, s.EnsureRare().MinContains, s.EnsureRare().MaxContains = r.sub(n, "contains"), r.count(n, "minContains"),
		r.count(n, "maxContains")
	s.EnsureRare().UnevaluatedItems = r.sub(n, "unevaluatedItems")
}

func (r *reader) compositions(s *contract.Schema, n *source.Node) {
	s.AllOf = r.subs(n, "allOf")
	d := n.Get("discriminator")
	if r.dialectOf(n) == v20 {
		for _, keyword := range []string{"anyOf", "oneOf", "not"} {
			if n.Get(keyword) != nil {
				s.EnsureRare().Unsupported = append(s.Unsupported(), keyword+" in OpenAPI 2.0, which does not know it,")
			}
		}
		if d != nil && r.is(d, source.String) {
			s.EnsureRare().Discriminator = &contract.Discriminator{Property: d.Text, Node: d}
		}
		return
	}
	s.AnyOf, s.OneOf = r.subs(n, "anyOf"), r.subs(n, "oneOf")
	s.EnsureRare().Not = r.sub(n, "not")
	if !r.dialectOf(n).before31() {
		s.EnsureRare().If, s.EnsureRare().Then, s.EnsureRare().Else = r.sub(n, "if"), r.sub(n, "then"), r.sub(n, "else")
	}
	if d != nil && r.is(d, source.Mapping) {
		s.EnsureRare().Discriminator = r.discriminator(d)
	}
}

func (r *reader) discriminator(n *source.Node) *contract.Discriminator {
	d := &contract.Discriminator{Property: r.text(n, "propertyName"), Node: n}
	if d.Property == "" {
		r.report(n.Wrong(contract.KeyMissing, "the discriminator has no propertyName, and is left out; write it"))
		return nil
	}
	r.keys(n, "discriminator")
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
	before := len(r.diagnostics)
	target := r.target(n)
	if target == nil { // a mapping is no part of what is referred to: it can be wrong and the rest whole
		for _, d := range r.diagnostics[before:] {
			d.Demote(contract.TargetMissing)
		}
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
		r.report(list.Wrong(contract.ListEmpty, "%s is empty, and is left out; it needs at least one schema", key))
		return nil
	}
	var all []*contract.Schema
	for _, it := range list.Items() {
		all = append(all, r.schema(it))
	}
	return all
}
