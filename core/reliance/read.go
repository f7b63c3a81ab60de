package reliance

import (
	"regexp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Limits of what a consumer relies on.
const (
	MaxBytes      = 1 << 20 // of its file
	maxNeeds      = 100
	maxOperations = 2_000
	maxFields     = 2_000 // of an operation
)

// Read reads what a consumer relies on from a file. The error is a source.Diagnostics that names all that is wrong.
func Read(f *source.File) (*Reliance, error) {
	r := &reading{}
	out := r.reliance(f.Root)
	if len(r.Wrong) > 0 {
		return nil, r.Wrong.Sorted(f.Name)
	}
	return out, nil
}

type reading struct{ source.Expecting }

func (r *reading) reliance(root *source.Node) *Reliance {
	out := &Reliance{}
	if root.Kind != source.Mapping {
		r.Tell(root.Wrong(source.Syntax, "what a consumer relies on is an object with relies; here stands %s", root.Kind))
		return out
	}
	for _, m := range root.Members {
		switch m.Key {
		case "consumer":
			out.Consumer = r.Text(m.Value, "the name of a consumer")
		case "relies":
			out.Needs = r.needs(m.Value)
		default:
			r.Unknown(m.Value, m.Key, "consumer", "relies")
		}
	}
	if root.Get("relies") == nil {
		r.Tell(root.Wrong(source.Syntax, "it lacks relies, which names APIs and their operations"))
	}
	return out
}

var apiName = regexp.MustCompile(`^[a-z0-9][a-z0-9-]*$`)

func (r *reading) needs(n *source.Node) []*Need {
	var all []*Need
	for _, m := range r.Entries(n, "an object that names APIs", maxNeeds) {
		api, version, told := strings.Cut(m.Key, "@")
		if !apiName.MatchString(api) {
			r.Tell(m.Value.KeyWrong(source.Syntax, "%s is no API; one is named as berths, berths@1 or berths@1.2.0", m.Key))
			continue
		}
		if told {
			if _, err := contract.ParseVersion(version); err != nil {
				r.Tell(m.Value.KeyWrong(source.Syntax, "behind @ stands a version, such as 1.2.0, or a line, such as 1: %v", err))
				continue
			}
		}
		if slices.ContainsFunc(all, func(n *Need) bool { return n.API == api }) {
			r.Tell(m.Value.KeyWrong(source.Syntax, "%s stands here twice; a consumer is built for one of its versions", api))
			continue
		}
		need := &Need{API: api, Version: version, Node: m.Value}
		for _, op := range r.Entries(m.Value, "an object that names operations", maxOperations) {
			need.Operations = append(need.Operations, r.operation(op.Key, op.Value))
		}
		all = append(all, need)
	}
	return all
}

// everything is what stands for all parts of an operation.
const everything = "everything"

func (r *reading) operation(name string, n *source.Node) *Operation {
	op := &Operation{Name: name, Node: n}
	if n.Kind == source.Null || n.Kind == source.String && n.Text == everything {
		op.All = true
		return op
	}
	reads := false
	for _, m := range r.Entries(n, "everything, or an object with sends, body, reads or errors", 4) {
		switch m.Key {
		case "sends":
			op.Sends = r.fields(m.Value, r.parameter)
		case "body":
			op.Body = r.fields(m.Value, r.field)
		case "reads":
			op.Reads, reads = r.fields(m.Value, r.field), true
		case "errors":
			op.Errors = r.fields(m.Value, r.field)
		default:
			r.Unknown(m.Value, m.Key, "sends", "body", "reads", "errors")
		}
	}
	if !reads {
		r.Tell(n.Wrong(source.Syntax, "%s does not say what it reads; where nothing of the answer is read, say reads: []", name))
	}
	return op
}

// fields reads a list of fields, or an object that says more of each: the values that are sent, or known. one reads the name of a field.
func (r *reading) fields(n *source.Node, one func(n *source.Node, text string) (Field, bool)) []Field {
	var all []Field
	add := func(n *source.Node, text string, values []*value.Value) {
		if text == "" {
			return
		}
		if f, ok := one(n, text); ok {
			f.Values, f.Node = values, n
			all = append(all, f)
		}
	}
	switch n.Kind {
	case source.Sequence:
		for _, it := range n.Items() {
			add(it, r.Text(it, "a field, such as stay.nights or items[].price"), nil)
		}
	case source.Mapping:
		for _, m := range n.Members {
			add(m.Value, m.Key, r.values(m.Value))
		}
	default:
		r.Tell(n.Wrong(source.Syntax, "here stands %s; it must be a list, such as [stay.nights, items[].price]", n.Kind))
	}
	if len(all) > maxFields {
		r.Tell(n.Wrong(source.TooLarge, "it holds %d fields; at most %d are read", len(all), maxFields))
		return nil
	}
	return all
}

// values reads the values of a field: a list, or any.
func (r *reading) values(n *source.Node) []*value.Value {
	var all []*value.Value
	switch {
	case n.Kind == source.Null || n.Kind == source.String && n.Text == anyValue:
	case n.Kind == source.Sequence:
		for _, it := range n.Items() {
			all = append(all, it.Value())
		}
	default:
		r.Tell(n.Wrong(source.Syntax, "behind a field stands a list of its values, or any; here stands %s", n.Kind))
	}
	return all
}

// anyValue is what stands for all values of a field.
const anyValue = "any"

func (r *reading) parameter(_ *source.Node, text string) (Field, bool) {
	return Field{Way: []string{text}}, true
}

func (r *reading) field(n *source.Node, text string) (Field, bool) {
	f := Field{}
	if rest, is := strings.CutSuffix(text, "?"); is && !strings.HasSuffix(rest, `\`) {
		f.Optional, text = true, rest
	}
	var ok bool
	if f.Way, ok = ParseWay(text); !ok {
		r.Tell(n.Wrong(source.Syntax, "%s is no field; one is named as stay.nights, items[].price or prices.*.amount", text))
	}
	return f, ok
}

// Resolve finds the operations in the version for which the consumer was built. The error names all that are not there.
func (n *Need) Resolve(c *contract.Contract) error {
	var wrong source.Diagnostics
	var known []string
	for _, o := range n.Operations {
		op := c.Lookup(o.Name)
		if op == nil {
			if known == nil {
				for _, op := range c.Operations {
					known = append(known, op.Written())
				}
			}
			text := "there is no operation " + o.Name + source.DidYouMean(o.Name, known)
			if o.Node == nil {
				o.Node = c.Node
			}
			wrong = append(wrong, o.Node.KeyWrong(source.Syntax, "%s", text))
			continue
		}
		o.key, o.Name = op.Key(), op.Written()
	}
	if len(wrong) > 0 {
		return wrong
	}
	return nil
}

// Value is what a consumer relies on as a file says it.
func (r *Reliance) Value() *value.Value {
	relies := value.Obj()
	for _, n := range r.Needs {
		operations := value.Obj()
		for _, o := range n.Operations {
			operations.Members = append(operations.Members, value.Member{Name: o.Name, Value: o.value()})
		}
		relies.Members = append(relies.Members, value.Member{Name: n.Ref(), Value: operations})
	}
	out := value.Obj(value.Member{Name: "relies", Value: relies})
	if r.Consumer != "" {
		out.Members = append([]value.Member{{Name: "consumer", Value: value.Str(r.Consumer)}}, out.Members...)
	}
	return out
}

func (o *Operation) value() *value.Value {
	if o.All {
		return value.Str(everything)
	}
	v := value.Obj()
	add := func(name string, part *value.Value) {
		v.Members = append(v.Members, value.Member{Name: name, Value: part})
	}
	if len(o.Sends) > 0 {
		add("sends", fieldsValue(o.Sends, func(f Field) string { return f.Way[0] }))
	}
	if len(o.Body) > 0 {
		add("body", fieldsValue(o.Body, Field.String))
	}
	add("reads", fieldsValue(o.Reads, Field.String))
	if len(o.Errors) > 0 {
		add("errors", fieldsValue(o.Errors, Field.String))
	}
	return v
}

// fieldsValue writes a list where nothing more than names is said.
func fieldsValue(fields []Field, name func(Field) string) *value.Value {
	list, more := value.Arr(), value.Obj()
	plain := true
	for _, f := range fields {
		said := value.Str(anyValue)
		if len(f.Values) > 0 {
			said, plain = value.Arr(f.Values...), false
		}
		list.Items = append(list.Items, value.Str(name(f)))
		more.Members = append(more.Members, value.Member{Name: name(f), Value: said})
	}
	if plain {
		return list
	}
	return more
}
