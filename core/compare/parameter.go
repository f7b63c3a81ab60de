package compare

import (
	"fmt"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
)

// parameters compares the parameters of an operation, matched by place and name; those of the path by their position.
func (c *comparer) parameters(m match) {
	pathNames := map[string]string{}
	a, b := contract.PathNames(m.old.Path), contract.PathNames(m.new.Path)
	for i := range min(len(a), len(b)) {
		pathNames[a[i]] = b[i]
	}
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
	came, gone = c.parameterRenames(m, gone, came)
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

func (c *comparer) parameterRenames(m match, gone, came []*contract.Parameter) (restCame, restGone []*contract.Parameter) {
	pairs := map[*contract.Parameter]*contract.Parameter{}
	wanted := map[*contract.Parameter]int{}
	for _, x := range gone {
		var fits []*contract.Parameter
		for _, y := range came {
			sx, _ := x.Payload()
			sy, _ := y.Payload()
			if x.In == y.In && x.In != "path" && sx != nil && sy != nil && resemble(x.Name, y.Name) && c.alikeShape(sx, sy) {
				fits = append(fits, y)
			}
		}
		if len(fits) == 1 {
			pairs[x] = fits[0]
			wanted[fits[0]]++
		}
	}
	used := map[*contract.Parameter]bool{}
	for _, x := range gone {
		y := pairs[x]
		if y == nil || wanted[y] > 1 {
			restGone = append(restGone, x)
			continue
		}
		used[y] = true
		c.parameterRenamed(m, x, y)
		c.parameter(m, x, y)
	}
	for _, y := range came {
		if !used[y] {
			restCame = append(restCame, y)
		}
	}
	return restCame, restGone
}

func (c *comparer) parameterRenamed(m match, x, y *contract.Parameter) {
	f := &finding{
		kind: "parameter.renamed", backward: Hazard, forward: Hazard, operation: m.key(), at: y.In + " parameter " + y.Name, reach: []string{m.key()},
		title: fmt.Sprintf("the %s parameter %s was renamed to %s", x.In, x.Name, y.Name), renamed: &FromTo{x.Name, y.Name},
		why: fmt.Sprintf("%s is sent where %s is read: it is ignored", x.Name, y.Name), old: x.Node, new: y.Node,
		advice: []string{
			fmt.Sprintf("read %s beside %s", y.Name, x.Name),
			fmt.Sprintf("deprecate %s with a sunset date", x.Name),
			fmt.Sprintf("remove %s when nobody sends it any more", x.Name),
		},
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
	return &Witness{Direction: d, Operation: m.key(), Position: p.In + " parameter " + p.Name}
}

func (c *comparer) parameterAdded(m match, y *contract.Parameter) {
	f := &finding{
		kind: "parameter.added", backward: Safe, forward: Hazard, operation: m.key(), at: y.In + " parameter " + y.Name, reach: []string{m.key()},
		title: fmt.Sprintf("the %s parameter %s is new", y.In, y.Name), why: y.Name + " may be left out; after a rollback it is ignored", new: y.Node,
	}
	if y.Required {
		f.kind, f.backward = "parameter.required-added", Breaking
		f.title, f.why = fmt.Sprintf("the %s parameter %s must now be sent", y.In, y.Name), "a request that was accepted without it is refused"
		f.witnesses = []*Witness{c.absent(m, Backward, y)}
		f.advice = []string{"make " + y.Name + " optional, with a default that keeps the old behaviour"}
	}
	c.add(f, m.key())
}

func (c *comparer) parameterRemoved(m match, x *contract.Parameter) {
	f := &finding{
		kind: "parameter.removed", backward: Hazard, forward: Safe, operation: m.key(), at: x.In + " parameter " + x.Name, reach: []string{m.key()},
		title: fmt.Sprintf("the %s parameter %s is no longer read", x.In, x.Name), why: "clients that send it are answered as if they had not", old: x.Node,
	}
	if x.Required {
		f.forward = Breaking
		f.witnesses = []*Witness{c.absent(m, Forward, x)}
	}
	c.add(f, m.key())
}

func (c *comparer) parameter(m match, x, y *contract.Parameter) {
	key := m.key()
	at := y.In + " parameter " + y.Name
	note := func(kind, title, why string, backward, forward Grade, ws ...*Witness) {
		c.add(&finding{
			kind: kind, backward: backward, forward: forward, operation: key, at: at, reach: []string{key},
			title: title, why: why, old: x.Node, new: y.Node, witnesses: ws,
		}, "")
	}
	if x.Required != y.Required && x.In != "path" {
		if y.Required {
			note("parameter.became-required", y.Name+" must now be sent", "a request that was accepted without it is refused", Breaking, Safe, c.absent(m, Backward, y))
		} else {
			note("parameter.became-optional", y.Name+" may now be left out", "after a rollback a request without it is refused", Safe, Breaking, c.absent(m, Forward, x))
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
	c.written(m.key(), "parameter", at, at, x, y, requestRole(m.old))
}

// written compares how a parameter or header is written, and what it may hold.
func (c *comparer) written(operation, prefix, label, at string, x, y *contract.Parameter, role shape.Role) {
	sx, tx := x.Payload()
	sy, ty := y.Payload()
	if tx != ty {
		c.add(&finding{
			kind: prefix + ".serialization-changed", backward: Breaking, forward: Breaking, operation: operation, at: at, reach: []string{operation},
			title: fmt.Sprintf("%s is written as %s, was %s", y.Name, writtenAs(ty), writtenAs(tx)), why: "the same value is another text on the wire",
			old: x.Node, new: y.Node, witnesses: c.anyValue(operation, label, sx, sy, role),
		}, "")
		return
	}
	if tx == "" && c.wireDiffers(x, y) {
		c.add(&finding{
			kind: prefix + ".serialization-changed", backward: Breaking, forward: Breaking, operation: operation, at: at, reach: []string{operation},
			title: fmt.Sprintf("%s is written in style %s, was %s", y.Name, styleText(y), styleText(x)), why: "the same value is another text on the wire",
			old: x.Node, new: y.Node, witnesses: c.anyValue(operation, label, sx, sy, role),
		}, "")
		return
	}
	if tx == "" && (x.Style != y.Style || x.Explode != y.Explode) {
		c.add(&finding{
			kind: prefix + ".serialization-respelled", operation: operation, at: at, reach: []string{operation},
			title: fmt.Sprintf("%s is declared in style %s, was %s: the same text on the wire", y.Name, styleText(y), styleText(x)),
			old:   x.Node, new: y.Node,
		}, "")
	}
	role.Text = c.options.Reading == shape.Declared && tx == ""
	c.visit(&position{operation: operation, prefix: prefix, subject: y.Name, label: label, at: at, old: orAny(sx, x.Node), new: orAny(sy, y.Node), role: role})
}

func writtenAs(mediaType string) string {
	if mediaType == "" {
		return "plain text"
	}
	return mediaType
}

func styleText(p *contract.Parameter) string {
	if p.Explode {
		return p.Style + " exploded"
	}
	return p.Style
}

// anyValue are witnesses that show some value of the parameter in both directions, one that the change of style touches.
func (c *comparer) anyValue(operation, label string, old, new *contract.Schema, role shape.Role) []*Witness {
	var ws []*Witness
	for _, d := range []Direction{Backward, Forward} {
		sc := old
		if !(sense{d, role.Request}).senderIsOld() {
			sc = new
		}
		set := c.space.Lower(sc, sending(role))
		several := c.space.Lower(&contract.Schema{Types: []string{"array", "object"}, MinItems: two(), MinProperties: two()}, role)
		v := c.space.Find(set, several)
		if v.Witness == nil {
			v = c.space.Find(set)
		}
		if v.Witness != nil {
			ws = append(ws, &Witness{Direction: d, Operation: operation, Position: label, Value: v.Witness})
		}
	}
	return ws
}

func two() *int { n := 2; return &n }

// wireDiffers tells whether some value has another text on the wire: style and explode matter where a list or an object
// can be sent; label and matrix write even a plain value differently (RFC 6570).
func (c *comparer) wireDiffers(x, y *contract.Parameter) bool {
	if x.Style == y.Style && x.Explode == y.Explode {
		return false
	}
	prefixed := func(s string) bool { return s == "label" || s == "matrix" }
	if x.Style != y.Style && (prefixed(x.Style) || prefixed(y.Style)) {
		return true
	}
	compound := c.space.Lower(&contract.Schema{Types: []string{"array", "object"}}, shape.Role{})
	for _, p := range []*contract.Parameter{x, y} {
		if c.space.Find(c.space.Lower(p.Schema, shape.Role{}), compound).Answer != shape.Proved {
			return true
		}
	}
	return false
}

func sameExamples(a, b []contract.Example) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i].Name != b[i].Name || a[i].Summary != b[i].Summary || a[i].Description != b[i].Description || a[i].External != b[i].External || !a[i].Value.Same(b[i].Value) {
			return false
		}
	}
	return true
}
