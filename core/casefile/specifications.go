package casefile

import (
	"math"
	"slices"

	"corriente/core/circuit"
	"corriente/core/unit"
)

// applySpecifications lets the manual's ranges set the nominal values of the parts that a
// reading goes through: their middle, known to a quarter of the range's width. Ohms set
// the resistances between the two nodes, AC volts the windings' electromotive force.
// What the case gives by name stays as it is given.
func (c *Case) applySpecifications() {
	if len(c.Specifications) == 0 {
		return
	}
	net, err := circuit.Compile(c.Circuit)
	if err != nil {
		return // the circuit was checked; whoever solves it says what is wrong
	}
	f := fit{c: c, net: net, w: net.NewWork(), theta: net.Nominal(), spread: map[int]float64{}}
	f.ohms()
	f.acVolts()
	for p, spread := range f.spread {
		pr := net.Params[p]
		params := c.Circuit.Stations[pr.Station].Params
		now := params[pr.Name]
		now.Value, now.SD = f.theta[p], 0
		if now.Alike != "" { // the range is one of the make, not of each part
			now.Common = spread
		} else {
			now.Spread = spread
		}
		params[pr.Name] = now
	}
}

// fit moves a circuit's values until it reads what the manual gives.
type fit struct {
	c      *Case
	net    *circuit.Network
	w      *circuit.Work
	theta  []float64
	spread map[int]float64 // of the values that were moved, logarithmic
}

// passes of the projections below; three ranges of a star agree to 1e-6 after some thirty.
const passes = 80

// least is the share of a reading below which a part has no say in it.
const least = 0.02

// ohms projects the logarithms of the resistances onto one range after the other until
// all are met (Kaczmarz's method): of the values that meet them, those nearest to where
// they stood. Ranges that contradict each other are met halfway.
func (f *fit) ohms() {
	ranges := slices.DeleteFunc(slices.Clone(f.c.Specifications), func(s Specification) bool {
		return s.Measure != unit.Resistance || !s.usable()
	})
	shares := make([]float64, len(f.theta))
	sound := f.net.SoundAll()
	for range passes {
		worst := 0.0
		for _, s := range ranges {
			a, b := f.c.Circuit.NodeIndex(s.From), f.c.Circuit.NodeIndex(s.To)
			f.w.PrepareOhms(f.net.StatePos(s.State), f.theta, sound)
			r, ok := f.w.Ohms(a, b)
			if !ok || r <= 0 {
				continue // no way between them: nothing to set
			}
			sum := 0.0
			for p := range shares {
				shares[p] = f.theta[p] * f.w.DOhms(a, b, p) / r
				if shares[p] < least || f.given(p) {
					shares[p] = 0
				}
				sum += shares[p] * shares[p]
			}
			if sum == 0 {
				continue
			}
			miss := math.Log(s.middle() / r)
			worst = math.Max(worst, math.Abs(miss))
			for p, x := range shares {
				if x > 0 {
					f.theta[p] *= math.Exp(miss * x / sum)
					f.spread[p] = math.Max(f.spread[p], s.spread())
				}
			}
		}
		if worst < 1e-6 {
			return
		}
	}
}

// acVolts scales the windings' electromotive force by the mean of what the ranges ask.
func (f *fit) acVolts() {
	asked, n, spread := 0.0, 0.0, 0.0
	for _, s := range f.c.Specifications {
		if s.Measure != unit.ACVoltage || !s.usable() {
			continue
		}
		f.w.Solve(f.net.StatePos(s.State), f.theta, f.net.SoundAll())
		v, ok := f.w.ACVolts(f.c.Circuit.NodeIndex(s.From), f.c.Circuit.NodeIndex(s.To))
		if ok && v > 0 {
			asked, n, spread = asked+math.Log(s.middle()/v), n+1, math.Max(spread, s.spread())
		}
	}
	if n == 0 {
		return
	}
	for p, pr := range f.net.Params {
		if f.c.Circuit.Stations[pr.Station].Kind == circuit.Winding && pr.Name == "emf" && !f.given(p) {
			f.theta[p] *= math.Exp(asked / n)
			f.spread[p] = spread
		}
	}
}

// given reports whether the case names a value itself.
func (f *fit) given(p int) bool {
	pr := f.net.Params[p]
	name := f.c.Circuit.Stations[pr.Station].ID + "." + pr.Name
	return slices.ContainsFunc(f.c.Parameters, func(g Given) bool { return g.Name == name })
}

// usable reports whether a range has a middle above nothing.
func (s *Specification) usable() bool {
	return !s.Low.Over && !s.High.Over && s.middle() > 0 && s.Low.Value >= 0
}

func (s *Specification) middle() float64 { return (s.Low.Value + s.High.Value) / 2 }

// spread is how well the range gives its middle, logarithmic standard deviation.
func (s *Specification) spread() float64 {
	return math.Max((s.High.Value-s.Low.Value)/s.middle()/4, 0.01)
}
