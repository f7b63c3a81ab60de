package guide_test

import (
	"context"
	"fmt"

	"oldledger/core/compare"
	"oldledger/core/guide"
	"oldledger/tools/sketch"
)

// A guide says what to do, step by step.
func ExampleMake() {
	old := sketch.Berths("1.0.0", "{type: object, properties: {length: {type: number}}}")
	new := sketch.Berths("2.0.0", "{type: object, properties: {lengthOverall: {type: number}}}")
	c := compare.Contracts(old, new, compare.Options{})
	g, err := guide.Make(context.Background(), old, new, c, guide.Context{API: "berths"})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(g.Verdict)
	for _, s := range append(g.Must, g.Check...) {
		fmt.Println(s.Title)
	}
	// Output:
	// A client of 1.0.0 goes on working on 2.0.0; test one point.
	// length was renamed to lengthOverall
}
