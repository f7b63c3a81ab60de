package class

import (
	"encoding/binary"
	"math/big"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// writer spells what a schema says as a key: two schemas have one key where they say the same, by the classes of their parts. The keys
// share one room: each is good until the next is made.
type writer struct {
	b     []byte
	parts []int32
	order []int
	terms terms
	heirs map[*contract.Schema][]*contract.Schema
}

// part is the class of a part of a schema.
type part func(*contract.Schema) int32

func (w *writer) tag(t byte)      { w.b = append(w.b, t) }
func (w *writer) number(n int)    { w.b = binary.AppendVarint(w.b, int64(n)) }
func (w *writer) text(s string)   { w.number(len(s)); w.b = append(w.b, s...) }
func (w *writer) class(n int32)   { w.b = binary.LittleEndian.AppendUint32(w.b, uint32(n)) }
func (w *writer) flags(f ...bool) { w.b = append(w.b, bits(f)) }

func bits(f []bool) (b byte) {
	for i, set := range f {
		if set {
			b |= 1 << i
		}
	}
	return b
}

// own is the schema itself, its words included: what its parts say is left out.
func (w *writer) own(s *contract.Schema) []byte {
	w.b = w.b[:0]
	w.keywords(s)
	w.words(s)
	w.structure(s, func(*contract.Schema) int32 { return 0 })
	return w.b
}

// set is what the schema admits.
func (w *writer) set(s *contract.Schema, of part) []byte {
	w.b = w.b[:0]
	if saysObject(s) {
		w.tag('O')
		w.object(s, of)
		return w.b
	}
	w.keywords(s)
	w.structure(s, of)
	return w.b
}

// whole is the schema with all words; own is its own class.
func (w *writer) whole(own int32, s *contract.Schema, of part) []byte {
	w.b = w.b[:0]
	w.class(own)
	w.structure(s, of)
	return w.b
}

// keywords are those that assert and hold no schema.
func (w *writer) keywords(s *contract.Schema) {
	types, nullable := plainTypes(s)
	listed, also := s.Enum, s.Const
	if !s.HasEnum && s.Const != nil {
		listed, also = []*source.Node{s.Const}, nil // a list of one
	}
	w.flags(s.Bool != nil, s.Bool != nil && *s.Bool, nullable, s.UniqueItems, s.HasEnum || s.Const != nil, also != nil, s.Types != nil)
	w.flags(s.Properties != nil, s.Required != nil, s.PatternProperties() != nil, s.DependentRequired() != nil, s.DependentSchemas() != nil,
		s.PrefixItems() != nil)
	if s.Types != nil {
		w.number(len(types))
		for _, t := range types {
			w.text(t)
		}
	}
	w.values(listed)
	if also != nil {
		w.node(also)
	}
	for _, r := range []*big.Rat{s.MultipleOf, s.Minimum, s.Maximum, s.ExclusiveMinimum, s.ExclusiveMaximum} {
		w.rational(r)
	}
	for _, n := range []*int{s.MinLength, s.MinItems, s.MinProperties} {
		if s.Types != nil && n != nil && *n <= 0 {
			n = nil // it says nothing, not even which type is meant
		}
		w.count(n)
	}
	for _, n := range []*int{s.MaxLength, s.MaxItems, s.MaxProperties, s.MinContains(), s.MaxContains()} {
		w.count(n)
	}
	if s.Pattern != nil {
		w.tag('p')
		w.text(*s.Pattern)
	}
	w.text(s.Format)
	w.names(s.Required)
	w.rare(s)
}

func (w *writer) rare(s *contract.Schema) {
	w.text(s.ContentEncoding())
	w.text(s.ContentMediaType())
	var needs []string
	for _, d := range s.DependentRequired() {
		sorted := slices.Compact(slices.Sorted(slices.Values(d.Needs)))
		needs = append(needs, d.Name+"\x00"+strings.Join(sorted, "\x00"))
	}
	w.names(needs)
	if d := s.Discriminator(); d != nil {
		w.tag('d')
		w.text(d.Property)
	}
	w.number(len(s.Unsupported()))
	for _, u := range s.Unsupported() {
		w.text(u)
	}
	if s.Unsupported() != nil {
		w.node(s.Node) // what nobody looks into is known by its text
	}
	w.number(len(s.Unclear()))
	for _, n := range s.Unclear() {
		w.text(n.Step())
		w.node(n)
	}
}

// plainTypes are the types in one order, null from nullable among them where nothing else could refuse it.
func plainTypes(s *contract.Schema) (types []string, nullable bool) {
	types, nullable = s.Types, s.Nullable
	if len(types) < 2 && !nullable {
		return types, false
	}
	types = slices.Clone(types)
	if nullable && s.Types != nil && (!s.HasEnum || slices.ContainsFunc(s.Enum, isNull)) && s.Const == nil && s.Ref == nil && s.AllOf == nil &&
		s.AnyOf == nil && s.OneOf == nil && s.Not() == nil && s.If() == nil {
		types, nullable = append(types, "null"), false
	}
	if slices.Contains(types, "number") {
		types = slices.DeleteFunc(types, func(t string) bool { return t == "integer" })
	}
	slices.Sort(types)
	return slices.Compact(types), nullable
}

func isNull(n *source.Node) bool { return n.Kind == source.Null }

// words are what a schema says to readers and programs without asserting anything.
func (w *writer) words(s *contract.Schema) {
	w.flags(s.ReadOnly, s.WriteOnly, s.Deprecated, s.Default != nil)
	w.text(s.Title)
	w.text(s.Description)
	if s.Default != nil {
		w.node(s.Default)
	}
	w.number(len(s.Examples()))
	for _, e := range s.Examples() {
		w.node(e)
	}
	w.text(s.Docs().URL)
	w.text(s.Docs().Description)
	if x := s.XML(); x != nil {
		w.tag('x')
		w.node(x)
	}
	w.number(len(s.Extensions()))
	for _, e := range s.Extensions() {
		w.text(e.Name)
		w.node(e.Node)
	}
}

// structure are the parts of a schema, by where they stand.
func (w *writer) structure(s *contract.Schema, of part) {
	w.conjunction(s, of)
	if len(s.AnyOf) != 1 {
		w.union('y', s.AnyOf, of, true)
	}
	if len(s.OneOf) != 1 {
		w.union('o', s.OneOf, of, false)
	}
	w.properties('p', s.Properties, of)
	w.maybe('i', s.Items, of)
	w.maybe('a', s.AdditionalProperties, of)
	r := s.Rare
	if r == nil {
		return
	}
	w.properties('q', r.PatternProperties, of)
	w.properties('s', r.DependentSchemas, of)
	for i, one := range rareParts(r) {
		w.maybe('A'+byte(i), one, of)
	}
	if r.PrefixItems != nil {
		w.tag('x')
		w.number(len(r.PrefixItems))
		for _, item := range r.PrefixItems {
			w.class(of(item))
		}
	}
	if r.Discriminator != nil {
		w.tags(s, of)
	}
	if heirs := w.heirs[s]; len(heirs) > 0 {
		w.tag('h')
		named := make([]contract.Property, len(heirs))
		for i, heir := range heirs {
			named[i] = contract.Property{Name: heir.Name, Schema: heir}
		}
		w.properties('h', named, of)
	}
}

// conjunction is all that is demanded together: references, allOf, and unions of one.
func (w *writer) conjunction(s *contract.Schema, of part) {
	w.parts = w.parts[:0]
	if s.Ref != nil {
		w.parts = append(w.parts, of(s.Ref))
	}
	for _, b := range s.AllOf {
		w.parts = append(w.parts, of(b))
	}
	for _, list := range [][]*contract.Schema{s.AnyOf, s.OneOf} {
		if len(list) == 1 {
			w.parts = append(w.parts, of(list[0]))
		}
	}
	w.sorted('&', true)
}

// union are the members of a union; once tells whether one that stands twice counts once.
func (w *writer) union(t byte, list []*contract.Schema, of part, once bool) {
	if list == nil {
		return
	}
	w.parts = w.parts[:0]
	for _, b := range list {
		w.parts = append(w.parts, of(b))
	}
	w.tag(t)
	w.sorted(t, once)
}

func (w *writer) sorted(t byte, once bool) {
	if len(w.parts) == 0 {
		return
	}
	slices.Sort(w.parts)
	if once {
		w.parts = slices.Compact(w.parts)
	}
	w.tag(t)
	w.number(len(w.parts))
	for _, p := range w.parts {
		w.class(p)
	}
}

// properties are named parts in the order of their names, with the direction in which each travels.
func (w *writer) properties(t byte, list []contract.Property, of part) {
	if len(list) == 0 {
		return
	}
	w.tag(t)
	w.number(len(list))
	w.order = w.order[:0]
	for i := range list {
		w.order = append(w.order, i)
	}
	slices.SortStableFunc(w.order, func(i, j int) int { return strings.Compare(list[i].Name, list[j].Name) })
	for _, i := range w.order {
		w.text(list[i].Name)
		w.flags(list[i].Schema.Access())
		w.class(of(list[i].Schema))
	}
}

func (w *writer) maybe(t byte, s *contract.Schema, of part) {
	if s != nil {
		w.tag(t)
		w.class(of(s))
	}
}

// tags are the values of a discriminator with the classes of the schemas that they stand for: a name that no mapping gives a value is the
// value itself (OpenAPI 3.1.1, Discriminator Object).
func (w *writer) tags(s *contract.Schema, of part) {
	d := s.Discriminator()
	branches := map[string]*contract.Schema{}
	for _, list := range [][]*contract.Schema{s.OneOf, s.AnyOf} {
		for _, b := range list {
			if named := b.Deref(); named.Name != "" {
				branches[named.Name] = b
			}
		}
	}
	entry := func(value, target string) string {
		if b := branches[target]; b != nil {
			return value + "\x00" + string(binary.LittleEndian.AppendUint32(nil, uint32(of(b))))
		}
		return value + "\x01" + target
	}
	mapped := map[string]bool{}
	var entries []string
	for _, m := range d.Mapping {
		mapped[m.Target] = true
		entries = append(entries, entry(m.Value, m.Target))
	}
	for name := range branches {
		if !mapped[name] {
			entries = append(entries, entry(name, name))
		}
	}
	if d.Default != "" {
		entries = append(entries, entry("\x02", d.Default))
	}
	w.tag('t')
	w.names(entries)
}

// names are texts in whatever order, each once.
func (w *writer) names(list []string) {
	if len(list) > 1 {
		list = slices.Compact(slices.Sorted(slices.Values(list)))
	}
	w.number(len(list))
	for _, name := range list {
		w.text(name)
	}
}

// values are listed values in whatever order, each once.
func (w *writer) values(list []*source.Node) {
	keys := make([]string, len(list))
	for i, n := range list {
		keys[i] = n.Value().Key()
	}
	w.names(keys)
}

func (w *writer) rational(r *big.Rat) {
	if r == nil {
		w.tag('-')
		return
	}
	w.tag('+')
	w.text(r.RatString())
}

func (w *writer) count(n *int) {
	if n == nil {
		w.tag('-')
		return
	}
	w.tag('+')
	w.number(*n)
}

// node is a value of a description, whatever the order of keys and the spelling of numbers.
func (w *writer) node(n *source.Node) {
	w.tag('0' + byte(n.Kind))
	switch n.Kind {
	case source.Boolean:
		w.flags(n.Bool)
	case source.Number:
		w.text(n.Num().RatString())
	case source.String:
		w.text(n.Text)
	case source.Sequence:
		w.number(len(n.Items()))
		for _, item := range n.Items() {
			w.node(item)
		}
	case source.Mapping:
		order := make([]int, len(n.Members))
		for i := range order {
			order[i] = i
		}
		slices.SortFunc(order, func(i, j int) int { return strings.Compare(n.Members[i].Key, n.Members[j].Key) })
		w.number(len(order))
		for _, i := range order {
			w.text(n.Members[i].Key)
			w.node(n.Members[i].Value)
		}
	}
}
