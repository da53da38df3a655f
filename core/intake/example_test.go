package intake_test

import (
	"corriente/core/intake"
	"fmt"
)

// A complaint in plain words leads to a circuit, and to what is still worth asking.
func ExampleSuggest() {
	a := intake.Suggest("the heater fan is dead", nil)
	fmt.Println(a.Fits[0].Circuit, a.Heard[0].ID)
	fmt.Println(a.Ask[0].Text)
	// Output:
	// blower_module dead
	// How is the speed set?
}

// What was said is evidence, and is not asked again.
func ExampleEvidence() {
	for _, e := range intake.Evidence("blower_resistor", map[string]string{"speeds": "none"}) {
		fmt.Println(e.Observe, e.State, e.Outcome)
	}
	// Output:
	// airflow speed_4 none
}
