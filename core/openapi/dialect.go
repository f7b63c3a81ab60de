package openapi

import (
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// dialect is one version of the OpenAPI Specification.
type dialect uint8

const (
	v20 dialect = iota
	v30
	v31
	v32
)

var dialectNames = [...]string{"openapi-2.0", "openapi-3.0", "openapi-3.1", "openapi-3.2"}

func (d dialect) String() string { return dialectNames[d] }

// before31 tells of the dialects whose schemas are a subset of an early JSON Schema, with siblings of $ref ignored.
func (d dialect) before31() bool { return d < v31 }

// spoken is the dialect that a document says of itself; ok is false where it says nothing. A problem is reported
// where it says something that is not known.
func (r *reader) spoken(root *source.Node) (d dialect, ok bool) {
	if n := root.Get("swagger"); n != nil && root.Get("openapi") == nil {
		if (n.Kind == source.String || n.Kind == source.Number) && n.Text == "2.0" {
			return v20, true
		}
		r.report(n.Wrong(contract.NoDescription,
			"Swagger %s is not read here; the versions 2.0, 3.0.x, 3.1.x and 3.2.x are, and older ones can be converted to one of them",
			describe(n)))
		return 0, false
	}
	n := root.Get("openapi")
	if n == nil {
		return 0, false
	}
	if n.Kind != source.String && n.Kind != source.Number {
		r.report(n.Wrong(contract.NoDescription, "openapi is %s; it must be a version such as 3.1.0", n.Kind))
		return 0, false
	}
	for d, prefix := range map[dialect]string{v30: "3.0", v31: "3.1", v32: "3.2"} {
		if n.Text == prefix || strings.HasPrefix(n.Text, prefix+".") {
			return d, true
		}
	}
	if n.Text == "2.0" || n.Text == "2" {
		r.report(n.KeyWrong(contract.NoDescription, "OpenAPI 2.0 says its version under another key; write swagger: \"2.0\""))
		return 0, false
	}
	r.report(n.Wrong(contract.NoDescription, "OpenAPI %q is not known here; the versions 2.0, 3.0.x, 3.1.x and 3.2.x are", n.Text))
	return 0, false
}

func describe(n *source.Node) string {
	if n.Text != "" {
		return `"` + n.Text + `"`
	}
	return n.Kind.String()
}

// dialectOf is the dialect in which a node is written: what its document says, otherwise that of the entry
// (OpenAPI 3.1.1 section 4.3, 3.2.0 section 4.1).
func (r *reader) dialectOf(n *source.Node) dialect {
	f := n.File()
	if f == r.lastFile {
		return r.lastDialect
	}
	d, known := r.dialects[f]
	if !known {
		var ok bool
		if d, ok = r.spoken(f.Root); !ok {
			d = r.dialect
		}
		r.dialects[f] = d
	}
	r.lastFile, r.lastDialect = f, d
	return d
}
