package learn_test

import (
	"corriente/core/learn"
	"fmt"
)

// What a workshop's own jobs say shifts what is shipped, the more of them there are.
func ExampleRates() {
	shipped := map[string]float64{"motor.brushes_worn": 1, "battery.discharged": 1}
	for _, r := range learn.Rates(shipped, []learn.Count{{Fault: "motor.brushes_worn", N: 9}, {Fault: "battery.discharged", N: 1}}) {
		fmt.Printf("%s %.2f\n", r.Fault, r.Factor)
	}
	// Output:
	// motor.brushes_worn 1.20
	// battery.discharged 0.80
}
