package reference_test

import (
	"context"
	"fmt"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/reference"
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

// The pages of a version, before anybody renders them.
func ExampleMake() {
	doc, err := reference.Make(context.Background(), described("1.0.0", "{type: string}"), reference.Context{Name: "berths"})
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, g := range doc.Groups {
		for _, op := range g.Operations {
			fmt.Println(g.Name, op.Slug, op.Method, op.Path)
		}
	}
	// Output: Operations book POST /bookings
}
