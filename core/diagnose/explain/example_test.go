package explain_test

import (
	"context"
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/explain"
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

// What three pieces of evidence amount to.
func ExampleWeigh() {
	op, err := explain.Weigh(context.Background(), reasoner(), burnt())
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(op.Verdict.Status, *op.Verdict.Station)
	for _, w := range op.Evidence {
		fmt.Println(w.Index, w.Says)
	}
	// Output:
	// isolated main_contact
	// 1 clears solenoid coil, interlock switch, ignition switch
	// 2 higher than a good circuit shows: points to solenoid main contact; clears pinion, clutch and engine, plus clamp, plus cable
	// 3 within what a good circuit shows: clears battery, pinion, clutch and engine
}

// Whether a motor has to be opened: how much of what is likely lies inside it.
func ExampleInsideShare() {
	a := reasoner()
	op, err := explain.Weigh(context.Background(), a, burnt())
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(explain.InsideShare(a.C, op.Diagnoses) < 0.1)
	// Output:
	// true
}
