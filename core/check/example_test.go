package check_test

import (
	"context"
	"fmt"

	"oldledger/core/check"
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

// A mistake is told where it stands, with what would be right.
func ExampleContract() {
	found, err := check.Contract(context.Background(), described("1.0.0", "{type: integer, minimun: 1, example: none}"))
	for _, d := range found {
		fmt.Println(d.Severity, d.Text, "→", d.Right)
	}
	fmt.Println(err)
	// Output:
	// error a schema has no key "minimun" → did you mean "minimum"?
	// <nil>
}
