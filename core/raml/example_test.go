package raml_test

import (
	"fmt"

	"oldledger/core/raml"
	"oldledger/core/source"
)

// What traits say is part of the operations that use them.
func ExampleRead() {
	file, err := source.Parse("tides.raml", []byte(`#%RAML 1.0
title: Tides
version: 1.0.0
traits:
  paged: {queryParameters: {limit?: integer}}
/tides:
  get: {is: [paged]}
`))
	if err != nil {
		fmt.Println(err)
		return
	}
	c, err := raml.Read(source.SetOf(file))
	if err != nil {
		fmt.Println(err)
		return
	}
	limit := c.Operations[0].Parameters[0]
	fmt.Println(limit.In, limit.Name, limit.Node.Place())
	// Output: query limit tides.raml:5:29
}
