package contract_test

import (
	"fmt"

	"oldledger/core/contract"
)

// The names of a path's parameters are not on the wire.
func ExampleWirePath() {
	fmt.Println(contract.WirePath("/berths/{berth}/bookings"))
	fmt.Println(contract.PathNames("/berths/{berth}/bookings"))
	// Output:
	// /berths/{}/bookings
	// [berth]
}
