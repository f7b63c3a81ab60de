package compare

import (
	"fmt"
	"slices"

	"oldledger/core/contract"
)

// heirPairs links the heirs that the base of a pair stands for, where its discriminator tells no alternatives apart
// (docs/design/compatibility.md, Rows that are settled); one that came or went is an edit of its own.
func (c *comparer) heirPairs(p *pair) {
	old, new := c.heirs[p.old], c.heirs[p.new]
	if p.old.Name == "" || p.new.Name == "" || len(old)+len(new) == 0 || p.old.Discriminator() == nil || p.new.Discriminator() == nil {
		return
	}
	chosen := "programs that choose by this value choose wrongly"
	in := func(ds ...Direction) func(sense) (string, bool) {
		return func(s sense) (string, bool) { return s.when() + chosen, slices.Contains(ds, s.direction) }
	}
	property := p.new.Discriminator().Property
	came := slices.Clone(new)
	take := func(fits func(y *contract.Schema) bool) *contract.Schema {
		i := slices.IndexFunc(came, fits)
		if i < 0 {
			return nil
		}
		y := came[i]
		came = slices.Delete(came, i, i+1)
		return y
	}
	var gone []*contract.Schema
	for _, x := range old {
		tag := tagOf(p.old, x)
		if y := take(func(y *contract.Schema) bool { return tagOf(p.new, y) == tag }); y != nil {
			c.link(p, step{kind: stepHeir, name: y.Name}, x, y, y.Name)
		} else {
			gone = append(gone, x)
		}
	}
	likely := map[*contract.Schema]*contract.Schema{}
	for _, m := range alikeBranches(gone, came, slices.Concat(gone, came)) {
		likely[m.x] = m.y
	}
	for _, x := range gone {
		if y := take(func(y *contract.Schema) bool { return y.Name == x.Name || y == likely[x] }); y != nil {
			c.edit(p, &edit{
				kind: "discriminator-mapping-changed", least: Safe, old: x.Node, new: y.Node, once: x.Name, hazard: in(Backward, Forward),
				was: texted(tagOf(p.old, x)), is: texted(tagOf(p.new, y)), tag: property,
				title: fmt.Sprintf("%s %s of %s is now %s", property, tagOf(p.old, x), p.subject, tagOf(p.new, y)),
			})
			c.link(p, step{kind: stepHeir, name: y.Name}, x, y, y.Name)
			continue
		}
		c.edit(p, &edit{
			kind: "discriminator-mapping-removed", least: Safe, old: x.Node, new: p.new.Node, once: x.Name, hazard: in(Backward),
			title: fmt.Sprintf("%s may no longer be %s", p.subject, x.Name),
		})
	}
	for _, y := range came {
		c.edit(p, &edit{
			kind: "discriminator-mapping-added", least: Safe, old: p.old.Node, new: y.Node, once: y.Name, hazard: in(Forward),
			title: fmt.Sprintf("%s may also be %s", p.subject, y.Name),
		})
	}
}

// tagOf is the value by which a base knows an heir: what its mapping says, or the name.
func tagOf(base, heir *contract.Schema) string {
	for _, m := range base.Discriminator().Mapping {
		if m.Target == heir.Name {
			return m.Value
		}
	}
	return heir.Name
}

// asHeir is a position in which an heir is meant where its base stands.
func (c *comparer) asHeir(p *position, heir *pair) *position {
	key := heirKey{p, heir}
	if known := c.meant[key]; known != nil {
		return known
	}
	as := *p
	as.old, as.new = heir.old, heir.new
	as.at.Heir = heir.subject
	if c.meant == nil {
		c.meant = map[heirKey]*position{}
	}
	c.meant[key] = &as
	return &as
}

type heirKey struct {
	at   *position
	heir *pair
}
