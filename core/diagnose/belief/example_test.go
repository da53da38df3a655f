package belief_test

import (
	"context"
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
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

// A job as a case file carries it, for the reasoning.
func ExampleJobOf() {
	j := burnt()
	fmt.Println(len(j.Evidence), j.Intermittent)
	// Output:
	// 3 false
}

// The posterior grows with the evidence: the contact is one suspect among many before the volts across it are known.
func ExampleReasoner_Step() {
	a, j := reasoner(), burnt()
	for n := 1; n <= 2; n++ {
		s, err := a.Step(context.Background(), a.Collect(j, 0, n), &belief.Epoch{Prior: a.BasePrior})
		if err != nil {
			fmt.Println(err)
			return
		}
		stations, _ := s.Stations()
		fmt.Println(n, stations["main_contact"] > 0.9)
	}
	// Output:
	// 1 false
	// 2 true
}
