package motor_test

import (
	"corriente/core/motor"
	"fmt"
	"math"
)

// A permanent-magnet motor on 12 V: at no load it turns until its own EMF leaves just the current of its friction.
func ExampleParams_Solve() {
	p := motor.Params{Resistance: 0.1, Ke: 0.04, Friction: 0.08, RatedSpeed: 300, BrushKnee: 0.01, SpeedKnee: 3}
	free := p.Solve(12, 0.01)
	p.Seized = true
	stalled := p.Solve(12, 0.01)
	fmt.Printf("free %.0f A, %.0f rpm; stalled %.0f A\n", free.I, free.W*30/math.Pi, stalled.I)
	// Output:
	// free 2 A, 2812 rpm; stalled 109 A
}

// One turning point and one at stall give resistance and speed constant exactly: 4 V less 0.6 V of brushes on 40 A.
func ExampleFit() {
	f, err := motor.Fit([]motor.Run{{V: 12.6, I: 3, W: 300}, {V: 4.6, I: 40, W: 0}}, 0.6)
	fmt.Printf("%.2f Ω, %.3f V s/rad, %v\n", f.R, f.Ke, err)
	// Output:
	// 0.10 Ω, 0.039 V s/rad, <nil>
}
