package readings

import (
	"math"
	"slices"

	"corriente/core/circuit"
	"corriente/core/diagnose/cells"
	"corriente/core/fault"
	"corriente/core/unit"
)

// Predicted is what a cell says a reading would be.
type Predicted struct {
	Mean   float64 // SI
	Slopes []float64
	Extra  float64 // further standard deviation, SI
	raw    []float64
	Open   bool // no path: OL on ohms
	Floats Floating
}

// Floating is what a probe does that nothing joins to the other. It is the machine's: one reading of it says
// what the next will do.
type Floating uint8

// What it may do.
const (
	Joined Floating = iota // there is a path
	Quiet                  // it shows what the other probe does
	Leaky                  // it shows what leaks to it
)

// Predict fills p for a reading from a circuit solved at a point; l is nil in a state without a
// supply, where ohms are solved on demand.
func Predict(s *cells.Solver, p *Predicted, r *Reading, l *cells.Solved, at cells.Point) {
	a := s.Space
	p.Slopes = p.Slopes[:a.Values]
	p.Extra, p.Open, p.Floats = 0, false, Joined
	switch r.Measure {
	case unit.Voltage:
		predictVolts(a, p, r, l)
	case unit.Current:
		predictAmps(a, p, r, l)
	case unit.ACVoltage, unit.Capacitance, unit.Frequency:
		predictOther(s, p, r, at)
		return
	default:
		predictOhms(s, p, r, at)
		return
	}
	p.Extra = math.Hypot(p.Extra, math.Sqrt(discrepancy(a, p, r, l, at.Cell)))
	if r.Charged > 0 {
		charged(a, p, r, at)
	}
}

func predictVolts(a *cells.Space, p *Predicted, r *Reading, l *cells.Solved) {
	err := &a.Assumed.Reading
	p.Mean = float64(l.V[r.From]) - float64(l.V[r.To])
	l.VoltSlopes(p.Slopes, r.From, r.To)
	if l.Island[r.From] != l.Island[r.To] {
		// No path between the probes: what the meter shows depends on
		// leakage nobody knows. It pulls the floating probe towards the other,
		// mostly to within tenths of a volt, now and then not.
		p.Mean = 0
		clear(p.Slopes)
		p.Floats, p.Extra = floating(a, r)
	}
	if a.C.States[r.State].Supply == "running" {
		p.Extra = math.Hypot(p.Extra, err.Idle)
	}
	if l.Alt != nil {
		p.Extra = math.Hypot(p.Extra, err.Chatter*math.Abs(float64(l.Alt.V[r.From])-float64(l.Alt.V[r.To])))
	}
}

// floating is what a reading between probes that nothing joins is likelier of: a quiet wire, or one to which
// something leaks, with its standard deviation, V. Nothing sharp is foreseen of one that was not taken.
func floating(a *cells.Space, r *Reading) (what Floating, sd float64) {
	err, v := &a.Assumed.Reading, r.Value
	if r.Ahead {
		return Leaky, err.Floating
	}
	still := a.Assumed.Discrepancy.OtherVolts * a.C.NominalVoltage / 12 // what a joined one may show
	leak := err.Floating
	if math.Abs(v) < err.FloatingMost*a.C.NominalVoltage { // nothing leaks more than there is
		leak = math.Hypot(leak, err.FloatingShare*math.Abs(v))
	}
	all := math.Hypot(leak, still)
	if v*v*(1/(still*still)-1/(all*all)) < 2*math.Log(all/still) {
		return Quiet, 0
	}
	return Leaky, leak
}

func predictAmps(a *cells.Space, p *Predicted, r *Reading, l *cells.Solved) {
	k := r.station
	p.Mean = float64(l.I[k])
	l.AmpSlopes(p.Slopes, k)
	if k == a.Net.BatteryStation() {
		// A technician clamps the lead and reads what leaves the battery.
		p.Mean = -p.Mean
		for i := range p.Slopes {
			p.Slopes[i] = -p.Slopes[i]
		}
	}
	if l.Alt != nil {
		p.Extra = a.Assumed.Reading.Chatter * float64(l.Alt.I[k])
	}
}

// predictOther is predict for alternating volts and for microfarads: few cells,
// small networks, so the derivatives are differences.
func predictOther(s *cells.Solver, p *Predicted, r *Reading, at cells.Point) {
	a := s.Space
	clear(p.Slopes)
	read := func(th []float64, sv [2]float64) (float64, bool) {
		a.Health(s.H, th, at.Diagnosis, sv)
		switch r.Measure {
		case unit.Capacitance:
			for k := range a.C.Stations {
				if a.C.Stations[k].Kind == circuit.Capacitor {
					h := &s.H[k]
					if h.Short {
						return 0, false
					}
					if h.Open {
						return 0, true
					}
					return th[a.Net.ParamIndex(k, "capacitance")] * h.Cap, true
				}
			}
			return 0, false
		case unit.Frequency:
			return a.C.Frequency, true
		}
		s.W.Solve(r.State, th, s.H)
		return s.W.ACVolts(r.From, r.To)
	}
	err := &a.Assumed.Reading
	v, ok := read(at.Theta, at.Sev)
	if !ok {
		// Nothing joins the probes, or a short: the display shows little.
		p.Mean, p.Extra = 0, math.Hypot(err.NoFarads*r.Acc.Resolution, err.NoFaradsShare*math.Abs(r.Value))
		if r.Measure == unit.ACVoltage {
			p.Extra = math.Hypot(err.NoAC, err.NoACShare*math.Abs(r.Value))
		}
		return
	}
	p.Mean = v
	if r.Measure != unit.Capacitance {
		p.Extra = err.Hunts * v
	}
	th := slices.Clone(at.Theta)
	for u, pi := range a.Uncertain {
		const step = 0.05
		if a.IsLog[u] {
			th[pi] = at.Theta[pi] * math.Exp(step*a.Scale[u])
		} else {
			th[pi] = at.Theta[pi] + step*a.Scale[u]
		}
		if x, ok := read(th, at.Sev); ok {
			p.Slopes[u] = (x - v) / step
		}
		th[pi] = at.Theta[pi]
	}
	cells.Mix(a, p.Slopes)
	for k, f := range a.Diags[at.Diagnosis].Faults {
		if wd := at.Width[k]; wd > 0 {
			sv := at.Sev
			sv[k] = cells.Shift(a.Model.ScaleOf(f), at.Sev[k], 0.1*wd)
			if x, ok := read(at.Theta, sv); ok {
				p.Slopes[len(a.Uncertain)+k] = (x - v) / 0.1
			}
		}
	}
}

// predictOhms is predict for an ohmmeter.
func predictOhms(s *cells.Solver, p *Predicted, r *Reading, at cells.Point) {
	a := s.Space
	read := func(w *circuit.Work) (float64, bool) {
		if r.pulled {
			return w.OhmsThrough(r.station)
		}
		return w.Ohms(r.From, r.To)
	}
	w := s.Ohmmeter(0, r.State, at)
	clear(p.Slopes)
	ohm, ok := read(w)
	if !ok {
		p.Open = true
		return
	}
	p.Mean = ohm
	for u, pi := range a.Uncertain {
		d := 0.0
		switch {
		case !r.pulled:
			d = w.DOhms(r.From, r.To, pi)
		case a.Net.Params[pi].Station == r.station && a.Net.Params[pi].Name == "resistance":
			d = 1
		}
		if d == 0 {
			continue
		}
		f := a.Scale[u]
		if a.IsLog[u] {
			f *= at.Theta[pi]
		}
		p.Slopes[u] = d * f
	}
	cells.Mix(a, p.Slopes)
	for k, f := range a.Diags[at.Diagnosis].Faults {
		if wd := at.Width[k]; wd > 0 {
			moved := at
			moved.Sev[k] = cells.Shift(a.Model.ScaleOf(f), at.Sev[k], 0.1*wd)
			if o2, ok := read(s.Ohmmeter(1+k, r.State, moved)); ok {
				p.Slopes[len(a.Uncertain)+k] = (o2 - ohm) / 0.1
			}
		}
	}
	// A brushed contact is never twice the same on ohms, a worn one less.
	switch {
	case Fickle(a, r, at.Diagnosis):
		p.Extra = a.Assumed.Reading.WornBrushes * ohm
	case throughMotor(a, r):
		p.Extra = a.Assumed.Reading.Brushes * ohm
	}
}

// Fickle reports whether a reading goes through worn brushes.
func Fickle(a *cells.Space, r *Reading, diag int) bool {
	if !slices.ContainsFunc(a.Diags[diag].Faults, func(f fault.Fault) bool {
		return f.Mode == "brushes_worn" || f.Mode == "low_brush_worn" || f.Mode == "high_brush_worn"
	}) {
		return false
	}
	return throughMotor(a, r)
}

// throughMotor reports whether ohms are read through the motor.
func throughMotor(a *cells.Space, r *Reading) bool {
	m := a.Net.MotorStation()
	if m < 0 {
		return false
	}
	if r.pulled {
		return r.station == m
	}
	return a.Net.Between(r.State, r.From, r.To, m)
}
