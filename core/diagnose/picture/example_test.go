package picture_test

import (
	"context"
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/picture"
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

func weighed() *explain.Opinion {
	op, err := explain.Weigh(context.Background(), reasoner(), burnt())
	if err != nil {
		panic(err)
	}
	return op
}

// The suspects as they stand beside the path.
func ExampleRivals() {
	r := picture.Rivals(weighed(), 3)[0]
	fmt.Println(r.Label, r.Fault, r.For)
	// Output:
	// Solenoid main contact Solenoid main contact: high resistance 2
}

// The current path in a state: its stations in the order of the current.
func ExampleDraw() {
	p, err := picture.Draw(weighed(), "crank")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(p.State, p.Flows)
	// Output:
	// crank true
}
