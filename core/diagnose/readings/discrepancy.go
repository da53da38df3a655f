package readings

import (
	"math"

	"corriente/core/diagnose/cells"
	"corriente/core/unit"
)

// discrepancy is the variance of a reading, SI, that comes of the try it was taken in.
func discrepancy(a *cells.Space, p *Predicted, r *Reading, l *cells.Solved, c *cells.Cell) float64 {
	n, d := a.C.NominalVoltage/12, &a.Assumed.Discrepancy
	st := &a.C.States[r.State]
	v := 0.0
	switch r.Measure {
	case unit.Voltage:
		x := math.Hypot(d.OtherVolts*n, d.OtherShare*p.Mean)
		if st.Supply == "feed" {
			x = math.Hypot(x, d.FeedVolts*n)
		}
		if c.Windings && throughPullIn(a, r, l) {
			x = math.Hypot(x, d.PullInVolts*n)
		}
		v = x * x
	case unit.Current:
		x := math.Hypot(d.ClampAmps*math.Max(1, normalAmps(a)*d.ClampPerAmp), d.ClampShare*p.Mean)
		if st.Supply == "feed" {
			x = math.Hypot(x, d.FeedAmps*p.Mean)
		}
		if l != nil && l.Spin && l.Ratio < d.HardlyTurns {
			x = math.Hypot(x, d.HardlyAmps*p.Mean)
		}
		v = x * x
	default:
		return 0
	}
	if l != nil && l.Fold != nil {
		x := d.Limit * foldOf(r, l)
		v += x * x
	}
	raw := p.Slopes[:len(a.Uncertain)]
	if len(a.Alike) > 0 {
		p.raw = append(p.raw[:0], raw...)
		raw = p.raw
		cells.Unmix(a, raw)
	}
	for u, slope := range raw {
		x := slope * a.Tries[u]
		v += x * x
	}
	for k, f := range a.Diags[c.Diagnosis].Faults {
		if c.Width[k] > 0 {
			x := p.Slopes[len(a.Uncertain)+k] / c.Width[k] * a.RetryFault(a.C.Station(f.Station).Kind, f.Mode)
			v += x * x
		}
	}
	return v
}

// foldOf is what a reading hangs on the ohms that stand for a driver's limit, SI for e-fold.
func foldOf(r *Reading, l *cells.Solved) float64 {
	if r.Measure == unit.Current {
		return float64(l.Fold.I[r.station])
	}
	return float64(l.Fold.V[r.From]) - float64(l.Fold.V[r.To])
}

// throughPullIn reports whether a reading is taken at a motor stud that is fed by nothing
// but the solenoid's pull-in winding.
func throughPullIn(a *cells.Space, r *Reading, l *cells.Solved) bool {
	coil, stud := a.Net.Solenoid()
	if coil < 0 || r.From != stud && r.To != stud {
		return false
	}
	from, _ := a.Net.Ends(r.State, coil)
	fed := float64(l.V[from])
	d := &a.Assumed.Discrepancy
	return fed > d.PullInFed*a.C.NominalVoltage && float64(l.V[stud]) < d.PullInStud*fed
}

// normalAmps is what the motor takes at work, 0 without one.
func normalAmps(a *cells.Space) float64 {
	if m := a.Net.MotorStation(); m >= 0 {
		return a.Model.Normal[m]
	}
	return 0
}
