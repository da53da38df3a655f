package evaluate_test

import (
	"corriente/core/evaluate"
	"fmt"
)

// What is measured on few machines is known no better than this (E. B. Wilson, 1927).
func ExampleWilson() {
	low, high := evaluate.Wilson(0.9, 10)
	fmt.Printf("%.2f to %.2f\n", low, high)
	// Output:
	// 0.60 to 0.98
}

// Where the machines come from that the reasoning is tried on.
func ExampleWorlds() {
	fmt.Println(evaluate.Worlds())
	// Output:
	// [own field tuning]
}
