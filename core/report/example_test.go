package report_test

import (
	"fmt"

	"oldledger/core/compare"
	"oldledger/core/report"
	"oldledger/tools/sketch"
)

// A comparison as a review reads it.
func ExampleMarkdown() {
	old, new := sketch.Berths("1.0.0", "{enum: [quay, buoy]}"), sketch.Berths("1.1.0", "{enum: [quay]}")
	c := compare.Contracts(old, new, compare.Options{})
	fmt.Println(report.Verdict(c))
	fmt.Println(report.Tally(c.Counts))
	// Output:
	// clients of 1.0.0 will fail · a rollback is safe · next version 2.0.0
	// 1 breaking
}
