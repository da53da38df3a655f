package circuit_test

import (
	"fmt"
	"strings"

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
	what, which, _ := strings.Cut(err.Error(), "; ")
	fmt.Println(what)
	fmt.Println(strings.Contains(which, "starter"))
	// Output:
	// no circuit family "toaster"
	// true
}
