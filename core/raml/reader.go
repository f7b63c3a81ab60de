package raml

import (
	"fmt"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// reader reads one description. What is shared is read once, so that one place is one pointer.
type reader struct {
	// What is read; set by newReader and entry.
	set     *source.Set
	old     bool // RAML 0.8
	root    *scope
	tree    *source.Node // the description, with what overlays and extensions say
	version string
	json    *openapi.Schemas // reads JSON Schemas that stand in it

	// What is told; grows until the contract is done.
	diagnostics source.Diagnostics
	seen        map[fault]bool        // without the place that used it, so that a fault in a trait is told once
	strange     map[source.Place]bool // keys that were told as unknown
	using       []use                 // what is being read, innermost last: for problems that stand elsewhere

	// What templates and includes lead to; filled as they are met.
	scopes        map[*source.File]*scope
	argumentOf    map[*source.Node]*source.Node   // what an argument made, and the argument: its names are those of where it stands
	includes      map[*source.Node]*source.Node   // what an !include leads to
	includedFiles map[*source.File][]*source.File // which files a file includes
	params        map[*source.Node][]string       // the parameters that a template mentions
	made          map[string]*source.Node         // templates with their arguments set in
	grown         int                             // nodes made by templates and merging
	modern        map[*source.File]bool           // JSON Schemas that were written anew

	// What was read, by where it stands; each is made once and shared.
	schemas          map[schemaKey]*contract.Schema
	kinds            map[*source.Node]kind
	loops            map[*source.Node]bool // types that inherit from themselves
	parameters       map[parameterKey]*contract.Parameter
	responses        map[*source.Node]*contract.Response
	schemes          map[*source.Node]*contract.SecurityScheme
	undeclared       map[string]*contract.SecurityScheme // schemes that are used and not declared
	named            map[*source.Node]string             // the names of declared types
	names            map[string]*source.Node             // and the reverse
	annotationTarget map[*source.Node]string             // where a declaration stands that is no type of its own

	// What the whole is put together from when all is read: in the order of the description.
	schemeList []*contract.SecurityScheme
	types      []*contract.Schema
	subtypes   []subtype                   // inheritance is settled once all types are known
	unions     []*contract.Schema          // and so are the alternatives that a discriminator tells apart
	values     map[*contract.Schema]string // discriminatorValue
	mediaTypes []string
	calls      int // operations read
}

// use is what is being read, for problems that stand elsewhere.
type use struct {
	what string
	at   *source.Node
}

// Limits beyond those of a set: what templates may make, and how deep declarations may lead.
const (
	maxGrown = source.MaxNodes
	maxText  = 10_000 // characters of a text with its arguments set in
	maxDepth = 100
	maxCalls = 20_000 // operations
)

func newReader(set *source.Set) *reader {
	return &reader{
		set: set, seen: map[fault]bool{}, scopes: map[*source.File]*scope{},
		argumentOf: map[*source.Node]*source.Node{}, includes: map[*source.Node]*source.Node{}, includedFiles: map[*source.File][]*source.File{},
		params: map[*source.Node][]string{}, made: map[string]*source.Node{},
		schemas: map[schemaKey]*contract.Schema{}, kinds: map[*source.Node]kind{}, loops: map[*source.Node]bool{},
		strange: map[source.Place]bool{}, parameters: map[parameterKey]*contract.Parameter{},
		responses: map[*source.Node]*contract.Response{}, schemes: map[*source.Node]*contract.SecurityScheme{},
		undeclared: map[string]*contract.SecurityScheme{},
		named:      map[*source.Node]string{}, modern: map[*source.File]bool{}, annotationTarget: map[*source.Node]string{},
		names: map[string]*source.Node{}, values: map[*contract.Schema]string{},
	}
}

// fault is a diagnostic without the place that used it.
type fault struct {
	at   source.Place
	text string
}

// report keeps a diagnostic once. One that stands outside what is being read says who led there.
func (r *reader) report(d *source.Diagnostic) {
	if f := (fault{d.Place, d.Text}); r.seen[f] || len(r.diagnostics) > 2*source.MaxTold && !d.Refused() {
		return
	} else {
		r.seen[f] = true
	}
	if u := r.userOf(d.Place); u != nil {
		if d.Refused() { // as an error it is one line
			d.Text += fmt.Sprintf(" (used by %s, %s)", u.what, u.at.Place())
		}
		d.Also(u.at, "used by "+u.what)
	}
	r.diagnostics = append(r.diagnostics, d)
}

// userOf is who uses what stands at a place, where that is not plain from the place itself.
func (r *reader) userOf(at source.Place) *use {
	if len(r.using) == 0 {
		return nil
	}
	u := &r.using[len(r.using)-1]
	p := u.at.Place()
	if p.File == at.File && (strings.HasPrefix(at.Pointer, p.Pointer+"/") || at.Pointer == p.Pointer) {
		return nil
	}
	return u
}

// within reads something on behalf of what.
func (r *reader) within(what string, at *source.Node, read func()) {
	r.using = append(r.using, use{what, at})
	read()
	r.using = r.using[:len(r.using)-1]
}

// grow counts what templates make; false once it is too much.
func (r *reader) grow(at *source.Node, n int) bool {
	before := r.grown
	r.grown += n
	if r.grown > maxGrown && before <= maxGrown {
		r.report(at.Wrong(contract.TooMuch, "with its files, resource types and traits set in, the description has more than %d values",
			maxGrown))
	}
	return r.grown <= maxGrown
}
