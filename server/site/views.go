package site

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/reference"
	"oldledger/ledger"
)

// Frame is what every page of a version shows around its content.
type Frame struct {
	API      ledger.API
	Version  ledger.Version
	Versions []ledger.Version // published, newest first
	Doc      *reference.Document
	Banner   []promise.Notice // notices of the version as a whole
	Newest   *ledger.Version  // set when this version is not the newest
	Guide    string           // the address of the guide to the newest
	Here     string           // the part of the navigation that is open
	Base     string           // "/reference/berths/1.2.0"

	Canonical string // the newest version that has this page; "" where it is not asked for
}

// Suffix is the address of the page below its version's.
func (f *Frame) Suffix() string {
	switch {
	case f.Here == "overview" || f.Here == "":
		return "/"
	case f.Here == "changes" || f.Here == "source" || f.Here == "search":
		return "/" + f.Here
	case strings.HasPrefix(f.Here, "schema "):
		return "/schemas/" + url.PathEscape(strings.TrimPrefix(f.Here, "schema "))
	}
	return "/operations/" + url.PathEscape(f.Here)
}

// Elsewhere is where the switcher leads below another version: to the same page, or to what became of an operation or schema there.
func (f *Frame) Elsewhere() string {
	suffix := f.Suffix()
	if strings.HasPrefix(suffix, "/operations/") || strings.HasPrefix(suffix, "/schemas/") {
		return "/became" + suffix
	}
	return suffix
}

// published are the versions that readers may see, newest first.
func published(a ledger.API) []ledger.Version {
	var out []ledger.Version
	for _, v := range slices.Backward(a.Versions) {
		if v.State != ledger.Draft {
			out = append(out, v)
		}
	}
	return out
}

// frame reads everything that a page of a version needs.
func (s *Site) frame(c *echo.Context, here string) (*Frame, error) {
	ctx := c.Request().Context()
	a, err := s.ledger.API(ctx, c.Param("api"))
	if err != nil {
		return nil, err
	}
	f := &Frame{API: a, Versions: published(a), Here: here}
	wanted := c.Param("version")
	for _, v := range f.Versions {
		if wanted == "" || v.Number == wanted {
			f.Version = v
			break
		}
	}
	if f.Version.Number == "" {
		return nil, &ledger.Error{Fault: ledger.NotFound, Text: fmt.Sprintf("%s has no published version %s.", a.Title, wanted)}
	}
	if f.Doc, err = s.document(c, f); err != nil {
		return nil, err
	}
	f.Base = "/reference/" + a.Name + "/" + f.Version.Number
	for _, n := range a.Notices {
		if n.Whole() && n.Covers(f.Version.Number, f.Version.Line) {
			f.Banner = append(f.Banner, n)
		}
	}
	if newest := f.Versions[0]; newest.Number != f.Version.Number {
		f.Newest = &newest
		f.Guide = fmt.Sprintf("/reference/%s/guides/%s..%s", a.Name, f.Version.Number, newest.Number)
	}
	return f, nil
}

// document makes the reference of a version, once until the next act in the journal.
func (s *Site) document(c *echo.Context, f *Frame) (*reference.Document, error) {
	ref := f.Version.Ref()
	s.mu.Lock()
	doc := s.docs[ref]
	s.mu.Unlock()
	if doc != nil {
		return doc, nil
	}
	d, err := s.ledger.Description(c.Request().Context(), ref)
	if err != nil {
		return nil, err
	}
	past, err := s.past(c, f.Versions, f.Version)
	if err != nil {
		return nil, err
	}
	doc = reference.Make(d.Contract, reference.Context{
		Name: f.API.Name, Number: f.Version.Number, Line: f.Version.Line, History: past, Notices: f.API.Notices,
	})
	s.mu.Lock()
	s.docs[ref] = doc
	s.mu.Unlock()
	return doc, nil
}

// past are the published versions up to v, oldest first.
func (s *Site) past(c *echo.Context, versions []ledger.Version, v ledger.Version) ([]reference.Past, error) {
	var past []reference.Past
	seen := false
	for _, o := range versions {
		seen = seen || o.Number == v.Number
		if !seen {
			continue
		}
		d, err := s.ledger.Description(c.Request().Context(), o.Ref())
		if err != nil {
			return nil, err
		}
		past = append(past, reference.Past{Number: o.Number, Contract: d.Contract})
	}
	slices.Reverse(past)
	return past, nil
}

// page renders a page of a version, with the headers that a deprecated version carries.
func (s *Site) page(name string, f *Frame, data any) (page, error) {
	p, err := s.html(name, http.StatusOK, data)
	if err == nil {
		announce(p.header, f)
	}
	return p, err
}

// announce sets Deprecation (RFC 9745), Sunset (RFC 8594) and the Link relations of RFC 5829 and RFC 8594.
func announce(h http.Header, f *Frame) {
	var links []string
	link := func(rel, address string) {
		links = append(links, fmt.Sprintf("<%s>; rel=%q", address, rel))
	}
	link("latest-version", "/reference/"+f.API.Name+"/")
	if f.Canonical != "" {
		link("canonical", "/reference/"+f.API.Name+"/"+f.Canonical+f.Suffix())
	}
	if f.Newest != nil {
		for i, v := range f.Versions {
			if v.Number == f.Version.Number && i > 0 {
				link("successor-version", "/reference/"+f.API.Name+"/"+f.Versions[i-1].Number+"/")
			}
		}
	}
	for _, n := range f.Banner {
		since, err := time.Parse(time.DateOnly, n.Since)
		if err == nil && h.Get("Deprecation") == "" {
			h.Set("Deprecation", fmt.Sprintf("@%d", since.Unix()))
			link("deprecation", "/reference/"+f.API.Name+"/notices")
		}
		sunset, err := time.Parse(time.DateOnly, n.Sunset)
		if err == nil && h.Get("Sunset") == "" {
			h.Set("Sunset", sunset.UTC().Format(http.TimeFormat))
			link("sunset", "/reference/"+f.API.Name+"/notices")
		}
	}
	h.Set("Link", strings.Join(links, ", "))
}

func (s *Site) shelf(c *echo.Context) (page, error) {
	apis, err := s.ledger.APIs(c.Request().Context())
	if err != nil {
		return page{}, err
	}
	type entry struct {
		ledger.API
		Latest   ledger.Version
		Versions []ledger.Version
		Summary  string
	}
	var entries []entry
	for _, a := range apis {
		v := a.Latest()
		if v == nil {
			continue
		}
		d, err := s.ledger.Description(c.Request().Context(), v.Ref())
		if err != nil {
			return page{}, err
		}
		summary := d.Contract.Summary
		if summary == "" {
			summary, _, _ = strings.Cut(d.Contract.Description, "\n\n")
		}
		entries = append(entries, entry{a, *v, published(a), summary})
	}
	notices, err := s.ledger.Notices(c.Request().Context(), "")
	if err != nil {
		return page{}, err
	}
	return s.html("shelf.html", http.StatusOK, map[string]any{"Title": "APIs", "Entries": entries, "Notices": notices})
}

func (s *Site) overview(c *echo.Context) (page, error) {
	f, err := s.frame(c, "overview")
	if err != nil {
		return page{}, err
	}
	return s.page("overview.html", f, f)
}

func (s *Site) operation(c *echo.Context) (page, error) {
	id := c.Param("id")
	f, err := s.frame(c, id)
	if err != nil {
		return page{}, err
	}
	op := f.Doc.Operation(id)
	if op == nil {
		return s.became(c, f, id)
	}
	if err := s.canonical(c, f, func(c *contract.Contract) bool { return bySlug(c, id) != nil }); err != nil {
		return page{}, err
	}
	return s.page("operation.html", f, struct {
		*Frame
		Op             *reference.OperationPage
		Previous, Next *reference.OperationPage
	}{f, op, f.Doc.Beside(op, -1), f.Doc.Beside(op, 1)})
}

// elsewhere says that a version lacks an item.
func (s *Site) elsewhere(f *Frame, what, name string) error {
	return &ledger.Error{Fault: ledger.NotFound, Text: fmt.Sprintf("%s %s has no %s %s. Another version may have it.", f.API.Title, f.Version.Number, what, name)}
}

func (s *Site) schema(c *echo.Context) (page, error) {
	name := c.Param("name")
	f, err := s.frame(c, "schema "+name)
	if err != nil {
		return page{}, err
	}
	sc := f.Doc.Schema(name)
	if sc == nil {
		return s.schemaGone(c, f, name)
	}
	if err := s.canonical(c, f, func(c *contract.Contract) bool { return c.Schema(name) != nil }); err != nil {
		return page{}, err
	}
	return s.page("schema.html", f, struct {
		*Frame
		Schema *reference.SchemaPage
	}{f, sc})
}

func (s *Site) changes(c *echo.Context) (page, error) {
	f, err := s.frame(c, "changes")
	if err != nil {
		return page{}, err
	}
	history, err := s.ledger.History(c.Request().Context(), f.API.Name)
	if err != nil {
		return page{}, err
	}
	for _, rel := range history {
		if rel.Version.Number != f.Version.Number {
			continue
		}
		data := struct {
			*Frame
			Release ledger.Release
			Groups  []gradeGroup
		}{f, rel, nil}
		if rel.Changes != nil {
			data.Groups = byGrade(rel.Changes)
		}
		return s.page("changes.html", f, data)
	}
	return page{}, errNowhere
}

// gradeGroup is the changes of one grade.
type gradeGroup struct {
	Grade   compare.Grade
	Changes []*compare.Change
}

func byGrade(c *compare.Comparison) []gradeGroup {
	var groups []gradeGroup
	for _, g := range compare.Grades {
		group := gradeGroup{Grade: g}
		for _, ch := range c.Changes {
			if ch.Backward == g {
				group.Changes = append(group.Changes, ch)
			}
		}
		if len(group.Changes) > 0 {
			groups = append(groups, group)
		}
	}
	return groups
}

func (s *Site) description(c *echo.Context) (page, error) {
	f, err := s.frame(c, "")
	if err != nil {
		return page{}, err
	}
	d, err := s.ledger.Whole(c.Request().Context(), f.Version.Ref())
	if err != nil {
		return page{}, err
	}
	p := page{status: http.StatusOK, header: http.Header{}, body: d.Text}
	p.header.Set("Content-Type", "application/yaml; charset=utf-8")
	announce(p.header, f)
	return p, nil
}

func (s *Site) notices(c *echo.Context) (page, error) {
	a, err := s.ledger.API(c.Request().Context(), c.Param("api"))
	if err != nil {
		return page{}, err
	}
	if len(published(a)) == 0 {
		return page{}, errNowhere
	}
	return s.html("notices.html", http.StatusOK, map[string]any{
		"Title": "Notices", "API": a, "Notices": a.Notices, "Today": s.ledger.Today(),
	})
}

func (s *Site) guide(c *echo.Context) (page, error) {
	from, to, ok := strings.Cut(c.Param("pair"), "..")
	if !ok {
		return page{}, errNowhere
	}
	ctx := c.Request().Context()
	name := c.Param("api")
	for _, number := range []string{from, to} {
		v, err := s.ledger.Resolve(ctx, name+"@"+number)
		if err != nil {
			return page{}, err
		}
		if v.State == ledger.Draft {
			return page{}, errNowhere
		}
	}
	g, err := s.ledger.Guide(ctx, name+"@"+from, name+"@"+to)
	if err != nil {
		return page{}, err
	}
	a, err := s.ledger.API(ctx, name)
	if err != nil {
		return page{}, err
	}
	return s.html("guide.html", http.StatusOK, map[string]any{
		"Title": fmt.Sprintf("From %s to %s", from, to), "API": a, "Guide": g,
	})
}
