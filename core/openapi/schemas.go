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
	r.dialect = v31
	return &Schemas{r}
}

// Read makes the schema of a node, with all that is wrong with it.
func (s *Schemas) Read(n *source.Node) (*contract.Schema, source.Problems) {
	s.r.problems = nil
	read := s.r.schema(n)
	return read, s.r.problems
}
