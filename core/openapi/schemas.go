package openapi

import (
	"oldledger/core/contract"
	"oldledger/core/source"
)

// Schemas reads JSON Schemas (2020-12) that stand on their own, outside an OpenAPI description. What they refer to stands in the
// files of the set.
type Schemas struct{ r *reader }

// NewSchemas is a reader of the schemas of one set; a schema that several refer to is read once.
func NewSchemas(set *source.Set) *Schemas {
	r := newReader(set)
	r.dialect, r.alone = v31, true
	return &Schemas{r}
}

// Read makes the schema of a node, with all that is wrong with it.
func (s *Schemas) Read(n *source.Node) (*contract.Schema, source.Diagnostics) {
	s.r.diagnostics = nil
	read := s.r.schema(n)
	return read, s.r.diagnostics
}

// Named lists the schemas that the files of those read name, under definitions or $defs.
func (s *Schemas) Named() []*contract.Schema {
	var all []*contract.Schema
	for i := 0; i < len(s.r.elsewhere); i++ { // reading one may name more
		all = append(all, s.r.schema(s.r.elsewhere[i]))
	}
	return all
}
