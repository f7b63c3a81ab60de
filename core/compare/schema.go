package compare

import (
	"cmp"
	"fmt"
	"math/big"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// detect finds the edits between the two schemas of a pair and the pairs below it.
func (c *comparer) detect(p *pair) {
	a, b := p.a.schema, p.b.schema
	c.words(p)
	if c.unclear(p) {
		return
	}
	if len(p.mistaken) == 0 && (c.respelled(p) || c.described(p)) {
		return
	}
	if c.chosen(p) {
		return
	}
	if !c.types(p) {
		return // nothing in common: the type says it all
	}
	if !c.relisted(p) {
		c.values(p)
		c.numbers(p)
		c.texts(p)
	}
	c.arrays(p)
	c.properties(p)
	c.objects(p)
	if !c.rechosen(p) {
		c.branches(p, "oneOf", a.OneOf, b.OneOf)
		c.branches(p, "anyOf", a.AnyOf, b.AnyOf)
	}
	c.conditions(p)
	c.discriminators(p)
}

// structural reports whether two views are built so differently that only their sets can be compared.
func structural(a, b *view) bool {
	x, y := a.schema, b.schema
	return a.mixed != b.mixed || (x.OneOf == nil) != (y.OneOf == nil) || (x.AnyOf == nil) != (y.AnyOf == nil) ||
		(x.Not() == nil) != (y.Not() == nil) || (x.If() == nil) != (y.If() == nil) || x.HasEnum != y.HasEnum ||
		(x.Pattern == nil) != (y.Pattern == nil)
}

// respelled keeps silent about two spellings of one set. It is asked only where the spellings are far apart; elsewhere
// each keyword is asked for itself.
func (c *comparer) respelled(p *pair) bool {
	if !structural(p.a, p.b) {
		return false
	}
	for _, role := range []shape.Role{{Request: true}, {Request: false}} {
		if !c.equal(p.old, p.new, role, nil) {
			return false
		}
	}
	c.edit(p, &edit{
		kind: "schema-respelled", old: p.old.Node, new: p.new.Node,
		title: p.subject + " is written in another way, with the same meaning",
	})
	return true
}

// described makes one edit of a schema that begins to say something where nothing was said, or ends to.
func (c *comparer) described(p *pair) bool {
	was, is := p.a.schema.Asserts() || p.a.null, p.b.schema.Asserts() || p.b.null
	if was == is {
		return false
	}
	title := fmt.Sprintf("%s is %s, was %s", p.subject, typeText(p.b.schema), typeText(p.a.schema))
	if typeText(p.b.schema) == typeText(p.a.schema) {
		title = p.subject + map[bool]string{true: " is now limited", false: " is no longer limited"}[is]
	}
	c.edit(p, &edit{kind: "type", ranged: true, title: title, old: p.a.place("type"), new: p.b.place("type"), partOld: p.old, partNew: p.new})
	return true
}

// edit keeps an edit once for each place where it was made.
func (c *comparer) edit(p *pair, e *edit) {
	e.pair = p
	e.old, e.new = e.old.Origin(), e.new.Origin()
	if e.unclear == "" && (e.old != nil && p.mistaken[e.old] || e.new != nil && p.mistaken[e.new]) {
		return
	}
	key := editKey{e.kind, e.old, e.new, cmp.Or(e.once, e.member+"|"+e.title)}
	if known := c.edits[key]; known != nil {
		if !slices.Contains(p.edits, known) {
			p.edits = append(p.edits, known)
			if len(known.instances) < maxInstances {
				known.instances = append(known.instances, e)
			}
		}
		return
	}
	c.edits[key] = e
	p.edits = append(p.edits, e)
}

// keyword makes the edit of one keyword, or of several that say one thing together.
func (c *comparer) keyword(p *pair, kind string, keywords []string, was, is string, demand func(s *contract.Schema) *contract.Schema) {
	if was == is {
		return
	}
	e := &edit{kind: kind, ranged: true, partOld: demand(p.a.schema), partNew: demand(p.b.schema)}
	e.old, e.new = keywordPlace(p.a, keywords), keywordPlace(p.b, keywords)
	switch {
	case was == "":
		e.title = fmt.Sprintf("%s is now %s", p.subject, is)
	case is == "":
		e.title = fmt.Sprintf("%s is no longer limited to %s", p.subject, was)
	default:
		e.title = fmt.Sprintf("%s is %s, was %s", p.subject, is, was)
	}
	c.edit(p, e)
}

func keywordPlace(v *view, keywords []string) *source.Node {
	for _, k := range keywords {
		if n := v.at[k]; n != nil {
			return n
		}
	}
	return v.schema.Node
}

// types compares the JSON types; it tells whether the two sides share one.
func (c *comparer) types(p *pair) bool {
	a, b := p.a.schema, p.b.schema
	if p.a.null != p.b.null {
		c.nullEdit(p)
	}
	sameBools := a.Bool == nil && b.Bool == nil || a.Bool != nil && b.Bool != nil && *a.Bool == *b.Bool
	if sameTypes(a.Types, b.Types) && sameBools {
		return true
	}
	implied := func(s *contract.Schema) bool {
		return s.Types == nil && s.Bool == nil
	}
	// A type that only became explicit changes nothing: the parts are asked for what they admit.
	demand := func(s *contract.Schema, v *view) *contract.Schema {
		types := s.Types
		if types != nil && (p.a.null || p.b.null) {
			types = append(slices.Clone(types), "null")
		}
		part := &contract.Schema{Node: s.Node, Types: types, Bool: s.Bool}
		if implied(s) {
			if s.SaysObject() {
				part.Types = []string{"object"}
			} else if s.SaysArray() {
				part.Types = []string{"array"}
			} else if s.SaysContent() {
				part.Types = []string{"string"}
			}
			if part.Types != nil && (p.a.null || p.b.null) {
				part.Types = append(part.Types, "null")
			}
		}
		return part
	}
	e := &edit{kind: "type", ranged: true, partOld: demand(a, p.a), partNew: demand(b, p.b), old: p.a.place("type"), new: p.b.place("type")}
	e.title = fmt.Sprintf("%s is %s, was %s", p.subject, typeText(b), typeText(a))
	if typeText(a) == typeText(b) {
		return true
	}
	common := len(meetTypes(orAll(a.Types), orAll(b.Types))) > 0
	if !common {
		e.partOld, e.partNew = p.old, p.new // the change of type stands for all that comes with it
	}
	c.edit(p, e)
	return common
}

// sameTypes tells no types at all from types that are not said.
func sameTypes(a, b []string) bool { return (a == nil) == (b == nil) && slices.Equal(a, b) }

func orAll(types []string) []string {
	if types == nil {
		return []string{"string", "number", "integer", "boolean", "array", "object"}
	}
	return types
}

func typeText(s *contract.Schema) string {
	switch {
	case s.Bool != nil && !*s.Bool, s.Types != nil && len(s.Types) == 0:
		return "nothing at all"
	case s.Types == nil && s.SaysObject():
		return "object"
	case s.Types == nil && s.SaysArray():
		return "array"
	case s.Types == nil:
		return "anything"
	}
	return strings.Join(s.Types, " or ")
}

func (c *comparer) nullEdit(p *pair) {
	demand := func(v *view) *contract.Schema {
		if v.null {
			return &contract.Schema{Node: v.schema.Node}
		}
		return &contract.Schema{Node: v.schema.Node, Types: []string{"boolean", "number", "string", "array", "object"}}
	}
	e := &edit{kind: "null-admitted", partOld: demand(p.a), partNew: demand(p.b), title: p.subject + " may now be null"}
	if p.a.null {
		e.kind, e.title = "null-removed", p.subject+" may no longer be null"
	}
	places := []string{"nullable", "anyOf", "oneOf", "type"}
	e.old, e.new = keywordPlace(p.a, places), keywordPlace(p.b, places)
	c.edit(p, e)
}

// values compares enum and const.
func (c *comparer) values(p *pair) {
	a, b := p.a.schema, p.b.schema
	if !a.HasEnum && !b.HasEnum {
		return
	}
	gone, came := missing(a.Enum, b.Enum), missing(b.Enum, a.Enum)
	var pairs [][2]*source.Node
	if a.HasEnum && b.HasEnum {
		if pairs, gone, came = renamed(gone, came, plainText, bothTexts); len(gone)+len(came)+len(pairs) == 0 {
			return
		}
	}
	for _, r := range pairs {
		c.valueRenamed(p, r[0], r[1])
	}
	if len(pairs) > 0 && len(gone)+len(came) == 0 {
		return
	}
	// What was renamed is told by itself: here each side knows it under both names.
	demand := func(v *view, side int) *contract.Schema {
		values := v.schema.Enum
		for _, r := range pairs {
			values = append(slices.Clip(values), r[1-side])
		}
		part := &contract.Schema{Node: v.schema.Node, Enum: values, HasEnum: v.schema.HasEnum}
		if v.schema.HasEnum && (p.a.null || p.b.null) {
			part.AnyOf = []*contract.Schema{{Node: v.schema.Node, Types: []string{"null"}}, {Node: v.schema.Node, Enum: part.Enum, HasEnum: true}}
			part.Enum, part.HasEnum = nil, false
		}
		return part
	}
	e := &edit{kind: "enum", ranged: true, partOld: demand(p.a, 0), partNew: demand(p.b, 1)}
	e.old, e.new = keywordPlace(p.a, []string{"enum", "const"}), keywordPlace(p.b, []string{"enum", "const"})
	switch {
	case !a.HasEnum:
		e.title = fmt.Sprintf("%s is now one of %s", p.subject, listed(b.Enum))
	case !b.HasEnum:
		e.title = fmt.Sprintf("%s is no longer limited to %s", p.subject, listed(a.Enum))
	case len(gone) == 0:
		e.title = fmt.Sprintf("%s may also be %s", p.subject, listed(came))
	case len(came) == 0:
		e.title = fmt.Sprintf("%s may no longer be %s", p.subject, listed(gone))
	default:
		e.title = fmt.Sprintf("%s may be %s, no longer %s", p.subject, listed(came), listed(gone))
	}
	for _, n := range gone {
		e.left = append(e.left, plainText(n))
	}
	if a.HasEnum && b.HasEnum {
		e.values = [2]string{listed(gone), listed(came)}
	}
	c.edit(p, e)
}

// plainText is a listed value as one writes it: a text without its quotes.
func plainText(n *source.Node) string {
	v := n.Value()
	if v.Kind == value.String && v.Text != "" {
		return v.Text
	}
	return v.String()
}

func missing(from, in []*source.Node) []*source.Node {
	known := make(map[string]bool, len(in))
	for _, n := range in {
		known[n.Value().Key()] = true
	}
	var out []*source.Node
	for _, n := range from {
		if !known[n.Value().Key()] {
			out = append(out, n)
		}
	}
	return out
}

func bothTexts(x, y *source.Node) bool { return x.Kind == source.String && y.Kind == source.String }

// valueRenamed is one value of a list under another name.
func (c *comparer) valueRenamed(p *pair, from, to *source.Node) {
	not := func(n *source.Node) *contract.Schema {
		return &contract.Schema{Node: n, Rare: &contract.Rare{Not: &contract.Schema{Node: n, Enum: []*source.Node{n}, HasEnum: true}}}
	}
	c.edit(p, &edit{
		kind: "value.renamed", title: fmt.Sprintf("%s of %s was renamed to %s", from.Text, p.subject, to.Text),
		renamed: &FromTo{from.Text, to.Text}, old: from, new: to, partOld: not(to), partNew: not(from), least: Safe,
		advice: ways("keep "+from.Text, "accept "+to.Text+" beside "+from.Text+" and go on answering "+from.Text,
			"deprecate "+from.Text+" with a sunset date", "remove it when nobody uses it any more"),
	})
}

// clipped is as much of a value as a title needs.
func clipped(text string) string {
	const most = 60
	if len(text) <= most {
		return text
	}
	r := []rune(text[:min(len(text), 4*most)])
	return string(r[:min(len(r), most)]) + "…"
}

func listed(nodes []*source.Node) string {
	const most = 5
	var words []string
	for i, n := range nodes {
		if i == most {
			words = append(words, fmt.Sprintf("%d more", len(nodes)-most))
			break
		}
		words = append(words, clipped(plainText(n)))
	}
	if len(words) == 0 {
		return "nothing"
	}
	if len(words) == 1 {
		return words[0]
	}
	return strings.Join(words[:len(words)-1], ", ") + " or " + words[len(words)-1]
}

// relisted makes one edit of a list of values that became limits, or of limits that became a list.
func (c *comparer) relisted(p *pair) bool {
	a, b := p.a.schema, p.b.schema
	was, is := limitsText(a), limitsText(b)
	if a.HasEnum == b.HasEnum || was == is {
		return false
	}
	demand := func(v *view) *contract.Schema {
		s := v.schema
		part := &contract.Schema{
			Node: s.Node, Enum: s.Enum, HasEnum: s.HasEnum, Minimum: s.Minimum, Maximum: s.Maximum, ExclusiveMinimum: s.ExclusiveMinimum,
			ExclusiveMaximum: s.ExclusiveMaximum, MultipleOf: s.MultipleOf, MinLength: s.MinLength, MaxLength: s.MaxLength, Pattern: s.Pattern,
			Format: s.Format,
		}
		if v.null {
			null := &contract.Schema{Node: s.Node, Types: []string{"null"}}
			return &contract.Schema{Node: s.Node, AnyOf: []*contract.Schema{null, part}}
		}
		return part
	}
	title := fmt.Sprintf("%s is %s, was one of %s", p.subject, cmp.Or(is, "not limited"), listed(a.Enum))
	if b.HasEnum {
		title = fmt.Sprintf("%s is one of %s, was %s", p.subject, listed(b.Enum), cmp.Or(was, "not limited"))
	}
	places := []string{
		"enum", "const", "pattern", "minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum", "minLength", "maxLength",
		"format",
	}
	e := &edit{
		kind: "enum", ranged: true, title: title, partOld: demand(p.a), partNew: demand(p.b), old: keywordPlace(p.a, places),
		new: keywordPlace(p.b, places),
	}
	if a.HasEnum {
		for _, n := range a.Enum {
			e.left = append(e.left, plainText(n))
		}
	}
	c.edit(p, e)
	return true
}

// limitsText says what a schema demands of numbers and texts, its listed values left out; "" for nothing.
func limitsText(s *contract.Schema) string {
	_, limits := rangeTexts(&contract.Schema{}, s)
	texts := []string{limits}
	if s.MultipleOf != nil {
		texts = append(texts, "a multiple of "+value.NumberText(s.MultipleOf))
	}
	texts = append(texts, countText(s.MinLength, s.MaxLength, "characters"))
	if s.Pattern != nil {
		texts = append(texts, "text that matches "+*s.Pattern)
	}
	if s.Format != "" {
		texts = append(texts, "of format "+s.Format)
	}
	return joinWords(texts...)
}

func (c *comparer) numbers(p *pair) {
	was, is := rangeTexts(p.a.schema, p.b.schema)
	c.keyword(p, "range", []string{"maximum", "exclusiveMaximum", "minimum", "exclusiveMinimum"}, was, is,
		func(s *contract.Schema) *contract.Schema {
			return &contract.Schema{
				Node: s.Node, Minimum: s.Minimum, Maximum: s.Maximum, ExclusiveMinimum: s.ExclusiveMinimum,
				ExclusiveMaximum: s.ExclusiveMaximum,
			}
		})
	step := func(s *contract.Schema) string {
		if s.MultipleOf == nil {
			return ""
		}
		return "a multiple of " + value.NumberText(s.MultipleOf)
	}
	c.keyword(p, "multiple", []string{"multipleOf"}, step(p.a.schema), step(p.b.schema), func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, MultipleOf: s.MultipleOf}
	})
}

// rangeTexts say two ranges of numbers in words, what they share left out: "at most 28" and "at most 90".
func rangeTexts(a, b *contract.Schema) (was, is string) {
	ends := func(s *contract.Schema) []string {
		words := make([]string, 2)
		for i, end := range []struct {
			word string
			r    *big.Rat
		}{{"at least", s.Minimum}, {"above", s.ExclusiveMinimum}, {"at most", s.Maximum}, {"below", s.ExclusiveMaximum}} {
			if end.r != nil {
				words[i/2] = strings.TrimPrefix(words[i/2]+", "+end.word+" "+value.NumberText(end.r), ", ")
			}
		}
		return words
	}
	x, y := ends(a), ends(b)
	for i := range x {
		if x[i] == y[i] {
			x[i], y[i] = "", ""
		}
	}
	return joinWords(x...), joinWords(y...)
}

// countText says how many: "1 to 20 characters".
func countText(low, high *int, unit string) string {
	one := func(n int) string {
		if n == 1 {
			return strings.TrimSuffix(strings.Replace(unit, "properties", "property", 1), "s")
		}
		return unit
	}
	switch {
	case low != nil && high != nil && *low > *high:
		return fmt.Sprintf("at least %d and at most %d %s, which nothing is", *low, *high, unit)
	case low != nil && high != nil && *low == *high:
		return fmt.Sprintf("%d %s", *low, one(*low))
	case low != nil && high != nil:
		return fmt.Sprintf("%d to %d %s", *low, *high, unit)
	case high != nil:
		return fmt.Sprintf("at most %d %s", *high, one(*high))
	case low != nil && *low > 0:
		return fmt.Sprintf("at least %d %s", *low, one(*low))
	}
	return ""
}

func (c *comparer) texts(p *pair) {
	a, b := p.a.schema, p.b.schema
	c.keyword(p, "length", []string{"maxLength", "minLength"}, countText(a.MinLength, a.MaxLength, "characters"),
		countText(b.MinLength, b.MaxLength, "characters"), func(s *contract.Schema) *contract.Schema {
			return &contract.Schema{Node: s.Node, MinLength: s.MinLength, MaxLength: s.MaxLength}
		})
	pattern := func(s *contract.Schema) string {
		if s.Pattern == nil {
			return ""
		}
		return "text that matches " + *s.Pattern
	}
	c.keyword(p, "pattern", []string{"pattern"}, pattern(a), pattern(b), func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Pattern: s.Pattern}
	})
	c.formats(p)
	c.contentKeywords(p)
}

// contentKeywords compares what a string holds. An encoding limits the text; a media type only says what is inside.
func (c *comparer) contentKeywords(p *pair) {
	a, b := p.a.schema, p.b.schema
	encoded := func(s *contract.Schema) string {
		if s.ContentEncoding() == "" {
			return ""
		}
		return "encoded as " + s.ContentEncoding()
	}
	c.keyword(p, "content-encoding", []string{"contentEncoding", "format"}, encoded(a), encoded(b), func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Rare: &contract.Rare{ContentEncoding: s.ContentEncoding()}}
	})
	if a.ContentMediaType() == b.ContentMediaType() {
		return
	}
	places := []string{"contentMediaType", "format"}
	holds := func(s *contract.Schema) string { return cmp.Or(s.ContentMediaType(), "plain text") }
	c.edit(p, &edit{
		kind: "content-changed", old: keywordPlace(p.a, places), new: keywordPlace(p.b, places),
		title: fmt.Sprintf("%s holds %s, was %s", p.subject, holds(b), holds(a)),
		hazard: func(sense) (string, bool) {
			return "the text is the same kind of string, and means something else inside", true
		},
	})
}

func (c *comparer) formats(p *pair) {
	a, b := p.a.schema, p.b.schema
	if a.Format == b.Format {
		return
	}
	name := func(f string) string {
		if f == "" {
			return ""
		}
		return "of format " + f
	}
	before := len(p.edits)
	c.keyword(p, "format", []string{"format"}, name(a.Format), name(b.Format), func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Format: s.Format}
	})
	if len(p.edits) == before {
		return
	}
	e := p.edits[len(p.edits)-1]
	if a.Format != "" && !shape.KnownFormat(a.Format) || b.Format != "" && !shape.KnownFormat(b.Format) {
		e.hazard = func(sense) (string, bool) {
			return "what this format demands is not known here, so nobody can tell whether old values still fit", true
		}
	}
}

func (c *comparer) arrays(p *pair) {
	a, b := p.a.schema, p.b.schema
	was, is := countText(a.MinItems, a.MaxItems, "items"), countText(b.MinItems, b.MaxItems, "items")
	if one, more := "1 item", "at least 1 item"; was == one && is == more {
		was, is = "one value", "a list of one or more"
	} else if was == more && is == one {
		was, is = "a list of one or more", "one value"
	}
	c.keyword(p, "item-count", []string{"maxItems", "minItems"}, was, is, func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, MinItems: s.MinItems, MaxItems: s.MaxItems, Types: anyType}
	})
	unique := func(s *contract.Schema) string {
		if s.UniqueItems {
			return "a list without repetitions"
		}
		return ""
	}
	c.keyword(p, "uniqueness", []string{"uniqueItems"}, unique(a), unique(b), func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, UniqueItems: s.UniqueItems, Types: anyType}
	})
	c.whole(p, "contains", []string{"contains", "minContains", "maxContains"}, containsTitle(p), func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Types: anyType, Rare: &contract.Rare{
			Contains: s.Contains(), MinContains: s.MinContains(),
			MaxContains: s.MaxContains(),
		}}
	})
	prefix := min(len(a.PrefixItems()), len(b.PrefixItems()))
	for i := range prefix {
		c.link(p, step{kind: stepPrefix, index: i}, a.PrefixItems()[i], b.PrefixItems()[i], fmt.Sprintf("%s[%d]", p.subject, i))
	}
	switch {
	case len(a.PrefixItems()) != len(b.PrefixItems()) || (a.Items == nil) != (b.Items == nil):
		e := &edit{kind: "items", ranged: true, title: "what the list of " + p.subject + " holds has changed"}
		e.partOld, e.partNew = itemsPart(a), itemsPart(b)
		e.old, e.new = keywordPlace(p.a, []string{"items", "prefixItems"}), keywordPlace(p.b, []string{"items", "prefixItems"})
		c.edit(p, e)
	case a.Items != nil:
		c.link(p, step{kind: stepItem, index: len(a.PrefixItems())}, a.Items, b.Items, itemSubject(p.subject))
	}
}

func itemsPart(s *contract.Schema) *contract.Schema {
	return &contract.Schema{Node: s.Node, Types: anyType, Items: s.Items, Rare: &contract.Rare{PrefixItems: s.PrefixItems()}}
}

// anyType stands beside keywords of one type in a part: the declared reading would otherwise take the type from them.
var anyType = []string{"null", "boolean", "number", "string", "array", "object"}

func itemSubject(subject string) string { return "an item of " + subject }

// link joins a pair with the pair of a part of it.
func (c *comparer) link(p *pair, s step, old, new *contract.Schema, subject string) {
	to := c.pair(old, new, subject)
	if !to.identical {
		p.links = append(p.links, link{s, to})
	}
}

// whole makes the edit of keywords that are compared as one set only.
func (c *comparer) whole(p *pair, kind string, keywords []string, title string, demand func(s *contract.Schema) *contract.Schema) {
	if x, y := demand(p.a.schema), demand(p.b.schema); !c.classes.Equal(x, y) {
		c.edit(p, wholeEdit(p, kind, keywords, title, x, y))
	}
}

func wholeEdit(p *pair, kind string, keywords []string, title string, old, new *contract.Schema) *edit {
	return &edit{
		kind: kind, ranged: true, title: title,
		old: keywordPlace(p.a, keywords), new: keywordPlace(p.b, keywords), partOld: old, partNew: new,
	}
}
