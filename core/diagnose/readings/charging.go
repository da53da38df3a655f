package readings

import (
	"math"

	"corriente/core/diagnose/cells"
)

// charged moves a prediction from the cell's own battery to one that is held at r.charged
// volts: by the slope along the battery's volts, whatever those are in the cell.
func charged(a *cells.Space, p *Predicted, r *Reading, c *cells.Cell, theta []float64, sev [2]float64) {
	emf := a.Net.ParamIndex(a.Net.BatteryStation(), "emf")
	move := func(at int, slope, now float64) {
		p.Mean += slope * (r.Charged - now)
		p.Extra = math.Hypot(p.Extra, a.Assumed.Reading.ChargedBy*a.C.NominalVoltage/12*math.Abs(slope))
		p.Slopes[at] = 0
	}
	for k, f := range a.Diags[c.Diagnosis].Faults {
		if f.Mode == "discharged" && c.Width[k] > 0 {
			move(len(a.Uncertain)+k, p.Slopes[len(a.Uncertain)+k]/c.Width[k], sev[k])
			return
		}
	}
	for u, x := range a.Uncertain {
		if x == emf {
			move(u, p.Slopes[u]/a.Scale[u], theta[emf])
		}
	}
}
