package blink_test

import (
	"corriente/core/blink"
	"corriente/core/circuit"
	"fmt"
	"strings"
)

// Taps along with a lamp: three flashes, a pause, three flashes again.
func ExampleGroup() {
	c := blink.Group([]float64{0, 0.4, 0.8, 3, 3.4, 3.8}, 6.5)
	fmt.Println(c.Code, c.Rounds)
	// Output:
	// 3 [3 3]
}

// A table as a workshop writes it; what the circuit does not have is refused with its line.
func ExampleReadCSV() {
	c, err := circuit.Family("traction")
	if err != nil {
		fmt.Println(err)
		return
	}
	es, err := blink.ReadCSV(strings.NewReader("code,meaning,faults\n3,Motor circuit,motor.brushes_worn\n"), c)
	fmt.Println(es, err)
	_, err = blink.ReadCSV(strings.NewReader("code,meaning,faults\n3,Motor circuit,motor.sleepy\n"), c)
	fmt.Println(err != nil)
	// Output:
	// [{3 Motor circuit [motor.brushes_worn]}] <nil>
	// true
}
