package fault_test

import (
	"corriente/core/circuit"
	"corriente/core/fault"
	"fmt"
)

func model(family string) *fault.Model {
	c, err := circuit.Family(family)
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
	return m
}

// A fault as it is written on the command line, with its severity.
func ExampleModel_Parse() {
	m := model("starter")
	f, severity, assumed, err := m.Parse("pos_clamp.high_resistance=0.02ohm")
	fmt.Println(f, severity, assumed, err)
	_, _, assumed, _ = m.Parse("pos_clamp.high_resistance")
	fmt.Println("a middling one is assumed:", assumed)
	// Output:
	// pos_clamp.high_resistance 0.02 false <nil>
	// a middling one is assumed: true
}

// How bad a joint can be, and what is then said of it.
func ExampleModel_ScaleOf() {
	s := model("starter").ScaleOf(fault.Fault{Station: "pos_clamp", Mode: "high_resistance"})
	fmt.Println(s.Key, s.Unit, s.ToOpen)
	fmt.Println(s.FormatSeverity(s.Middle), fault.Label("high_resistance"))
	// Output:
	// pos_clamp.resistance ohm false
	// 0.02239ohm high resistance
}
