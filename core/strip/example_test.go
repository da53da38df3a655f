package strip_test

import (
	"fmt"

	"corriente/core/strip"
)

// One line a thing: how many, which size, what it is.
func ExampleParse() {
	p := strip.Parse("2x 8 mm long bolt, 12 Nm")
	fmt.Println(p.Count, p.Size, p.What, p.Torque)
	// Output:
	// 2 8 mm long bolt 12 Nm
}
