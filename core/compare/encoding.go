package compare

import (
	"fmt"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// encodings compares how the properties of a form are written (OpenAPI 3.1.1, Encoding Object): in a multipart body by their
// media type and headers, in a form by their style.
func (c *comparer) encodings(ct content, x, y *contract.Media) {
	if !strings.HasPrefix(mediaKey(x.Type), "multipart/") && mediaKey(x.Type) != "application/x-www-form-urlencoded" {
		return // an encoding says nothing about other types
	}
	for _, name := range encodedNames(x, y) {
		a, b := encodingOf(x, name), encodingOf(y, name)
		if a.schema == nil && b.schema == nil || a.Encoding == nil && b.Encoding == nil {
			continue
		}
		multipart := strings.HasPrefix(mediaKey(x.Type), "multipart/")
		switch byStyle := a.byStyle(multipart); {
		case byStyle != b.byStyle(multipart):
			c.partOtherwise(ct, x, name, a, b)
		case byStyle:
			c.partStyle(ct, x, name, a, b)
		default:
			c.partType(ct, x, name, a, b)
		}
		c.headers(ct.operation, ct.at.in(x.Type).below(name), a.headers(), b.headers(), a.at, b.at, ct.role)
	}
}

// part is one property of a form: its schema, and what is said of its encoding, which may be nothing.
type part struct {
	*contract.Encoding
	schema *contract.Schema
	at     *source.Node // where its encoding stands, or the media type that has none for it
}

func (p part) headers() []*contract.Parameter {
	if p.Encoding == nil {
		return nil
	}
	return p.Headers
}

// byStyle reports whether the part is written by a style, as in a query, or in a media type of its own. A style that is said has the
// last word (OpenAPI 3.1.1, Encoding Object).
func (p part) byStyle(multipart bool) bool {
	switch {
	case p.Encoding != nil && (p.Style != "" || p.Node.Get("explode") != nil || p.Node.Get("allowReserved") != nil):
		return true
	case p.Encoding != nil && p.ContentType != "":
		return false
	}
	return !multipart
}

// contentType is the media type of the part: what is said, or the default for its schema.
func (p part) contentType() string {
	if p.Encoding != nil && p.ContentType != "" {
		return p.ContentType
	}
	s := newView(p.schema.Deref()).schema
	for s.Items != nil && len(s.Types) == 1 && s.Types[0] == "array" {
		s = newView(s.Items.Deref()).schema
	}
	switch {
	case s.ContentMediaType() != "":
		return s.ContentMediaType()
	case s.Types == nil && !s.SaysObject():
		return "application/octet-stream"
	case s.Types == nil || len(s.Types) > 0 && (s.Types[0] == "object" || s.Types[0] == "array"):
		return "application/json"
	}
	return "text/plain"
}

// parameter is the part as a query parameter, which a form writes alike.
func (p part) parameter() *contract.Parameter {
	q := &contract.Parameter{In: "query", Style: "form", Explode: true, Schema: p.schema}
	if p.Encoding != nil {
		if p.Style != "" {
			q.Style = p.Style
		}
		q.Explode, q.AllowReserved = p.Explode, p.AllowReserved
	}
	return q
}

func encodedNames(x, y *contract.Media) []string {
	var names []string
	seen := map[string]bool{}
	for _, m := range []*contract.Media{x, y} {
		for _, e := range m.Encoding {
			if !seen[e.Property] {
				seen[e.Property] = true
				names = append(names, e.Property)
			}
		}
	}
	return names
}

func encodingOf(m *contract.Media, name string) part {
	p := part{at: m.Node}
	if m.Schema != nil {
		v := newView(m.Schema.Deref()).schema
		p.schema = v.Property(name)
		if p.schema == nil && v.Items != nil { // parts by position
			p.schema = v.Items
		}
	}
	for _, e := range m.Encoding {
		if e.Property == name {
			p.Encoding, p.at = e, e.Node
		}
	}
	if p.schema == nil && p.Encoding != nil {
		p.schema = &contract.Schema{Node: p.Encoding.Node}
	}
	return p
}

// partType compares the media types in which a part of a multipart body may come.
func (c *comparer) partType(ct content, m *contract.Media, name string, a, b part) {
	if a.schema == nil || b.schema == nil || a.contentType() == b.contentType() {
		return // a property that went or came is told where it stands
	}
	old, new := a.contentType(), b.contentType()
	f := &finding{
		kind: ct.at.kindPrefix() + ".encoding-changed", operation: ct.operation, at: ct.at.in(m.Type).below(name), reach: []string{ct.operation},
		title: fmt.Sprintf("the part %s comes as %s, was %s", name, new, old), old: a.at, new: b.at,
	}
	grade := func(sent, read string) Grade {
		if listCovers(read, sent) {
			return Safe
		}
		return Breaking
	}
	if ct.role.Request {
		f.backward, f.forward, f.why = grade(old, new), grade(new, old), "a part sent as "+old+" is refused"
	} else {
		f.backward, f.forward, f.why = grade(new, old), grade(old, new), "clients that read the part as "+old+" receive another type"
	}
	if f.backward != Breaking {
		f.why = "what was understood before still is"
	}
	c.mediaWitness(ct, f, m.Type)
	c.add(f, name)
}

// partOtherwise tells of a part that one version writes by a style and the other in a media type of its own.
func (c *comparer) partOtherwise(ct content, m *contract.Media, name string, a, b part) {
	if a.schema == nil || b.schema == nil {
		return // a property that went or came is told where it stands
	}
	c.add(&finding{
		kind: ct.at.kindPrefix() + ".encoding-changed", backward: Hazard, forward: Hazard, undecided: true,
		operation: ct.operation, at: ct.at.in(m.Type).below(name), reach: []string{ct.operation},
		title: name + " is written by a style in one version and in a media type of its own in the other",
		why:   "whether the one reads the other could not be decided", old: a.at, new: b.at,
	}, name)
}

// listCovers reports whether every media type of one list is in another; both are separated by commas.
func listCovers(read, sent string) bool {
	for one := range strings.SplitSeq(sent, ",") {
		covered := false
		for r := range strings.SplitSeq(read, ",") {
			covered = covered || mediaCovers(strings.TrimSpace(r), strings.TrimSpace(one))
		}
		if !covered {
			return false
		}
	}
	return true
}

// partStyle compares how a property of a form is written.
func (c *comparer) partStyle(ct content, m *contract.Media, name string, a, b part) {
	if a.schema == nil || b.schema == nil {
		return
	}
	x, y := a.parameter(), b.parameter()
	x.Name, y.Name = name, name
	if x.Style == y.Style && x.Explode == y.Explode && x.AllowReserved == y.AllowReserved {
		return
	}
	f := &finding{
		kind: ct.at.kindPrefix() + ".encoding-respelled", operation: ct.operation, at: ct.at.in(m.Type).below(name),
		reach: []string{ct.operation},
		title: fmt.Sprintf("%s is written %s", name, styles(x, y)), old: a.at, new: b.at,
	}
	if c.feltOnWire(x, y) != nil {
		f.kind, f.backward, f.forward, f.why = ct.at.kindPrefix()+".encoding-changed", Breaking, Breaking,
			"the same value is another text on the wire"
	}
	c.mediaWitness(ct, f, m.Type)
	c.add(f, name)
}
