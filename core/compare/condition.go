package compare

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
)

// conditions compares not, if, then and else as whole sets.
func (c *comparer) conditions(p *pair) {
	c.whole(p, "exclusion", []string{"not"}, exclusionTitle(p), func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Rare: &contract.Rare{Not: s.Not()}}
	})
	if c.sameCondition(p) {
		return
	}
	c.whole(p, "condition", []string{"if", "then", "else"}, conditionTitle(p), func(s *contract.Schema) *contract.Schema {
		return &contract.Schema{Node: s.Node, Rare: &contract.Rare{If: s.If(), Then: s.Then(), Else: s.Else()}}
	})
}

// valuesText names what a schema is in few words: its listed values, its component, its type.
func valuesText(s *contract.Schema) string {
	v := newView(s.Deref())
	switch {
	case v.schema.Name != "":
		return v.schema.Name
	case v.schema.HasEnum:
		return listed(v.schema.Enum)
	case limitsText(v.schema) != "" && v.schema.Types == nil:
		return "what is " + limitsText(v.schema)
	case limitsText(v.schema) != "":
		return typeText(v.schema) + " that is " + limitsText(v.schema)
	case len(v.schema.Required) > 0:
		return "an object with " + strings.Join(v.schema.Required, " and ")
	}
	return typeText(v.schema)
}

func exclusionTitle(p *pair) string {
	was, is := p.a.schema.Not(), p.b.schema.Not()
	switch {
	case was == nil && is == nil:
		return ""
	case was == nil:
		return fmt.Sprintf("%s may no longer be %s", p.subject, valuesText(is))
	case is == nil:
		return fmt.Sprintf("%s may also be %s", p.subject, valuesText(was))
	}
	return fmt.Sprintf("%s may not be %s, where it might not be %s", p.subject, valuesText(is), valuesText(was))
}

// sameCondition compares what holds under a condition that stays as it was, and where it does not hold: both are branches of the same
// value.
func (c *comparer) sameCondition(p *pair) bool {
	a, b := p.a.schema, p.b.schema
	if a.If() == nil || b.If() == nil || !c.classes.Equal(a.If(), b.If()) || (a.Then() == nil) != (b.Then() == nil) ||
		(a.Else() == nil) != (b.Else() == nil) {
		return false
	}
	when := whenText(a.If())
	for _, branch := range []struct {
		x, y *contract.Schema
		when string
	}{{a.Then(), b.Then(), cmp.Or(when, "where its condition holds")}, {a.Else(), b.Else(), "where its condition does not hold"}} {
		if branch.x != nil && !c.classes.Equal(branch.x, branch.y) {
			c.link(p, step{kind: stepBranch, old: branch.x, new: branch.y, when: branch.when}, branch.x, branch.y, p.subject)
		}
	}
	return true
}

// whenText says a condition that only demands properties or a tag: "with kind sail"; "" for all others.
func whenText(s *contract.Schema) string {
	if text := cmp.Or(together([]*contract.Schema{s}), tagText(s.Deref())); text != "" {
		return "with " + text
	}
	return ""
}

func conditionTitle(p *pair) string {
	was, is := conditionText(p.a.schema), conditionText(p.b.schema)
	switch {
	case was != "" && p.b.schema.If() == nil:
		return strings.Replace(was, " must be there", " need no longer be there", 1)
	case is != "" && p.a.schema.If() == nil:
		return strings.Replace(is, " must be there", " must now be there", 1)
	case is != "" && was != "":
		return is + ", was: " + was
	case p.a.schema.If() == nil:
		return "what " + p.subject + " may be now depends on what else it is"
	case p.b.schema.If() == nil:
		return "what " + p.subject + " may be no longer depends on what else it is"
	}
	return "what " + p.subject + " may be depends on something else"
}

// conditionText says a condition that only demands properties: "with note, kind must be there"; "" for all others.
func conditionText(s *contract.Schema) string {
	if s.If() == nil || s.Then() == nil || s.Else() != nil {
		return ""
	}
	when, then := whenText(s.If()), together([]*contract.Schema{s.Then()})
	if when == "" || then == "" {
		return ""
	}
	return fmt.Sprintf("%s, %s must be there", when, strings.ReplaceAll(then, " with ", " and "))
}

// dependencyTitle says what needs what else: "note now needs kind".
func dependencyTitle(p *pair) string {
	type need struct{ name, needs string }
	needs := func(s *contract.Schema) (all []need) {
		for _, d := range s.DependentRequired() {
			for _, n := range d.Needs {
				all = append(all, need{d.Name, n})
			}
		}
		return all
	}
	was, is := needs(p.a.schema), needs(p.b.schema)
	var texts []string
	for _, n := range is {
		if !slices.Contains(was, n) {
			texts = append(texts, n.name+" now needs "+n.needs)
		}
	}
	for _, n := range was {
		if !slices.Contains(is, n) {
			texts = append(texts, n.name+" no longer needs "+n.needs)
		}
	}
	for _, d := range append(slices.Clone(p.a.schema.DependentSchemas()), p.b.schema.DependentSchemas()...) {
		if text := "what goes with " + d.Name + " in " + p.subject + " is something else"; !slices.Contains(texts, text) {
			texts = append(texts, text)
		}
	}
	return strings.Join(texts, ", ")
}

// containsTitle says what a list must hold at least once.
func containsTitle(p *pair) string {
	was, is := p.a.schema.Contains(), p.b.schema.Contains()
	text := func(s *contract.Schema) string {
		low := 1
		if s.MinContains() != nil {
			low = *s.MinContains()
		}
		return valuesText(s.Contains()) + " " + countText(&low, s.MaxContains(), "times")
	}
	switch {
	case was == nil && is == nil:
		return ""
	case was == nil:
		return fmt.Sprintf("%s must now hold %s", p.subject, text(p.b.schema))
	case is == nil:
		return fmt.Sprintf("%s need no longer hold %s", p.subject, text(p.a.schema))
	}
	return fmt.Sprintf("%s must hold %s, was %s", p.subject, text(p.b.schema), text(p.a.schema))
}

// namesTitle says how properties may be called.
func namesTitle(p *pair) string {
	text := func(s *contract.Schema) string {
		if s.PropertyNames() == nil {
			return "anything"
		}
		return valuesText(s.PropertyNames())
	}
	return fmt.Sprintf("the names in %s are %s, were %s", p.subject, text(p.b.schema), text(p.a.schema))
}

// patternsTitle says which patterns of names are spoken of.
func patternsTitle(p *pair) string {
	text := func(s *contract.Schema) string {
		var texts []string
		for _, q := range s.PatternProperties() {
			texts = append(texts, q.Name)
		}
		if len(texts) == 0 {
			return "no pattern"
		}
		return strings.Join(texts, " and ")
	}
	was, is := text(p.a.schema), text(p.b.schema)
	if was == is {
		return fmt.Sprintf("the properties of %s whose names match %s hold something else", p.subject, is)
	}
	return fmt.Sprintf("%s names properties by %s, was %s", p.subject, is, was)
}
