package unit_test

import (
	"fmt"

	"corriente/core/unit"
)

// A figure is taken as people type it: a comma or a point, the unit or not, OL.
func ExampleParse() {
	for _, typed := range []string{"12,4", "350 mV", "0.47k", "OL"} {
		m := unit.Voltage
		if typed == "0.47k" || typed == "OL" {
			m = unit.Resistance
		}
		r, err := unit.Parse(typed, m)
		fmt.Println(r.String(m), r.Over, err)
	}
	// Output:
	// 12.40 V false <nil>
	// 0.35 V false <nil>
	// 470 Ω false <nil>
	// OL true <nil>
}

func ExampleFormat() {
	fmt.Println(unit.Format(0.0034, unit.Voltage))
	fmt.Println(unit.Format(1240, unit.Resistance))
	// Output:
	// 3.40 mV
	// 1.24 kΩ
}
