// Package sketch makes small descriptions for examples.
package sketch

import (
	"fmt"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/source"
)

// Berths is version version of an API whose one operation, POST /bookings, takes a body of a schema, written as YAML in a line. It panics
// where that cannot be read.
func Berths(version, schema string) *contract.Contract {
	text := fmt.Sprintf(`{openapi: 3.1.0, info: {title: Berths, version: %s}, paths: {/bookings: {post: {
		operationId: book, requestBody: {content: {application/json: {schema: %s}}}, responses: {"204": {description: Booked.}}}}}}`, version, schema)
	file, err := source.Parse("berths.yaml", []byte(text))
	if err != nil {
		panic(err)
	}
	c, err := format.Read(source.SetOf(file))
	if err != nil {
		panic(err)
	}
	return c
}
