package compare

import (
	"net/url"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// write says for people which operation a change and its messages are about: as its author wrote it, and filled in.
func (c *comparer) write(ch *Change) {
	for _, in := range []*contract.Contract{c.new, c.old} {
		if op := in.Lookup(ch.Operation); op != nil && op.Key() == ch.Operation {
			ch.Written = op.Written()
			break
		}
	}
	for _, w := range ch.All() {
		if w == nil || w.Written != "" {
			continue
		}
		c.onWire(w)
		if op := c.called(w); op != nil && op.Direction == contract.ClientCalls {
			w.Written = op.Method + " " + serverPathOf(op) + c.filled(op, w)
		}
	}
}

// onWire says how the value of a parameter or of a header stands in the message, as its sender writes it.
func (c *comparer) onWire(w *Witness) {
	at := ParsePosition(w.Position)
	if w.Value == nil || at.Part != PartParameter && at.Header == "" {
		return
	}
	senderIsOld := sense{w.Direction, at.Part == PartParameter}.senderIsOld()
	in := map[bool]*contract.Contract{true: c.old, false: c.new}[senderIsOld]
	op := in.Lookup(w.Operation)
	if op == nil {
		return
	}
	var p *contract.Parameter
	if at.Header == "" {
		p = findParameter(op.Parameters, at.In, at.Name)
	} else if r := findResponse(op.Responses, at.Status); r != nil {
		p = findParameter(r.Headers, "header", at.Header)
	}
	if p != nil {
		w.Wire = sample.OnWire(p, w.Value)
	}
}

// called is the operation of a witness in the version of the client that calls it; nil where that has none.
func (c *comparer) called(w *Witness) *contract.Operation {
	if w.Direction == Backward {
		return c.old.Lookup(w.Operation)
	}
	if op := c.new.Lookup(w.Operation); op != nil {
		return op
	}
	return c.matched[c.old.Lookup(w.Operation)] // it moved
}

// writtenPaths are the operations of both versions that their author wrote in other words than their keys.
func (c *comparer) writtenPaths() map[string]string {
	paths := map[string]string{}
	for _, in := range []*contract.Contract{c.old, c.new} {
		for _, op := range in.All() {
			if written := op.Written(); written != op.Key() {
				paths[op.Key()] = written
			}
		}
	}
	return paths
}

func serverPathOf(op *contract.Operation) string {
	if len(op.Servers) == 0 {
		return ""
	}
	return serverPath(op.Servers[0])
}

// filled is the path of an operation with values in the places of its parameters: examples of its author, or samples.
func (c *comparer) filled(op *contract.Operation, w *Witness) string {
	path := op.Path
	for _, name := range contract.PathNames(op.Path) {
		p := findParameter(op.Parameters, "path", name)
		if p == nil || w.Position == "path parameter "+name {
			continue
		}
		if text := c.sampleText(p); text != "" {
			path = strings.ReplaceAll(path, "{"+name+"}", url.PathEscape(text))
		}
	}
	return path
}

// sampleText is a value of a path parameter as it stands on the wire, "" where it is no plain value.
func (c *comparer) sampleText(p *contract.Parameter) string {
	if known, done := c.samples[p]; done {
		return known
	}
	text := ""
	for _, e := range p.Examples {
		if e.Value != nil && text == "" {
			text = plainValue(e.Value.Value())
		}
	}
	if sc, _ := p.Payload(); sc != nil && text == "" {
		if v, _ := c.space.Sample(sc, shape.Role{Sends: true, Request: true}); v != nil {
			text = plainValue(v)
		}
	}
	if text == shape.AnyText || len(text) > maxPathValue {
		text = "" // the name says more
	}
	if c.samples == nil {
		c.samples = map[*contract.Parameter]string{}
	}
	c.samples[p] = text
	return text
}

// maxPathValue is how long a value in a path may be.
const maxPathValue = 40

func plainValue(v *value.Value) string {
	switch v.Kind {
	case value.String:
		return v.Text
	case value.Number, value.Boolean:
		return v.String()
	}
	return ""
}
