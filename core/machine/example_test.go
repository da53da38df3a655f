package machine_test

import (
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
	"fmt"
	"math/rand/v2"
)

// starter is a machine of nominal values with a fault hidden in it.
func starter(hidden string) *machine.Machine {
	c, err := circuit.Family("starter")
	if err != nil {
		panic(err)
	}
	net, err := circuit.Compile(c)
	if err != nil {
		panic(err)
	}
	m, err := fault.NewModel(net)
	if err != nil {
		panic(err)
	}
	f, severity, _, err := m.Parse(hidden)
	if err != nil {
		panic(err)
	}
	return machine.New(m, net.Nominal(), []machine.Hidden{{Fault: f, Severity: severity}}, rand.New(rand.NewPCG(1, 2)))
}

// A simulated machine is measured as a real one is: with a meter's own error.
func ExampleMachine_Measure() {
	e := casefile.Evidence{Measure: unit.Voltage, State: "crank", From: "bat_pos", To: "pos_cable_start"}
	err := starter("pos_clamp.high_resistance=0.02ohm").Measure(&e, meter.Default(unit.Voltage))
	fmt.Println(e.Value, err)
	// Output:
	// 2.59 <nil>
}

// What is hidden is known to who made it.
func ExampleMachine_Truth() {
	m := starter("motor.seized")
	fmt.Println(m.Truth().Faults, m.Speed())
	// Output:
	// [motor.seized] 0
}
