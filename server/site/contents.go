package site

import (
	"html/template"
	"net/url"
	"strconv"
	"strings"
)

// How much of the contents stands beside each page: all of a small description; of a large one, the open group, and of a large
// group what is near.
const (
	maxContents = 80
	near        = 12
)

// contents are the pages of the version, as they are listed beside one of them.
func contents(f *Frame) template.HTML {
	if f.Embedded {
		return ""
	}
	r := rows{f: f}
	r.put(`<nav class="side" id="pages" aria-label="Pages">`)
	r.entry("/", "Overview", f.Here == "overview", false)
	for _, t := range f.Doc.Texts {
		r.entry("/pages/"+t.Slug, t.Title, f.Here == "page "+t.Slug, false)
	}
	r.entry("/changes", "Changes in "+f.Version.Number, f.Here == "changes", false)
	small := len(f.Doc.Pages())+len(f.Doc.Schemas) <= maxContents
	at := 0
	for _, g := range f.Doc.Groups {
		n := len(g.Operations)
		here, open := f.Doc.PageNumber(f.Here)
		from, to := window(n, small, here-at, open)
		at += n
		r.section(g.Name, g.Slug, n, to-from == n)
		for _, op := range g.Operations[from:to] {
			r.entry("/operations/"+url.PathEscape(op.Slug), op.Title, op.Slug == f.Here, op.Deprecated || op.Margin.Leaving())
		}
	}
	if n := len(f.Doc.Schemas); n > 0 {
		here, open := f.Doc.SchemaNumber(strings.TrimPrefix(f.Here, "schema "))
		from, to := window(n, small, here, open)
		r.section("Schemas", "schemas", n, to-from == n)
		for _, sc := range f.Doc.Schemas[from:to] {
			r.entry("/schemas/"+url.PathEscape(sc.Name), sc.Name, "schema "+sc.Name == f.Here, false)
		}
	}
	r.put(`</nav>`)
	return template.HTML(r.b.String())
}

// window says which of n pages are listed: all of them, those around the one that is open, or none.
func window(n int, all bool, here int, open bool) (from, to int) {
	switch {
	case all:
		return 0, n
	case !open || here < 0 || here >= n:
		return 0, 0
	case n <= maxContents:
		return 0, n
	}
	return max(0, here-near), min(n, here+near+1)
}

func (r *rows) section(name, slug string, count int, whole bool) {
	r.put(`<b>`)
	if !whole {
		r.put(`<a href="`)
		r.text(r.f.Base)
		r.put(`/#`)
		r.text(slug)
		r.put(`">`)
	}
	r.text(name)
	if !whole {
		r.put(`, `, strconv.Itoa(count), `</a>`)
	}
	r.put(`</b>`)
}

func (r *rows) entry(path, title string, here, leaving bool) {
	r.put(`<a href="`)
	r.text(r.f.Base + path)
	r.put(`"`)
	switch {
	case here:
		r.put(` class="here" aria-current="page"`)
	case leaving:
		r.put(` class="leaving"`)
	}
	r.put(`>`)
	r.text(title)
	r.put(`</a>
`)
}
