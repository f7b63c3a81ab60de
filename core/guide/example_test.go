package guide_test

import (
	"context"
	"fmt"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/guide"
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

// A guide says what to do, step by step.
func ExampleMake() {
	old := described("1.0.0", "{type: object, properties: {length: {type: number}}}")
	new := described("2.0.0", "{type: object, properties: {lengthOverall: {type: number}}}")
	c := compare.Contracts(old, new, compare.Options{})
	g, err := guide.Make(context.Background(), old, new, c, guide.Context{API: "berths"})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(g.Verdict)
	for _, s := range append(g.Must, g.Check...) {
		fmt.Println(s.Title)
	}
	// Output:
	// A client of 1.0.0 goes on working on 2.0.0; test one point.
	// length was renamed to lengthOverall
}
