package machine

import "math"

// Bars of the commutator that a simulated motor has where nothing says
// otherwise, and the share of the mean by which its current ripples (common
// practice: a few per cent for a small motor with twelve bars).
const (
	traceBars   = 12
	traceRipple = 0.05
)

// Trace is the motor's current from the moment a state is entered, A, n samples
// at rate a second: the rush of the standing motor, which falls as it comes up
// to speed, the commutation's ripple, and the clamp's noise.
func (m *Machine) Trace(state string, rate float64, n int) []float64 {
	out := make([]float64, n)
	k := m.Net.MotorStation()
	st := m.Net.StatePos(state)
	if k < 0 || st < 0 || !m.Net.C.States[st].Powered() {
		return out
	}
	m.w.Solve(st, m.Theta, m.h)
	steady, speed := math.Abs(m.w.I[k]), m.w.Motor.W
	rush := steady
	if speed > 0 {
		rush = 5 * steady // standing, it draws a multiple of its running current
	}
	const tau = 0.04 // s, mechanical time constant
	angle := 0.0
	for i := range out {
		t := float64(i) / rate
		up := 1 - math.Exp(-t/tau)
		mean := rush + (steady-rush)*up
		angle += speed * up / rate
		hump := math.Abs(math.Sin(angle * traceBars / 2))
		v := mean * (1 + traceRipple*(hump-2/math.Pi))
		out[i] = v + 0.002*(rush+1)*m.rng.NormFloat64()
	}
	return out
}
