package cells

import (
	"corriente/core/circuit"
)

// retry is how far a value moves from one try to the next: standard deviation of its
// natural logarithm, for a battery's EMF volts per 12 V nominal.
func (a *Space) retry(kind circuit.Kind, param string) float64 {
	d := &a.Assumed.Discrepancy
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

// RetryFault is [Space.retry] for how bad a fault is.
func (a *Space) RetryFault(kind circuit.Kind, mode string) float64 {
	d := &a.Assumed.Discrepancy
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

// discrepancies prepares [Space.Tries]: per uncertain value, how far a try moves
// it, in standard deviations of what is known of it.
func (a *Space) discrepancies() {
	a.Tries = make([]float64, len(a.Uncertain))
	for u, p := range a.Uncertain {
		pr := a.Net.Params[p]
		x := a.retry(a.C.Stations[pr.Station].Kind, pr.Name)
		if pr.Name == "emf" {
			x *= a.C.NominalVoltage / 12
		}
		a.Tries[u] = x / a.Scale[u]
	}
}
