package openapi_test

import (
	"fmt"

	"oldledger/core/openapi"
	"oldledger/core/source"
)

// Every part of a contract knows where its author wrote it.
func ExampleRead() {
	file, err := source.Parse("berths.yaml", []byte(`
openapi: 3.1.0
info: {title: Berths, version: 1.0.0}
paths:
  /berths/{berth}:
    get:
      parameters: [{name: berth, in: path, required: true, schema: {type: string}}]
      responses: {"200": {description: It.}}
`))
	if err != nil {
		fmt.Println(err)
		return
	}
	c, err := openapi.Read(file)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, op := range c.Operations {
		fmt.Println(op.Key(), op.Written(), op.Node.Place())
	}
	// Output: GET /berths/{} GET /berths/{berth} berths.yaml:6:5
}
