package trace_test

import (
	"corriente/core/trace"
	"fmt"
	"strings"
)

// A file as a scope writes it: the units of its columns are found.
func ExampleRead() {
	f, err := trace.Read(strings.NewReader("Time (ms);Clamp (mA)\n0;1200\n0,02;1210\n0,04;1190\n"))
	fmt.Println(f.N, f.Channels[0].Name, f.Channels[0].Unit, err)
	fmt.Printf("%.2g s\n", f.Dt)
	// Output:
	// 3 Clamp mA <nil>
	// 2e-05 s
}

// A clamp's scale as it stands on it: volts an ampere.
func ExamplePerAmpere() {
	v, err := trace.PerAmpere("100 mV/A")
	fmt.Println(v, err)
	_, err = trace.PerAmpere("100")
	fmt.Println(err != nil)
	// Output:
	// 0.1 <nil>
	// true
}
