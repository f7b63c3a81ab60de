package site

import (
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
}

// sending, answering and describing are the rows of a message that a client sends, that it gets back, and of a schema that may be either.
func sending(f *Frame) *rows    { return &rows{f: f, must: "must be sent", ids: map[string]bool{}} }
func answering(f *Frame) *rows  { return &rows{f: f, answer: true, ids: map[string]bool{}} }
func describing(f *Frame) *rows { return &rows{f: f, must: "required", ids: map[string]bool{}} }

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

// meant tells whether a list of values says what any of them means.
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
