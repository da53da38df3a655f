package wear_test

import (
	"corriente/core/wear"
	"fmt"
)

// Half of the usable length is left after 600 hours: about 600 more.
func ExampleBrush_Left() {
	l, err := wear.Brush{New: 0.016, Now: 0.011, Min: 0.006, Hours: 600, U: 0.00005}.Left()
	fmt.Printf("%.0f %%, %.0f h, %v\n", 100*l.Share, l.Hours, err)
	// Output:
	// 50 %, 600 h, <nil>
}

// A caliper's three measures name a bearing of ISO 15.
func ExampleIdentify() {
	m, err := wear.Identify(0.020, 0.04702, 0.014, 0.00005)
	fmt.Println(m[0].Designation, err)
	// Output:
	// 6204 <nil>
}
