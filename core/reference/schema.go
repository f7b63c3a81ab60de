package reference

import "oldledger/core/contract"

func (m *maker) schemaPage(s *contract.Schema, users []Link) *SchemaPage {
	item := schemaItem(s.Name)
	media := m.media(&contract.Media{Type: "application/json", Schema: s}, false, item)
	page := &SchemaPage{Name: s.Name, Schema: media.Schema, UsedBy: users, Margin: media.Margin, Sample: media.Sample}
	if d := s.Deref(); d != nil && d.Name != "" {
		named := *page.Schema
		named.Name = s.Name
		page.Schema = &named
	}
	return page
}

// usersOf lists, by the name of a schema, the operations whose messages hold it.
func usersOf(groups []Group) map[string][]Link {
	users := map[string][]Link{}
	for _, g := range groups {
		for _, op := range g.Operations {
			seen := map[string]bool{}
			op.each(func(f *Field) {
				for _, name := range f.names() {
					if !seen[name] {
						seen[name] = true
						users[name] = append(users[name], Link{op.Title, op.Slug})
					}
				}
			})
		}
	}
	return users
}

// names are the named schemas that a field shows or lists.
func (f *Field) names() []string {
	var all []string
	if f.Schema != "" {
		all = append(all, f.Schema)
	}
	if f.Items != "" {
		all = append(all, f.Items)
	}
	return all
}

// each visits every field of an operation's page.
func (p *OperationPage) each(visit func(*Field)) {
	var media []MediaSection
	if p.Body != nil {
		media = append(media, p.Body.Media...)
	}
	for _, r := range p.Responses {
		media = append(media, r.Media...)
		for _, h := range r.Headers {
			h.each(visit)
		}
	}
	for _, one := range media {
		one.Schema.each(visit)
	}
	for _, g := range p.Parameters {
		for _, f := range g.Fields {
			f.each(visit)
		}
	}
}

func (f *Field) each(visit func(*Field)) {
	if f == nil {
		return
	}
	visit(f)
	for _, list := range [][]*Field{f.Fields, f.Choices} {
		for _, inner := range list {
			inner.each(visit)
		}
	}
}
