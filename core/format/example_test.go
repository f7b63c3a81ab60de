package format_test

import (
	"fmt"

	"oldledger/core/format"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// Whatever a description is written in, it can be written as OpenAPI.
func ExampleConvert() {
	text := "#%RAML 1.0\ntitle: Tides\nversion: 1.0.0\n/tides:\n  get:\n    responses: {200: {body: {application/json: {type: number}}}}\n"
	file, err := source.Parse("tides.raml", []byte(text))
	if err != nil {
		fmt.Println(err)
		return
	}
	made, err := format.Convert(source.SetOf(file), openapi.To31)
	fmt.Println(made.Document.Get("openapi"), made.Document.Get("paths").Members[0].Name, err)
	// Output: "3.1.1" /tides <nil>
}
