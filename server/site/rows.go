package site

import (
	"slices"
	"strconv"
	"strings"

	"github.com/a-h/templ"

	"oldledger/core/reference"
)

// rows are the fields of one message, the greater part of most pages. A page has each anchor once: ids are those that were given away.
type rows struct {
	f      *Frame
	answer bool   // whether the message comes back, or is sent
	must   string // what is said of a field that is required
	ids    map[string]bool
	around string // since when what surrounds them exists: of them is told only what came later; "" for nothing around
}

// sending, answering and describing are the rows of a message that a client sends, that it gets back, and of a schema that may be either.
// around is since when what they stand in exists.
func sending(f *Frame, around string) *rows {
	return &rows{f: f, must: "must be sent", ids: map[string]bool{}, around: around}
}

func answering(f *Frame, around string) *rows {
	return &rows{f: f, answer: true, ids: map[string]bool{}, around: around}
}

func describing(f *Frame, around string) *rows {
	return &rows{f: f, must: "required", ids: map[string]bool{}, around: around}
}

// single are the margins of single items within something that exists since around.
func single(f *Frame, around string) *rows { return &rows{f: f, around: around} }

// within are the rows inside of an item.
func (r *rows) within(mg reference.Margin) *rows {
	if !r.later(mg.Since) {
		return r
	}
	inner := *r
	inner.around = mg.Since
	return &inner
}

// later reports whether a version came after what surrounds the rows.
func (r *rows) later(number string) bool {
	if number == "" || r.around == "" || number == r.around {
		return number != "" && r.around == ""
	}
	for _, v := range r.f.Versions { // the newest first
		switch v.Number {
		case number:
			return true
		case r.around:
			return false
		}
	}
	return true
}

// telling is what a margin tells that its surroundings do not.
func (r *rows) telling(mg reference.Margin) reference.Margin {
	if r.around == "" {
		return mg
	}
	if !r.later(mg.Since) {
		mg.Since = ""
	}
	if slices.ContainsFunc(mg.Changed, func(e reference.Event) bool { return !r.later(e.Number) }) {
		mg.Changed = slices.DeleteFunc(slices.Clone(mg.Changed), func(e reference.Event) bool { return !r.later(e.Number) })
	}
	return mg
}

// id is the anchor of a field, which a page has once.
func (r *rows) id(at string) string {
	id := reference.Anchor(at)
	for n, first := 2, id; r.ids[id]; n++ {
		id = first + "-" + strconv.Itoa(n)
	}
	r.ids[id] = true
	return id
}

// nested are the classes of what stands so deep inside a message.
var nested = [...]templ.OrderedAttributes{nest(0), nest(1), nest(2), nest(3), nest(4)}

func nest(depth int) templ.OrderedAttributes {
	return templ.OrderedAttributes{{Key: "class", Value: "nest" + strconv.Itoa(depth)}}
}

func nesting(depth int) templ.OrderedAttributes { return nested[min(depth, len(nested)-1)] }

// maxEvents bounds the changes that stand in a margin; the page of changes has them all.
const maxEvents = 2

// meant reports whether a list of values says what any of them means.
func meant(enum []reference.Meaning) bool {
	for _, e := range enum {
		if e.Text != "" {
			return true
		}
	}
	return false
}

func listWords(enum []reference.Meaning) string {
	if len(enum) > 1 {
		return "one of "
	}
	return "always "
}

func choiceWords(of *reference.Field, i int) string {
	if i == 0 {
		return "one of " + strconv.Itoa(len(of.Choices)) + ": "
	}
	return "or "
}

// nameless is a field as a page of its own shows it, whose head has its name.
func nameless(f *reference.Field) *reference.Field {
	bare := *f
	bare.Name, bare.Schema = "", ""
	return &bare
}

// numbered is the beginning of the anchors below one of several media types.
func numbered(at string, i int) string {
	if i == 0 {
		return at
	}
	return at + "." + strconv.Itoa(i+1)
}

// kindRest is what is said of a type behind the link to its schema, if it has one.
func kindRest(f *reference.Field) string {
	var b strings.Builder
	if f.Schema == "" && f.Items == "" {
		b.WriteString(f.Type)
	}
	if f.Schema != "" && f.Type != f.Schema {
		b.WriteString(", " + f.Type)
	}
	for _, l := range f.Limits {
		b.WriteString(", " + l)
	}
	return b.String()
}

// fieldMark is a word behind a field's type.
type fieldMark struct {
	class markClass
	text  string
}

type markClass uint8

// A mark stands like a type, as a tag, or says what must be sent.
const (
	markType markClass = iota
	markTag
	markMust
)

// marks say whether a field must be there, and what else is to be known of it at a glance.
func (r *rows) marks(f *reference.Field, leaving bool) []fieldMark {
	var all []fieldMark
	switch {
	case !r.answer && f.Required:
		all = append(all, fieldMark{markMust, r.must})
	case r.answer && !f.Required && f.Name != "":
		all = append(all, fieldMark{markType, "may be missing"})
	}
	if f.Nullable {
		all = append(all, fieldMark{markType, "or null"})
	}
	if f.Again {
		all = append(all, fieldMark{markType, "the same again"})
	}
	if f.ReadOnly {
		all = append(all, fieldMark{markTag, "only in answers"})
	}
	if f.WriteOnly {
		all = append(all, fieldMark{markTag, "only in requests"})
	}
	if leaving {
		all = append(all, fieldMark{markTag, "deprecated"})
	}
	return all
}

// demandWords begin the sentence that says what must be there.
func (r *rows) demandWords(d reference.Demand) string {
	must, one := "is required", "One of these"
	switch {
	case r.answer:
		must = "is there"
	case r.must == "must be sent":
		must = r.must
	}
	if d.With != "" {
		return "Where " + d.With + " is there, this " + must + ", too: "
	}
	if d.Exactly && len(d.Sets) > 1 {
		one = "Exactly one of these"
	}
	return one + " " + must + ": "
}

// plainMargin is the text of a margin that says since when something exists, and nothing else.
func (r *rows) plainMargin(mg reference.Margin) (since string, plain bool) {
	mg = r.telling(mg)
	if mg.Notice != nil || len(mg.Values)+len(mg.Changed) > 0 || mg.Since == r.f.Version.Number && len(r.f.Versions) > 1 {
		return "", false
	}
	if mg.Since == "" {
		return "", true
	}
	return "since " + short(mg.Since), true
}
