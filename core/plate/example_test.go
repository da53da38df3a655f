package plate_test

import (
	"corriente/core/circuit"
	"corriente/core/plate"
	"fmt"
)

// A motor's plate says what amperes to expect: 1.4 kW on 12 V.
func ExampleMotor_Draws() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	p, err := plate.ParseMotor("1.4", "12", "", "")
	a, err2 := p.Draws(c)
	fmt.Printf("%.0f W: %.0f to %.0f A, %v, %v\n", p.Power, a.Low, a.High, err, err2)
	// Output:
	// 1400 W: 117 to 233 A, <nil>, <nil>
}

// A value is read in the unit of its setting, and read back with it.
func ExampleParse() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	v, err := plate.Parse(c, "start_fuse.rating", "15")
	fmt.Println(plate.Say(c, "start_fuse.rating", v), err)
	// Output:
	// 15 A <nil>
}
