package diagnose

import (
	"math"

	"corriente/core/circuit"
	"corriente/core/unit"
)

// Model discrepancy: what a reading differs by from what the solved circuit says of it
// though the diagnosis, the nominal values and the meter are all right (M. C. Kennedy
// and A. O'Hagan, Bayesian calibration of computer models, 2001). Every try is another
// operating point: contacts close otherwise, a battery sags and recovers, windings
// warm, brushes rest elsewhere. What is here is drawn anew for each reading, so that a
// second one may not overturn what a large drop has shown. Sizes are common practice
// and from memory.

// retry is how far a value moves from one try to the next: standard deviation of its
// natural logarithm, for a battery's EMF volts per 12 V nominal.
func retry(kind circuit.Kind, param string) float64 {
	switch param {
	case "emf":
		return 0.08
	case "surface_charge":
		return 0
	case "friction":
		return 0.12
	case "load":
		return 0.08
	case "brush_drop":
		return 0.12
	}
	switch kind {
	case circuit.Source:
		return 0.15
	case circuit.Contact:
		return 0.35
	case circuit.Wire, circuit.Joint, circuit.Fuse:
		return 0.05
	case circuit.Coil, circuit.Driver, circuit.Winding:
		return 0.06
	case circuit.Motor:
		if param == "resistance" || param == "resistance_high" {
			return 0.1
		}
	}
	return 0
}

// retryFault is [retry] for how bad a fault is.
func retryFault(kind circuit.Kind, mode string) float64 {
	switch mode {
	case "high_resistance":
		if kind == circuit.Contact {
			return 0.6
		}
		return 0.2
	case "brushes_worn", "low_brush_worn", "high_brush_worn":
		return 0.5
	case "commutator_damaged":
		return 0.3
	case "weak":
		return 0.15
	case "binding", "bearing_drag":
		return 0.15
	case "short_to_ground", "winding_grounded":
		return 0.15
	}
	return 0
}

const (
	// A motor that hardly turns stands as well: it then takes its stall current.
	hardlyTurns = 0.25
	hardlyAmps  = 0.2 // of the amperes

	pullInVolts = 0.6   // V per 12 V: what the current of a pull-in winding leaves at the motor
	otherVolts  = 0.012 // V per 12 V: other consumers on the grounds, leakage, offsets
	strayShare  = 0.01  // of the volts
	strayAmps   = 0.25  // A: a clamp's drift, more round thick cables
	strayAmpere = 0.04  // of the amperes
	feedVolts   = 0.2   // V per 12 V: the battery and leads that somebody feeds with
	feedAmps    = 0.12  // of the amperes it drives
	thickPerAmp = 1.0 / 60
)

// discrepancies prepares [Adviser.discrepancy]: per uncertain value, how far a try moves
// it, in standard deviations of what is known of it.
func (a *Adviser) discrepancies() {
	a.retry = make([]float64, len(a.unc))
	for u, p := range a.unc {
		pr := a.Net.Params[p]
		x := retry(a.C.Stations[pr.Station].Kind, pr.Name)
		if pr.Name == "emf" {
			x *= a.C.NominalVoltage / 12
		}
		a.retry[u] = x / a.scale[u]
	}
}

// discrepancy is the variance of a reading, SI, that comes of the try it was taken in.
func (a *Adviser) discrepancy(p *predicted, r *reading, l *linear, c *cell) float64 {
	n := a.C.NominalVoltage / 12
	st := &a.C.States[r.state]
	v := 0.0
	switch r.measure {
	case unit.Voltage:
		x := math.Hypot(otherVolts*n, strayShare*p.mean)
		if st.Supply == "feed" {
			x = math.Hypot(x, feedVolts*n)
		}
		if c.windings && a.throughPullIn(r, l) {
			x = math.Hypot(x, pullInVolts*n)
		}
		v = x * x
	case unit.Current:
		x := math.Hypot(strayAmps*math.Max(1, a.normalAmps()*thickPerAmp), strayAmpere*p.mean)
		if st.Supply == "feed" {
			x = math.Hypot(x, feedAmps*p.mean)
		}
		if l != nil && l.spin && l.ratio < hardlyTurns {
			x = math.Hypot(x, hardlyAmps*p.mean)
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
	for u, d := range raw {
		x := d * a.retry[u]
		v += x * x
	}
	for k, f := range a.diags[c.diag].faults {
		if c.width[k] > 0 {
			x := p.j[len(a.unc)+k] / c.width[k] * retryFault(a.C.Station(f.Station).Kind, f.Mode)
			v += x * x
		}
	}
	return v
}

// throughPullIn reports whether a reading is taken at a motor stud that is fed by nothing
// but the solenoid's pull-in winding.
func (a *Adviser) throughPullIn(r *reading, l *linear) bool {
	coil, stud := a.Net.Solenoid()
	if coil < 0 || r.a != stud && r.b != stud {
		return false
	}
	from, _ := a.Net.Ends(r.state, coil)
	fed := float64(l.v[from])
	return fed > 0.3*a.C.NominalVoltage && float64(l.v[stud]) < 0.4*fed
}

// normalAmps is what the motor takes at work, 0 without one.
func (a *Adviser) normalAmps() float64 {
	if m := a.Net.MotorStation(); m >= 0 {
		return a.Model.Normal[m]
	}
	return 0
}
