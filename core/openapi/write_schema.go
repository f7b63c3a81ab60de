package openapi

import (
	"math/big"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// name gives the named schemas their places under components, in the author's order.
func (w *writer) name() {
	for _, s := range w.c.Schemas {
		if s.Name != "" {
			w.component(s, s.Name)
		}
	}
}

func (w *writer) component(s *contract.Schema, name string) string {
	known, done := w.schemas[s]
	if !done {
		known = w.claim("schemas", name)
		w.schemas[s] = known
		w.queue = append(w.queue, s)
	}
	return known
}

// sub writes a schema where one is used: a reference to one that has a name, or the schema itself.
func (w *writer) sub(s *contract.Schema) *value.Value {
	if name := w.schemas[s]; name != "" {
		return reference("#/components/schemas/" + name)
	}
	if s.Name != "" {
		return reference("#/components/schemas/" + w.component(s, s.Name))
	}
	if w.open[s] { // it stands inside itself
		step := s.Node.Step()
		if step == "" || strings.Trim(step, "0123456789") == "" {
			step = "Nested"
		}
		return reference("#/components/schemas/" + w.component(s, upper(step)))
	}
	if s.Ref != nil && s.Bare() && s.Ref.Name == "" && s.Rare == nil {
		return w.sub(s.Ref)
	}
	w.open[s] = true
	defer delete(w.open, s)
	return w.schema(s)
}

// schema writes what a schema says, in the order in which a person would.
func (w *writer) schema(s *contract.Schema) *value.Value {
	if s.Bool != nil {
		switch {
		case !w.old:
			return value.Bool(*s.Bool)
		case *s.Bool:
			return value.Obj()
		}
		return value.Obj(value.Member{Name: "not", Value: value.Obj()})
	}
	var o object
	o.text("title", s.Title)
	o.text("description", s.Description)
	if nulls := w.nullable(s); nulls != nil {
		return nulls
	}
	if s.Ref != nil && !w.old {
		o.members = append(w.sub(s.Ref).Members, o.members...)
	}
	w.types(&o, s)
	w.values(&o, s)
	w.numbers(&o, s)
	w.strings(&o, s)
	w.arrays(&o, s)
	w.objects(&o, s)
	w.compositions(&o, s)
	w.annotations(&o, s)
	if len(o.members) == 1 && o.members[0].Name == "allOf" && len(o.members[0].Value.Items) == 1 {
		return o.members[0].Value.Items[0]
	}
	return o.value()
}

// nullable writes OpenAPI 3.0's nullable in the words of 3.1 where no list of types can say it: what the schema says, or null.
func (w *writer) nullable(s *contract.Schema) *value.Value {
	if !s.Nullable || w.old || s.Types != nil || !s.Asserts() {
		return nil
	}
	plain := s.Copy()
	plain.Nullable, plain.Title, plain.Description = false, "", ""
	if s.HasEnum && s.Ref == nil && s.AllOf == nil && s.AnyOf == nil && s.OneOf == nil {
		return nil // null is listed
	}
	if !plain.Asserts() && plain.Ref == nil {
		return nil
	}
	var o object
	o.text("title", s.Title)
	o.text("description", s.Description)
	o.add("anyOf", value.Arr(w.schema(plain), value.Obj(value.Member{Name: "type", Value: value.Str("null")})))
	return o.value()
}

func (w *writer) types(o *object, s *contract.Schema) {
	types := slices.Clone(s.Types)
	null := s.Nullable
	if w.old {
		if i := slices.Index(types, "null"); i >= 0 {
			null, types = true, slices.Delete(types, i, i+1)
		}
		switch {
		case len(types) == 1:
			o.text("type", types[0])
		case len(types) == 0 && len(s.Types) > 0:
			o.add("enum", value.Arr(value.NullValue)) // null alone
		case len(types) > 1:
			any := value.Arr()
			for _, t := range types {
				any.Items = append(any.Items, value.Obj(value.Member{Name: "type", Value: value.Str(t)}))
			}
			if s.AnyOf != nil {
				w.warn(s.Node, "OpenAPI 3.0 has no list of types beside anyOf: the types are left out")
			} else {
				o.add("anyOf", any)
			}
		}
		o.flag("nullable", null && (len(types) > 0 || s.Nullable))
	} else {
		if null && types != nil && !slices.Contains(types, "null") {
			types = append(types, "null")
		}
		switch {
		case len(types) == 1:
			o.text("type", types[0])
		case len(types) > 1:
			o.words("type", types)
		}
	}
	format := s.Format
	if w.old && format == "" {
		switch {
		case s.ContentEncoding() == "base64":
			format = "byte"
		case s.ContentMediaType() == "application/octet-stream":
			format = "binary"
		}
	}
	o.text("format", format)
	if !w.old {
		o.text("contentEncoding", s.ContentEncoding())
		o.text("contentMediaType", s.ContentMediaType())
	} else if t := s.ContentMediaType(); t != "" && t != "application/octet-stream" {
		w.warn(s.Node, "OpenAPI 3.0 does not say what a text holds: the media type %s is left out", t)
	}
}

func (w *writer) values(o *object, s *contract.Schema) {
	if s.Const != nil {
		if w.old {
			o.add("enum", value.Arr(s.Const.Value()))
		} else {
			o.add("const", s.Const.Value())
		}
	}
	if !s.HasEnum {
		return
	}
	v := value.Arr()
	null := false
	for _, n := range s.Enum {
		v.Items = append(v.Items, n.Value())
		null = null || n.Kind == source.Null
	}
	if s.Nullable && !null {
		v.Items = append(v.Items, value.NullValue)
	}
	o.add("enum", v)
}

func (w *writer) numbers(o *object, s *contract.Schema) {
	number := func(name string, r *big.Rat) {
		if r != nil {
			o.add(name, value.Rat(r))
		}
	}
	number("multipleOf", s.MultipleOf)
	if !w.old {
		number("minimum", s.Minimum)
		number("exclusiveMinimum", s.ExclusiveMinimum)
		number("maximum", s.Maximum)
		number("exclusiveMaximum", s.ExclusiveMaximum)
		return
	}
	limit := func(name, flag string, closed, open *big.Rat, sign int) {
		if open != nil && (closed == nil || open.Cmp(closed)*sign >= 0) {
			number(name, open)
			o.flag(flag, true)
			return
		}
		number(name, closed)
	}
	limit("minimum", "exclusiveMinimum", s.Minimum, s.ExclusiveMinimum, 1)
	limit("maximum", "exclusiveMaximum", s.Maximum, s.ExclusiveMaximum, -1)
}

func (o *object) count(name string, n *int) {
	if n != nil {
		o.add(name, value.Rat(big.NewRat(int64(*n), 1)))
	}
}

func (w *writer) strings(o *object, s *contract.Schema) {
	o.count("minLength", s.MinLength)
	o.count("maxLength", s.MaxLength)
	if s.Pattern != nil {
		o.add("pattern", value.Str(*s.Pattern))
	}
}

// newer writes a keyword that OpenAPI 3.0 does not know; there, it is a warning.
func (w *writer) newer(o *object, s *contract.Schema, name string, v *value.Value) {
	switch {
	case v == nil:
	case w.old:
		w.warn(s.Node, "OpenAPI 3.0 has no %s: it is left out, and the schema admits more", name)
	default:
		o.add(name, v)
	}
}

func (w *writer) one(s *contract.Schema) *value.Value {
	if s == nil {
		return nil
	}
	return w.sub(s)
}

func (w *writer) several(all []*contract.Schema) *value.Value {
	if all == nil {
		return nil
	}
	v := value.Arr()
	for _, s := range all {
		v.Items = append(v.Items, w.sub(s))
	}
	return v
}

func (w *writer) named(all []contract.Property) *value.Value {
	var o object
	for _, p := range all {
		o.add(p.Name, w.sub(p.Schema))
	}
	return o.orNil()
}

func (w *writer) arrays(o *object, s *contract.Schema) {
	w.newer(o, s, "prefixItems", w.several(s.PrefixItems()))
	o.add("items", w.one(s.Items))
	if w.old && s.Items == nil && slices.Contains(s.Types, "array") {
		o.add("items", value.Obj()) // OpenAPI 3.0.4, Schema Object: items must be there
	}
	w.newer(o, s, "contains", w.one(s.Contains()))
	if !w.old {
		o.count("minContains", s.MinContains())
		o.count("maxContains", s.MaxContains())
	}
	o.count("minItems", s.MinItems)
	o.count("maxItems", s.MaxItems)
	o.flag("uniqueItems", s.UniqueItems)
	w.newer(o, s, "unevaluatedItems", w.one(s.UnevaluatedItems()))
}

func (w *writer) objects(o *object, s *contract.Schema) {
	if len(s.Required) > 0 {
		o.words("required", s.Required)
	}
	o.add("properties", w.named(s.Properties))
	w.newer(o, s, "patternProperties", w.named(s.PatternProperties()))
	if a := s.AdditionalProperties; a != nil && a.Bool != nil {
		o.add("additionalProperties", value.Bool(*a.Bool))
	} else {
		o.add("additionalProperties", w.one(a))
	}
	w.newer(o, s, "propertyNames", w.one(s.PropertyNames()))
	w.newer(o, s, "unevaluatedProperties", w.one(s.UnevaluatedProperties()))
	o.count("minProperties", s.MinProperties)
	o.count("maxProperties", s.MaxProperties)
	var needs object
	for _, d := range s.DependentRequired() {
		needs.add(d.Name, list(d.Needs))
	}
	w.newer(o, s, "dependentRequired", needs.orNil())
	w.newer(o, s, "dependentSchemas", w.named(s.DependentSchemas()))
}

func (w *writer) compositions(o *object, s *contract.Schema) {
	all := w.several(s.AllOf)
	if s.Ref != nil && w.old { // siblings of $ref would be ignored
		if all == nil {
			all = value.Arr()
		}
		all.Items = append([]*value.Value{w.sub(s.Ref)}, all.Items...)
	}
	o.add("allOf", all)
	o.add("anyOf", w.several(s.AnyOf))
	o.add("oneOf", w.several(s.OneOf))
	o.add("not", w.one(s.Not()))
	w.newer(o, s, "if", w.one(s.If()))
	if s.If() != nil && !w.old {
		o.add("then", w.one(s.Then()))
		o.add("else", w.one(s.Else()))
	}
	d := s.Discriminator()
	if d == nil {
		return
	}
	var one, mapping object
	one.text("propertyName", d.Property)
	for _, m := range d.Mapping {
		mapping.text(m.Value, w.target(m.Target))
	}
	one.add("mapping", mapping.orNil())
	if d.Default != "" {
		w.warn(d.Node, "OpenAPI before 3.2 has no default of a discriminator: %s is left out", d.Default)
	}
	o.add("discriminator", one.value())
}

// target is where a value of a discriminator leads: the schema of that name, under components.
func (w *writer) target(name string) string {
	last := name[strings.LastIndexByte(name, '/')+1:]
	for _, s := range w.c.Schemas {
		if s.Name == name || s.Name == last {
			return "#/components/schemas/" + w.component(s, s.Name)
		}
	}
	return name
}

func (w *writer) annotations(o *object, s *contract.Schema) {
	o.add("default", valueOf(s.Default))
	switch all := s.Examples(); {
	case len(all) == 0:
	case w.old:
		o.add("example", all[0].Value())
		for _, e := range all[1:] {
			w.warn(e, "OpenAPI 3.0 has one example of a schema: this one is left out")
		}
	default:
		v := value.Arr()
		for _, e := range all {
			v.Items = append(v.Items, e.Value())
		}
		o.add("examples", v)
	}
	o.flag("readOnly", s.ReadOnly)
	o.flag("writeOnly", s.WriteOnly)
	o.flag("deprecated", s.Deprecated)
	o.add("xml", valueOf(s.XML()))
	o.add("externalDocs", w.docs(s.Docs()))
	w.extensions(o, s.Extensions())
	for _, unread := range s.Unsupported() {
		w.warn(s.Node, "%s is not carried over: what it demands is left open", unread)
	}
}
