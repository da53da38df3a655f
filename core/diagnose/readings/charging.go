package readings

import (
	"math"

	"corriente/core/diagnose/cells"
)

// charged moves a prediction from the cell's own battery to one that is held at r.charged
// volts: by the slope along the battery's volts, whatever those are in the cell.
func charged(a *cells.Space, p *Predicted, r *Reading, at cells.Point) {
	emf := a.Net.ParamIndex(a.Net.BatteryStation(), "emf")
	move := func(value int, slope, now float64) {
		p.Mean += slope * (r.Charged - now)
		p.Extra = math.Hypot(p.Extra, a.Assumed.Reading.ChargedBy*a.C.NominalVoltage/12*math.Abs(slope))
		p.Slopes[value] = 0
	}
	for k, f := range a.Diags[at.Diagnosis].Faults {
		if f.Mode == "discharged" && at.Width[k] > 0 {
			move(len(a.Uncertain)+k, p.Slopes[len(a.Uncertain)+k]/at.Width[k], at.Sev[k])
			return
		}
	}
	for u, x := range a.Uncertain {
		if x == emf {
			move(u, p.Slopes[u]/a.Scale[u], at.Theta[emf])
		}
	}
}
