package site

import (
	"html/template"
	"net/url"
	"strconv"
	"strings"

	"oldledger/core/reference"
)

// answers is what comes back from an operation, by status: what a client hopes for is open, all else a reader opens.
func answers(f *Frame, op *reference.OperationPage) template.HTML {
	r := rows{f: f, answer: true}
	r.b.Grow(16 << 10)
	for _, a := range op.Responses {
		r.ids = map[string]bool{}
		r.status(a)
	}
	return template.HTML(r.b.String())
}

func (r *rows) status(a reference.ResponseSection) {
	r.put(`<details class="outcome"`)
	if a.Good() {
		r.put(` open`)
	}
	r.put(` id="answer-`)
	r.text(a.Status)
	r.put(`"><summary class="row line"><span class="m">`)
	r.marginText(a.Margin)
	r.put(`</span><span class="c"><span class="status">`)
	r.text(a.Status)
	r.put(`</span>`)
	for _, m := range a.Media {
		r.put(`<span class="type">`)
		if m.Schema != nil {
			r.text(firstOf(m.Schema.Schema, m.Schema.Type))
		} else {
			r.put("anything")
		}
		r.put(", ")
		r.text(m.Type)
		r.put(`</span>`)
	}
	brief := oneline(a.Description)
	if strings.Contains(string(brief), "<a ") {
		brief = "" // a link does not stand within what a reader opens
	}
	r.put(`<span class="d">`, string(brief), `</span></span></summary>`)
	if brief == "" && a.Description != "" {
		r.put(`<div class="row"><div class="m"></div><div class="c">`)
		r.prose(a.Description)
		r.put(`</div></div>`)
	}
	for _, h := range a.Headers {
		r.row(h, 1, a.Status+"."+h.Name)
	}
	r.changes(a.Margin)
	for i, m := range a.Media {
		at := a.Status
		if i > 0 {
			at += "." + strconv.Itoa(i+1)
		}
		if m.Schema != nil && (m.Schema.Schema != "" || m.Schema.Items != "") {
			r.put(`<div class="row"><div class="m"></div><div class="c"><span class="soft">`)
			r.kind(m.Schema)
			r.put(`</span></div></div>`)
		}
		r.message(m.Schema, at)
		r.put(string(slip(m.Type, m.Sample)))
	}
	r.links(a.Links)
	r.put("</details>\n")
}

// links are the operations that go on from an answer.
func (r *rows) links(links []reference.Link) {
	if len(links) == 0 {
		return
	}
	r.put(`<div class="row"><div class="m"></div><div class="c"><div class="d">From here: `)
	for i, l := range links {
		if i > 0 {
			r.put(", ")
		}
		r.put(`<a href="`)
		r.text(r.f.Base + "/operations/" + url.PathEscape(l.Slug))
		r.put(`">`)
		r.text(l.Title)
		r.put(`</a>`)
	}
	r.put(`</div></div></div>`)
}

// oneline is an author's text of one paragraph, to stand within a line; "" for a longer one.
func oneline(text string) template.HTML {
	inner, one := strings.CutPrefix(strings.TrimSpace(string(markdown(text))), "<p>")
	inner, closed := strings.CutSuffix(inner, "</p>")
	if !one || !closed || strings.Contains(inner, "<p>") {
		return ""
	}
	return template.HTML(inner)
}

// slip shows a sample of a media type; nothing where there is none.
func slip(mediaType string, s *reference.Sample) template.HTML {
	if s == nil {
		return ""
	}
	r := rows{}
	r.put(`<div class="row"><div class="m"></div><div class="c"><div class="slip"><div class="cap">`)
	r.text(mediaType)
	if s.Generated {
		r.put(`<span>made up from the schema</span>`)
	}
	r.put(`</div><pre tabindex="0">`)
	r.text(s.Text)
	r.put(`</pre></div></div></div>`)
	return template.HTML(r.b.String())
}

// code is a call in each language; the first is open.
func code(calls []reference.Code) template.HTML {
	r := rows{}
	for _, c := range calls {
		r.b.Grow(2 * len(c.Text))
	}
	for i, c := range calls {
		r.put(`<details class="slip" name="code" data-language="`, c.Language, `"`)
		if i == 0 {
			r.put(` open`)
		}
		r.put(`><summary class="cap">`)
		r.text(c.Name)
		r.put(`</summary><pre tabindex="0">`)
		r.text(c.Text)
		r.put(`</pre></details>`)
	}
	return template.HTML(r.b.String())
}

// kind is a type in words, with a link to the schema that has a page.
func kind(f *Frame, field *reference.Field) template.HTML {
	r := rows{f: f}
	r.kind(field)
	return template.HTML(r.b.String())
}

func firstOf(texts ...string) string {
	for _, t := range texts {
		if t != "" {
			return t
		}
	}
	return ""
}
