package sample_test

import (
	"fmt"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// described is an API whose one operation takes a body of a schema.
func described(version, schema string) *contract.Contract {
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

// A call that a reader can run.
func ExampleMake() {
	c := described("1.0.0", "{type: object, properties: {nights: {type: integer, example: 3}}}")
	values := sample.NewFiller(shape.NewSpace(shape.Declared, nil), sample.Sided(c))
	call, ok := sample.Make(c.Operations[0], values)
	if !ok {
		return
	}
	fmt.Println(sample.Languages[0].Write(call))
	// Output:
	// curl -X POST '/bookings' \
	//   -H 'Content-Type: application/json' \
	//   --data-raw '{"nights": 3}'
}
