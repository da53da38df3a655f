package winding_test

import (
	"fmt"

	"corriente/core/winding"
)

// Three phases in star, read in pairs: each reading goes through two of them.
func ExamplePhases() {
	p, err := winding.Phases(0.20, 0.21, 0.21, false)
	fmt.Printf("%.3f %.3f %.3f %v\n", p[0], p[1], p[2], err)
	// Output:
	// 0.100 0.100 0.110 <nil>
}

// Unbalance as NEMA MG 1 counts it: the greatest distance from the mean, of the mean.
func ExampleUnbalance() {
	fmt.Printf("%.3f\n", winding.Unbalance(230, 232, 225))
	// Output:
	// 1.747
}
