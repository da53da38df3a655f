package learn_test

import (
	"fmt"

	"corriente/core/learn"
)

// Nine of ten is known no better than this (E. B. Wilson, 1927).
func ExampleWilson() {
	low, high := learn.Wilson(9, 10)
	fmt.Printf("%.2f to %.2f\n", low, high)
	// Output:
	// 0.60 to 0.98
}
