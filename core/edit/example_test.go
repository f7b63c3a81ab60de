package edit_test

import (
	"fmt"

	"oldledger/core/edit"
	"oldledger/core/source"
	"oldledger/core/value"
)

func Example() {
	file, err := source.Parse("berths.yaml", []byte(`info:
  title: Berths # as on the sign
tags:
- name: Old   # no longer
- name: Quays
`))
	if err != nil {
		panic(err)
	}
	text, err := edit.Text(file, edit.Set("/info/title", value.Str("Berth Booking")), edit.Remove("/tags/0"))
	fmt.Print(string(text), err)
	// Output:
	// info:
	//   title: Berth Booking # as on the sign
	// tags:
	// - name: Quays
	// <nil>
}
