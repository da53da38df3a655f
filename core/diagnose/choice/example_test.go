package choice_test

import (
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/choice"
	"corriente/core/unit"
	"fmt"
	"strings"
)

// reasoner is prepared for a starter.
func reasoner() *belief.Reasoner {
	c, err := circuit.Family("starter")
	if err != nil {
		panic(err)
	}
	a, err := belief.New(c)
	if err != nil {
		panic(err)
	}
	return a
}

// burnt is a starter on which 4.6 V were read across the solenoid's contact while cranking.
func burnt() *belief.Job {
	c, err := casefile.Read(strings.NewReader(`{"format":"corriente-case/1","circuit":"starter","evidence":[
		{"observe":"click","state":"crank","outcome":"single"},
		{"measure":"voltage","state":"crank","from":"sol_b","to":"sol_m","value":"4.6 V"},
		{"measure":"voltage","state":"crank","from":"bat_pos","to":"bat_neg","value":"12.0 V"}]}`))
	if err != nil {
		panic(err)
	}
	return belief.JobOf(c)
}

// What a reading tells, in words.
func ExampleTells() {
	for _, bits := range []float64{0.02, 0.3, 1.5} {
		fmt.Println(choice.Tells(bits))
	}
	// Output:
	// little
	// some
	// much
}

// A second reading in a state that is held costs less than the first.
func ExampleMinutes() {
	a := reasoner()
	e := casefile.Evidence{Measure: unit.Voltage, State: "crank", From: "bat_pos", To: "bat_neg"}
	alone, _ := choice.Minutes(a, &belief.Job{}, &e)
	after, _ := choice.Minutes(a, burnt(), &e)
	fmt.Println(after < alone)
	// Output:
	// true
}
