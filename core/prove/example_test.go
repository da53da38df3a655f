package prove_test

import (
	"corriente/core/circuit"
	"corriente/core/prove"
	"fmt"
)

// What belongs to a starter's proof, when it was apart.
func ExampleTicks() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, t := range prove.Ticks(c, prove.Facts{Stripped: true}) {
		fmt.Println(t.ID)
	}
	// Output:
	// cycles
	// cold
	// hot
	// nothing_left
}

// A generator set that falls from 62 to 60 Hz: 3.3 % droop.
func ExampleGenset_GensetSays() {
	droop, _, good, _, err := prove.Genset{Nominal: 60, NoLoad: 62, FullLoad: 60}.GensetSays()
	fmt.Printf("%.1f %%, %v, %v\n", droop, good, err)
	// Output:
	// 3.3 %, true, <nil>
}
