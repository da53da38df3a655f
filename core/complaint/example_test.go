package complaint_test

import (
	"fmt"

	"corriente/core/complaint"
)

// What a customer says is understood with typing errors in it.
func ExampleUnderstand() {
	for _, s := range complaint.Understand("starter", "Only clicks, turns slowley when its cold") {
		fmt.Println(s.ID)
	}
	// Output:
	// slow
	// click
	// cold
}
