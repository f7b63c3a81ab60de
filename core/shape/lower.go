package shape

import (
	"math/big"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// lowerKey names one lowering: a schema means different sets in different roles.
type lowerKey struct {
	schema *contract.Schema
	role   Role
	root   bool
	hides  string // names, each behind a zero byte, that its holder does not send, so that they need not be there
	typed  bool   // whether its holder is said to be null, too, so that no type is taken from its keywords
}

// turned is the lowering of the same schema for the other end of the wire.
func (k lowerKey) turned() lowerKey {
	k.role.Sends, k.root = !k.role.Sends, false
	return k
}

// lower makes the node of a schema. root is false for a schema in place (a branch of allOf and the like): what a sender
// leaves undeclared is closed once, over all branches.
func (s *Space) lower(schema *contract.Schema, role Role, root bool) *node {
	return s.lowerBeside(lowerKey{schema: schema, role: role, root: root})
}

func (s *Space) lowerBeside(key lowerKey) *node {
	key.schema = s.classes.Representative(key.schema.Deref())
	role := key.role
	key.root = key.root && s.closes(role)
	if b := key.schema.Bool; b != nil && !*b {
		return s.bottom
	}
	if n, done := s.lowered[key]; done {
		return n
	}
	ref := s.make(node{op: opRef, pending: &key})
	s.lowered[key] = ref
	if role.Sends && !role.Text { // all that is sent under a schema is received under it, as a whole or in place
		s.assumeIncluded(ref, s.lowerBeside(key.turned()))
		if turned := key.turned(); key.root && s.closes(turned.role) {
			turned.root = true
			s.assumeIncluded(ref, s.lowerBeside(turned))
		}
		if inPlace := key; key.root {
			inPlace.root = false
			s.assumeIncluded(ref, s.lowerBeside(inPlace))
		}
	}
	return ref
}

// closes reports whether a role closes objects whose schemas leave open what is not declared: who sends does, and who receives requests
// where that is a fact.
func (s *Space) closes(role Role) bool { return role.Sends || s.strict && role.Request && !role.Text }

// lowerNow makes what the node of a schema stands for.
func (s *Space) lowerNow(key lowerKey) *node {
	schema, role := key.schema, key.role
	if s.containsItself(schema) {
		return s.unknown("a schema that refers to itself in place could not be decided")
	}
	if s.budget.Over() {
		return s.exhausted()
	}
	l := lowering{Space: s, schema: schema, role: role}
	if s.reading == Declared {
		l.hides = append(strings.Split(key.hides, "\x00")[1:], hiddenNames(schema, role)...)
		l.said = key.typed || saysTypes(schema)
	}
	n := l.whole()
	if key.root && s.reading == Declared {
		n = s.and(n, l.closed())
	}
	authored := node{op: opAnd, kids: []*node{n}}
	for _, e := range schema.Examples() {
		authored.hints = append(authored.hints, l.onWire(e.Value()))
	}
	if schema.Default != nil && len(authored.hints) == 0 && schema.Default.Kind != source.Null {
		authored.hints = append(authored.hints, l.onWire(schema.Default.Value()))
	}
	for _, p := range schema.Properties {
		authored.declared = append(authored.declared, p.Name)
	}
	if len(authored.hints)+len(authored.declared) > 0 {
		return s.make(authored) // flatten reads hints from the nodes that it takes apart, so they ride on a conjunction
	}
	return n
}

// lowering is one schema in one role.
type lowering struct {
	*Space
	schema *contract.Schema
	role   Role
	hides  []string // the properties that do not travel, here or in what holds it
	said   bool     // whether null is said beside another type, here or in what holds it
}

func (l lowering) whole() *node {
	sc := l.schema
	if sc.Bool != nil {
		if *sc.Bool {
			return l.top
		}
		return l.bottom
	}
	parts := []*node{l.types(), l.listed()}
	if sc.Ref != nil {
		parts = append(parts, l.inPlace(sc.Ref))
	}
	if l.role.Text {
		parts = append(parts, l.textual())
	} else {
		parts = append(parts, l.number(), l.text(), l.array(), l.object())
	}
	parts = append(parts, l.composed()...)
	for _, keyword := range sc.Unsupported() {
		parts = append(parts, l.unknown(keyword+" could not be decided"))
	}
	n := l.and(parts...)
	if sc.Nullable && l.reading == Declared && !l.role.Text {
		// Authors who write nullable: true mean null, wherever it stands (docs/design/compatibility.md, Rows that are settled).
		n = l.or(l.typed(maskOf(value.Null)), n)
	}
	return n
}

func (l lowering) inPlace(sc *contract.Schema) *node {
	return l.lowerBeside(lowerKey{schema: sc, role: l.role, hides: l.hidesFrom(sc), typed: l.said})
}
func (l lowering) nested(sc *contract.Schema) *node  { return l.lower(sc, l.role, true) }
func (l lowering) assert(n node, k value.Kind) *node { n.on = k; return l.make(n) }
func whole() *big.Rat                                { return big.NewRat(1, 1) }

var kindsOf = map[string]value.Kind{
	"null": value.Null, "boolean": value.Boolean, "integer": value.Number, "number": value.Number,
	"string": value.String, "array": value.Array, "object": value.Object,
}

func (l lowering) types() *node {
	sc := l.schema
	if l.role.Text {
		return l.top // textual reads the types itself
	}
	types := sc.Types
	if types == nil {
		return l.impliedType()
	}
	var m mask
	for _, t := range types {
		m |= maskOf(kindsOf[t])
	}
	if sc.Nullable {
		m |= maskOf(value.Null)
	}
	n := l.typed(m)
	if slices.Contains(types, "integer") && !slices.Contains(types, "number") {
		n = l.and(n, l.assert(node{op: opMultiple, step: whole()}, value.Number))
	}
	return n
}

// impliedType is the type that the declared reading takes from object or array keywords, or from what a string holds.
func (l lowering) impliedType() *node {
	if l.reading != Declared || l.said {
		return l.top
	}
	var m mask
	if l.schema.SaysObject() {
		m |= maskOf(value.Object)
	}
	if l.schema.SaysArray() {
		m |= maskOf(value.Array)
	}
	if m == 0 && l.schema.SaysContent() {
		return l.typed(maskOf(value.String))
	}
	if m == 0 {
		return l.top
	}
	if l.schema.SaysString() || l.schema.SaysContent() {
		m |= maskOf(value.String)
	}
	if l.schema.SaysNumber() {
		m |= maskOf(value.Number)
	}
	return l.typed(m)
}

func (l lowering) listed() *node {
	n := l.top
	if l.schema.HasEnum {
		values := make([]*value.Value, len(l.schema.Enum))
		for i, e := range l.schema.Enum {
			values[i] = l.onWire(e.Value())
		}
		n = l.and(n, l.enum(values))
	}
	if l.schema.Const != nil {
		n = l.and(n, l.enum([]*value.Value{l.onWire(l.schema.Const.Value())}))
	}
	return n
}

// onWire is a listed value as it stands on the wire: as text, where the role says so.
func (l lowering) onWire(v *value.Value) *value.Value {
	if !l.role.Text {
		return v
	}
	switch v.Kind {
	case value.Number:
		return value.Str(value.NumberText(v.Num))
	case value.Boolean:
		return value.Str(v.String())
	case value.Null:
		return value.Str("")
	}
	return v
}

func (l lowering) number() *node {
	sc := l.schema
	n := l.and(
		l.ranged(interval{low: sc.Minimum, high: sc.Maximum}),
		l.ranged(interval{low: sc.ExclusiveMinimum, high: sc.ExclusiveMaximum, lowOpen: true, highOpen: true}),
	)
	if sc.MultipleOf != nil {
		n = l.and(n, l.assert(node{op: opMultiple, step: sc.MultipleOf}, value.Number))
	}
	if iv, known := numberFormats[sc.Format]; known && l.reading == Declared {
		n = l.and(n, l.ranged(iv), l.assert(node{op: opMultiple, step: whole()}, value.Number))
	}
	return n
}

func (l lowering) text() *node {
	sc := l.schema
	n := l.counted(opLength, value.String, floor(sc.MinLength), ceiling(sc.MaxLength))
	if sc.Pattern != nil {
		n = l.and(n, l.match(l.language(*sc.Pattern)))
	}
	if _, known := formats[sc.Format]; known && l.reading == Declared {
		n = l.and(n, l.assert(node{op: opFormat, format: sc.Format}, value.String))
	}
	if sc.ContentEncoding() == "base64" && l.reading == Declared {
		n = l.and(n, l.assert(node{op: opFormat, format: "byte"}, value.String))
	}
	return n
}

func floor(p *int) int {
	if p == nil {
		return 0
	}
	return *p
}

func ceiling(p *int) int {
	if p == nil {
		return -1
	}
	return *p
}

func (l lowering) array() *node {
	sc := l.schema
	var parts []*node
	for i, item := range sc.PrefixItems() {
		parts = append(parts, l.assert(node{op: opItem, index: i, sub: l.nested(item)}, value.Array))
	}
	switch {
	case sc.Items != nil:
		parts = append(parts, l.assert(node{op: opItems, index: len(sc.PrefixItems()), sub: l.nested(sc.Items)}, value.Array))
	case sc.PrefixItems() != nil && l.reading == Declared && l.role.Sends:
		parts = append(parts, l.assert(node{op: opItems, index: len(sc.PrefixItems()), sub: l.bottom}, value.Array))
	}
	if sc.Contains() != nil {
		low := 1
		if sc.MinContains() != nil {
			low = *sc.MinContains()
		}
		high := ceiling(sc.MaxContains())
		sub, counted := l.nested(sc.Contains()), l.nestedCondition(sc.Contains())
		switch {
		case sub == counted && (low > 0 || high >= 0):
			parts = append(parts, l.assert(node{op: opContains, low: low, high: high, sub: sub}, value.Array))
		default: // what counts too much is counted as the receiver counts it
			if low > 0 {
				parts = append(parts, l.assert(node{op: opContains, low: low, high: -1, sub: sub}, value.Array))
			}
			if high >= 0 {
				parts = append(parts, l.assert(node{op: opContains, low: 0, high: high, sub: counted}, value.Array))
			}
		}
	}
	parts = append(parts, l.counted(opCount, value.Array, floor(sc.MinItems), ceiling(sc.MaxItems)))
	if sc.UniqueItems {
		parts = append(parts, l.assert(node{op: opUnique}, value.Array))
	}
	if u := sc.UnevaluatedItems(); u != nil {
		parts = append(parts, l.unevaluatedItems(u))
	}
	return l.and(parts...)
}

func (l lowering) object() *node {
	sc := l.schema
	var parts []*node
	rest := nameSet{except: map[string]bool{}}
	for _, p := range sc.Properties {
		rest.except[p.Name] = true
		parts = append(parts, l.assert(node{op: opProps, names: oneName(p.Name), sub: l.property(p.Schema)}, value.Object))
	}
	for _, p := range sc.PatternProperties() {
		lang := l.language(p.Name)
		rest.unlike = append(rest.unlike, lang)
		parts = append(parts, l.assert(node{op: opProps, names: &nameSet{pattern: lang}, sub: l.property(p.Schema)}, value.Object))
	}
	if a := sc.AdditionalProperties; a != nil {
		parts = append(parts, l.assert(node{op: opProps, names: &rest, sub: l.nested(a)}, value.Object))
	}
	if sc.PropertyNames() != nil {
		parts = append(parts, l.assert(node{op: opNames, sub: l.nested(sc.PropertyNames())}, value.Object))
	}
	for _, name := range sc.Required {
		if !slices.Contains(l.hides, name) {
			parts = append(parts, l.has(name))
		}
	}
	parts = append(parts, l.counted(opSize, value.Object, floor(sc.MinProperties), ceiling(sc.MaxProperties)))
	for _, d := range sc.DependentRequired() {
		needs := make([]*node, len(d.Needs))
		for i, name := range d.Needs {
			needs[i] = l.has(name)
		}
		parts = append(parts, l.unless(d.Name, l.and(needs...)))
	}
	for _, d := range sc.DependentSchemas() {
		parts = append(parts, l.unless(d.Name, l.inPlace(d.Schema)))
	}
	if u := sc.UnevaluatedProperties(); u != nil {
		parts = append(parts, l.unevaluatedProperties(u))
	}
	return l.and(parts...)
}

// unless is: the value is no object, or has no property of that name, or satisfies then.
func (l lowering) unless(name string, then *node) *node {
	return l.or(l.typed(allTypes&^maskOf(value.Object)), l.and(l.typed(maskOf(value.Object)), l.lacks(name)), then)
}

// property lowers the schema of a property. What the role never sends is absent from the sender, and no matter to the receiver.
func (l lowering) property(sc *contract.Schema) *node {
	if l.reading == Declared && hidden(sc, l.role) {
		if l.role.Sends {
			return l.bottom
		}
		return l.top
	}
	return l.nested(sc)
}

// hidden tells of a property that does not travel in this kind of message.
func hidden(sc *contract.Schema, role Role) bool {
	readOnly, writeOnly := sc.Access()
	return role.Request && readOnly || !role.Request && writeOnly
}

// saysTypes reports whether a schema, or what it demands with it, is said to be null beside an object or a list: what stands in place there
// speaks of the object or list and takes the null from nobody.
func saysTypes(sc *contract.Schema) bool {
	var seen map[*contract.Schema]bool
	var visit func(sc *contract.Schema) bool
	visit = func(sc *contract.Schema) bool {
		switch {
		case (sc.Nullable || slices.Contains(sc.Types, "null")) && (slices.Contains(sc.Types, "object") || slices.Contains(sc.Types, "array")):
			return true
		case sc.Ref == nil && sc.AllOf == nil || seen[sc]:
			return false
		}
		if seen == nil {
			seen = map[*contract.Schema]bool{}
		}
		seen[sc] = true
		return sc.Ref != nil && visit(sc.Ref) || slices.ContainsFunc(sc.AllOf, visit)
	}
	return visit(sc)
}

// hiddenNames are the properties that a schema, or what it demands with it, says do not travel in this kind of message: their absence is no
// fault, whichever part requires them.
func hiddenNames(sc *contract.Schema, role Role) (names []string) {
	var seen map[*contract.Schema]bool
	var visit func(sc *contract.Schema)
	visit = func(sc *contract.Schema) {
		if seen[sc] {
			return
		}
		for _, p := range sc.Properties {
			if hidden(p.Schema, role) {
				names = append(names, p.Name)
			}
		}
		if sc.Ref == nil && sc.AllOf == nil {
			return
		}
		if seen == nil {
			seen = map[*contract.Schema]bool{}
		}
		seen[sc] = true
		if sc.Ref != nil {
			visit(sc.Ref)
		}
		for _, b := range sc.AllOf {
			visit(b)
		}
	}
	visit(sc)
	return names
}

// hidesFrom are those of the hidden names that a schema in place requires.
func (l lowering) hidesFrom(sc *contract.Schema) string {
	if len(l.hides) == 0 {
		return ""
	}
	var names []string
	for _, b := range branches(sc) {
		for _, name := range b.Required {
			if slices.Contains(l.hides, name) && !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
	}
	slices.Sort(names)
	key := ""
	for _, name := range names {
		key += "\x00" + name
	}
	return key
}

func (l lowering) composed() []*node {
	sc := l.schema
	var parts []*node
	for _, b := range sc.AllOf {
		parts = append(parts, l.inPlace(b))
	}
	if sc.AnyOf != nil {
		union := l.or(l.each(sc.AnyOf)...)
		union.choice = union.op == opOr
		parts = append(parts, union)
	}
	if sc.OneOf != nil {
		parts = append(parts, l.oneOf(sc.OneOf))
	}
	if sc.Not() != nil {
		parts = append(parts, l.not(l.condition(sc.Not())))
	}
	if sc.If() != nil {
		condition, then, otherwise := l.condition(sc.If()), l.top, l.top
		if sc.Then() != nil {
			then = l.inPlace(sc.Then())
		}
		if sc.Else() != nil {
			otherwise = l.inPlace(sc.Else())
		}
		parts = append(parts, l.or(l.and(condition, then), l.and(l.not(condition), otherwise)))
	}
	return parts
}

// condition lowers what is asked and not sent: nothing is closed in it, on either side.
func (l lowering) condition(sc *contract.Schema) *node {
	role := l.role
	role.Sends = false
	return l.lower(sc, role, false)
}

func (l lowering) each(list []*contract.Schema) []*node {
	nodes := make([]*node, len(list))
	for i, b := range list {
		nodes[i] = l.inPlace(b)
		if tag := tagOf(l.schema.Discriminator(), b.Deref()); tag != nil {
			nodes[i] = l.make(node{op: opAnd, kids: []*node{nodes[i], l.hinted(l.schema.Discriminator().Property, tag)}})
		}
	}
	return nodes
}

// hinted says nothing of a property but which value of it reads best.
func (l lowering) hinted(name string, v *value.Value) *node {
	return l.make(node{op: opProps, on: value.Object, names: oneName(name), sub: l.make(node{op: opAnd, hints: []*value.Value{v}})})
}

// tagOf is the value by which a discriminator knows an alternative that does not list it itself; nil where it lists its values, or is not
// known.
func tagOf(d *contract.Discriminator, branch *contract.Schema) *value.Value {
	if d == nil || branch == nil || branch.Name == "" || !leavesTag(branch, d.Property) {
		return nil
	}
	for _, m := range d.Mapping {
		if m.Target == branch.Name {
			return value.Str(m.Value)
		}
	}
	return value.Str(branch.Name)
}

// leavesTag reports whether a schema declares a property, as any text wherever it does.
func leavesTag(sc *contract.Schema, name string) bool {
	found := false
	for _, part := range sc.Conjuncts() {
		p := part.Property(name).Deref()
		if p == nil {
			continue
		}
		if p.HasEnum || p.Const != nil || p.Pattern != nil || !slices.Equal(p.Types, []string{"string"}) {
			return false
		}
		found = true
	}
	return found
}

func (l lowering) oneOf(list []*contract.Schema) *node {
	kids := l.each(list)
	if len(kids) == 1 {
		return kids[0]
	}
	conds := make([]*node, len(list))
	for i, b := range list {
		conds[i] = l.condition(b)
	}
	return l.make(node{op: opOne, kids: kids, conds: conds})
}

// closed is what a sender leaves out: every property that none of the branches that hold declares (docs/design/compatibility.md,
// Two readings).
func (l lowering) closed() *node {
	all, ok := l.lookers()
	if !ok {
		return l.closedOverAll()
	}
	declared := map[string][]*node{} // by name: where it is declared
	patterns := map[*language][]*node{}
	var names []string
	var langs []*language
	var everything []*node // where all names are
	object := false
	for _, k := range all {
		b := k.schema
		if declaresAll(b) {
			if k.holds == l.top {
				return l.top
			}
			everything = append(everything, k.holds)
		}
		object = object || b.SaysObject() || slices.Contains(b.Types, "object")
		for _, name := range declaredNames(b) {
			if declared[name] == nil {
				names = append(names, name)
			}
			declared[name] = append(declared[name], k.holds)
			if k.beside != nil { // what fits only one of alternatives may have to hold what another refuses
				declared[name] = append(declared[name], k.beside)
			}
		}
		for _, p := range b.PatternProperties() {
			lang := l.language(p.Name)
			if patterns[lang] == nil {
				langs = append(langs, lang)
			}
			patterns[lang] = append(patterns[lang], k.holds)
		}
	}
	if !object {
		return l.top
	}
	rest := nameSet{except: map[string]bool{}, unlike: langs}
	unless := func(ns nameSet, holds []*node) *node {
		if slices.Contains(holds, l.top) {
			return l.top
		}
		n := l.or(append(append([]*node{l.assert(node{op: opProps, names: &ns, sub: l.bottom}, value.Object)}, holds...), everything...)...)
		n.late = n.op == opOr
		return n
	}
	var parts []*node
	for _, name := range names {
		rest.except[name] = true
		holds := slices.Clone(declared[name])
		for _, lang := range langs {
			if lang.contains(name) != no {
				holds = append(holds, patterns[lang]...)
			}
		}
		parts = append(parts, unless(*oneName(name), holds))
	}
	for _, lang := range langs {
		parts = append(parts, unless(nameSet{pattern: lang, apart: rest.except}, patterns[lang]))
	}
	return l.and(append(parts, unless(rest, nil))...)
}

// declaresAll tells of a schema under which every name is declared.
func declaresAll(b *contract.Schema) bool {
	return open(b.AdditionalProperties) || open(b.UnevaluatedProperties()) || b.Bool != nil && *b.Bool
}

// declaredNames are the names that a schema itself mentions, in its order.
func declaredNames(b *contract.Schema) []string {
	var names []string
	for _, group := range [][]contract.Property{b.Properties, b.DependentSchemas()} {
		for _, p := range group {
			names = append(names, p.Name)
		}
	}
	names = append(names, b.Required...)
	for _, d := range b.DependentRequired() {
		names = append(append(names, d.Name), d.Needs...)
	}
	return names
}

// closedOverAll leaves out what no branch at all declares: for schemas of so many branches that nobody can tell which hold.
func (l lowering) closedOverAll() *node {
	rest := nameSet{except: map[string]bool{}}
	object := false
	for _, b := range branches(l.schema) {
		if declaresAll(b) {
			return l.top
		}
		object = object || b.SaysObject() || slices.Contains(b.Types, "object")
		for _, name := range declaredNames(b) {
			rest.except[name] = true
		}
		for _, p := range b.PatternProperties() {
			rest.unlike = append(rest.unlike, l.language(p.Name))
		}
	}
	if !object {
		return l.top
	}
	return l.assert(node{op: opProps, names: &rest, sub: l.bottom}, value.Object)
}

func open(sc *contract.Schema) bool { return sc != nil && (sc.Bool == nil || *sc.Bool) }

// containsItself tells of a schema that composes itself in place, with no property or item between.
func (s *Space) containsItself(sc *contract.Schema) bool {
	if sc.Ref == nil && sc.AllOf == nil && sc.AnyOf == nil && sc.OneOf == nil && sc.If() == nil && sc.Not() == nil &&
		sc.DependentSchemas() == nil {
		return false
	}
	found := false
	seen := map[*contract.Schema]bool{}
	var visit func(at *contract.Schema)
	visit = func(at *contract.Schema) {
		for _, b := range inPlace(at) {
			if !s.budget.Step(3) {
				return
			}
			found = found || s.classes.Representative(b.Deref()) == sc
			if b != nil && !seen[b] && !found {
				seen[b] = true
				visit(b)
			}
		}
	}
	visit(sc)
	return found
}

// inPlace are the schemas that a schema composes directly, speaking of the same value.
func inPlace(sc *contract.Schema) []*contract.Schema {
	all := slices.Concat([]*contract.Schema{sc.Ref, sc.If(), sc.Then(), sc.Else(), sc.Not()}, sc.AllOf, sc.AnyOf, sc.OneOf)
	for _, p := range sc.DependentSchemas() {
		all = append(all, p.Schema)
	}
	return slices.DeleteFunc(all, func(b *contract.Schema) bool { return b == nil })
}

// branches are all schemas that speak of the same value: the schema, and what it composes in place.
func branches(sc *contract.Schema) []*contract.Schema {
	var all []*contract.Schema
	seen := map[*contract.Schema]bool{}
	var visit func(sc *contract.Schema)
	visit = func(sc *contract.Schema) {
		if sc == nil || seen[sc] {
			return
		}
		seen[sc] = true
		all = append(all, sc)
		for _, b := range inPlace(sc) {
			if b != sc.Not() { // what is ruled out declares nothing
				visit(b)
			}
		}
	}
	visit(sc)
	return all
}
