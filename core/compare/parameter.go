package compare

import (
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// parameters compares the parameters of an operation, matched by place and name; those of the path by their position.
func (c *comparer) parameters(m match) {
	pathNames := renamedInPath(m.old.Path, m.new.Path)
	var gone, came []*contract.Parameter
	for _, x := range m.old.Parameters {
		name := x.Name
		if to, ok := pathNames[name]; ok && x.In == "path" {
			name = to
		}
		if y := findParameter(m.new.Parameters, x.In, name); y != nil {
			c.parameter(m, x, y)
		} else {
			gone = append(gone, x)
		}
	}
	back := map[string]string{}
	for from, to := range pathNames {
		back[to] = from
	}
	for _, y := range m.new.Parameters {
		name := y.Name
		if from, ok := back[name]; ok && y.In == "path" {
			name = from
		}
		if findParameter(m.old.Parameters, y.In, name) == nil {
			came = append(came, y)
		}
	}
	pairs, gone, came := renamed(gone, came, parameterName, c.sameParameter)
	for _, r := range pairs {
		c.parameterRenamed(m, r[0], r[1])
		c.parameter(m, r[0], r[1])
	}
	// A path parameter that comes or goes is a matter of the path, which moved: it is told there.
	for _, x := range gone {
		if x.In != "path" {
			c.parameterRemoved(m, x)
		}
	}
	for _, y := range came {
		if y.In != "path" {
			c.parameterAdded(m, y)
		}
	}
}

// findParameter matches header names without regard to case (RFC 9110, section 5.1).
func findParameter(list []*contract.Parameter, in, name string) *contract.Parameter {
	for _, p := range list {
		if p.In == in && (p.Name == name || in == "header" && strings.EqualFold(p.Name, name)) {
			return p
		}
	}
	return nil
}

func (c *comparer) parameterRenamed(m match, x, y *contract.Parameter) {
	f := &finding{
		kind: "parameter.renamed", backward: Hazard, forward: Hazard, operation: m.key(), at: parameterAt(y), reach: []string{m.key()},
		title: fmt.Sprintf("the %s parameter %s was renamed to %s", x.In, x.Name, y.Name), renamed: &FromTo{x.Name, y.Name},
		why: fmt.Sprintf("%s is sent where %s is read: it is ignored", x.Name, y.Name), old: x.Node, new: y.Node,
		advice: besides(x.Name, y.Name, "sends"),
	}
	if y.Required {
		f.backward, f.why = Breaking, fmt.Sprintf("a request without %s is refused", y.Name)
		f.witnesses = append(f.witnesses, c.absent(m, Backward, y))
	}
	if x.Required {
		f.forward = Breaking
		f.witnesses = append(f.witnesses, c.absent(m, Forward, x))
	}
	c.add(f, "")
}

// absent is the witness of a parameter that is not sent: it names the position and has no value.
func (c *comparer) absent(m match, d Direction, p *contract.Parameter) *Witness {
	return &Witness{Direction: d, Operation: m.key(), Position: parameterAt(p).position()}
}

func (c *comparer) parameterAdded(m match, y *contract.Parameter) {
	f := &finding{
		kind: "parameter.added", backward: Safe, forward: Hazard, operation: m.key(), at: parameterAt(y), reach: []string{m.key()},
		title: fmt.Sprintf("the %s parameter %s is new", y.In, y.Name), why: y.Name + " may be left out; after a rollback it is ignored",
		old: keyOf(m.old.Node, "parameters"), new: y.Node,
	}
	if y.Required {
		f.kind, f.backward = "parameter.required-added", Breaking
		f.title, f.why = fmt.Sprintf("the %s parameter %s must now be sent", y.In, y.Name), "a request that was accepted without it is refused"
		f.witnesses = []*Witness{c.absent(m, Backward, y)}
	}
	c.add(f, m.key())
}

func (c *comparer) parameterRemoved(m match, x *contract.Parameter) {
	f := &finding{
		kind: "parameter.removed", backward: Hazard, forward: Safe, operation: m.key(), at: parameterAt(x), reach: []string{m.key()},
		title: fmt.Sprintf("the %s parameter %s is no longer read", x.In, x.Name), why: "clients that send it are answered as if they had not",
		old: x.Node, new: keyOf(m.new.Node, "parameters"),
	}
	if x.Required {
		f.forward = Breaking
		f.witnesses = []*Witness{c.absent(m, Forward, x)}
	}
	c.add(f, m.key())
}

func (c *comparer) parameter(m match, x, y *contract.Parameter) {
	key := m.key()
	at := parameterAt(y)
	note := func(kind, title, why string, backward, forward Grade, ws ...*Witness) {
		c.add(&finding{
			kind: kind, backward: backward, forward: forward, operation: key, at: at, reach: []string{key},
			title: title, why: why, old: x.Node, new: y.Node, witnesses: ws,
		}, "")
	}
	if x.Required != y.Required && x.In != "path" {
		if y.Required {
			note("parameter.now-required", y.Name+" must now be sent", "a request that was accepted without it is refused", Breaking, Safe,
				c.absent(m, Backward, y))
		} else {
			note("parameter.now-optional", y.Name+" may now be left out", "after a rollback a request without it is refused", Safe, Breaking,
				c.absent(m, Forward, x))
		}
	}
	if x.Deprecated != y.Deprecated {
		kind, title := "parameter.deprecated", y.Name+" is now deprecated"
		if x.Deprecated {
			kind, title = "parameter.undeprecated", y.Name+" is no longer deprecated"
		}
		note(kind, title, "", Editorial, Editorial)
	}
	if x.Description != y.Description {
		note("parameter.wording-changed", y.Name+" has a new description", "", Editorial, Editorial)
	}
	if !sameExamples(x.Examples, y.Examples) {
		note("parameter.examples-changed", y.Name+" has other examples", "", Editorial, Editorial)
	}
	c.written(key, at, x, y, requestRole(m.old))
}

// written compares how a parameter or header is written, and what it may hold.
func (c *comparer) written(operation string, at Location, x, y *contract.Parameter, role shape.Role) {
	sx, tx := x.Payload()
	sy, ty := y.Payload()
	if tx != ty {
		c.add(&finding{
			kind: at.kindPrefix() + ".serialization-changed", backward: Breaking, forward: Breaking, operation: operation, at: at,
			reach: []string{operation},
			title: fmt.Sprintf("%s is written as %s, was %s", y.Name, writtenAs(ty), writtenAs(tx)),
			why:   "the same value is another text on the wire",
			old:   x.Node, new: y.Node, witnesses: c.anyValue(operation, at, sx, sy, role, c.space.Any()),
		}, "")
		return
	}
	if felt := c.feltOnWire(x, y); tx == "" && felt != nil {
		c.add(&finding{
			kind: at.kindPrefix() + ".serialization-changed", backward: Breaking, forward: Breaking, operation: operation, at: at,
			reach: []string{operation},
			title: fmt.Sprintf("%s is written %s", y.Name, styles(x, y)), why: "the same value is another text on the wire",
			old: x.Node, new: y.Node, witnesses: c.anyValue(operation, at, sx, sy, role, *felt),
		}, "")
	} else if tx == "" && (x.Style != y.Style || x.Explode != y.Explode || x.AllowReserved != y.AllowReserved) {
		c.add(&finding{
			kind: at.kindPrefix() + ".serialization-respelled", operation: operation, at: at, reach: []string{operation},
			title: fmt.Sprintf("%s is declared in style %s, was %s", y.Name, styleText(y), styleText(x)),
			old:   x.Node, new: y.Node,
		}, "")
	}
	role.Text = c.options.Reading == shape.Declared && tx == ""
	sx, sy = orAny(sx, x.Node), orAny(sy, y.Node)
	if role.Text {
		sx, sy = asLists(x, y, sx, sy)
	}
	c.visit(&position{operation: operation, subject: y.Name, at: at, old: sx, new: sy, role: role})
}

// asLists are the values of two parameters, of which one is a list each of whose items stands under the name again: then the one value of
// the other is a list of one, for the text is the same (docs/design/compatibility.md, Two readings). An empty list is no text at all.
func asLists(x, y *contract.Parameter, old, new *contract.Schema) (was, is *contract.Schema) {
	if x.Style != "form" || y.Style != "form" {
		return old, new
	}
	scalar := func(s *contract.Schema) bool {
		types := newView(s.Deref()).schema.Types
		return len(types) > 0 && !slices.Contains(types, "array") && !slices.Contains(types, "object")
	}
	list := func(p *contract.Parameter, s *contract.Schema) bool {
		return p.Explode && slices.Equal(newView(s.Deref()).schema.Types, []string{"array"})
	}
	one := 1
	single := func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Types: []string{"array"}, Items: s, MinItems: &one, MaxItems: &one}
	}
	several := func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, AllOf: []*contract.Schema{s, {Node: s.Node, Types: []string{"array"}, MinItems: &one}}}
	}
	switch {
	case scalar(old) && list(y, new):
		return single(old), several(new)
	case list(x, old) && scalar(new):
		return several(old), single(new)
	}
	return old, new
}

func writtenAs(mediaType string) string {
	if mediaType == "" {
		return "plain text"
	}
	return mediaType
}

// styles says how a parameter is written now and was before, by what stands on the wire where that tells it: "berths=a,b, was
// berths=a&berths=b".
func styles(x, y *contract.Parameter) string {
	values := []*value.Value{
		value.Arr(value.Str("a"), value.Str("b")),
		value.Obj(value.Member{Name: "x", Value: value.Str("a")}, value.Member{Name: "y", Value: value.Str("b")}), value.Str("a"),
	}
	for _, v := range values {
		kind := map[value.Kind]string{value.Array: "array", value.Object: "object", value.String: "string"}[v.Kind]
		if types := newView(y.Schema.Deref()).schema.Types; kind != "string" && types != nil && !slices.Contains(types, kind) {
			continue
		}
		if was, is := sample.OnWire(x, v), sample.OnWire(y, v); was != is {
			return is + ", was " + was
		}
	}
	return "in style " + styleText(y) + ", was " + styleText(x)
}

func styleText(p *contract.Parameter) string {
	text := p.Style
	if p.Explode {
		text += " exploded"
	}
	if p.AllowReserved {
		text += " with reserved characters"
	}
	return text
}

// anyValue are witnesses that show some value of the parameter in both directions, if possible one that feels the change.
func (c *comparer) anyValue(operation string, at Location, old, new *contract.Schema, role shape.Role, felt shape.Shape) []*Witness {
	var ws []*Witness
	for _, d := range []Direction{Backward, Forward} {
		sc := old
		if !(sense{d, role.Request}).senderIsOld() {
			sc = new
		}
		set := c.space.Lower(sc, sending(role))
		several := c.space.Lower(&contract.Schema{Types: []string{"array", "object"}, MinItems: two(), MinProperties: two()}, role)
		for _, sets := range [][]shape.Shape{{set, felt, several}, {set, felt}, {set}} {
			if v := c.space.Find(sets...); v.Witness != nil {
				ws = append(ws, &Witness{Direction: d, Operation: operation, Position: at.position(), Value: v.Witness})
				break
			}
		}
	}
	return ws
}

func two() *int { n := 2; return &n }

// feltOnWire is the set of values in which one of them has another text on the wire, or nil where none has: style and explode
// matter where a list or an object can be sent; label and matrix write even a plain value differently (RFC 6570); what is not
// percent-encoded matters where a value holds such a character (RFC 3986).
func (c *comparer) feltOnWire(x, y *contract.Parameter) *shape.Shape {
	prefixed := func(s string) bool { return s == "label" || s == "matrix" }
	if x.Style != y.Style && (prefixed(x.Style) || prefixed(y.Style)) {
		everything := c.space.Any()
		return &everything
	}
	encoded := ""
	if x.AllowReserved != y.AllowReserved {
		encoded = `[:/?#\[\]@!$&'()*+,;=]`
	}
	if (x.Style == "cookie") != (y.Style == "cookie") {
		encoded = `[^A-Za-z0-9._~-]`
	}
	var felt []*contract.Schema
	if x.Style != y.Style || x.Explode != y.Explode {
		one, several := 1, 2
		if x.Style != y.Style || x.Style != "simple" { // there the items of a list stand behind one another either way
			felt = append(felt, &contract.Schema{Types: []string{"array"}, MinItems: &several})
		}
		felt = append(felt, &contract.Schema{Types: []string{"object"}, MinProperties: &one})
	}
	if encoded != "" {
		felt = append(felt, &contract.Schema{Types: []string{"string"}, Pattern: &encoded})
	}
	for _, schema := range felt {
		set := c.space.Lower(schema, shape.Role{})
		for _, p := range []*contract.Parameter{x, y} {
			if c.space.Find(c.space.Lower(p.Schema, shape.Role{}), set).Answer != shape.Proved {
				return &set
			}
		}
	}
	return nil
}

func sameExamples(a, b []contract.Example) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i].Name != b[i].Name || a[i].Summary != b[i].Summary || a[i].Description != b[i].Description || a[i].External != b[i].External ||
			!a[i].Value.Same(b[i].Value) {
			return false
		}
	}
	return true
}
