package shape_test

import (
	"fmt"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/tools/sketch"
)

// Everything that old clients send is received, or there is a message that is not.
func ExampleSpace_Included() {
	old, new := sketch.Berths("1.0.0", "{enum: [quay, buoy]}"), sketch.Berths("1.1.0", "{enum: [quay]}")
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
