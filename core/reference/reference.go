// Package reference makes the documentation model of one version of an API: its pages, what stands on them, and what the
// margin says beside each item. It renders nothing.
//
//	doc, err := reference.Make(ctx, contract, reference.Context{Name: "berths", History: history, Notices: notices})
//	for _, group := range doc.Groups { … group.Operations … }
//
// The history is the published versions of the API; from it comes since when an operation, a parameter or a field exists.
package reference

import (
	"context"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"oldledger/core/budget"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/versioning"
)

// Past is one published version of the API, with what it said and what it changed.
type Past struct {
	Number   string
	Contract *contract.Contract
	Changes  *compare.Comparison // against the version before it; nil for the first
}

// Context is what a reference needs to know beyond its own description.
type Context struct {
	Name    string
	Number  string
	Line    string
	History []Past // oldest first, up to and with this version
	Notices []promise.Notice

	Languages []sample.Language // those of the samples; all where there are none
	Choice    versioning.Choice // how callers choose the version
	Refuses   bool              // whether its server refuses input that is not declared
}

// Document is the reference of one version.
type Document struct {
	Name, Number, Title string
	Description         string // CommonMark
	Servers             []*contract.Server
	Choice              versioning.Choice
	Refuses             bool
	Contact             contract.Contact
	License             contract.License
	Schemes             []*contract.SecurityScheme
	Texts               []TextPage // pages of prose
	Groups              []Group
	Schemas             []*SchemaPage
	Docs                contract.ExternalDocs

	pages   []*OperationPage
	number  map[string]int // of a page, by its slug
	schemas map[string]int // the same of a schema
}

// Group is operations that belong together: a tag, or what the API calls.
type Group struct {
	Name, Description string
	Slug              string // its anchor on the overview
	Operations        []*OperationPage
}

// slugOf is the anchor of a group on the overview.
func slugOf(group string) string {
	name := strings.ToLower(strings.Trim(notInSlug.ReplaceAllString(group, "-"), "-"))
	if name == "" {
		name = "other" // its letters are none of an address
	}
	return "group-" + name
}

// OperationPage is the page of one operation.
type OperationPage struct {
	Slug         string
	Title        string
	Key          string // "POST /berths/{}/bookings"
	Method, Path string
	Calls        string // for a webhook or callback: its name
	Description  string
	Deprecated   bool
	Margin       Margin
	Security     []string // what one must bring, an alternative each; none: nothing
	Parameters   []ParameterGroup
	Body         *BodySection
	Responses    []ResponseSection
	Callbacks    []Link // what the API calls in the course of it
	Docs         contract.ExternalDocs
	Address      string // of the server that its samples call
	Code         []Code // a call of it in each language; none for what the provider calls

	call *sample.Call
}

// Calls are the calls of operations, as they are taken along in a file: what the provider calls is left out.
func Calls(pages ...*OperationPage) []sample.Taken {
	var all []sample.Taken
	for _, p := range pages {
		if p.call != nil {
			all = append(all, sample.Taken{Title: p.Title, Name: p.Slug, Call: p.call})
		}
	}
	return all
}

// Code is a call in one language, and with one library where the language has several.
type Code struct{ Language, Name, Library, Text string }

// ParameterGroup is the parameters of one place.
type ParameterGroup struct {
	Place  string
	Fields []*Field
}

// BodySection is a request body under one media type.
type BodySection struct {
	Description string
	Required    bool
	Media       []MediaSection
}

// MediaSection is what one media type holds.
type MediaSection struct {
	Type   string
	Schema *Field // the body as a whole; its Fields are what a reader reads
	Sample *Sample
	Margin Margin
}

// ResponseSection is what comes back under one status.
type ResponseSection struct {
	Status, Description string
	Headers             []*Field
	Media               []MediaSection
	Links               []Link // operations that go on from here
	Margin              Margin
}

// Sample is a message that shows what to send or to expect.
type Sample struct {
	Text      string
	Generated bool // not written by the author
}

// Good reports whether it is the answer that a client hopes for.
func (s ResponseSection) Good() bool { return strings.HasPrefix(s.Status, "2") }

// SchemaPage is the page of one named schema.
type SchemaPage struct {
	Name   string
	Schema *Field
	UsedBy []Link
	Sample *Sample
	Margin Margin
}

// Link leads to an operation's page.
type Link struct{ Title, Slug string }

// Make writes the reference of a contract. When ctx ends, so does the making, with its error. Samples that the budget does not suffice for
// are left out.
func Make(ctx context.Context, c *contract.Contract, known Context) (*Document, error) {
	d := &Document{
		Name: known.Name, Number: known.Number, Title: c.Title, Description: joinParagraphs(c.Summary, c.Description),
		Servers: c.Servers, Choice: known.Choice, Refuses: known.Refuses, Contact: c.Contact, License: c.License, Schemes: c.Schemes,
		Docs: c.Docs, Texts: textsOf(c),
	}
	story := tell(known.History)
	var makers [parts]*maker
	sided := sample.Sided(c)
	for i := range makers {
		makers[i] = newMaker(budget.New(ctx, budget.For(c.Size)), c, known, story, sided)
	}
	all := listed(c)
	operations := make([]*OperationPage, len(all))
	inParts(len(all), func(part, from, to int) {
		m := makers[part]
		for i := from; i < to; i++ {
			if ctx.Err() != nil {
				return
			}
			operations[i] = m.operation(all[i])
		}
	})
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	d.Groups = groups(c, all, operations)
	users := usersOf(d.Groups)
	d.Schemas = make([]*SchemaPage, len(c.Schemas))
	inParts(len(c.Schemas), func(part, from, to int) {
		m := makers[part]
		for i := from; i < to; i++ {
			if ctx.Err() != nil {
				return
			}
			d.Schemas[i] = m.schemaPage(c.Schemas[i], users[c.Schemas[i].Name])
		}
	})
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	d.index()
	return d, nil
}

// manyPages is from how many pages on they are made in parts side by side. The parts are the same on every machine, so that the pages are.
const (
	manyPages = 100
	parts     = 4
)

// inParts does the work for n pages.
func inParts(n int, work func(part, from, to int)) {
	if n < manyPages {
		work(0, 0, n)
		return
	}
	var done sync.WaitGroup
	for i := range parts {
		done.Go(func() { work(i, n*i/parts, n*(i+1)/parts) })
	}
	done.Wait()
}

func joinParagraphs(parts ...string) string {
	var kept []string
	for _, p := range parts {
		if p != "" {
			kept = append(kept, p)
		}
	}
	return strings.Join(kept, "\n\n")
}

// Pages are the operations' pages in the order of the groups.
func (d *Document) Pages() []*OperationPage { return d.pages }

// Beside is the operation so many pages before (negative) or after one, in the order of the groups; nil where there is none.
func (d *Document) Beside(op *OperationPage, step int) *OperationPage {
	i, known := d.number[op.Slug]
	if at := i + step; known && at >= 0 && at < len(d.pages) {
		return d.pages[at]
	}
	return nil
}

// GroupOf is the group that an operation's page stands in.
func (d *Document) GroupOf(op *OperationPage) *Group {
	for i := range d.Groups {
		if slices.Contains(d.Groups[i].Operations, op) {
			return &d.Groups[i]
		}
	}
	return nil
}

// Operation finds a page by its slug.
func (d *Document) Operation(slug string) *OperationPage {
	if i, known := d.number[slug]; known {
		return d.pages[i]
	}
	return nil
}

// Schema finds a schema's page by its name.
func (d *Document) Schema(name string) *SchemaPage {
	if i, known := d.schemas[name]; known {
		return d.Schemas[i]
	}
	return nil
}

// PageNumber is where an operation's page stands among Pages.
func (d *Document) PageNumber(slug string) (n int, known bool) {
	n, known = d.number[slug]
	return n, known
}

// SchemaNumber is where a schema stands among Schemas.
func (d *Document) SchemaNumber(name string) (n int, known bool) {
	n, known = d.schemas[name]
	return n, known
}

// index numbers the pages, so that they are found.
func (d *Document) index() {
	d.number, d.schemas = map[string]int{}, map[string]int{}
	for _, g := range d.Groups {
		for _, op := range g.Operations {
			if _, taken := d.number[op.Slug]; !taken {
				d.number[op.Slug] = len(d.pages)
			}
			d.pages = append(d.pages, op)
		}
	}
	for i, s := range d.Schemas {
		d.schemas[s.Name] = i
	}
}

var notInSlug = regexp.MustCompile(`[^A-Za-z0-9]+`)

// Slug is the end of an operation's address: its operationId, or its method and path in words.
func Slug(op *contract.Operation) string {
	if op.ID != "" && notInSlug.ReplaceAllString(op.ID, "-") == op.ID {
		return op.ID
	}
	text := strings.ToLower(op.Method) + " " + op.Webhook + " " + op.Path
	return strings.Trim(notInSlug.ReplaceAllString(text, "-"), "-")
}

// Anchor is where a field stands on its page: "query.limit", "body.vessel.length"; on the page of a schema its name alone.
func Anchor(at string) string {
	plain := func(c rune) bool {
		return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '.' || c == '_' || c == '-'
	}
	if strings.IndexFunc(at, func(c rune) bool { return !plain(c) }) >= 0 {
		at = strings.Map(func(c rune) rune {
			if plain(c) {
				return c
			}
			return '_'
		}, at)
	}
	return strings.Trim(at, ".")
}

// maker is one reference in the making.
type maker struct {
	c     *contract.Contract
	ctx   Context
	space *shape.Space
	story *chronicle

	filler   *sample.Filler
	breadths map[*contract.Schema]int
	fields   map[*contract.Schema]*Field // of named schemas, as a message or a page holds them
}

func newMaker(b *budget.Budget, c *contract.Contract, ctx Context, story *chronicle, sided bool) *maker {
	space := shape.NewSpace(shape.Declared, b)
	return &maker{
		c: c, ctx: ctx, space: space, story: story, filler: sample.NewFiller(space, sided),
		breadths: map[*contract.Schema]int{}, fields: map[*contract.Schema]*Field{},
	}
}

// groups sorts the operations by their first tag, in the order of the tags; then what the API calls. Many without a tag are sorted by where
// their paths begin.
func groups(c *contract.Contract, operations []*contract.Operation, pages []*OperationPage) []Group {
	var groups []Group
	at := map[string]int{}
	add := func(name, description string) int {
		i, known := at[name]
		if !known {
			i = len(groups)
			at[name] = i
			groups = append(groups, Group{Name: name, Description: description})
		}
		return i
	}
	for _, t := range c.Tags {
		add(t.Name, t.Description)
	}
	untagged := 0
	for _, op := range operations {
		if len(op.Tags) == 0 && op.Webhook == "" {
			untagged++
		}
	}
	calls := Group{Name: "What the API calls"}
	for n, op := range operations {
		name := "Operations"
		switch {
		case op.Webhook != "":
			calls.Operations = append(calls.Operations, pages[n])
			continue
		case len(op.Tags) > 0:
			name = op.Tags[0]
		case untagged > manyUntagged:
			name = beginning(op.Path)
		}
		i := add(name, "")
		groups[i].Operations = append(groups[i].Operations, pages[n])
	}
	if len(calls.Operations) > 0 {
		groups = append(groups, calls)
	}
	groups = slices.DeleteFunc(groups, func(g Group) bool { return len(g.Operations) == 0 })
	taken := map[string]bool{}
	for i, g := range groups {
		slug := slugOf(g.Name)
		for n, first := 2, slug; taken[slug]; n++ {
			slug = first + "-" + strconv.Itoa(n)
		}
		taken[slug] = true
		groups[i].Slug = slug
	}
	return groups
}

// manyUntagged is from how many operations without a tag on these are sorted.
const manyUntagged = 60

// beginning is where a path begins, versions left out: "/bookings" of "/v1/bookings/{booking}".
func beginning(path string) string {
	for part := range strings.SplitSeq(strings.Trim(path, "/"), "/") {
		if part != "" && !strings.HasPrefix(part, "{") && !versionPart.MatchString(part) {
			return "/" + part
		}
	}
	return "/"
}

var versionPart = regexp.MustCompile(`^(api|v[0-9][0-9.]*)$`)
