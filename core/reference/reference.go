// Package reference makes the documentation model of one version of an API: its pages, what stands on them, and what the
// margin says beside each item. It renders nothing.
//
//	doc := reference.Make(contract, reference.Context{Name: "berths", History: history, Notices: notices})
//	for _, group := range doc.Groups { … group.Operations … }
//
// The history is the published versions of the API; from it comes since when an operation, a parameter or a field exists.
package reference

import (
	"regexp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/shape"
)

// Past is one published version of the API, with what it said.
type Past struct {
	Number   string
	Contract *contract.Contract
}

// Context is what a reference needs to know beyond its own description.
type Context struct {
	Name    string
	Number  string
	Line    string
	History []Past // oldest first, up to and with this version
	Notices []promise.Notice
}

// Document is the reference of one version.
type Document struct {
	Name, Number, Title string
	Description         string // CommonMark
	Servers             []*contract.Server
	Contact             contract.Contact
	License             contract.License
	Schemes             []*contract.SecurityScheme
	Groups              []Group
	Schemas             []*SchemaPage
}

// Group is operations that belong together: a tag, or what the API calls.
type Group struct {
	Name, Description string
	Operations        []*OperationPage
}

// OperationPage is the page of one operation.
type OperationPage struct {
	Slug         string
	Title        string
	Method, Path string
	Calls        string // for a webhook or callback: its name
	Description  string
	Deprecated   bool
	Margin       Margin
	Security     []string // what one must bring, an alternative each; none: nothing
	Parameters   []ParameterGroup
	Body         *BodySection
	Responses    []ResponseSection
	Code         []Code // a call of it in each language; none for what the provider calls
}

// Code is a call in one language.
type Code struct{ Language, Name, Text string }

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
}

// ResponseSection is what comes back under one status.
type ResponseSection struct {
	Status, Description string
	Headers             []*Field
	Media               []MediaSection
}

// Sample is a message that shows what to send or to expect.
type Sample struct {
	Text      string
	Generated bool // not written by the author
}

// SchemaPage is the page of one named schema.
type SchemaPage struct {
	Name   string
	Schema *Field
	UsedBy []Link
	Sample *Sample
}

// Link leads to an operation's page.
type Link struct{ Title, Slug string }

// Margin is what stands beside an item: since when it exists, and when it leaves.
type Margin struct {
	Since    string
	Leaves   string // a date, or "" when no date is set
	Leaving  bool
	Instead  string // what replaces it
	Reason   string
	NoticeID int64
}

// Make writes the reference of a contract.
func Make(c *contract.Contract, ctx Context) *Document {
	m := &maker{c: c, ctx: ctx, space: shape.NewSpace(shape.Declared), samples: map[madeKey]madeSample{}}
	d := &Document{
		Name: ctx.Name, Number: ctx.Number, Title: c.Title, Description: joinParagraphs(c.Summary, c.About()),
		Servers: c.Servers, Contact: c.Contact, License: c.License, Schemes: c.Schemes,
	}
	d.Groups = m.groups()
	for _, s := range c.Schemas {
		d.Schemas = append(d.Schemas, m.schemaPage(s, d.Groups))
	}
	return d
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

// Beside is the operation so many pages before (negative) or after one, in the order of the groups; nil where there is none.
func (d *Document) Beside(op *OperationPage, step int) *OperationPage {
	var all []*OperationPage
	for _, g := range d.Groups {
		all = append(all, g.Operations...)
	}
	i := slices.Index(all, op)
	if at := i + step; i >= 0 && at >= 0 && at < len(all) {
		return all[at]
	}
	return nil
}

// Operation finds a page by its slug.
func (d *Document) Operation(slug string) *OperationPage {
	for _, g := range d.Groups {
		for _, op := range g.Operations {
			if op.Slug == slug {
				return op
			}
		}
	}
	return nil
}

// Schema finds a schema's page by its name.
func (d *Document) Schema(name string) *SchemaPage {
	for _, s := range d.Schemas {
		if s.Name == name {
			return s
		}
	}
	return nil
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

// maker is one reference in the making.
type maker struct {
	c     *contract.Contract
	ctx   Context
	space *shape.Space

	samples map[madeKey]madeSample
}

// groups sorts the operations by their first tag, in the order of the tags; then what the API calls.
func (m *maker) groups() []Group {
	var groups []Group
	at := map[string]int{}
	for _, t := range m.c.Tags {
		at[t.Name] = len(groups)
		groups = append(groups, Group{Name: t.Name, Description: t.Description})
	}
	for _, op := range m.c.Operations {
		name := "Operations"
		if len(op.Tags) > 0 {
			name = op.Tags[0]
		}
		i, known := at[name]
		if !known {
			i = len(groups)
			at[name] = i
			groups = append(groups, Group{Name: name})
		}
		groups[i].Operations = append(groups[i].Operations, m.operation(op))
	}
	calls := Group{Name: "What the API calls"}
	for _, op := range m.c.All() {
		if op.Webhook != "" {
			calls.Operations = append(calls.Operations, m.operation(op))
		}
	}
	if len(calls.Operations) > 0 {
		groups = append(groups, calls)
	}
	return slices.DeleteFunc(groups, func(g Group) bool { return len(g.Operations) == 0 })
}
