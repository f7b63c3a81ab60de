package promise_test

import (
	"fmt"

	"oldledger/core/compare"
	"oldledger/core/promise"
	"oldledger/tools/sketch"
)

// A version that breaks the promise of its line is not published, unless each break is waived.
func ExampleJudge() {
	old, new := sketch.Berths("1.0.0", "{enum: [quay, buoy]}"), sketch.Berths("1.1.0", "{enum: [quay]}")
	c := compare.Contracts(old, new, compare.Options{})
	against := []promise.Against{{Version: "1.0.0", Comparison: c}}
	fmt.Println(promise.Judge(promise.Backward, against, nil).Open)
	fmt.Println(promise.Judge(promise.Backward, against, []string{c.Changes[0].ID}).Open)
	// Output:
	// false
	// true
}
