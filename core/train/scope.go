package train

import (
	"math/rand/v2"

	"corriente/core/machine"
	"corriente/core/trace"
)

// Sweep is a current as a scope shows it.
type Sweep struct {
	Seconds float64   `json:"seconds"`
	Amperes []float32 `json:"amperes"` // evenly over the time
}

// sweepOf is over how many turns of the motor a sweep goes, and sweepPoints how many
// points it is drawn with.
const (
	sweepTurns  = 4
	sweepPoints = 480
)

// scope looks at the motor's current: the trace of an armature with the fault that the
// machine hides, at the current that the circuit lets it draw, and the word that its
// analysis comes to. No sweep where the motor stands.
func (t *Attempt) scope(m *machine.Machine, state string, rng *rand.Rand) (*Sweep, string) {
	w := m.Work(state)
	k := m.Net.MotorStation()
	if k < 0 || w.Chatter || w.Motor.W < 1 {
		return nil, ""
	}
	mode := ""
	for _, h := range m.Hidden {
		if s := h.Fault.Station; t.A.C.StationIndex(s) == k || h.Fault.Mode == "binding" {
			mode = h.Fault.Mode
		}
	}
	amperes, dt, word, turn := trace.Seen(mode, rng)
	n := min(len(amperes), int(sweepTurns*turn/dt))
	scale := 1.0
	mean := 0.0
	for _, v := range amperes {
		mean += float64(v) / float64(len(amperes))
	}
	if mean > 0 {
		scale = w.Motor.I / mean
	}
	// Least and most of each stretch: a dropout must not fall between two points.
	s := &Sweep{Seconds: float64(n) * dt}
	for i := range sweepPoints / 2 {
		lo, hi := i*n/(sweepPoints/2), (i+1)*n/(sweepPoints/2)
		if hi <= lo {
			continue
		}
		a, b := amperes[lo], amperes[lo]
		for _, v := range amperes[lo:hi] {
			a, b = min(a, v), max(b, v)
		}
		s.Amperes = append(s.Amperes, a*float32(scale), b*float32(scale))
	}
	return s, word
}
