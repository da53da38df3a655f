package repair_test

import (
	"corriente/core/circuit"
	"corriente/core/repair"
	"fmt"
)

// Worn brushes are known: repair or replace, by what each is expected to cost.
func ExampleCompare() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	cmp, err := repair.Compare(c, repair.Question{Stations: []string{"motor"},
		Diagnoses: []repair.Diagnosis{{Faults: []string{"motor.brushes_worn"}, Probability: 1}},
		Terms:     repair.Terms{HourRate: 58, Years: 4}})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(cmp.Options[0].ID, len(cmp.Options) > 3)
	// Output:
	// leave true
}

// Burnt near fuel: what is only a makeshift is ruled out, and says why.
func ExampleComparison() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	cmp, err := repair.Compare(c, repair.Question{Stations: []string{"pos_cable"},
		Diagnoses: []repair.Diagnosis{{Faults: []string{"pos_cable.high_resistance"}, Probability: 1}},
		Terms:     repair.Terms{HourRate: 58, Years: 4, Burnt: true, NearFuel: true}})
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, o := range cmp.Options {
		if o.Veto != nil {
			fmt.Println(o.ID, o.Veto.Reason)
		}
	}
	// Output:
	// leave burnt insulation near fuel or oil is a fire hazard: only a lasting repair, and out of use until then
	// temporary burnt insulation near fuel or oil is a fire hazard: only a lasting repair, and out of use until then
}
