package meter_test

import (
	"fmt"

	"corriente/core/meter"
	"corriente/core/unit"
)

// An ordinary handheld is off by its percentage and some counts at most.
func ExampleAccuracy_Limit() {
	acc := meter.Handheld().For(unit.Voltage)
	fmt.Printf("12.40 V ± %.2f V\n", acc.Limit(12.4))
	// Output:
	// 12.40 V ± 0.08 V
}

// Under three counts it cannot tell a joint from a cable.
func ExampleAccuracy_CannotTell() {
	acc := meter.Handheld().For(unit.Resistance)
	fmt.Println(acc.CannotTell(0.2), acc.CannotTell(4.7))
	// Output:
	// true false
}
