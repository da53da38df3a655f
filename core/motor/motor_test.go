package motor

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func sample() Params {
	return Params{Resistance: 0.022, BrushDrop: 0.8, Ke: 0.0205, Friction: 0.3, Load: 2.5, RatedSpeed: 330,
		LoadPower: 1, BrushKnee: 0.27, SpeedKnee: 3.3}
}

// Textbook limits of a permanent-magnet motor: stall current (V - Vb)/R, no-load speed near (V - Vb)/Ke.
func TestTextbookLimits(t *testing.T) {
	p := sample()
	p.Seized = true
	pt := p.Solve(12, 0)
	assert.True(t, pt.Stalled)
	assert.InEpsilon(t, (12-0.8)/0.022, pt.I, 1e-9)

	p = sample()
	p.Load, p.Friction = 0, 1e-6
	pt = p.Solve(12, 0)
	assert.InEpsilon(t, 12/0.0205, pt.W, 0.01)
}

func drawParams(t *rapid.T) Params {
	f := func(name string, lo, hi float64) float64 {
		return math.Exp(rapid.Float64Range(math.Log(lo), math.Log(hi)).Draw(t, name))
	}
	p := Params{Resistance: f("R", 1e-3, 5), BrushDrop: f("Vb", 0.1, 2), Ke: f("ke", 1e-3, 0.2), Friction: f("fr", 1e-4, 1),
		Load: f("load", 1e-3, 5), RatedSpeed: f("ws", 50, 600), LoadPower: rapid.IntRange(0, 2).Draw(t, "n"),
		Series: rapid.Bool().Draw(t, "series"), SatCurrent: f("sat", 1, 200)}
	p.BrushKnee = 0.002 * (p.Load + p.Friction) / p.Ke
	p.SpeedKnee = 0.01 * p.RatedSpeed
	return p
}

// The solved point satisfies both equations, whatever the motor.
func TestSolveSatisfiesEquations(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawParams(t)
		voc, rs := rapid.Float64Range(0.5, 48).Draw(t, "voc"), rapid.Float64Range(0, 2).Draw(t, "rs")
		pt := p.Solve(voc, rs)
		b, _ := p.brush(pt.I)
		phi, _ := p.flux(pt.I)
		if e := (p.Resistance+rs)*pt.I + b + p.Ke*phi*pt.W - voc; math.Abs(e) > 1e-6*voc {
			t.Fatalf("voltage off by %g", e)
		}
		tq := p.Ke * phi * pt.I
		hold, _ := p.loadTorque(pt.W)
		if pt.Stalled && tq > hold*(1+1e-9)+1e-12 {
			t.Fatalf("stalled although %g exceeds %g", tq, hold)
		}
		if !pt.Stalled && math.Abs(tq-hold) > 1e-6*hold {
			t.Fatalf("torque %g against load %g", tq, hold)
		}
	})
}

// Analytic slopes against central finite differences.
func TestSlopesAgainstFiniteDifferences(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawParams(t)
		v := rapid.Float64Range(2, 48).Draw(t, "v")
		pt := p.Solve(v, 0)
		if pt.Stalled {
			t.Skip()
		}
		s := p.Linearize(pt)
		check := func(name string, field *float64, di, dw float64) {
			x := *field
			h := 1e-5 * x
			*field = x + h
			up := p.Solve(v, 0)
			*field = x - h
			dn := p.Solve(v, 0)
			*field = x
			for _, c := range []struct{ got, want, scale float64 }{{di, (up.I - dn.I) / (2 * h), pt.I / x},
				{dw, (up.W - dn.W) / (2 * h), pt.W / x}} {
				if math.Abs(c.got-c.want) > 1e-3*math.Abs(c.want)+1e-5*c.scale {
					t.Fatalf("%s: slope %g, finite difference %g", name, c.got, c.want)
				}
			}
		}
		check("R", &p.Resistance, s.IR, s.WR)
		check("Vb", &p.BrushDrop, s.IVb, s.WVb)
		check("ke", &p.Ke, s.IKe, s.WKe)
		check("friction", &p.Friction, s.IFriction, s.WFriction)
		check("load", &p.Load, s.ILoad, s.WLoad)
		up, dn := p.Solve(v*(1+1e-5), 0), p.Solve(v*(1-1e-5), 0)
		if want := (up.I - dn.I) / (2e-5 * v); math.Abs(s.DIDV-want) > 1e-3*math.Abs(want)+1e-5*pt.I/v {
			t.Fatalf("dI/dV %g, finite difference %g", s.DIDV, want)
		}
	})
}

func TestReverseFeedNeverTurnsBackward(t *testing.T) {
	p := sample()
	pt := p.Solve(-12, 0.01)
	assert.True(t, pt.Stalled)
	assert.Zero(t, pt.W)
	assert.Negative(t, pt.I)
}
