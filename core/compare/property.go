package compare

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// properties compares the named members of two objects.
func (c *comparer) properties(p *pair) {
	a, b := p.a.schema, p.b.schema
	var gone, came []contract.Property
	both := func(name string, x, y *contract.Schema) {
		c.link(p, step{kind: stepProperty, name: name}, x, y, name)
		c.required(p, name)
	}
	for _, x := range a.Properties {
		switch y := b.Property(x.Name); {
		case y != nil:
			both(x.Name, x.Schema, y)
		case b.Requires(x.Name): // what only required mentions is declared, and may be anything
			both(x.Name, x.Schema, &contract.Schema{Node: p.b.place("required")})
		default:
			gone = append(gone, x)
		}
	}
	for _, y := range b.Properties {
		switch {
		case a.Property(y.Name) != nil:
		case a.Requires(y.Name):
			both(y.Name, &contract.Schema{Node: p.a.place("required")}, y.Schema)
		default:
			came = append(came, y)
		}
	}
	pairs, gone, came := renamed(gone, came, func(q contract.Property) string { return q.Name }, func(x, y contract.Property) bool {
		return c.alikeShape(x.Schema, y.Schema)
	})
	for _, r := range pairs {
		c.renamed(p, r[0], r[1])
	}
	for _, x := range gone {
		c.removed(p, x)
	}
	for _, y := range came {
		c.added(p, y)
	}
	for _, name := range append(slices.Clone(a.Required), b.Required...) {
		if a.Property(name) == nil && b.Property(name) == nil {
			c.required(p, name)
		}
	}
}

// namePart is what a side demands of the presence of one name.
func namePart(s *contract.Schema, name string) *contract.Schema {
	part := &contract.Schema{Node: s.Node, Types: anyType}
	if s.Requires(name) {
		part.Required = []string{name}
	}
	if p := s.Property(name); p != nil {
		// Whether it travels at all decides whether its absence counts.
		flags := flagsOf(p)
		part.Properties = []contract.Property{{Name: name, Schema: flags}}
	}
	return part
}

func flagsOf(p *contract.Schema) *contract.Schema {
	readOnly, writeOnly := p.Access()
	return &contract.Schema{Node: p.Node, ReadOnly: readOnly, WriteOnly: writeOnly}
}

func (c *comparer) required(p *pair, name string) {
	was, is := p.a.schema.Requires(name), p.b.schema.Requires(name)
	if was == is {
		return
	}
	e := &edit{kind: "property.now-required", member: name, title: name + " must now be there"}
	if was {
		e.kind, e.title = "property.now-optional", name+" may now be left out"
	}
	e.silent = func(role shape.Role) bool { return counts(p.a.schema, name, role) == counts(p.b.schema, name, role) }
	e.unheard = name + " is listed as required, and does not travel there"
	if was {
		e.unheard = name + " is no longer listed as required, and does not travel there"
	}
	e.partOld, e.partNew = namePart(p.a.schema, name), namePart(p.b.schema, name)
	e.old, e.new = memberPlace(p.a, name), memberPlace(p.b, name)
	c.edit(p, e)
}

// counts reports whether a schema requires a name of the messages of a role: what does not travel need not be there.
func counts(s *contract.Schema, name string, role shape.Role) bool {
	if !s.Requires(name) || s.Property(name) == nil {
		return s.Requires(name)
	}
	readOnly, writeOnly := s.Property(name).Access()
	return !(role.Request && readOnly || !role.Request && writeOnly)
}

// memberPlace is where a property stands, or the schema that lacks it.
func memberPlace(v *view, name string) *source.Node {
	if s := v.schema.Property(name); s != nil {
		return s.Node
	}
	return v.place("required")
}

// knownPart is what a side demands of a property that it declares: its value, and its presence.
func knownPart(s *contract.Schema, name string) *contract.Schema {
	part := &contract.Schema{Node: s.Node, Types: anyType, Properties: []contract.Property{{Name: name, Schema: s.Property(name)}}}
	if s.Requires(name) {
		part.Required = []string{name}
	}
	return part
}

// open is a part that says nothing of names that it does not declare, whatever a server does with those.
func (c *comparer) open(part *contract.Schema) *contract.Schema {
	whole := c.closing[part]
	if whole || part.AdditionalProperties != nil || !part.SaysObject() && !slices.Contains(part.Types, "object") {
		return part
	}
	part = part.Copy()
	part.AdditionalProperties = anything
	return part
}

// strangerPart is what a side demands of names that it does not declare.
func (c *comparer) strangerPart(s *contract.Schema) *contract.Schema {
	if known := c.strangers[s]; known != nil {
		return known
	}
	part := &contract.Schema{
		Node: s.Node, Types: anyType, AdditionalProperties: s.AdditionalProperties,
		Rare: &contract.Rare{PatternProperties: s.PatternProperties(), PropertyNames: s.PropertyNames()},
	}
	for _, p := range s.Properties {
		part.Properties = append(part.Properties, contract.Property{Name: p.Name, Schema: anything})
	}
	if c.strangers == nil {
		c.strangers = map[*contract.Schema]*contract.Schema{}
	}
	c.strangers[s] = part
	c.closes(part)
	return part
}

// closes says that a part speaks of all names.
func (c *comparer) closes(part *contract.Schema) *contract.Schema {
	if c.closing == nil {
		c.closing = map[*contract.Schema]bool{}
	}
	c.closing[part] = true
	return part
}

func (c *comparer) added(p *pair, y contract.Property) {
	e := &edit{
		kind: "property.added", member: y.Name, title: y.Name + " is new", least: Safe,
		old: lacking(p.b.owner[y.Name], p.a), new: y.Schema.Node,
		partOld: c.strangerPart(p.a.schema), partNew: knownPart(p.b.schema, y.Name), needNew: y.Name,
	}
	if p.b.schema.Requires(y.Name) && !hiddenFromRequests(y.Schema) {
		e.kind, e.title = "property.required-added", y.Name+" is new and must be there"
	}
	e.hazard = ignored(y.Name, false)
	c.edit(p, e)
}

// lacking is the place where a property of one side would stand on the other: in the schema of the name of the one that declares it, if
// that is a component that the other side is made of, too.
func lacking(owner *contract.Schema, other *view) *source.Node {
	if owner != nil && owner.Name != "" {
		for s := range other.joined {
			if s.Name == owner.Name {
				return keyOf(s.Node, "properties")
			}
		}
	}
	return other.place("properties")
}

func hiddenFromRequests(s *contract.Schema) bool { return flagsOf(s).ReadOnly }

func (c *comparer) removed(p *pair, x contract.Property) {
	e := &edit{
		kind: "property.removed", member: x.Name, title: x.Name + " is no longer there", least: Safe,
		old: x.Schema.Node, new: lacking(p.a.owner[x.Name], p.b),
		partOld: knownPart(p.a.schema, x.Name), partNew: c.strangerPart(p.b.schema), needOld: x.Name,
		advice: ways("keep "+x.Name, "deprecate "+x.Name+" with a sunset date", "remove it when nobody uses it any more"),
	}
	e.hazard = ignored(x.Name, true)
	c.edit(p, e)
}

// ignored tells of data that gets lost although nothing is refused: a property that only one side knows. oldKnows tells which.
func ignored(name string, oldKnows bool) func(sense) (string, bool) {
	return func(s sense) (string, bool) {
		senderKnows := s.senderIsOld() == oldKnows
		switch {
		case senderKnows && s.clientSends:
			return s.when() + name + " is accepted and ignored: what clients send in it is lost (a strict server refuses it)", true
		case !senderKnows && !s.clientSends:
			return s.when() + "clients that read " + name + " no longer find it", true
		}
		return "", false
	}
}

// alikeShape reports whether two schemas mean the same or nearly so: one is included in the other.
func (c *comparer) alikeShape(a, b *contract.Schema) bool {
	x, y := newView(a.Deref()), newView(b.Deref())
	if !sameTypes(x.schema.Types, y.schema.Types) {
		return false
	}
	p, q := c.space.Lower(a, shape.Role{}), c.space.Lower(b, shape.Role{})
	return c.space.Included(p, q).Answer == shape.Proved || c.space.Included(q, p).Answer == shape.Proved
}

// resemble reports whether two names are likely one name before and after: the same words in another spelling, one
// word kept, one inside the other, or a few letters' difference.
func resemble(a, b string) bool {
	if opposed(a, b) {
		return false
	}
	x, y := nameWords(a), nameWords(b)
	if strings.Join(x, "") == strings.Join(y, "") {
		return true
	}
	for _, w := range x {
		if len(w) > 2 && slices.Contains(y, w) {
			return true
		}
	}
	la, lb := strings.ToLower(a), strings.ToLower(b)
	short, long := la, lb
	if len(short) > len(long) {
		short, long = long, short
	}
	return len(short) > 2 && strings.Contains(long, short) || len(short) > 3 && source.Alike(la, lb)
}

// nameWords splits a name at changes of case, digits and separators: lengthOverall is length, overall.
func nameWords(name string) []string {
	var words []string
	var word strings.Builder
	flush := func() {
		if word.Len() > 0 {
			words = append(words, strings.ToLower(word.String()))
			word.Reset()
		}
	}
	lower := false
	for _, r := range name {
		switch {
		case !unicode.IsLetter(r) && !unicode.IsDigit(r):
			flush()
			lower = false
			continue
		case unicode.IsUpper(r) && lower:
			flush()
		}
		word.WriteRune(r)
		lower = unicode.IsLower(r) || unicode.IsDigit(r)
	}
	flush()
	return words
}

func (c *comparer) renamed(p *pair, from, to contract.Property) {
	e := &edit{
		kind: "property.renamed", member: to.Name, least: Safe,
		title:   fmt.Sprintf("%s was renamed to %s", from.Name, to.Name),
		renamed: &FromTo{from.Name, to.Name},
		old:     from.Schema.Node, new: to.Schema.Node,
		advice:  besides(from.Name, to.Name, "uses"),
		partOld: c.renamePart(p.a.schema, from.Name), partNew: c.renamePart(p.b.schema, to.Name),
	}
	e.hazard = func(s sense) (string, bool) {
		sent, read := e.names(s)
		return s.when() + fmt.Sprintf("%s is sent where %s is read: its value is lost", sent, read), true
	}
	c.edit(p, e)
	c.link(p, step{kind: stepProperty, name: to.Name}, from.Schema, to.Schema, to.Name)
}

// renamePart is what a side demands of a renamed property, and of the name that it does not know.
func (c *comparer) renamePart(s *contract.Schema, name string) *contract.Schema {
	return c.closes(&contract.Schema{Node: s.Node, Types: anyType, AllOf: []*contract.Schema{namePart(s, name), c.strangerPart(s)}})
}

// objects compares what two objects demand of names in general.
func (c *comparer) objects(p *pair) {
	a, b := p.a.schema, p.b.schema
	c.rest(p)
	c.keyword(p, "size", []string{"maxProperties", "minProperties"}, countText(a.MinProperties, a.MaxProperties, "properties"),
		countText(b.MinProperties, b.MaxProperties, "properties"), func(s *contract.Schema) *contract.Schema {
			return &contract.Schema{Node: s.Node, MinProperties: s.MinProperties, MaxProperties: s.MaxProperties, Types: anyType}
		})
	c.whole(p, "names", []string{"propertyNames"}, namesTitle(p), func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Types: anyType, Rare: &contract.Rare{PropertyNames: s.PropertyNames()}}
	})
	c.whole(p, "dependencies", []string{"dependentRequired", "dependentSchemas"}, dependencyTitle(p),
		func(s *contract.Schema) *contract.Schema {
			return &contract.Schema{Node: s.Node, Types: anyType, Rare: &contract.Rare{
				DependentRequired: s.DependentRequired(),
				DependentSchemas:  s.DependentSchemas(),
			}}
		})
	if unevaluated(a) || unevaluated(b) {
		c.unevaluated(p)
	}
	byPattern := func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Types: anyType, Rare: &contract.Rare{PatternProperties: s.PatternProperties()}}
	}
	if !c.classes.Equal(byPattern(a), byPattern(b)) { // what a pattern does not speak of falls to additionalProperties
		e := wholeEdit(p, "pattern-properties", []string{"patternProperties"}, patternsTitle(p), c.strangerPart(a), c.strangerPart(b))
		e.last = true
		c.edit(p, e)
	}
}

// rest compares additionalProperties: whether, and with which values, other names are admitted.
func (c *comparer) rest(p *pair) {
	a, b := p.a.schema.AdditionalProperties, p.b.schema.AdditionalProperties
	if p.a.mixed || p.b.mixed || a == nil && b == nil {
		return
	}
	if a != nil && b != nil && a.Bool == nil && b.Bool == nil {
		c.link(p, step{kind: stepRest, not: p.names()}, a, b, "a further property of "+p.subject)
		return
	}
	is, was := restText(b), restText(a)
	if is == was {
		return
	}
	c.edit(p, &edit{
		kind: "rest", ranged: true, title: fmt.Sprintf("%s %s, where it %s", p.subject, is, past(was)),
		old: p.a.place("additionalProperties"), new: p.b.place("additionalProperties"),
		partOld: c.restPart(p.a.schema, p.b.schema), partNew: c.restPart(p.b.schema, p.a.schema),
	})
}

func restText(s *contract.Schema) string {
	switch {
	case s == nil:
		return "tolerates other properties"
	case s.Bool != nil && !*s.Bool:
		return "refuses other properties"
	case s.Bool != nil:
		return "admits any other property"
	}
	return "admits other properties of one kind"
}

func past(text string) string {
	verb, rest, _ := strings.Cut(text, " ")
	return map[string]string{"tolerates": "tolerated", "refuses": "refused", "admits": "admitted"}[verb] + " " + rest
}

// restPart is what s demands of names that neither side declares.
func (c *comparer) restPart(s, other *contract.Schema) *contract.Schema {
	part := c.strangerPart(s).Copy()
	part.Properties = slices.Clip(part.Properties)
	for _, q := range other.Properties {
		if s.Property(q.Name) == nil {
			part.Properties = append(part.Properties, contract.Property{Name: q.Name, Schema: anything})
		}
	}
	return c.closes(part)
}

// unevaluated compares what is said of names and items that no branch speaks of: what that means depends on all branches.
func (c *comparer) unevaluated(p *pair) {
	says := func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Rare: &contract.Rare{
			UnevaluatedProperties: s.UnevaluatedProperties(),
			UnevaluatedItems:      s.UnevaluatedItems(),
		}}
	}
	if !c.classes.Equal(says(p.a.schema), says(p.b.schema)) {
		c.edit(p, wholeEdit(p, "unevaluated", []string{"unevaluatedProperties", "unevaluatedItems"}, unevaluatedTitle(p), looking{}.of(p.old),
			looking{}.of(p.new)))
	}
}

// looking holds what was made of schemas: each once, for they share their parts.
type looking map[*contract.Schema]*contract.Schema

// of is what a schema demands of what no part of it looks at: its parts look where they did and demand nothing themselves.
func (l looking) of(s *contract.Schema) *contract.Schema {
	if known, made := l[s]; made || s == nil {
		return known
	}
	part := &contract.Schema{Node: s.Node}
	l[s] = part
	if s.UnevaluatedProperties() == nil && s.UnevaluatedItems() == nil {
		part.Types = anyType
	}
	named := func(list []contract.Property) (all []contract.Property) {
		for _, p := range list {
			all = append(all, contract.Property{Name: p.Name, Schema: anything})
		}
		return all
	}
	below := func(list []*contract.Schema) (all []*contract.Schema) {
		for _, b := range list {
			all = append(all, l.of(b))
		}
		return all
	}
	part.Properties, part.AllOf = named(s.Properties), below(s.AllOf)
	if s.Ref != nil {
		part.AllOf = append(part.AllOf, l.of(s.Ref))
	}
	if s.AdditionalProperties != nil {
		part.AdditionalProperties = anything
	}
	if s.Items != nil {
		part.Items = anything
	}
	for _, list := range [][]*contract.Schema{s.AnyOf, s.OneOf} {
		if list != nil { // which of them hold decides; that one must, does not
			part.AllOf = append(part.AllOf, &contract.Schema{Node: s.Node, AnyOf: append(slices.Clip(list), anything)})
		}
	}
	if s.Rare == nil {
		return part
	}
	rare := part.EnsureRare()
	rare.UnevaluatedProperties, rare.UnevaluatedItems, rare.PatternProperties = s.UnevaluatedProperties(), s.UnevaluatedItems(),
		named(s.PatternProperties())
	for range s.PrefixItems() {
		rare.PrefixItems = append(rare.PrefixItems, anything)
	}
	rare.If, rare.Then, rare.Else = s.If(), l.of(s.Then()), l.of(s.Else())
	for _, d := range s.DependentSchemas() {
		rare.DependentSchemas = append(rare.DependentSchemas, contract.Property{Name: d.Name, Schema: l.of(d.Schema)})
	}
	return part
}

func unevaluatedTitle(p *pair) string {
	text := func(s *contract.Schema) string {
		u := s.UnevaluatedProperties()
		what := "properties"
		if u == nil {
			u, what = s.UnevaluatedItems(), "items"
		}
		switch {
		case u == nil:
			return "tolerates what no part of it speaks of"
		case u.Bool != nil && !*u.Bool:
			return "refuses " + what + " that no part of it speaks of"
		case u.Bool != nil:
			return "admits any " + what + " that no part of it speaks of"
		}
		return "admits " + valuesText(u) + " where no part of it speaks of " + what
	}
	return fmt.Sprintf("%s %s, where it %s", p.subject, text(p.b.schema), past(text(p.a.schema)))
}

func unevaluated(s *contract.Schema) bool {
	return s.UnevaluatedProperties() != nil || s.UnevaluatedItems() != nil
}
