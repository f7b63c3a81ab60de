package commonmark_test

import (
	"fmt"

	"oldledger/core/commonmark"
)

// What comes from a description is text.
func ExamplePlain() {
	fmt.Println(commonmark.Plain("*length* of <Vessel>"))
	// Output: \*length\* of \<Vessel\>
}
