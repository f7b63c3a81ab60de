package report_test

import (
	"fmt"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/report"
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

// A comparison as a review reads it.
func ExampleMarkdown() {
	old, new := described("1.0.0", "{enum: [quay, buoy]}"), described("1.1.0", "{enum: [quay]}")
	c := compare.Contracts(old, new, compare.Options{})
	fmt.Println(report.Verdict(c))
	fmt.Println(report.Tally(c.Counts))
	// Output:
	// clients of 1.0.0 will fail · a rollback is safe · next version 2.0.0
	// 1 breaking
}
