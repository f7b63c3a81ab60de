package shape_test

import (
	"fmt"

	"oldledger/core/contract"
	"oldledger/core/format"
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

// Everything that old clients send is received, or there is a message that is not.
func ExampleSpace_Included() {
	old, new := described("1.0.0", "{enum: [quay, buoy]}"), described("1.1.0", "{enum: [quay]}")
	body := func(c *contract.Contract) *contract.Schema { return c.Operations[0].Body.Content[0].Schema }
	space := shape.NewSpace(shape.Declared, nil)
	sent := space.Lower(body(old), shape.Role{Sends: true, Request: true})
	received := space.Lower(body(new), shape.Role{Request: true})
	switch v := space.Included(sent, received); v.Answer {
	case shape.Proved:
		fmt.Println("safe")
	case shape.Refuted:
		fmt.Println("refused:", v.Witness)
	case shape.Undecided:
		fmt.Println("cannot tell:", v.Reason)
	}
	// Output: refused: "buoy"
}
