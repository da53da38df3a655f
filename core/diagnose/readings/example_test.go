package readings_test

import (
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/assume"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/readings"
	"corriente/core/meter"
	"corriente/core/unit"
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

// A fault that comes and goes: what was read while it was away clears nothing.
func ExamplePresenceOf() {
	for _, symptom := range []string{"present", "absent"} {
		fmt.Println(symptom, readings.PresenceOf(&casefile.Evidence{Symptom: symptom}, true) == readings.Present)
	}
	// Output:
	// present true
	// absent false
}

// A band is cut to what can be: no negative ohms.
func ExamplePossible() {
	r := readings.Possible(space(), unit.Resistance, -0.2, 1.4, 1)
	fmt.Println(r.Low, r.High)
	// Output:
	// 0 1.4
}

// What else 25 may have been, typed where at most 12 V are read: 2.5, or 25 mV.
func ExampleAlternatives() {
	a := space()
	e := casefile.Evidence{Measure: unit.Voltage, State: "crank", From: "sol_b", To: "sol_m", Value: "25"}
	if p := e.Check(a.C, nil); p != nil {
		fmt.Println(p)
		return
	}
	r := readings.Prepare(a, &e, meter.Default(unit.Voltage), 0)
	fmt.Println(len(readings.Alternatives(a, &r)) > 0)
	// Output:
	// true
}
