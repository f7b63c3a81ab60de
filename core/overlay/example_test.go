package overlay_test

import (
	"context"
	"fmt"

	"oldledger/core/overlay"
	"oldledger/core/source"
	"oldledger/core/value"
)

// A description reads otherwise, and its source is not touched.
func ExampleDocument_Apply() {
	file, err := source.Parse("wording.yaml", []byte(`
overlay: 1.0.0
info: {title: Wording, version: 1.0.0}
actions:
  - {target: "$.info", update: {title: Berth Booking}}
  - {target: "$.paths['/gone']", update: {summary: Nobody reads this.}}
`))
	if err != nil {
		fmt.Println(err)
		return
	}
	doc, err := overlay.Read(file)
	if err != nil {
		fmt.Println(err)
		return
	}
	root, _ := value.Parse([]byte(`{"info": {"title": "Berths"}}`))
	changed, done, err := doc.Apply(context.Background(), root)
	fmt.Println(changed, done[0].Matched, done[1].Matched, err)
	// Output: {"info":{"title":"Berth Booking"}} 1 0 <nil>
}
