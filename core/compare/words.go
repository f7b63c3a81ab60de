package compare

import (
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// words compares what a schema says to readers and programs without limiting its values.
func (c *comparer) words(p *pair) {
	a, b := p.a.schema, p.b.schema
	var changed []string
	note := func(keyword string, differs bool) {
		if differs {
			changed = append(changed, keyword)
		}
	}
	note("title", a.Title != b.Title)
	note("description", a.Description != b.Description)
	note("examples", !sameNodes(a.Examples(), b.Examples()))
	note("externalDocs", a.Docs() != b.Docs())
	if len(changed) > 0 {
		keywords := changed
		if changed[0] == "examples" {
			keywords = []string{"example", "examples"}
		}
		c.edit(p, &edit{
			kind: "wording-changed", old: keywordPlace(p.a, keywords), new: keywordPlace(p.b, keywords),
			title: fmt.Sprintf("%s has new wording: %s", p.subject, strings.Join(changed, ", ")),
		})
	}
	if a.Deprecated != b.Deprecated {
		e := &edit{kind: "deprecated", title: p.subject + " is now deprecated", old: p.a.place("deprecated"), new: p.b.place("deprecated")}
		if a.Deprecated {
			e.kind, e.title = "undeprecated", p.subject+" is no longer deprecated"
		}
		c.edit(p, e)
	}
	told := a.Deprecated != b.Deprecated // what announces it is part of it
	if !sameExtensions(unannounced(a.Extensions(), told), unannounced(b.Extensions(), told)) {
		c.edit(p, &edit{kind: "extension-changed", title: p.subject + " has other extension fields", old: p.a.schema.Node, new: p.b.schema.Node})
	}
	if !a.XML().Same(b.XML()) {
		e := &edit{kind: "xml-changed", title: p.subject + " is written in another way in XML", old: p.a.place("xml"), new: p.b.place("xml")}
		if c.speaksXML() {
			e.hazard = func(sense) (string, bool) {
				return "the same value is another XML text: an element or attribute has another name or place", true
			}
		}
		c.edit(p, e)
	}
	c.access(p)
	c.defaults(p)
}

// unannounced are the extension fields without the one that announces a deprecation, where that is told.
func unannounced(all []contract.Extension, told bool) []contract.Extension {
	if !told {
		return all
	}
	return slices.DeleteFunc(slices.Clone(all), func(e contract.Extension) bool { return e.Name == contract.DeprecatedField })
}

// speaksXML reports whether any message of the two versions may be XML; a description without operations may serve some.
func (c *comparer) speaksXML() bool {
	isXML := func(list []*contract.Media) bool {
		return slices.ContainsFunc(list, func(m *contract.Media) bool {
			return strings.HasSuffix(mediaKey(m.Type), "xml") || mediaKey(m.Type) == "*/*"
		})
	}
	all := slices.Concat(c.old.All(), c.new.All())
	return len(all) == 0 || slices.ContainsFunc(all, func(op *contract.Operation) bool {
		return op.Body != nil && isXML(op.Body.Content) || slices.ContainsFunc(op.Responses,
			func(r *contract.Response) bool { return isXML(r.Content) })
	})
}

func sameNodes(a, b []*source.Node) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if !a[i].Same(b[i]) {
			return false
		}
	}
	return true
}

// access compares readOnly and writeOnly: what a sender newly leaves out is lost to those who relied on it.
func (c *comparer) access(p *pair) {
	a, b := p.a.schema, p.b.schema
	if a.ReadOnly == b.ReadOnly && a.WriteOnly == b.WriteOnly {
		return
	}
	word := func(s *contract.Schema) string {
		switch {
		case s.ReadOnly:
			return "only read"
		case s.WriteOnly:
			return "only written"
		}
		return "read and written"
	}
	e := &edit{
		kind: "access-changed", least: Safe, title: fmt.Sprintf("%s is %s, was %s", p.subject, word(b), word(a)),
		old: keywordPlace(p.a, []string{"readOnly", "writeOnly"}), new: keywordPlace(p.b, []string{"readOnly", "writeOnly"}),
	}
	e.silent = func(role shape.Role) bool {
		return role.Request && a.ReadOnly == b.ReadOnly || !role.Request && a.WriteOnly == b.WriteOnly
	}
	e.hazard = func(s sense) (string, bool) {
		sender, receiver := a, b
		if !s.senderIsOld() {
			sender, receiver = b, a
		}
		sent := s.clientSends && !sender.ReadOnly || !s.clientSends && !sender.WriteOnly
		read := s.clientSends && !receiver.ReadOnly || !s.clientSends && !receiver.WriteOnly
		switch {
		case sent && !read && s.clientSends:
			return s.when() + p.subject + " is sent and no longer taken", true
		case !sent && read && !s.clientSends:
			return s.when() + p.subject + " is no longer sent", true
		}
		return "", false
	}
	c.edit(p, e)
}

// defaults compares what the server fills in: it counts where clients send (docs/design/compatibility.md, Rows that are settled).
func (c *comparer) defaults(p *pair) {
	a, b := p.a.schema.Default, p.b.schema.Default
	if a.Same(b) {
		return
	}
	text := func(n *source.Node) string {
		if n == nil {
			return "no default"
		}
		return "the default " + listed([]*source.Node{n})
	}
	valueOf := func(n *source.Node) *value.Value {
		if n == nil {
			return nil
		}
		return n.Value()
	}
	c.edit(p, &edit{
		kind: "default-changed", was: valueOf(a), is: valueOf(b), title: fmt.Sprintf("%s has %s, had %s", p.subject, text(b), text(a)),
		old: p.a.place("default"), new: p.b.place("default"),
		hazard: func(s sense) (string, bool) {
			return "a request that leaves it out now means something else", s.clientSends
		},
	})
}

// document compares what the description says as a whole, and the schemas that no operation reaches.
func (c *comparer) document() {
	a, b := c.old, c.new
	note := func(kind, key, title string) {
		at := func(root *source.Node) *source.Node {
			if n := root.Resolve(key); n != nil {
				return n
			}
			return root
		}
		c.add(&finding{kind: kind, title: title, at: Location{Part: PartDescription}, old: at(a.Node), new: at(b.Node)}, "")
	}
	var changed []string
	for _, d := range []struct {
		word    string
		differs bool
	}{
		{"title", a.Title != b.Title},
		{"summary", a.Summary != b.Summary},
		{"description", a.About() != b.About()},
		{"terms", a.Terms != b.Terms},
		{"contact", a.Contact != b.Contact},
		{"licence", a.License != b.License},
	} {
		if d.differs {
			changed = append(changed, d.word)
		}
	}
	if len(changed) > 0 {
		note("description.wording-changed", "/info", "the API has a new "+strings.Join(changed, ", "))
	}
	if !sameTags(a.Tags, b.Tags) {
		note("description.tags-changed", "/tags", "the tags have changed")
	}
	if !sameExtensions(a.Extensions, b.Extensions) {
		note("description.extension-changed", "", "the API has other extension fields")
	}
}

func sameTags(a, b []*contract.Tag) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i].Name != b[i].Name || a[i].Description != b[i].Description || a[i].Docs != b[i].Docs {
			return false
		}
	}
	return true
}
