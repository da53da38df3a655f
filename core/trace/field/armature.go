package field

import (
	"math"
	"math/rand/v2"
)

// fineness is how many angles of one bar's pitch the armature is solved for.
const fineness = 64

// armature is a lap winding with as many poles as brushes. Coil k lies between the bars k
// and k+1. Ohms; the electromotive force is a share of a full path's.
type armature struct {
	bars, brushes int
	ohm           []float64 // of each coil
	turns         []float64 // share of each coil's turns that is whole
	bar           []float64 // conductance of each bar's contact against a sound one, 0..1
	width         []float64 // of each brush, bars
	at            []float64 // where each brush stands off its place, bars
	contact       []float64 // conductance of each brush over its whole face, S
	pole          []float64 // strength of each pole
	arc           float64   // share of a pole's pitch that its face covers
}

// seen is what the terminals see of an armature at an angle: a source behind an
// admittance.
type seen struct{ emf, ohm float64 }

// flux is the share of a coil's greatest electromotive force at an electrical angle, with
// its sign: flat under a pole, through nought between two.
func (a *armature) flux(electrical float64) float64 {
	t := math.Mod(electrical/math.Pi, 2)
	if t < 0 {
		t += 2
	}
	sign, pole := 1.0, int(math.Floor(t))
	if pole == 1 {
		sign = -1
		t--
	}
	edge := (1 - a.arc) / 2
	d := math.Min(t, 1-t)
	return sign * math.Min(1, math.Sin(math.Min(d/edge, 1)*math.Pi/2))
}

// solve finds what the terminals see at an angle, in bars.
func (a *armature) solve(turn float64) seen {
	n := a.bars
	poles := float64(a.brushes)
	// Node voltages of the bars, once with 1 V between the brushes and no electromotive force,
	// once the other way about: a ring, and contacts to both terminals.
	diag, plus, source := make([]float64, n), make([]float64, n), make([]float64, n)
	g := make([]float64, n) // of the coil from k to k+1
	total := 0.0
	for k := range n {
		g[k] = 1 / a.ohm[k]
		// The coil's middle, in pitches of a pole; brushes stand where it passes nought.
		electrical := math.Pi * poles * (float64(k) + 0.5 + turn) / float64(n)
		pole := int(math.Floor(electrical/math.Pi+1e-9)) % a.brushes
		if pole < 0 {
			pole += a.brushes
		}
		e := a.flux(electrical) * a.turns[k] * a.pole[pole] * poles / float64(n)
		j := (k + 1) % n
		diag[k] += g[k]
		diag[j] += g[k]
		source[k] -= e * g[k]
		source[j] += e * g[k]
	}
	minus := make([]float64, n)
	for b := range a.brushes {
		c := float64(b)*float64(n)/poles + a.at[b]
		for k := range n {
			// How much of the brush lies on this bar.
			p := math.Mod(float64(k)+turn-c, float64(n))
			if p < -float64(n)/2 {
				p += float64(n)
			} else if p > float64(n)/2 {
				p -= float64(n)
			}
			over := math.Min(p+0.48, a.width[b]/2) - math.Max(p-0.48, -a.width[b]/2)
			if over <= 0 {
				continue
			}
			y := a.contact[b] * a.bar[k] * over / a.width[b]
			diag[k] += y
			if b%2 == 0 {
				plus[k] += y
			} else {
				minus[k] += y
			}
			total += y
		}
	}
	one := ring(diag, g, plus)    // 1 V on the plus terminal
	load := ring(diag, g, source) // electromotive force alone, terminals held at nought
	y, short := 0.0, 0.0
	for k := range n {
		y += plus[k] * (1 - one[k])
		short += plus[k] * load[k] // flows out of the armature into the plus terminal
	}
	return seen{emf: short / y, ohm: 1 / y}
}

// ring solves a ring of conductances: diag[k] v[k] - g[k-1] v[k-1] - g[k] v[k+1] = b[k], by
// elimination with one corner (Sherman and Morrison).
func ring(diag, g, b []float64) []float64 {
	n := len(diag)
	corner := -g[n-1]
	gamma := -diag[0]
	d := append([]float64(nil), diag...)
	d[0] -= gamma
	d[n-1] -= corner * corner / gamma
	u := make([]float64, n)
	u[0], u[n-1] = gamma, corner
	x, z := thomas(d, g, b), thomas(d, g, u)
	f := (x[0] + corner*x[n-1]/gamma) / (1 + z[0] + corner*z[n-1]/gamma)
	for i := range x {
		x[i] -= f * z[i]
	}
	return x
}

func thomas(d, g, b []float64) []float64 {
	n := len(d)
	c, x := make([]float64, n), make([]float64, n)
	den := d[0]
	x[0] = b[0] / den
	for i := 1; i < n; i++ {
		c[i-1] = -g[i-1] / den
		den = d[i] + g[i-1]*c[i-1]
		x[i] = (b[i] + g[i-1]*x[i-1]) / den
	}
	for i := n - 2; i >= 0; i-- {
		x[i] -= c[i] * x[i+1]
	}
	return x
}

// newArmature draws a sound armature, scattered as made ones are: coils by a per cent or
// two, brushes in width, place and contact, poles in strength.
func newArmature(bars, brushes int, ohm float64, rng *rand.Rand) *armature {
	a := &armature{bars: bars, brushes: brushes, arc: 0.55 + 0.3*rng.Float64()}
	spread := 0.003 + 0.015*rng.Float64()
	for range bars {
		a.ohm = append(a.ohm, ohm*float64(brushes*brushes)/float64(bars)*(1+spread*rng.NormFloat64()))
		a.turns = append(a.turns, 1+0.3*spread*rng.NormFloat64())
		a.bar = append(a.bar, math.Exp(0.08*rng.NormFloat64()))
	}
	width := 0.9 + 1.1*rng.Float64()
	for range brushes {
		a.width = append(a.width, width*(1+0.03*rng.NormFloat64()))
		a.at = append(a.at, 0.06*rng.NormFloat64())
		a.contact = append(a.contact, 2*12/ohm*math.Exp(0.2*rng.NormFloat64())/float64(brushes))
		a.pole = append(a.pole, 1+0.012*rng.NormFloat64())
	}
	return a
}

// revolution solves the armature for every angle of a revolution.
func (a *armature) revolution() []seen {
	out := make([]seen, a.bars*fineness)
	for i := range out {
		out[i] = a.solve(float64(i) / fineness)
	}
	return out
}
