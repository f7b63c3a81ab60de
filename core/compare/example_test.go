package compare_test

import (
	"fmt"

	"oldledger/core/compare"
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

// A breaking change comes with a message that shows it.
func ExampleContracts() {
	old := described("1.0.0", "{type: object, properties: {nights: {type: integer, maximum: 90}}}")
	new := described("1.1.0", "{type: object, properties: {nights: {type: integer, maximum: 28}}}")
	c := compare.Contracts(old, new, compare.Options{})
	for _, ch := range c.Changes {
		fmt.Println(ch.Backward, ch.Kind, ch.Title)
		fmt.Println(ch.Witness.Refuser, "refuses", ch.Witness.Message())
	}
	fmt.Println(c.Recommended.Version)
	// Output:
	// breaking request.range-narrowed nights is at most 28, was at most 90
	// 1.1.0 refuses POST /bookings {"nights": 29}
	// 2.0.0
}
