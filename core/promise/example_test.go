package promise_test

import (
	"fmt"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/promise"
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

// A version that breaks the promise of its line is not published, unless each break is waived.
func ExampleJudge() {
	old, new := described("1.0.0", "{enum: [quay, buoy]}"), described("1.1.0", "{enum: [quay]}")
	c := compare.Contracts(old, new, compare.Options{})
	against := []promise.Against{{Version: "1.0.0", Comparison: c}}
	fmt.Println(promise.Judge(promise.Backward, against, nil).Open)
	fmt.Println(promise.Judge(promise.Backward, against, []string{c.Changes[0].ID}).Open)
	// Output:
	// false
	// true
}
