package proof_test

import (
	"corriente/core/circuit"
	"corriente/core/diagnose/proof"
	"fmt"
)

// The node at the other end of a part, where a probe goes to read across it.
func ExampleOther() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(proof.Other(c.Station("main_contact"), "sol_b"))
	// Output:
	// sol_m
}

// What is looked at in a motor that is apart is not asked of one that is whole again.
func ExampleStripped() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(proof.Stripped(c))
	// Output:
	// [brushes_seen commutator_seen winding_seen winding_test bearing_feel oil_inside gear_seen plunger_seen]
}
