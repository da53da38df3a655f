package field_test

import (
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/evaluate/field"
	"corriente/core/unit"
	"fmt"
	"math/rand/v2"
)

// A machine of other equations than the reasoning's, with one fault.
func ExampleDraw() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	m, err := field.Draw(c, field.Tuning(), 1, rand.New(rand.NewPCG(1, 1)))
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(len(m.Faults), len(m.Stations()))
	// Output:
	// 1 1
}

// It is measured as a real one is.
func ExampleMachine_Measure() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	m, err := field.Draw(c, field.Tuning(), 0, rand.New(rand.NewPCG(1, 1)))
	if err != nil {
		fmt.Println(err)
		return
	}
	e := casefile.Evidence{Measure: unit.Voltage, State: "rest", From: "bat_pos", To: "bat_neg"}
	if err := m.Measure(&e); err != nil {
		fmt.Println(err)
		return
	}
	r, err := unit.Parse(e.Value, unit.Voltage)
	fmt.Println(r.Value > 12 && r.Value < 13.2, err)
	// Output:
	// true <nil>
}
