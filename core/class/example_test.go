package class_test

import (
	"fmt"

	"oldledger/core/class"
	"oldledger/core/contract"
	"oldledger/core/format"
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

// Wrappers, names and order are no part of what is said.
func ExampleNew() {
	a := described("1.0.0", "{allOf: [{enum: [quay, buoy], description: Where it lies.}]}")
	b := described("1.1.0", "{enum: [buoy, quay]}")
	classes := class.New(nil, append(a.Roots(), b.Roots()...), nil)
	body := func(c *contract.Contract) *contract.Schema { return c.Operations[0].Body.Content[0].Schema }
	fmt.Println(classes.Equal(body(a), body(b)))
	// Output: true
}
