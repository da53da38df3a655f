package diagnose

import (
	"math"

	"corriente/core/circuit"
	"corriente/core/unit"
)

// retry is how far a value moves from one try to the next: standard deviation of its
// natural logarithm, for a battery's EMF volts per 12 V nominal.
func (a *Space) retry(kind circuit.Kind, param string) float64 {
	d := &a.assumed.Discrepancy
	switch param {
	case "emf":
		return d.EMF
	case "surface_charge":
		return 0
	case "friction":
		return d.Friction
	case "load":
		return d.Load
	case "brush_drop":
		return d.BrushDrop
	}
	switch kind {
	case circuit.Source:
		return d.Battery
	case circuit.Contact:
		return d.Contact
	case circuit.Wire, circuit.Joint, circuit.Fuse:
		return d.Wire
	case circuit.Coil, circuit.Driver, circuit.Winding:
		return d.Coil
	case circuit.Motor:
		if param == "resistance" || param == "resistance_high" {
			return d.Motor
		}
	}
	return 0
}

// retryFault is [Adviser.retry] for how bad a fault is.
func (a *Space) retryFault(kind circuit.Kind, mode string) float64 {
	d := &a.assumed.Discrepancy
	switch mode {
	case "high_resistance":
		if kind == circuit.Contact {
			return d.BadContact
		}
		return d.BadJoint
	case "brushes_worn", "low_brush_worn", "high_brush_worn":
		return d.Brushes
	case "commutator_damaged":
		return d.Commutator
	case "weak":
		return d.Weak
	case "binding", "bearing_drag":
		return d.Drag
	case "short_to_ground", "winding_grounded":
		return d.Grounded
	}
	return 0
}

// discrepancies prepares [Adviser.discrepancy]: per uncertain value, how far a try moves
// it, in standard deviations of what is known of it.
func (a *Space) discrepancies() {
	a.tries = make([]float64, len(a.unc))
	for u, p := range a.unc {
		pr := a.Net.Params[p]
		x := a.retry(a.C.Stations[pr.Station].Kind, pr.Name)
		if pr.Name == "emf" {
			x *= a.C.NominalVoltage / 12
		}
		a.tries[u] = x / a.scale[u]
	}
}

// discrepancy is the variance of a reading, SI, that comes of the try it was taken in.
func (a *Space) discrepancy(p *predicted, r *reading, l *linear, c *cell) float64 {
	n, d := a.C.NominalVoltage/12, &a.assumed.Discrepancy
	st := &a.C.States[r.state]
	v := 0.0
	switch r.measure {
	case unit.Voltage:
		x := math.Hypot(d.OtherVolts*n, d.OtherShare*p.mean)
		if st.Supply == "feed" {
			x = math.Hypot(x, d.FeedVolts*n)
		}
		if c.windings && a.throughPullIn(r, l) {
			x = math.Hypot(x, d.PullInVolts*n)
		}
		v = x * x
	case unit.Current:
		x := math.Hypot(d.ClampAmps*math.Max(1, a.normalAmps()*d.ClampPerAmp), d.ClampShare*p.mean)
		if st.Supply == "feed" {
			x = math.Hypot(x, d.FeedAmps*p.mean)
		}
		if l != nil && l.spin && l.ratio < d.HardlyTurns {
			x = math.Hypot(x, d.HardlyAmps*p.mean)
		}
		v = x * x
	default:
		return 0
	}
	raw := p.j[:len(a.unc)]
	if len(a.alike) > 0 {
		p.raw = append(p.raw[:0], raw...)
		raw = p.raw
		unmix(a, raw)
	}
	for u, slope := range raw {
		x := slope * a.tries[u]
		v += x * x
	}
	for k, f := range a.diags[c.diag].faults {
		if c.width[k] > 0 {
			x := p.j[len(a.unc)+k] / c.width[k] * a.retryFault(a.C.Station(f.Station).Kind, f.Mode)
			v += x * x
		}
	}
	return v
}

// throughPullIn reports whether a reading is taken at a motor stud that is fed by nothing
// but the solenoid's pull-in winding.
func (a *Space) throughPullIn(r *reading, l *linear) bool {
	coil, stud := a.Net.Solenoid()
	if coil < 0 || r.a != stud && r.b != stud {
		return false
	}
	from, _ := a.Net.Ends(r.state, coil)
	fed := float64(l.v[from])
	d := &a.assumed.Discrepancy
	return fed > d.PullInFed*a.C.NominalVoltage && float64(l.v[stud]) < d.PullInStud*fed
}

// normalAmps is what the motor takes at work, 0 without one.
func (a *Space) normalAmps() float64 {
	if m := a.Net.MotorStation(); m >= 0 {
		return a.Model.Normal[m]
	}
	return 0
}
