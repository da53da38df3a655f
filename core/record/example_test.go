package record_test

import (
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/record"
	"fmt"
)

// A reading in the words of a job's record.
func ExampleWords() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(record.Words(c, &diagnose.Suggestion{Measure: "voltage", State: "crank", From: "sol_b", To: "sol_m"}))
	// Output:
	// volts, solenoid battery stud to solenoid motor stud
}

// Words that are kept are tidied; nothing is no line.
func ExampleTidy() {
	text, err := record.Tidy("  2x 8 mm   bolt ")
	fmt.Printf("%q %v\n", text, err)
	_, err = record.Tidy(" ")
	fmt.Println(err != nil)
	// Output:
	// "2x 8 mm bolt" <nil>
	// true
}
