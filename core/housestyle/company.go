package housestyle

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"oldledger/core/contract"
)

// Vocabulary is how the APIs of a company name their fields.
type Vocabulary struct {
	Words []Word `json:"words"` // by name, then by type
}

// Word is a name of fields, of one type in some APIs.
type Word struct {
	Name string   `json:"name"`
	Type string   `json:"type"` // "number" of whole numbers, too; "" where it cannot be told
	APIs []string `json:"apis"` // by name
}

// VocabularyOf is how one API names its fields: of each name the type that most of its fields have.
func VocabularyOf(ctx context.Context, api string, c *contract.Contract) Vocabulary {
	x := newExamination(ctx, c, &Style{}, nil)
	x.walk(func(e *element) {
		if e.kind.name == "field" {
			x.fields[e.name] = append(x.fields[e.name], e)
		}
	})
	var v Vocabulary
	for _, name := range slices.Sorted(maps.Keys(x.fields)) {
		v.Words = append(v.Words, Word{name, usualType(x.fields[name]), []string{api}})
	}
	return v
}

// usualType is the type that most fields have, the first of several.
func usualType(fields []*element) string {
	counts := map[string]int{}
	usual := ""
	for _, e := range fields {
		t := plainType(e)
		if t == "" {
			continue
		}
		if counts[t]++; usual == "" || counts[t] > counts[usual] {
			usual = t
		}
	}
	return usual
}

// plainType is the type of a field, whole numbers as numbers.
func plainType(e *element) string {
	if t := e.typ(); t != "integer" {
		return t
	}
	return "number"
}

// With is the vocabulary of both.
func (v Vocabulary) With(o Vocabulary) Vocabulary {
	type key struct{ name, typ string }
	at := map[key]int{}
	both := Vocabulary{Words: slices.Clone(v.Words)}
	for i, w := range both.Words {
		at[key{w.Name, w.Type}] = i
	}
	for _, w := range o.Words {
		i, known := at[key{w.Name, w.Type}]
		if !known {
			i = len(both.Words)
			at[key{w.Name, w.Type}] = i
			both.Words = append(both.Words, Word{Name: w.Name, Type: w.Type})
		}
		apis := slices.Concat(both.Words[i].APIs, w.APIs)
		slices.Sort(apis)
		both.Words[i].APIs = slices.Compact(apis)
	}
	slices.SortFunc(both.Words, func(a, b Word) int { return strings.Compare(a.Name+"\x00"+a.Type, b.Name+"\x00"+b.Type) })
	return both
}

// elsewhere are the words that other APIs than the one that is judged use.
func (x *examination) elsewhere() []Word {
	if x.options.Company == nil {
		return nil
	}
	var words []Word
	for _, w := range x.options.Company.Words {
		w.APIs = slices.DeleteFunc(slices.Clone(w.APIs), func(api string) bool { return api == x.options.API })
		if len(w.APIs) > 0 {
			words = append(words, w)
		}
	}
	return words
}

// companyOneType tells of fields that are of another type in most other APIs.
func companyOneType(x *examination, r *Rule) {
	usual := map[string]Word{}
	for _, w := range x.elsewhere() {
		if w.Type != "" && len(w.APIs) > len(usual[w.Name].APIs) {
			usual[w.Name] = w
		}
	}
	for _, name := range slices.Sorted(maps.Keys(x.fields)) {
		fields := x.fields[name]
		is, there := usualType(fields), usual[name]
		if is == "" || there.Type == "" || is == there.Type || slices.Contains(vague, strings.ToLower(name)) {
			continue
		}
		x.say(r, fields[0], fields[0].node, fmt.Sprintf("%s is %s here, and %s in %s", fields[0].called(), article(is), article(there.Type),
			some(there.APIs)), "give one thing one form in all APIs, or two things two names")
	}
}

// companyOneSpelling tells of fields that other APIs spell otherwise.
func companyOneSpelling(x *examination, r *Rule) {
	usual := map[string]Word{}
	used := map[string]bool{}
	for _, w := range x.elsewhere() {
		used[w.Name] = true
		if key := strings.Join(wordsOf(w.Name), ""); len(w.APIs) > len(usual[key].APIs) {
			usual[key] = w
		}
	}
	for _, name := range slices.Sorted(maps.Keys(x.fields)) {
		there := usual[strings.Join(wordsOf(name), "")]
		if there.Name == "" || used[name] || bare(name) != name || bare(there.Name) != there.Name {
			continue
		}
		e := x.fields[name][0]
		x.say(r, e, e.node, fmt.Sprintf("%s is spelt %s in %s", e.called(), there.Name, some(there.APIs)), "write one name in one way in all APIs")
	}
}

// some are the first of some names, and how many more there are.
func some(names []string) string {
	const most = 3
	if len(names) <= most {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:most], ", "), len(names)-most)
}
