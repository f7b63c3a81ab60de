package source_test

import (
	"fmt"

	"oldledger/core/source"
)

// A node knows where its author wrote it.
func ExampleParse() {
	file, err := source.Parse("berths.yaml", []byte("openapi: 3.1.0\ninfo:\n  title: Berths\n  version: 1.2.0\n"))
	if err != nil {
		fmt.Println(err)
		return
	}
	version := file.Root.Get("info").Get("version")
	fmt.Println(version.Text, version.Place())
	// Output: 1.2.0 berths.yaml:4:3
}

// What is no text of its format is told with its place, and what would be right.
func ExampleParse_refused() {
	_, err := source.Parse("berths.yaml", []byte("info:\n  title: Berths\n  title: Quays\n"))
	fmt.Println(err)
	// Output: berths.yaml:3:3: the key "title" stands twice in this object (first in line 2); keep one of them
}
