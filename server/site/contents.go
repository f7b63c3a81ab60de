package site

import (
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

// contentsSection is a part of the contents; the first has no title. whole tells whether all that it has is listed.
type contentsSection struct {
	title, slug, count string
	whole              bool
	entries            []contentsEntry
}

// contentsEntry leads to a page.
type contentsEntry struct {
	path, title   string
	here, leaving bool
}

// listed are the pages of the version, as they are listed beside one of them.
func listed(f *Frame) []contentsSection {
	first := contentsSection{entries: []contentsEntry{{"/", "Overview", f.Here == "overview", false}}}
	for _, t := range f.Doc.Texts {
		first.entries = append(first.entries, contentsEntry{"/pages/" + t.Slug, t.Title, f.Here == "page "+t.Slug, false})
	}
	first.entries = append(first.entries, contentsEntry{"/changes", "Changes in " + f.Version.Number, f.Here == "changes", false})
	all := []contentsSection{first}
	small := len(f.Doc.Pages())+len(f.Doc.Schemas) <= maxContents
	at := 0
	for _, g := range f.Doc.Groups {
		n := len(g.Operations)
		here, open := f.Doc.PageNumber(f.Here)
		from, to := window(n, small, here-at, open)
		at += n
		s := contentsSection{title: g.Name, slug: g.Slug, count: strconv.Itoa(n), whole: to-from == n}
		for _, op := range g.Operations[from:to] {
			leaving := op.Deprecated || op.Margin.Leaving()
			s.entries = append(s.entries, contentsEntry{"/operations/" + url.PathEscape(op.Slug), op.Title, op.Slug == f.Here, leaving})
		}
		all = append(all, s)
	}
	if n := len(f.Doc.Schemas); n > 0 {
		here, open := f.Doc.SchemaNumber(strings.TrimPrefix(f.Here, "schema "))
		from, to := window(n, small, here, open)
		s := contentsSection{title: "Schemas", slug: "schemas", count: strconv.Itoa(n), whole: to-from == n}
		for _, sc := range f.Doc.Schemas[from:to] {
			s.entries = append(s.entries, contentsEntry{"/schemas/" + url.PathEscape(sc.Name), sc.Name, "schema "+sc.Name == f.Here, false})
		}
		all = append(all, s)
	}
	return all
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
