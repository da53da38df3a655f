package cells_test

import (
	"corriente/core/circuit"
	"corriente/core/diagnose/assume"
	"corriente/core/diagnose/cells"
	"corriente/core/fault"
	"fmt"
)

// space is what can be wrong with a starter.
func space() *cells.Space {
	c, err := circuit.Family("starter")
	if err != nil {
		panic(err)
	}
	t, err := assume.Standard()
	if err != nil {
		panic(err)
	}
	a, err := cells.New(c, t)
	if err != nil {
		panic(err)
	}
	return a
}

// Every diagnosis is cut into cells of one severity each; nothing wrong is among them.
func ExampleNew() {
	a := space()
	fmt.Println(len(a.Cells) > len(a.Diags), len(a.Diags[0].Faults))
	// Output:
	// true 0
}

// One step along a scale that is even in the logarithm.
func ExampleShift() {
	fmt.Printf("%.3f\n", cells.Shift(&fault.Scale{Lo: 0.001, Hi: 10, Log: true}, 0.02, 0.5))
	// Output:
	// 0.033
}
