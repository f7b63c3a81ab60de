package site

import (
	"net/url"

	"oldledger/core/reference"
)

// Section is a part of the contents beside a page: a group of operations, or the schemas.
type Section struct {
	Name, Slug string
	Count      int
	Whole      bool // whether all its pages are listed
	Pages      []Entry
}

// Entry is a page in the contents.
type Entry struct {
	Title, Path   string
	Here, Leaving bool
}

// How much of the contents stands beside each page: all of a small description; of a large one, the open group, and of a large
// group what is near.
const (
	maxContents = 80
	near        = 12
)

// Contents are the pages of the version, as they are listed beside one of them.
func (f *Frame) Contents() []Section {
	small := len(f.Doc.Pages())+len(f.Doc.Schemas) <= maxContents
	var all []Section
	for _, g := range f.Doc.Groups {
		s := Section{Name: g.Name, Slug: g.Slug(), Count: len(g.Operations)}
		from, to := window(len(g.Operations), small, func(i int) bool { return g.Operations[i].Slug == f.Here })
		for _, op := range g.Operations[from:to] {
			s.Pages = append(s.Pages, f.operationEntry(op))
		}
		s.Whole = len(s.Pages) == s.Count
		all = append(all, s)
	}
	if n := len(f.Doc.Schemas); n > 0 {
		s := Section{Name: "Schemas", Slug: "schemas", Count: n}
		from, to := window(n, small, func(i int) bool { return f.Here == "schema "+f.Doc.Schemas[i].Name })
		for _, sc := range f.Doc.Schemas[from:to] {
			s.Pages = append(s.Pages, Entry{Title: sc.Name, Path: "/schemas/" + url.PathEscape(sc.Name), Here: f.Here == "schema "+sc.Name})
		}
		s.Whole = len(s.Pages) == n
		all = append(all, s)
	}
	return all
}

func (f *Frame) operationEntry(op *reference.OperationPage) Entry {
	return Entry{op.Title, "/operations/" + url.PathEscape(op.Slug), op.Slug == f.Here, op.Deprecated || op.Margin.Leaving()}
}

// window says which of n pages are listed: all of them, those around the one that is open, or none.
func window(n int, all bool, open func(int) bool) (from, to int) {
	if all {
		return 0, n
	}
	for i := range n {
		if !open(i) {
			continue
		}
		if n <= maxContents {
			return 0, n
		}
		return max(0, i-near), min(n, i+near+1)
	}
	return 0, 0
}
