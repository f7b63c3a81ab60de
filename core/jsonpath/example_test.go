package jsonpath_test

import (
	"fmt"

	"oldledger/core/jsonpath"
	"oldledger/core/value"
)

// A path finds values, each with its own path.
func ExamplePath_Select() {
	root, _ := value.Parse([]byte(`{"paths": {"/bookings": {"post": {"tags": ["Bookings", "Quays"]}}}}`))
	path, err := jsonpath.Parse(`$.paths['/bookings'].post.tags[?@ == 'Quays']`)
	if err != nil {
		fmt.Println(err)
		return
	}
	found, err := path.Select(root)
	fmt.Println(found[0], found[0].Value, err)
	// Output: $['paths']['/bookings']['post']['tags'][1] "Quays" <nil>
}
