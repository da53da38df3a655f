package circuit_test

import (
	"fmt"

	"corriente/core/circuit"
)

// A good starter at work: the volts its battery still gives, and what it takes.
func ExampleCompile() {
	c, err := circuit.Family("starter")
	if err != nil {
		fmt.Println(err)
		return
	}
	net, err := circuit.Compile(c)
	if err != nil {
		fmt.Println(err)
		return
	}
	w := net.NewWork()
	w.Solve(net.StatePos("crank"), net.Nominal(), net.SoundAll())
	bat := w.V[c.NodeIndex("bat_pos")] - w.V[c.NodeIndex(circuit.Ground)]
	fmt.Printf("%.1f V, %.0f A, turning: %v\n", bat, w.I[net.MotorStation()], w.Motor.W > 0)
	// Output:
	// 11.6 V, 161 A, turning: true
}

func ExampleFamily() {
	_, err := circuit.Family("toaster")
	fmt.Println(err)
	// Output:
	// no circuit family "toaster"; the families are actuator, blower_module, blower_resistor, capacitor_fan, contactor_motor, starter, stator, traction, two_wire_motor, window, wiper
}
