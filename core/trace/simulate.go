package trace

import (
	"math"
	"math/rand/v2"
)

// Motor is a simulated motor whose current is traced: for the demo, the trainer,
// the tests, and the likelihoods of what a trace shows.
type Motor struct {
	MeanA   float64
	RPM     float64
	Bars    int
	Brushes int     // 0: 2
	Ripple  float64 // swing of the commutation against the mean, 0.05 is ordinary
	Weak    map[int]float64
	Drag    float64 // rise and fall once a revolution, half of it, against the mean
	Drift   float64 // speed at the end against the start, less one
	Wander  float64 // slow swing of the load, half of it, against the mean
	Dropout float64 // brush bounces a second
	// Sag lets the current go over from hump to hump as a brush slides from bar to bar: a weak one sags, as
	// on a real motor. Without it the level steps, which is the sharper case for a test.
	Sag bool
}

// Scope is what looks at it.
type Scope struct {
	Rate   float64 // samples a second
	N      int
	Noise  float64 // A, standard deviation
	Bits   int     // of the converter; 0: fine
	Quiet  float64 // seconds before the motor is switched on
	Offset float64 // of the clamp, A
	ChopHz float64 // of a speed module; 0: none
	Duty   float64
}

// levelAt is the level where the armature stands, in humps from the mark: in the middle of a hump its own, at the
// edge the mean of both, in between by a raised cosine.
func (m Motor) levelAt(level []float64, at float64) float64 {
	n := len(level)
	h := int(at) % n
	if !m.Sag {
		return level[h]
	}
	x := at - math.Floor(at) - 0.5
	next := (h + 1) % n
	if x < 0 {
		next = (h + n - 1) % n
	}
	own := (1 + math.Cos(math.Pi*x)) / 2
	return own*level[h] + (1-own)*level[next]
}

// Trace is the motor's current as the scope shows it, A. Weak holds, by hump
// within a revolution, the share of the current that is left there.
func (m Motor) Trace(s Scope, rng *rand.Rand) []float32 {
	brushes := m.Brushes
	if brushes == 0 {
		brushes = 2
	}
	humps := HumpsOf(m.Bars, brushes)
	level := make([]float64, humps)
	for i := range level {
		level[i] = 1
		if w, ok := m.Weak[i]; ok {
			level[i] = w
		}
	}
	out := make([]float32, s.N)
	quiet := int(s.Quiet * s.Rate)
	run := float64(s.N-quiet) / s.Rate
	turn, bounce := rng.Float64(), -1.0
	for i := range out {
		v := 0.0
		if i >= quiet {
			t := float64(i-quiet) / s.Rate
			turn += m.RPM / 60 * (1 + m.Drift*t/run) / s.Rate
			at := turn * float64(humps)
			v = m.MeanA * m.levelAt(level, at) * (1 + m.Ripple*(math.Sin(math.Pi*(at-math.Floor(at)))-2/math.Pi))
			v *= 1 + m.Drag*math.Cos(2*math.Pi*turn) + m.Wander*math.Sin(2*math.Pi*1.3*t)
			if s.Quiet > 0 {
				v *= 1 + 4*math.Exp(-t/0.03) // the rush of the standing motor
			}
			if m.Dropout > 0 && rng.Float64() < m.Dropout/s.Rate {
				bounce = t + 0.4*60/(m.RPM*float64(humps))
			}
			if t < bounce {
				v *= 0.02
			}
			if s.ChopHz > 0 {
				ph := t * s.ChopHz
				if ph-math.Floor(ph) > s.Duty {
					v = 0
				}
			}
		}
		out[i] = float32(v + s.Offset + s.Noise*rng.NormFloat64())
	}
	if s.Bits > 0 {
		lo, hi := float32(math.Inf(1)), float32(math.Inf(-1))
		for _, v := range out {
			lo, hi = min(lo, v), max(hi, v)
		}
		step := (hi - lo) * 1.25 / float32(int(1)<<s.Bits)
		for i, v := range out {
			out[i] = float32(math.Round(float64(v/step))) * step
		}
	}
	return out
}
