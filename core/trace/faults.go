package trace

import (
	"math"
	"math/rand/v2"
)

// Words for what a trace shows: the outcomes of the observation current_trace.
const (
	Even     = "even"
	WeakBar  = "weak_bar"
	Drops    = "dropouts"
	Drags    = "drags"
	dropsMin = 3 // fewer dropouts than this may be the clamp's own noise
)

// word is the one word that an analysis comes to, "" where the bars could not be
// told and nothing else stands out.
func (r *Analysis) word() string {
	switch {
	case r.Dropouts >= dropsMin:
		return Drops
	case r.WeakBars != nil && len(*r.WeakBars) > 0:
		return WeakBar
	case r.DragPercent > 0:
		return Drags
	case r.WeakBars != nil:
		return Even
	}
	return ""
}

// Armature is a lap-wound armature between two brushes: bars coils in a ring, cut
// by the brushes into two paths. It is the commutated motor by which the
// likelihoods of a trace's words are found.
type Armature struct {
	Ohm     []float64 // each coil
	EMF     []float64 // share of the back EMF that each coil makes, of a sound one's
	Contact []float64 // extra ohms under each bar
}

// currents returns the current of each hump, V the supply less brush drop, e the
// back EMF of a sound path. The paths stand in parallel: each drives (V - E) / R.
func (a *Armature) currents(v, e, lead float64) []float64 {
	n := len(a.Ohm)
	half := n / 2
	out := make([]float64, n)
	for h := range out {
		var g, drive float64
		for side := range 2 {
			r, emf := 0.0, 0.0
			for k := range half {
				c := (h + side*half + k) % n
				r += a.Ohm[c]
				emf += a.EMF[c]
			}
			emf *= e / float64(half)
			g += 1 / r
			drive += (v - emf) / r
		}
		// Seen from the brushes: source drive/g behind 1/g, then leads and contacts.
		r := lead + a.Contact[h] + a.Contact[(h+half)%n]
		out[h] = (drive / g) / (1/g + r)
	}
	return out
}

// Faulty is the word that a trace of [Seen] comes to.
func Faulty(mode string, rng *rand.Rand) string {
	_, _, word, _ := Seen(mode, rng)
	return word
}

// Seen draws a motor with a fault, as a workshop meets it, runs it with a clamp
// and a scope of eight bits on it, and returns its trace, A, the seconds between two
// samples, the word that its analysis comes to, and the seconds of a turn. The
// ranges are from memory: sound armatures scatter by a per cent or two from bar to
// bar and drag by less than one; a damaged commutator has one to three bars with a
// tenth to once the armature's resistance more; worn brushes bounce some to many
// times a second and have more contact resistance; shorted turns take a tenth to
// six tenths of one coil; a dragging bearing is mostly smooth, now and then tight
// once a revolution.
func Seen(mode string, rng *rand.Rand) (amperes []float32, dt float64, word string, turn float64) {
	bars := 2 * (5 + rng.IntN(8))
	arm := Armature{make([]float64, bars), make([]float64, bars), make([]float64, bars)}
	const whole = 0.4 // Ω, both paths together
	for i := range bars {
		arm.Ohm[i] = whole * 4 / float64(bars) * (1 + 0.008*rng.NormFloat64())
		arm.EMF[i] = 1 + 0.002*rng.NormFloat64()
	}
	m := Motor{RPM: 1200 * math.Pow(3, rng.Float64()), Bars: bars, Ripple: 0.04 + 0.05*rng.Float64(),
		Drag: 0.006 * rng.Float64(), Drift: 0.06 * (rng.Float64() - 0.5)}
	switch mode {
	case "commutator_damaged":
		for range 1 + rng.IntN(3) {
			arm.Contact[rng.IntN(bars)] = whole * 0.1 * math.Pow(10, rng.Float64())
		}
		if rng.IntN(3) == 0 {
			m.Dropout = 2 + 10*rng.Float64()
		}
	case "brushes_worn", "low_brush_worn", "high_brush_worn":
		for i := range bars {
			arm.Contact[i] += whole * 0.2 * rng.Float64()
		}
		if rng.IntN(4) > 0 {
			m.Dropout = 2 * math.Pow(20, rng.Float64())
		}
	case "shorted_turns":
		k, left := rng.IntN(bars), 0.4+0.5*rng.Float64()
		arm.Ohm[k] *= left
		arm.EMF[k] *= left
	case "bearing_drag", "binding":
		m.Drag += 0.05 * rng.Float64() * rng.Float64()
		m.Wander = 0.05 * rng.Float64()
	}
	v := 12.0
	hump := arm.currents(v, 0.75*v, 0.05)
	mean := 0.0
	for _, x := range hump {
		mean += x / float64(bars)
	}
	m.MeanA, m.Weak, m.Sag = mean, map[int]float64{}, true
	for i, x := range hump {
		m.Weak[i] = x / mean
	}
	hz := m.RPM / 60 * float64(bars)
	sc := Scope{Rate: 25 * hz, Noise: 0.01 * mean, Bits: 8}
	sc.N = int(sc.Rate * 60 / m.RPM * 60)
	amperes, dt, turn = m.Trace(sc, rng), 1/sc.Rate, 60/m.RPM
	r, err := Analyse(amperes, dt, Options{Bars: bars})
	if err != nil {
		return amperes, dt, "", turn
	}
	return amperes, dt, r.Word, turn
}

// Likelihoods of the words of a trace by fault mode, in the order even, weak_bar,
// dropouts, drags: the frequencies of 4,000 draws of [Faulty] as the analysis stood before it
// told the turn by its angle, which a test holds today's to within a tenth, with a hundredth for
// what no draw showed. "" is every other fault, and
// none.
var Likelihoods = map[string][4]float64{
	"":                   {0.99, 0, 0, 0.01},
	"commutator_damaged": {0.05, 0.59, 0.36, 0},
	"brushes_worn":       {0.07, 0.235, 0.695, 0},
	"shorted_turns":      {0.99, 0.005, 0, 0.005},
	"bearing_drag":       {0.595, 0, 0, 0.405},
}
