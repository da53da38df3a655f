package policy_test

import (
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/policy"
	"fmt"
)

// What the adviser is held against.
func ExamplePolicies() {
	fmt.Println(policy.Policies())
	// Output:
	// [adviser textbook random]
}

// The order of a textbook begins at the battery.
func ExampleTextbookOrder() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	a, err := diagnose.NewAdviser(c)
	if err != nil {
		fmt.Println(err)
		return
	}
	first := policy.TextbookOrder(a)[0]
	fmt.Println(first.Measure, first.Observe, first.State, first.From, first.To)
	// Output:
	// click crank
}
