// Package raml reads RAML descriptions into contracts.
//
// It reads RAML 1.0 and 0.8 as their specifications say: resources with their types and traits, the type system, libraries,
// overlays and extensions, typed fragments, and JSON Schemas. What is included stands in the files of the set, and nowhere else.
//
//	set, err := source.OpenTexts(ctx, "", "tides.raml", texts)
//	c, err := raml.Read(set)
//
// What resource types and traits say is merged into the methods that use them; every part keeps the place where it was written, so that an
// error or a change is told there. What is wrong is a diagnostic of the contract with its range and its mend, and, where a trait, a library
// or an included file is at fault, with the place that used it; the rest is read: what each mistake is taken to mean, contract.Rules say.
// Refused is only what is no description, or not whole.
package raml

import (
	"bytes"
	"regexp"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// header is the first line of a RAML file: the version it is written in and, for all but an API of its own, what it holds.
type header struct{ version, fragment string }

var headerLine = regexp.MustCompile(`^(?:\xef\xbb\xbf)?#%RAML[ \t]+([^ \t\r\n]+)(?:[ \t]+([^ \t\r\n]+))?[ \t]*(?:\r?\n|$)`)

func headerOf(f *source.File) (h header, ok bool) {
	m := headerLine.FindSubmatch(f.Text)
	if m == nil {
		return header{}, false
	}
	return header{string(m[1]), string(m[2])}, true
}

// Speaks reports whether a file says of itself that it is RAML.
func Speaks(f *source.File) bool {
	return bytes.HasPrefix(bytes.TrimPrefix(f.Text, []byte("\xef\xbb\xbf")), []byte("#%RAML"))
}

// IsAPI reports whether a text is a RAML description of its own: an API, or an overlay or extension of one.
func IsAPI(text []byte) bool {
	m := headerLine.FindSubmatch(text)
	return m != nil && (len(m[2]) == 0 || string(m[2]) == "Overlay" || string(m[2]) == "Extension")
}

// fragments are what a file of RAML 1.0 may hold (RAML 1.0, Typed Fragments).
var fragments = []string{
	"DocumentationItem", "DataType", "NamedExample", "ResourceType", "Trait", "AnnotationTypeDeclaration", "Library", "Overlay", "Extension",
	"SecurityScheme",
}

// Read makes the contract of the description that is the entry of a set; other files are opened as they are met.
// The error is source.Diagnostics: all for which it cannot be read, those of the entry first; or that of the set's context.
func Read(set *source.Set) (*contract.Contract, error) {
	r := newReader(set)
	c := r.contract()
	if err := set.Err(); err != nil {
		return nil, err
	}
	if refusing := r.diagnostics.Refusing(); len(refusing) > 0 || c == nil {
		return nil, refusing.Sorted(set.Entry.Name)
	}
	c.Diagnostics, c.Size = r.diagnostics.Sorted(set.Entry.Name).Bounded(set.Entry.Root), set.Size()+r.grown
	c.Index()
	return c, nil
}
