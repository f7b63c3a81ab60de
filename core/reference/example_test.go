package reference_test

import (
	"context"
	"fmt"

	"oldledger/core/reference"
	"oldledger/tools/sketch"
)

// The pages of a version, before anybody renders them.
func ExampleMake() {
	doc, err := reference.Make(context.Background(), sketch.Berths("1.0.0", "{type: string}"), reference.Context{Name: "berths"})
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, g := range doc.Groups {
		for _, op := range g.Operations {
			fmt.Println(g.Name, op.Slug, op.Method, op.Path)
		}
	}
	// Output: Operations book POST /bookings
}
