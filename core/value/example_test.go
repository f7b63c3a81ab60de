package value_test

import (
	"fmt"

	"oldledger/core/value"
)

// Numbers are exact, and the order of members means nothing.
func ExampleParse() {
	a, _ := value.Parse([]byte(`{"length": 11.40, "name": "Ida"}`))
	b, _ := value.Parse([]byte(`{"name": "Ida", "length": 11.4}`))
	fmt.Println(a.Equal(b))
	// Output: true
}
