package site

import (
	"html"
	"html/template"
	"strconv"
	"strings"

	"oldledger/core/promise"
	"oldledger/core/reference"
)

// rows writes the fields of a message as ruled rows: the greater part of most pages, and therefore written without a template.
type rows struct {
	b      strings.Builder
	f      *Frame
	answer bool // whether the message comes back, or is sent
	must   string
	ids    map[string]bool
}

// sent and returned are the rows of a message that a client sends, or gets back. at begins the anchors of its fields.
func sent(f *Frame, field *reference.Field, at string) template.HTML {
	return message(rows{f: f, must: "must be sent"}, field, at)
}

func returned(f *Frame, field *reference.Field, at string) template.HTML {
	return message(rows{f: f, answer: true}, field, at)
}

// described are the rows of a schema, which may be sent or come back.
func described(f *Frame, field *reference.Field) template.HTML {
	return message(rows{f: f, must: "required"}, field, "")
}

// rowSize is about how long the row of a field is.
const rowSize = 500

func message(r rows, field *reference.Field, at string) template.HTML {
	r.ids = map[string]bool{}
	if field != nil {
		r.b.Grow(rowSize * (1 + len(field.Fields)))
	}
	r.message(field, at)
	return template.HTML(r.b.String())
}

// message is the fields of a message, or the message itself where it has none.
func (r *rows) message(field *reference.Field, at string) {
	switch {
	case field == nil:
	case len(field.Fields)+len(field.Choices) > 0:
		r.inside(field, 0, at)
	case !r.answer:
		r.row(field, 0, at)
	}
}

// fieldRow is the row of one field, with what is inside it.
func fieldRow(f *Frame, field *reference.Field, at string) template.HTML {
	r := rows{f: f, must: "must be sent", ids: map[string]bool{}}
	r.row(field, 0, at+"."+field.Name)
	return template.HTML(r.b.String())
}

func (r *rows) put(parts ...string) {
	for _, p := range parts {
		r.b.WriteString(p)
	}
}

func (r *rows) text(s string) {
	r.b.WriteString(html.EscapeString(s))
}

func (r *rows) inside(field *reference.Field, depth int, at string) {
	for _, inner := range field.Fields {
		r.row(inner, depth, at+"."+inner.Name)
	}
	for i, choice := range field.Choices {
		r.choice(field, choice, i, depth, at)
	}
}

// choice is an alternative that a reader opens; the first is open.
func (r *rows) choice(of, choice *reference.Field, i, depth int, at string) {
	r.put(`<details class="choice"`)
	if i == 0 {
		r.put(` open`)
	}
	r.put(`><summary class="row line"><span class="m"></span><span class="c"><span class="nest`, nesting(depth), `"><span class="soft">`)
	if i == 0 {
		r.put("one of ", strconv.Itoa(len(of.Choices)), ": ")
	} else {
		r.put("or ")
	}
	r.put(`</span>`)
	switch {
	case choice.Name != "":
		r.put(`<span class="n">`)
		r.text(choice.Name)
		r.put(`</span>`)
	default:
		r.text(choice.Type)
	}
	if choice.When != "" {
		r.put(`<span class="type">when `)
		r.text(choice.When)
		r.put(`</span>`)
	}
	r.put(`</span></span></summary>`)
	name := strconv.Itoa(i + 1)
	if choice.Description != "" || choice.Schema != "" && len(choice.Fields)+len(choice.Choices) == 0 {
		r.put(`<div class="row"><div class="m"></div><div class="c"><div class="nest`, nesting(depth+1), `">`)
		r.put(`<span class="type">`)
		r.kind(choice)
		r.put(`</span>`)
		r.prose(choice.Description)
		r.put(`</div></div></div>`)
	}
	if len(choice.Fields)+len(choice.Choices) > 0 {
		r.inside(choice, depth+1, at+"."+name)
	}
	r.put(`</details>`)
}

func nesting(depth int) string { return strconv.Itoa(min(depth, 4)) }

// row is one field, and what is inside it.
func (r *rows) row(f *reference.Field, depth int, at string) {
	leaving := f.Deprecated || f.Margin.Leaving()
	id := r.id(at)
	r.put(`<div class="row line`)
	if leaving {
		r.put(` old`)
	}
	r.put(`"`)
	if f.Name != "" {
		r.put(` id="`, id, `"`)
	}
	r.put(`><div class="m">`)
	r.margin(f.Margin)
	r.put(`</div><div class="c"><div class="nest`, nesting(depth), `">`)
	if f.Name != "" {
		r.put(`<a class="n" href="#`, id, `">`)
		r.text(f.Name)
		r.put(`</a>`)
	}
	r.put(`<span class="type">`)
	r.kind(f)
	r.put(`</span>`)
	r.marks(f, leaving)
	r.prose(f.Description)
	if f.Margin.Notice != nil && f.Margin.Notice.Reason != "" {
		r.put(`<div class="d soft">`)
		r.text(f.Margin.Notice.Reason)
		r.put(`</div>`)
	}
	r.values(f)
	r.put(`</div></div></div>`)
	r.inside(f, depth+1, at)
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

// kind is a field's type and limits, with a link to the schema that has a page.
func (r *rows) kind(f *reference.Field) {
	switch {
	case f.Schema != "":
		r.link(f.Schema, f.Schema)
		if f.Type != f.Schema {
			r.put(", ")
			r.text(f.Type)
		}
	case f.Items != "":
		r.put("list of ")
		r.link(f.Items, f.Items)
	default:
		r.text(f.Type)
	}
	for _, l := range f.Limits {
		r.put(", ")
		r.text(l)
	}
}

func (r *rows) link(schema, text string) {
	r.put(`<a href="`)
	r.text(r.f.Base + "/schemas/" + template.URLQueryEscaper(schema))
	r.put(`">`)
	r.text(text)
	r.put(`</a>`)
}

func (r *rows) marks(f *reference.Field, leaving bool) {
	switch {
	case !r.answer && f.Required:
		r.put(`<span class="must">`, r.must, `</span>`)
	case r.answer && !f.Required && f.Name != "":
		r.put(`<span class="type">may be missing</span>`)
	}
	if f.Nullable {
		r.put(`<span class="type">or null</span>`)
	}
	if f.ReadOnly {
		r.put(`<span class="tag">only in answers</span>`)
	}
	if f.WriteOnly {
		r.put(`<span class="tag">only in requests</span>`)
	}
	if leaving {
		r.put(`<span class="tag">deprecated</span>`)
	}
}

func (r *rows) prose(text string) {
	if text != "" {
		r.put(`<div class="d">`, string(markdown(text)), `</div>`)
	}
}

// values are what a field may hold: its enum with meanings, its default, an example.
func (r *rows) values(f *reference.Field) {
	meant := false
	for _, e := range f.Enum {
		meant = meant || e.Text != ""
	}
	switch {
	case meant:
		r.put(`<dl class="meanings">`)
		for _, e := range f.Enum {
			r.put(`<dt><code>`)
			r.text(e.Value)
			r.put(`</code></dt><dd>`, string(markdown(e.Text)), `</dd>`)
		}
		r.put(`</dl>`)
	case len(f.Enum) > 0:
		r.put(`<div class="enum">`)
		if len(f.Enum) > 1 {
			r.put(`one of `)
		} else {
			r.put(`always `)
		}
		for _, e := range f.Enum {
			r.code(e.Value)
			r.put(" ")
		}
		r.put(`</div>`)
	}
	if f.Default != "" {
		r.put(`<div class="enum soft">without it: `)
		r.code(f.Default)
		r.put(`</div>`)
	}
	if f.Example != "" {
		r.put(`<div class="enum soft">such as `)
		r.code(f.Example)
		r.put(`</div>`)
	}
}

func (r *rows) code(text string) {
	r.put(`<code>`)
	r.text(text)
	r.put(`</code>`)
}

// maxEvents bounds the changes that stand in a margin; the page of changes has them all.
const maxEvents = 2

// margin is what stands beside an item.
func margin(f *Frame, mg reference.Margin) template.HTML {
	r := rows{f: f}
	r.margin(mg)
	return template.HTML(r.b.String())
}

func (r *rows) margin(mg reference.Margin) {
	r.marginText(mg)
	for i, e := range mg.Changed {
		if i == maxEvents {
			break
		}
		r.put(`<br>`)
		r.event(e)
	}
}

// leaving says that something, or a value that it lists, leaves, and what takes its place.
func (r *rows) leaving(n promise.Notice) {
	r.put(`<span class="out">`)
	if n.Value != "" {
		r.put(`<code>`)
		r.text(n.Value)
		r.put(`</code> `)
	}
	if n.Sunset != "" {
		r.put("leaves ", day(n.Sunset))
	} else {
		r.put("is leaving")
	}
	r.put(`</span>`)
	if n.ReplacedBy != "" {
		r.put("now ")
		r.text(n.ReplacedBy)
		r.put("<br>")
	}
}

// marginText is a margin without links, for what a reader opens by pressing it.
func (r *rows) marginText(mg reference.Margin) {
	if mg.Notice != nil {
		r.leaving(*mg.Notice)
	}
	for _, n := range mg.Values {
		r.leaving(n)
	}
	switch {
	case mg.Since == "":
	case mg.Since == r.f.Version.Number && len(r.f.Versions) > 1:
		r.put(`<b class="new">new in `, short(mg.Since), `</b>`)
	default:
		r.put("since ", short(mg.Since))
	}
}

// event is a change of an item, with a link to the page that explains it.
func (r *rows) event(e reference.Event) {
	r.put(`<a href="/reference/`, r.f.API.Name, `/`, e.Number, `/changes#`, e.ID, `" class="event">`, e.Grade.Mark(), ` `, short(e.Number),
		`: `)
	r.text(e.Title)
	r.put(`</a>`)
}

// changes is a row with the changes of an item whose margin has no room for links.
func (r *rows) changes(mg reference.Margin) {
	if len(mg.Changed) == 0 {
		return
	}
	r.put(`<div class="row"><div class="m">`)
	for i, e := range mg.Changed[:min(len(mg.Changed), maxEvents)] {
		if i > 0 {
			r.put(`<br>`)
		}
		r.event(e)
	}
	r.put(`</div><div class="c"></div></div>`)
}
