package conductor_test

import (
	"fmt"

	"corriente/core/conductor"
)

// Ten metres of 16 mm² copper at 20 °C, by the conductivity of annealed copper (IEC 60028). A stranded
// conductor may have 11.5 mΩ (IEC 60228, class 2: 1.15 Ω a kilometre).
func ExampleResistance() {
	r, err := conductor.Resistance(16, 10, 20)
	fmt.Printf("%.1f mΩ, %v\n", 1000*r, err)
	// Output:
	// 10.8 mΩ, <nil>
}

// AWG 10 has 5.26 mm² (ASTM B258).
func ExampleAWGArea() {
	fmt.Printf("%.2f mm²\n", conductor.AWGArea(10))
	// Output:
	// 5.26 mm²
}
