package check_test

import (
	"context"
	"fmt"

	"oldledger/core/check"
	"oldledger/tools/sketch"
)

// A mistake is told where it stands, with what would be right.
func ExampleContract() {
	found, err := check.Contract(context.Background(), sketch.Berths("1.0.0", "{type: integer, minimun: 1, example: none}"))
	for _, d := range found {
		fmt.Println(d.Severity, d.Text, "→", d.Right)
	}
	fmt.Println(err)
	// Output:
	// error a schema has no key "minimun" → did you mean "minimum"?
	// <nil>
}
