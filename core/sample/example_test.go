package sample_test

import (
	"fmt"

	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/tools/sketch"
)

// A call that a reader can run.
func ExampleMake() {
	c := sketch.Berths("1.0.0", "{type: object, properties: {nights: {type: integer, example: 3}}}")
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
