package field

import (
	"math"
	"math/rand/v2"
	"slices"

	"corriente/core/trace"
)

// Settings are the ranges that traces are drawn from. Tuning and reporting use different ones,
// as they use different seeds.
type Settings struct {
	RPM, PerHump, Turns [2]float64 // drawn evenly in their logarithms
	Ripple              float64    // how strongly the electromotive force works through, 0.3..0.9 of the supply
	Noise               [2]float64 // of the mean current
	MostDrift           float64
	MostSamples         int
}

// Tuning and Reporting are the two sets of ranges.
func Tuning() Settings {
	return Settings{RPM: [2]float64{700, 9000}, PerHump: [2]float64{10, 1500}, Turns: [2]float64{3, 250},
		Ripple: 0.62, Noise: [2]float64{0.0006, 0.01}, MostDrift: 0.2, MostSamples: 400_000}
}

// Reporting is the other set.
func Reporting() Settings {
	return Settings{RPM: [2]float64{500, 14000}, PerHump: [2]float64{10, 2000}, Turns: [2]float64{3, 300},
		Ripple: 0.7, Noise: [2]float64{0.001, 0.012}, MostDrift: 0.2, MostSamples: 500_000}
}

// Truth is what a simulated trace was made from.
type Truth struct {
	Bars, Brushes, Humps int
	RPM                  float64 // mean over the settled part
	Turns                float64
	PerHump              float64
	Fault                string // "" for a sound armature
	Weak                 []int  // humps more than 5 % below the middle one, from noiseless current at a steady speed
	Near                 bool   // a hump stands so near to 5 % that either answer is right
	Alike                bool   // every hump within 0.6 % of the middle one: nothing marks a revolution
	Spread               float64
	Chop                 float64 // Hz; 0: none
	ChopSupply           bool    // the clamp is round the module's supply
	Alternator           bool
	Mains                bool
	Drag                 float64
	Started              bool
}

// Sample is a trace with its truth.
type Sample struct {
	Amperes []float32
	Dt      float64
	Truth   Truth
	Given   trace.Options // what the person at the scope knows
}

func logBetween(r [2]float64, rng *rand.Rand) float64 {
	return r[0] * math.Pow(r[1]/r[0], rng.Float64())
}

// motor is one at its work.
type motor struct {
	rev           []seen
	ohm, henry    float64
	emf           float64 // of the supply, at the middle speed
	mean          float64 // A
	bars          int
	drag, second  float64 // load once and twice a revolution
	phase, phase2 float64
	brushDrop     float64
	sumR, sumE    float64 // of ohms and electromotive force over a revolution
	sumN          float64
}

func (m *motor) at(turn float64) seen {
	p := (turn - math.Floor(turn)) * float64(len(m.rev))
	i := int(p)
	if i >= len(m.rev) {
		i = len(m.rev) - 1
	}
	j := (i + 1) % len(m.rev)
	f := p - float64(i)
	return seen{m.rev[i].emf*(1-f) + m.rev[j].emf*f, m.rev[i].ohm*(1-f) + m.rev[j].ohm*f}
}

// step moves the current over dt seconds at a supply of v volts and a speed against the
// middle one: exact for what is constant over the step.
func (m *motor) step(i, v, speed, turn, dt float64) float64 {
	s := m.at(turn)
	drop := m.brushDrop * i / (math.Abs(i) + 0.1*m.mean + 1e-9)
	r := s.ohm + m.ohm
	end := (v - drop - speed*m.emf*s.emf) / r
	return end + (i-end)*math.Exp(-dt*r/m.henry)
}

// Draw makes a trace.
func Draw(set Settings, rng *rand.Rand) *Sample {
	t := &Truth{Bars: 7 + rng.IntN(23), Brushes: 2}
	if rng.IntN(4) == 0 {
		t.Brushes = 4
		t.Bars = max(t.Bars, 9)
	}
	t.Humps = trace.HumpsOf(t.Bars, t.Brushes)
	t.RPM = logBetween(set.RPM, rng)
	t.RPM = math.Min(t.RPM, 5500*60/float64(t.Humps))
	hz := t.RPM / 60 * float64(t.Humps)
	t.Turns, t.PerHump = logBetween(set.Turns, rng), logBetween(set.PerHump, rng)
	if n := t.Turns * t.PerHump * float64(t.Humps); n > float64(set.MostSamples) {
		k := math.Sqrt(n / float64(set.MostSamples))
		t.Turns, t.PerHump = math.Max(3, t.Turns/k), t.PerHump/k
		t.PerHump = math.Max(10, math.Min(t.PerHump, float64(set.MostSamples)/t.Turns/float64(t.Humps)))
	}
	m := &motor{mean: logBetween([2]float64{2, 150}, rng), bars: t.Bars}
	volts := 12.6
	whole := volts * (1 - set.Ripple) * (0.8 + 0.4*rng.Float64()) / m.mean
	a := newArmature(t.Bars, t.Brushes, 0.6*whole, rng)
	m.ohm, m.brushDrop = 0.2*whole, 1.2
	m.henry = whole * (0.1 + 0.5*rng.Float64()) / hz
	a.spoil(t, 0.6*whole, rng)
	m.rev = a.revolution()
	m.calibrate(volts)
	if rng.IntN(3) == 0 {
		t.Drag = 0.004 + 0.05*rng.Float64()*rng.Float64()
		m.drag, m.second = t.Drag, t.Drag*0.4*rng.Float64()
		m.phase, m.phase2 = rng.Float64(), rng.Float64()
	}
	m.truth(t)
	s := &Sample{Truth: *t}
	s.look(m, set, rng)
	if s.Given.Bars = 0; rng.IntN(2) == 0 || t.Alike {
		s.Given.Bars = t.Bars
	}
	s.Given.Brushes = t.Brushes // whoever does not know leaves it at two: see the package
	return s
}

// calibrate sets the electromotive force so that the mean current is drawn at the middle
// speed.
func (m *motor) calibrate(volts float64) {
	r, e := 0.0, 0.0
	for _, s := range m.rev {
		r += (s.ohm + m.ohm) / float64(len(m.rev))
		e += s.emf / float64(len(m.rev))
	}
	m.emf = (volts - m.brushDrop/1.1 - m.mean*r) / e
}

// spoil gives an armature its fault: two in five are sound.
func (a *armature) spoil(t *Truth, ohm float64, rng *rand.Rand) {
	k := rng.IntN(a.bars)
	switch rng.IntN(10) {
	case 0, 1:
		t.Fault = "burnt bar"
		a.bar[k] = logBetween([2]float64{0.01, 0.15}, rng)
		if rng.IntN(3) == 0 {
			a.bar[(k+1)%a.bars] = logBetween([2]float64{0.02, 0.3}, rng)
		}
	case 2:
		t.Fault = "two burnt bars"
		a.bar[k], a.bar[(k+2+rng.IntN(a.bars-3))%a.bars] = logBetween([2]float64{0.01, 0.15}, rng), logBetween([2]float64{0.01, 0.15}, rng)
	case 3:
		t.Fault = "open coil"
		a.ohm[k] = 1e5 * ohm
	case 4:
		t.Fault = "coil of high resistance"
		a.ohm[k] *= 2 + 8*rng.Float64()
	case 5:
		t.Fault = "shorted coil"
		left := 0.05 + 0.6*rng.Float64()
		a.ohm[k] *= left
		a.turns[k] *= left
	}
}

// truth runs the motor at its middle speed without a scope and folds it into its humps.
func (m *motor) truth(t *Truth) {
	const sub = 48
	n := t.Humps * sub
	dt := 60 / t.RPM / float64(n)
	v := m.supply(1, 1)
	i := m.mean
	rev := make([]float64, n)
	for turn := range 4 {
		for k := range n {
			i = m.step(i, v, 1, (float64(k)+0.5)/float64(n), dt)
			if turn == 3 {
				rev[k] = i
			}
		}
	}
	// A hump runs from one least of the ripple to the next.
	re, im := 0.0, 0.0
	for k, x := range rev {
		s, c := math.Sincos(2 * math.Pi * float64(k) / sub)
		re += x * c
		im += x * s
	}
	least := math.Atan2(im, re)/(2*math.Pi) + 0.5
	first := int(math.Round((least - math.Floor(least)) * sub))
	levels := make([]float64, t.Humps)
	for k := range n {
		levels[k/sub] += rev[(k+first)%n] / sub
	}
	sorted := slices.Clone(levels)
	slices.Sort(sorted)
	middle := sorted[len(sorted)/2]
	for k, x := range levels {
		short := 1 - x/middle
		t.Spread = math.Max(t.Spread, math.Abs(short))
		if short > 0.05 {
			t.Weak = append(t.Weak, k)
		}
		if short > 0.035 && short < 0.065 {
			t.Near = true
		}
	}
	t.Alike = t.Spread < 0.006
}
