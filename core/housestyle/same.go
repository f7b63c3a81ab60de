package housestyle

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

func valueOfText(text string) *value.Value { return value.Str(text) }

// mayMatch reports whether a text matches a pattern, or whether that cannot be told.
func mayMatch(pattern, text string) bool {
	re, err := regexp.Compile(pattern)
	return err != nil || re.MatchString(text)
}

// classed are the rules that ask what schemas are the same.
var classed = []string{"copy-of-type", "copies-in-place", "errors-one-form"}

// vague are names of fields that hold whatever is at hand.
var vague = []string{
	"attributes", "body", "config", "content", "contents", "data", "default", "details", "example", "id", "items", "key", "links", "meta",
	"metadata", "options", "parameters", "payload", "properties", "result", "results", "settings", "state", "status", "type", "value", "values",
}

// maxOfName bounds how often one name is told of.
const maxOfName = 10

// nameOneType tells of fields that have another type than most fields of their name.
func nameOneType(x *examination, r *Rule) {
	for _, name := range slices.Sorted(maps.Keys(x.fields)) {
		all := x.fields[name]
		if len(all) < 2 || slices.Contains(vague, strings.ToLower(name)) {
			continue
		}
		groups := map[string][]*element{}
		var order []string
		for _, e := range all {
			t := e.typ()
			if t == "integer" {
				t = "number"
			}
			if t == "" {
				continue
			}
			if groups[t] == nil {
				order = append(order, t)
			}
			groups[t] = append(groups[t], e)
		}
		if len(order) < 2 {
			continue
		}
		usual := order[0]
		for _, t := range order {
			if len(groups[t]) > len(groups[usual]) {
				usual = t
			}
		}
		told := 0
		for _, t := range order {
			for _, e := range groups[t] {
				if t == usual || told == maxOfName {
					continue
				}
				told++
				f := x.tell(r, e, e.node, fmt.Sprintf("%s is %s here, and elsewhere %s", e.called(), article(e.typ()), article(groups[usual][0].typ())),
					"give one thing one form, or two things two names")
				f.Also(groups[usual][0].node, article(groups[usual][0].typ()))
			}
		}
	}
}

func article(word string) string {
	if word != "" && strings.ContainsRune("aeiou", rune(word[0])) {
		return "an " + word
	}
	return "a " + word
}

// nameOneSpelling tells of fields whose names differ from those of most only in how they are spelt.
func nameOneSpelling(x *examination, r *Rule) {
	spellings := map[string][]string{}
	for _, name := range slices.Sorted(maps.Keys(x.fields)) {
		key := strings.Join(wordsOf(name), "")
		spellings[key] = append(spellings[key], name)
	}
	for _, key := range slices.Sorted(maps.Keys(spellings)) {
		names := spellings[key]
		if len(names) < 2 {
			continue
		}
		usual := names[0]
		for _, n := range names {
			if len(x.fields[n]) > len(x.fields[usual]) {
				usual = n
			}
		}
		for _, n := range names {
			if n == usual || bare(n) != n || bare(usual) != usual {
				continue
			}
			for _, e := range x.fields[n][:min(len(x.fields[n]), maxOfName)] {
				f := x.tell(r, e, e.node, fmt.Sprintf("%s is spelt %s elsewhere", e.called(), usual), "write one name in one way")
				f.Also(x.fields[usual][0].node, usual)
			}
		}
	}
}

// inPlace reports whether a schema is an object of some fields that has no name.
func inPlace(s *contract.Schema, fields int) bool {
	return s.Name == "" && s.Ref == nil && len(s.Properties) >= fields && s.AllOf == nil && s.OneOf == nil && s.AnyOf == nil
}

// copyOfType tells of objects in place that admit what a named type admits.
func copyOfType(x *examination, r *Rule) {
	of := map[int32]*contract.Schema{}
	for _, s := range x.c.Schemas {
		if len(s.Properties) < 2 || s.Ref != nil {
			continue
		}
		if set := x.classes().Of(s).Set; set != 0 && of[set] == nil {
			of[set] = s
		}
	}
	if len(of) == 0 {
		return
	}
	for _, e := range x.objects {
		if !inPlace(e.schema, 2) || e.of != nil && e.of.kind.name == "type" {
			continue
		}
		c := x.classes().Of(e.schema)
		named := of[c.Set]
		if c.Set == 0 || named == nil || within(e.node, named.Node) {
			continue
		}
		f := x.tell(r, e, e.node, fmt.Sprintf("%s says what the type %s says", e.called(), named.Name), "refer to the type")
		f.Also(named.Node, named.Name)
		x.refer(f, e, named, c.Whole == x.classes().Of(named).Whole)
	}
}

// refer notes that a copy can be a reference, where nothing is lost by it.
func (x *examination) refer(f *Finding, e *element, to *contract.Schema, same bool) {
	n := e.node
	if !same || n.Origin() != n || n.Parent() == nil || n.File() != to.Node.File() || !strings.HasPrefix(x.c.Dialect, "openapi") {
		return
	}
	ref := value.Obj(value.Member{Name: "$ref", Value: value.Str("#" + to.Node.Pointer())})
	f.wishes, f.title = []wish{{wishSet, n.Parent(), n.Step(), ref}}, "refer to "+to.Name
	f.needs = to.Node
}

// within reports whether a node stands in another.
func within(n, in *source.Node) bool {
	for ; n != nil; n = n.Parent() {
		if n == in {
			return true
		}
	}
	return false
}

// fewest is in how many places an object must be written out to be told of, and with how many fields.
const fewest = 3

// copiesInPlace tells of objects that are written out in several places, and have no name anywhere.
func copiesInPlace(x *examination, r *Rule) {
	named := map[int32]bool{}
	for _, s := range x.c.Schemas {
		named[x.classes().Of(s).Set] = true
	}
	groups := map[int32][]*element{}
	var order []int32
	for _, e := range x.objects {
		if !inPlace(e.schema, fewest) {
			continue
		}
		set := x.classes().Of(e.schema).Set
		if set == 0 || named[set] {
			continue
		}
		if groups[set] == nil {
			order = append(order, set)
		}
		groups[set] = append(groups[set], e)
	}
	for _, set := range order {
		all := groups[set]
		if len(all) < fewest {
			continue
		}
		f := x.tell(r, all[0], all[0].node, fmt.Sprintf("%s is written out in %d places", all[0].called(), len(all)),
			"give it a name under components, and refer to it")
		for _, e := range all[1:min(len(all), 6)] {
			f.Also(e.node, e.called())
		}
	}
}

// errorsOneForm tells of failures that have another form than most.
func errorsOneForm(x *examination, r *Rule) {
	groups := map[string][]*element{}
	var order []string
	for _, e := range x.failures {
		for _, m := range e.part.(*contract.Response).Content {
			if m.Schema == nil || !isJSON(m.Type) {
				continue
			}
			key := fmt.Sprint(x.classes().Of(m.Schema).Set)
			if groups[key] == nil {
				order = append(order, key)
			}
			groups[key] = append(groups[key], e)
			break
		}
	}
	usual := most(groups, order)
	if usual == "" {
		return
	}
	for _, key := range order {
		if key == usual {
			continue
		}
		for _, e := range groups[key] {
			f := x.tell(r, e, e.node, e.called()+" has another form than most failures", "give all failures one form")
			f.Also(groups[usual][0].node, "the usual form")
		}
	}
}
