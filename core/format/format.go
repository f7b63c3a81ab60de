// Package format reads a description in whatever format it is written: OpenAPI or RAML.
//
//	c, err := format.Read(set)
//
// The entry of the set says its format itself: by its first line (#%RAML) or by its key openapi or swagger.
package format

import (
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/raml"
	"oldledger/core/source"
)

// Read makes the contract of a description. The error is source.Diagnostics: all for which it cannot be read,
// those of the entry first; or that of the set's context. What else is wrong the contract tells itself.
func Read(set *source.Set) (*contract.Contract, error) {
	if raml.Speaks(set.Entry) {
		return raml.Read(set)
	}
	return openapi.ReadSet(set)
}
