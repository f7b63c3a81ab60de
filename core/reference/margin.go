package reference

import (
	"oldledger/core/contract"
	"oldledger/core/promise"
)

// since is the oldest version from which on every version has the thing, up to this one.
func (m *maker) since(has func(*contract.Contract) bool) string {
	number := ""
	for i := len(m.ctx.History) - 1; i >= 0 && has(m.ctx.History[i].Contract); i-- {
		number = m.ctx.History[i].Number
	}
	return number
}

func (m *maker) operationMargin(op *contract.Operation) Margin {
	mg := Margin{Since: m.since(func(c *contract.Contract) bool { return c.Lookup(op.Key()) != nil })}
	for _, n := range m.ctx.Notices {
		if n.Operation == op.Key() && n.Covers(m.ctx.Number, m.ctx.Line) {
			mg.leave(n)
		}
	}
	return mg
}

func (m *maker) fieldMargin(schema, property string) Margin {
	if schema == "" {
		return Margin{}
	}
	mg := Margin{Since: m.since(func(c *contract.Contract) bool {
		s := c.Schema(schema)
		return s != nil && s.Property(property) != nil
	})}
	for _, n := range m.ctx.Notices {
		if n.Field == schema+"."+property && n.Covers(m.ctx.Number, m.ctx.Line) {
			mg.leave(n)
		}
	}
	return mg
}

func (mg *Margin) leave(n promise.Notice) {
	mg.Leaving, mg.Leaves, mg.Instead, mg.Reason, mg.NoticeID = true, n.Sunset, n.ReplacedBy, n.Reason, n.ID
}

func (m *maker) schemaPage(s *contract.Schema, groups []Group) *SchemaPage {
	p := &SchemaPage{Name: s.Name, Schema: m.field(s.Name, s, nil)}
	for _, g := range groups {
		for _, op := range g.Operations {
			if uses(op, s.Name) {
				p.UsedBy = append(p.UsedBy, Link{op.Title, op.Slug})
			}
		}
	}
	p.Sample = m.sample(&contract.Media{Type: "application/json", Schema: s}, false)
	return p
}

func uses(op *OperationPage, name string) bool {
	var in func(f *Field) bool
	in = func(f *Field) bool {
		if f == nil {
			return false
		}
		if f.Schema == name || f.Type == "list of "+name {
			return true
		}
		for _, list := range [][]*Field{f.Fields, f.Choices} {
			for _, c := range list {
				if in(c) {
					return true
				}
			}
		}
		return false
	}
	var media []MediaSection
	if op.Body != nil {
		media = append(media, op.Body.Media...)
	}
	for _, r := range op.Responses {
		media = append(media, r.Media...)
	}
	for _, one := range media {
		if in(one.Schema) {
			return true
		}
	}
	for _, g := range op.Parameters {
		for _, f := range g.Fields {
			if in(f) {
				return true
			}
		}
	}
	return false
}
