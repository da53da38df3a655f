package train_test

import (
	"corriente/core/circuit"
	"corriente/core/train"
	"fmt"
)

// An exercise is found by its id, with what it hides.
func ExampleFind() {
	ex := train.Find("sg3")
	fmt.Println(ex.Title, ex.Circuit, train.Find("no such") == nil)
	// Output:
	// Pump hums at half speed two_wire_motor true
}

// What a job turned out to be becomes an exercise.
func ExampleFromJob() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	ex, err := train.FromJob("job-1", train.Solved{Circuit: c, Machine: "Orchard tractor 3", Complaint: "only clicks",
		Fault: "main_contact.high_resistance"}, 7)
	fmt.Println(ex.Title, ex.Faults, ex.Idea, err)
	// Output:
	// Orchard tractor 3 [main_contact.high_resistance] It was here: Solenoid main contact, high resistance. <nil>
}
