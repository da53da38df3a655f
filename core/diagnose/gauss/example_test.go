package gauss_test

import (
	"fmt"

	"corriente/core/diagnose/gauss"
)

// A fair coin holds one bit.
func ExampleEntropy() {
	fmt.Println(gauss.Entropy([]float64{0.5, 0.5}))
	// Output:
	// 1
}

// Two thirds of a mixture at 0, a third far away: its middle is near 0, its upper end far off.
func ExampleMixture() {
	b := gauss.Mixture([]gauss.Part{{Weight: 2, Mean: 0, SD: 1}, {Weight: 1, Mean: 10, SD: 1}})
	fmt.Printf("%.1f %.1f %.1f\n", b.Low, b.Mid, b.High)
	// Output:
	// -1.4 0.7 11.0
}
