package complaint_test

import (
	"corriente/core/complaint"
	"fmt"
)

// A statement is looked for by its id.
func ExampleHas() {
	said := complaint.Understand("starter", "it clicks once and does not crank")
	fmt.Println(complaint.Has(said, "click"), complaint.Has(said, "slow"))
	// Output:
	// true false
}
