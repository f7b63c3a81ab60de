package site

import (
	"net/url"
	"strings"

	"oldledger/core/reference"
)

// How much of the contents stands beside each page: all of a small description; of a large one, the open group, and of a large
// group what is near.
const (
	maxContents = 80
	near        = 12
)

// contentsSection is a part of the contents; the first has no title.
type contentsSection struct {
	title   string
	all     string // the address of the page that lists what is not listed here; "" where all is
	count   int
	entries []contentsEntry
}

// contentsEntry leads to a page.
type contentsEntry struct {
	path, method, title string
	leaves              string // when it does, in words; "" for what stays
	here                bool
}

// small reports whether a description is so small that each page lists all of it.
func (e *edition) small() bool { return len(e.Doc.Pages())+len(e.Doc.Schemas) <= maxContents }

// large reports whether a description is so large that its overview lists groups, and each group has a page of its own.
func (e *edition) large() bool { return len(e.Doc.Pages()) > maxListed }

// maxListed is how many operations the overview lists one by one.
const maxListed = 200

// listed are the pages of the version, as they are listed beside one of them.
func listed(f *Frame) []contentsSection {
	first := contentsSection{entries: []contentsEntry{{path: "/", title: "Overview", here: f.Here == "overview"}}}
	for _, t := range f.Doc.Texts {
		first.entries = append(first.entries, contentsEntry{path: "/pages/" + t.Slug, title: t.Title, here: f.Here == "page "+t.Slug})
	}
	first.entries = append(first.entries, contentsEntry{path: "/changes", title: "Changes in " + f.Version.Number, here: f.Here == "changes"})
	all := []contentsSection{first}
	at := 0
	here, open := f.Doc.PageNumber(f.Here)
	begin, end := groupsAround(f.Doc.Groups, here, open)
	for i, g := range f.Doc.Groups {
		n := len(g.Operations)
		if i < begin || i >= end {
			at += n
			continue
		}
		from, to := window(n, f.small(), here-at, open)
		at += n
		s := contentsSection{title: g.Name, count: n}
		if to-from < n {
			s.all = f.groupPath(g)
		}
		for _, op := range g.Operations[from:to] {
			s.entries = append(s.entries, contentsEntry{
				path: "/operations/" + url.PathEscape(op.Slug), method: strings.ToLower(op.Method), title: op.Title, leaves: leaves(op),
				here: op.Slug == f.Here,
			})
		}
		all = append(all, s)
	}
	if n := len(f.Doc.Groups); end-begin < n {
		all = append(all, contentsSection{title: "all groups", count: n, all: "/"})
	}
	if n := len(f.Doc.Schemas); n > 0 {
		here, open := f.Doc.SchemaNumber(strings.TrimPrefix(f.Here, "schema "))
		from, to := window(n, f.small(), here, open)
		s := contentsSection{title: "Schemas", count: n}
		if to-from < n {
			s.all = f.schemasPath()
		}
		for _, sc := range f.Doc.Schemas[from:to] {
			s.entries = append(s.entries, contentsEntry{path: "/schemas/" + url.PathEscape(sc.Name), title: sc.Name, here: "schema "+sc.Name == f.Here})
		}
		all = append(all, s)
	}
	return all
}

// maxGroups is how many groups stand beside a page; of more, those around the page's own do.
const maxGroups = 80

// groupsAround are the groups that stand beside a page, from the first to before the last. here is the page's number, open whether it is
// that of an operation.
func groupsAround(all []reference.Group, here int, open bool) (begin, end int) {
	if len(all) <= maxGroups {
		return 0, len(all)
	}
	own := 0
	for at := 0; open && own < len(all)-1 && at+len(all[own].Operations) <= here; own++ {
		at += len(all[own].Operations)
	}
	begin = min(max(own-maxGroups/2, 0), len(all)-maxGroups)
	return begin, begin + maxGroups
}

// leaves says when an operation leaves, "" for one that stays.
func leaves(op *reference.OperationPage) string {
	switch {
	case op.Margin.Notice != nil && op.Margin.Notice.Sunset != "":
		return "leaves " + day(op.Margin.Notice.Sunset)
	case op.Deprecated || op.Margin.Leaving():
		return "deprecated"
	}
	return ""
}

// groupPath is where a group is listed, below the version's address.
func (e *edition) groupPath(g reference.Group) string {
	if e.large() {
		return "/groups/" + url.PathEscape(strings.TrimPrefix(g.Slug, "group-"))
	}
	return "/#" + g.Slug
}

// schemasPath is where the schemas are listed.
func (e *edition) schemasPath() string {
	if len(e.Doc.Schemas) > maxListed {
		return "/schemas"
	}
	return "/#schemas"
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
