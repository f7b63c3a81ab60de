package compare

import (
	"cmp"
	"fmt"
	"slices"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// tag is a value of a discriminator and what it stands for: a schema, and its name, which is all that is known where no schema is found.
type tag struct {
	value, name string
	schema      *contract.Schema
}

// tags are the values of a discriminator: those of its mapping, and the names of the alternatives that no value of it stands for (OpenAPI
// 3.1.1, Discriminator Object).
func tags(v *view, in *contract.Contract) []tag {
	d := v.schema.Discriminator()
	alternatives := map[string]*contract.Schema{}
	var names []string
	for _, list := range [][]*contract.Schema{v.schema.OneOf, v.schema.AnyOf} {
		for _, b := range list {
			if named := b.Deref(); named.Name != "" && alternatives[named.Name] == nil {
				alternatives[named.Name] = named
				names = append(names, named.Name)
			}
		}
	}
	var all []tag
	mapped := map[string]bool{}
	for _, m := range d.Mapping {
		target := alternatives[m.Target]
		if target == nil {
			target = in.Schema(m.Target)
		}
		mapped[m.Target] = true
		all = append(all, tag{m.Value, m.Target, target})
	}
	for _, name := range names {
		if !mapped[name] {
			all = append(all, tag{name, name, alternatives[name]})
		}
	}
	return all
}

// discriminators compares how a reader tells the branches apart. They refuse nothing by themselves.
func (c *comparer) discriminators(p *pair) {
	x, y := p.a.schema.Discriminator(), p.b.schema.Discriminator()
	fear := func(why string) func(sense) (string, bool) {
		return func(sense) (string, bool) { return why, true }
	}
	switch {
	case x == nil && y == nil || p.old.Discriminator() == nil && p.new.Discriminator() == nil: // an heir has its base's, where it is told
		return
	case x == nil || y == nil || x.Property != y.Property:
		e := &edit{
			kind: "discriminator-changed", old: p.a.place("discriminator"), new: p.b.place("discriminator"),
			title: p.subject + " tells its alternatives apart in another way",
		}
		if x != nil {
			e.hazard = fear("programs that choose by the old property choose wrongly")
		}
		c.edit(p, e)
		return
	}
	if len(c.heirs[p.old])+len(c.heirs[p.new]) == 0 { // otherwise it is told of the heirs
		c.tagsChanged(p, tags(p.a, c.old), tags(p.b, c.new))
	}
	if x.Default != y.Default {
		c.edit(p, &edit{
			kind: "discriminator-mapping-changed", old: x.Node, new: y.Node,
			title:  fmt.Sprintf("all other values of %s of %s stand for something else", x.Property, p.subject),
			hazard: fear("programs that choose by such a value choose wrongly"),
		})
	}
}

// tagsChanged makes an edit of each tag that stands for something else, has another name, or came or went without its alternative.
func (c *comparer) tagsChanged(p *pair, was, is []tag) {
	x, y := p.a.schema.Discriminator(), p.b.schema.Discriminator()
	chosen := "programs that choose by this value choose wrongly"
	in := func(ds ...Direction) func(sense) (string, bool) {
		return func(s sense) (string, bool) { return s.when() + chosen, slices.Contains(ds, s.direction) }
	}
	tell := func(kind, was, is string, fear func(sense) (string, bool), title string) {
		c.edit(p, &edit{
			kind: kind, least: Safe, old: x.Node, new: y.Node, once: cmp.Or(was, is), was: texted(was), is: texted(is),
			tag: x.Property, hazard: fear, title: title,
		})
	}
	valued := func(list []tag, value string) int {
		return slices.IndexFunc(list, func(t tag) bool { return t.value == value })
	}
	renamed := map[string]bool{}
	for _, t := range was {
		if i := valued(is, t.value); i >= 0 {
			if !c.sameTag(p, t, is[i]) {
				tell("discriminator-mapping-changed", t.value, t.value, in(Backward, Forward),
					fmt.Sprintf("%s %s of %s stands for something else", x.Property, t.value, p.subject))
			}
			continue
		}
		i := slices.IndexFunc(is, func(u tag) bool { return c.sameTag(p, t, u) && valued(was, u.value) < 0 && !renamed[u.value] })
		switch {
		case i >= 0:
			renamed[is[i].value] = true
			if listsTag(t, x.Property) && listsTag(is[i], y.Property) {
				continue // it is told where the alternative lists it
			}
			tell("discriminator-mapping-changed", t.value, is[i].value, in(Backward, Forward),
				fmt.Sprintf("%s %s of %s is now %s", x.Property, t.value, p.subject, is[i].value))
		// otherwise it went with its alternative, or with its name
		case len(p.branches) == 0 || p.branches[t.schema] != nil && p.branches[t.schema].Name != "":
			tell("discriminator-mapping-removed", t.value, "", in(Backward),
				fmt.Sprintf("%s %s of %s no longer names an alternative", x.Property, t.value, p.subject))
		}
	}
	for _, u := range is {
		if valued(was, u.value) < 0 && !renamed[u.value] && (len(p.branches) == 0 || p.hadName(u.schema)) {
			tell("discriminator-mapping-added", "", u.value, in(Forward),
				fmt.Sprintf("%s %s of %s names an alternative", y.Property, u.value, p.subject))
		}
	}
}

// hadName reports whether a branch took the place of one that had a name, too.
func (p *pair) hadName(branch *contract.Schema) bool {
	for was, is := range p.branches {
		if is == branch && was.Name != "" {
			return true
		}
	}
	return false
}

// sameTag reports whether two tags stand for one schema in both versions.
func (c *comparer) sameTag(p *pair, t, u tag) bool {
	return t.name == u.name || t.schema != nil && u.schema != nil && (p.branches[t.schema] == u.schema || c.classes.Equal(t.schema, u.schema))
}

// listsTag reports whether what a tag stands for lists the tag itself as the one value of the property.
func listsTag(t tag, property string) bool {
	if t.schema == nil {
		return false
	}
	v := tagOn(newView(t.schema.Deref()).schema, property)
	return v != nil && v.Kind == source.String && v.Text == t.value
}

// texted is a text as a value, nil for "".
func texted(text string) *value.Value {
	if text == "" {
		return nil
	}
	return value.Str(text)
}
