package reference

import (
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// An item is what the margin can speak of: an operation, a parameter, a status, a header, a schema or a field. It goes by a name that is
// the same in every version that has it: the steps that lead to it, a line each.

const step = "\n"

func schemaItem(name string) string                { return "schema" + step + name }
func parameterItem(op string, in, n string) string { return op + step + in + step + n }
func statusItem(op, status string) string          { return op + step + "status" + step + status }
func headerItem(op, status, name string) string    { return statusItem(op, status) + step + name }
func bodyItem(op, mediaType string) string         { return op + step + "body" + step + mediaType }
func answerItem(op, status, mediaType string) string {
	return statusItem(op, status) + step + "body" + step + mediaType
}
func fieldItem(owner, name string) string { return owner + step + name }

// parameterName makes one name of parameters in the path, whose names are the author's own business.
func parameterName(p *contract.Parameter) string {
	if p.In == "path" {
		return "{}" + p.Name
	}
	return p.Name
}

// items are those of one version, and the places where each stands.
type items struct {
	known map[string]bool
	at    map[string][]string // the items at a place
}

// placeKey names a place in a version's files, wherever the line is.
func placeKey(p source.Place) string { return p.File + "#" + p.Pointer }

func itemsOf(c *contract.Contract) *items {
	t := &items{known: map[string]bool{}, at: map[string][]string{}}
	for _, s := range c.Schemas {
		t.add(schemaItem(s.Name), s.Node)
		t.fields(s, schemaItem(s.Name), true)
	}
	for _, op := range c.All() {
		t.operation(op)
	}
	return t
}

func (t *items) add(item string, n *source.Node) {
	t.known[item] = true
	if n != nil {
		s := placeKey(n.Place())
		t.at[s] = append(t.at[s], item)
	}
}

func (t *items) operation(op *contract.Operation) {
	key := op.Key()
	t.add(key, op.Node)
	for _, p := range op.Parameters {
		t.add(parameterItem(key, p.In, parameterName(p)), p.Node)
	}
	if op.Body != nil {
		for _, m := range op.Body.Content {
			t.media(m, bodyItem(key, m.Type))
		}
	}
	for _, r := range op.Responses {
		t.add(statusItem(key, r.Status), r.Node)
		for _, h := range r.Headers {
			t.add(headerItem(key, r.Status, h.Name), h.Node)
		}
		for _, m := range r.Content {
			t.media(m, answerItem(key, r.Status, m.Type))
		}
	}
}

func (t *items) media(m *contract.Media, item string) {
	t.add(item, m.Node)
	t.fields(m.Schema, item, false)
}

// fields adds those of a schema in place; what a named schema has belongs to that.
func (t *items) fields(s *contract.Schema, owner string, itself bool) {
	if s == nil || s.Name != "" && !itself || s.Ref != nil && s.Ref.Name != "" && s.Properties == nil {
		return
	}
	for _, p := range s.Properties {
		item := fieldItem(owner, p.Name)
		if t.known[item] {
			continue // alternatives may share a field
		}
		t.add(item, p.Schema.Node)
		t.fields(p.Schema, item, false)
	}
	t.fields(s.Items, owner, false)
	for _, list := range [][]*contract.Schema{s.AllOf, s.OneOf, s.AnyOf} {
		for _, b := range list {
			t.fields(b, owner, false)
		}
	}
}

// of are the items that a place belongs to: those that stand there, or the nearest around it.
func (t *items) of(p source.Place) []string {
	pointer := p.Pointer
	for {
		if found := t.at[p.File+"#"+pointer]; found != nil {
			return found
		}
		cut := strings.LastIndexByte(pointer, '/')
		if cut < 0 {
			return nil
		}
		pointer = pointer[:cut]
	}
}
