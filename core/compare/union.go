package compare

import (
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// branches compares the branches of a union: those that belong together become pairs, the others are one edit.
func (c *comparer) branches(p *pair, keyword string, old, new []*contract.Schema) {
	if old == nil && new == nil {
		return
	}
	demand := func(list []*contract.Schema, s *contract.Schema) *contract.Schema {
		part := &contract.Schema{Node: s.Node, Types: nil}
		if list != nil && len(list) == 0 {
			part.Types = []string{} // nothing
			return part
		}
		if keyword == "oneOf" {
			part.OneOf = list
		} else {
			part.AnyOf = list
		}
		return part
	}
	if old == nil || new == nil {
		list, title := new, p.subject+" must now be one of: "+branchNames(new)
		if new == nil {
			list, title = old, p.subject+" need no longer be one of: "+branchNames(old)
		}
		if names := together(list); names != "" {
			title = names + map[bool]string{true: " need no longer", false: " must now"}[new == nil] + " be there"
			if keyword == "oneOf" {
				title += ", and not both"
			}
		}
		c.edit(p, &edit{
			kind: "alternatives", ranged: true, title: title, old: p.a.place(keyword), new: p.b.place(keyword),
			partOld: demand(old, p.a.schema), partNew: demand(new, p.b.schema),
		})
		return
	}
	gone, left := c.branchPairs(p, old, new)
	if len(gone)+len(left) == 0 {
		return
	}
	// What else changed in the alternatives that stay is told by itself: here both sides know them as the sender does.
	stay := func(list, without []*contract.Schema) []*contract.Schema {
		return slices.DeleteFunc(slices.Clone(list), func(s *contract.Schema) bool { return slices.Contains(without, s) })
	}
	e := &edit{
		kind: "alternatives", ranged: true, old: p.a.place(keyword), new: p.b.place(keyword),
		partOld: demand(append(stay(new, left), gone...), p.a.schema), partNew: demand(append(stay(old, gone), left...), p.b.schema),
		setOld: demand(old, p.a.schema),
	}
	e.values, e.held = [2]string{branchNames(gone), branchNames(left)}, "that is"
	switch {
	case len(gone) == 0:
		e.title = fmt.Sprintf("%s may also be %s", p.subject, branchNames(left))
	case len(left) == 0:
		e.title = fmt.Sprintf("%s may no longer be %s", p.subject, branchNames(gone))
	default:
		e.title = fmt.Sprintf("%s may be %s, no longer %s", p.subject, branchNames(left), branchNames(gone))
	}
	c.edit(p, e)
}

// chosen compares a choice with a schema that is none: the schema is the one alternative that is left, or was there. It is asked where
// the choice says nothing beside its alternatives.
func (c *comparer) chosen(p *pair) bool {
	if p.a.null || p.b.null || p.a.mixed || p.b.mixed {
		return false
	}
	for _, keyword := range []string{"anyOf", "oneOf"} {
		was, is := branchList(p.a.schema, keyword), branchList(p.b.schema, keyword)
		switch {
		case was != nil && is == nil && onlyChooses(p.a.schema) && !chooses(p.b.schema):
			c.branches(p, keyword, was, []*contract.Schema{p.new})
			return true
		case is != nil && was == nil && onlyChooses(p.b.schema) && !chooses(p.a.schema):
			c.branches(p, keyword, []*contract.Schema{p.old}, is)
			return true
		}
	}
	return false
}

// rechosen makes one edit of alternatives of which one is enough, where exactly one was asked for, or the other way round.
func (c *comparer) rechosen(p *pair) bool {
	a, b := p.a.schema, p.b.schema
	was, is, word := a.AnyOf, b.OneOf, "refused"
	if a.AnyOf == nil {
		was, is, word = a.OneOf, b.AnyOf, "admitted"
	}
	if was == nil || is == nil || a.AnyOf != nil && a.OneOf != nil || b.AnyOf != nil && b.OneOf != nil {
		return false
	}
	gone, came := c.branchPairs(p, was, is)
	names := branchNames(is)
	if len(is) == 2 {
		names = "both " + branchNames(is[:1]) + " and " + branchNames(is[1:])
	} else {
		names = "several of " + names
	}
	e := &edit{
		kind: "alternatives", ranged: true, last: true, title: fmt.Sprintf("%s: a value that fits %s is %s now", p.subject, names, word),
		old: keywordPlace(p.a, []string{"anyOf", "oneOf"}), new: keywordPlace(p.b, []string{"anyOf", "oneOf"}), partOld: p.old, partNew: p.new,
	}
	switch {
	case len(gone) > 0 && len(came) > 0:
		e.title += fmt.Sprintf(", and it may be %s, no longer %s", branchNames(came), branchNames(gone))
	case len(gone) > 0:
		e.title += ", and it may no longer be " + branchNames(gone)
	case len(came) > 0:
		e.title += ", and it may also be " + branchNames(came)
	}
	c.edit(p, e)
	return true
}

// together says which properties must be there by alternatives that say nothing else: "note or kind"; "" for all others.
func together(list []*contract.Schema) string {
	var texts []string
	for _, s := range list {
		d := s.Deref()
		rest := d.Copy()
		rest.Required, rest.Types = nil, nil
		if rest.Asserts() || len(d.Required) == 0 {
			return ""
		}
		texts = append(texts, strings.Join(d.Required, " with "))
	}
	return strings.Join(texts, " or ")
}

func branchList(s *contract.Schema, keyword string) []*contract.Schema {
	if keyword == "oneOf" {
		return s.OneOf
	}
	return s.AnyOf
}

func chooses(s *contract.Schema) bool { return s.AnyOf != nil || s.OneOf != nil }

func onlyChooses(s *contract.Schema) bool {
	rest := s.Copy()
	rest.AnyOf, rest.OneOf = nil, nil
	return !rest.Asserts() && (s.AnyOf == nil || s.OneOf == nil)
}

// branchPairs links the branches that belong together: by component name, by title, by what is written, by what they admit, by likeness,
// each test over all that is left by the one before, so that both directions pair alike. The rest is given back.
func (c *comparer) branchPairs(p *pair, old, new []*contract.Schema) (gone, came []*contract.Schema) {
	tests := []func(x, y *contract.Schema) bool{
		func(x, y *contract.Schema) bool { return x.Name != "" && x.Name == y.Name },
		func(x, y *contract.Schema) bool {
			return x.Name == "" && y.Name == "" && x.Title != "" && x.Title == y.Title
		},
		c.classes.Equal,
		func(x, y *contract.Schema) bool {
			return (x.Name == "" || y.Name == "") && c.equal(x, y, shape.Role{Request: true}, nil) && c.equal(x, y, shape.Role{}, nil)
		},
	}
	gone, came = slices.Clone(old), slices.Clone(new)
	partner := map[*contract.Schema]*contract.Schema{}
	for _, test := range tests {
		for _, x := range old {
			if partner[x] != nil {
				continue
			}
			i := slices.IndexFunc(came, func(y *contract.Schema) bool { return test(x.Deref(), y.Deref()) })
			if i >= 0 {
				partner[x] = came[i]
				came = slices.Delete(came, i, i+1)
			}
		}
	}
	gone = slices.DeleteFunc(gone, func(x *contract.Schema) bool { return partner[x] != nil })
	for _, m := range alikeBranches(gone, came, slices.Concat(old, new)) {
		partner[m.x] = m.y
		came = slices.DeleteFunc(came, func(y *contract.Schema) bool { return y == m.y })
	}
	gone = slices.DeleteFunc(gone, func(x *contract.Schema) bool { return partner[x] != nil })
	if p.branches == nil {
		p.branches = map[*contract.Schema]*contract.Schema{}
	}
	for _, x := range old {
		if partner[x] != nil {
			p.branches[x.Deref()] = partner[x].Deref()
			c.link(p, step{kind: stepBranch, old: x, new: partner[x]}, x, partner[x], p.subject)
		}
	}
	return gone, came
}

// branchNames names a few alternatives.
func branchNames(list []*contract.Schema) string {
	const most = 5
	var names []string
	for _, s := range list {
		d := s.Deref()
		name := d.Name
		switch {
		case name != "":
		case d.Title != "":
			name = d.Title
		case tagText(d) != "":
			name = tagText(d)
		case len(d.Required) > 0:
			name = "an object with " + d.Required[0]
		default:
			name = typeText(d)
		}
		if name == "" {
			name = "anything"
		}
		if !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	if len(names) > most {
		names = append(names[:most], fmt.Sprintf("%d more", len(names)-most))
	}
	return strings.Join(names, ", ")
}

// tagText names a branch by the property that has one value in it only: "kind ferry".
func tagText(s *contract.Schema) string {
	for _, p := range s.Properties {
		if v := tagOn(s, p.Name); v != nil && v.Kind == source.String {
			return p.Name + " " + v.Text
		}
	}
	return ""
}
