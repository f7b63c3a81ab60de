package class_test

import (
	"fmt"

	"oldledger/core/class"
	"oldledger/core/contract"
	"oldledger/tools/sketch"
)

// Wrappers, names and order are no part of what is said.
func ExampleNew() {
	a := sketch.Berths("1.0.0", "{allOf: [{enum: [quay, buoy], description: Where it lies.}]}")
	b := sketch.Berths("1.1.0", "{enum: [buoy, quay]}")
	classes := class.New(nil, append(a.Roots(), b.Roots()...), nil)
	body := func(c *contract.Contract) *contract.Schema { return c.Operations[0].Body.Content[0].Schema }
	fmt.Println(classes.Equal(body(a), body(b)))
	// Output: true
}
