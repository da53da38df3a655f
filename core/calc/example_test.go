package calc_test

import (
	"fmt"

	"corriente/core/calc"
)

func ExampleFind() {
	c := calc.Find("relay_gain")
	fmt.Println(c != nil, calc.Find("horoscope") != nil)
	// Output:
	// true false
}

// A comma is a point.
func ExampleParse() {
	v, err := calc.Parse("4,7", "ohm")
	fmt.Println(v, err)
	// Output:
	// 4.7 <nil>
}
