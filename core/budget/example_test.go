package budget_test

import (
	"context"
	"fmt"

	"oldledger/core/budget"
)

// What is left when a budget is spent is undecided, or left out.
func ExampleNew() {
	b := budget.New(context.Background(), budget.Limits{Steps: 1_000_000, Bytes: 1 << 20})
	fmt.Println(b.Step(600_000))
	fmt.Println(b.Step(600_000)) // more than there is
	fmt.Println(b.Err())         // it was the budget that ended, and not the context
	// Output:
	// true
	// false
	// <nil>
}
