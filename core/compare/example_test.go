package compare_test

import (
	"fmt"

	"oldledger/core/compare"
	"oldledger/tools/sketch"
)

// A breaking change comes with a message that shows it.
func ExampleContracts() {
	old := sketch.Berths("1.0.0", "{type: object, properties: {nights: {type: integer, maximum: 90}}}")
	new := sketch.Berths("1.1.0", "{type: object, properties: {nights: {type: integer, maximum: 28}}}")
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
