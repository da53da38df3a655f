package diagnose_test

import (
	"context"
	"fmt"
	"strings"

	"corriente/core/casefile"
	"corriente/core/diagnose"
)

// A starter that only clicks, with most of the volts lost across the solenoid's contact.
func ExampleAdviser_Weigh() {
	c, err := casefile.Read(strings.NewReader(`{"format": "corriente-case/1", "circuit": "starter", "evidence": [
		{"observe": "click", "state": "crank", "outcome": "single"},
		{"measure": "voltage", "state": "crank", "from": "bat_pos", "to": "bat_neg", "value": "12.2"},
		{"measure": "voltage", "state": "crank", "from": "sol_b", "to": "sol_m", "value": "11.6"}]}`))
	if err != nil {
		fmt.Println(err)
		return
	}
	a, err := diagnose.NewAdviser(c.Circuit)
	if err != nil {
		fmt.Println(err)
		return
	}
	op, err := a.Weigh(context.Background(), diagnose.JobOf(c))
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(op.Verdict.Status, *op.Verdict.Station)
	fmt.Println(op.Verdict.Plain)
	// Output:
	// fault_found main_contact
	// Something is wrong; the likeliest place is the solenoid main contact, not yet sure.
}

func ExampleTells() {
	fmt.Println(diagnose.Tells(0.9), diagnose.Tells(0.2), diagnose.Tells(0.01))
	// Output:
	// much some little
}
