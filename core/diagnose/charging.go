package diagnose

import (
	"fmt"
	"math"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/unit"
)

// An engine that runs, or a charger on the posts, holds the battery's volts up: 13.8 V say
// nothing of the battery, and all that is read in that state is read at those volts.

// charging lists the states in which something was seen to charge the battery, and the
// volts it holds; index is the reading that showed it. Circuits that have a charger of
// their own know it by its cells.
func (a *Adviser) charging(j *Job, from, upto int) (volts map[int]float64, index map[int]int) {
	b := a.Net.BatteryStation()
	if b < 0 || a.Net.ChargerStation() >= 0 {
		return nil, nil
	}
	s, held := &a.C.Stations[b], &a.assumed.Reading
	n := a.C.NominalVoltage / 12
	for i := from; i < upto; i++ {
		e := &j.Evidence[i]
		st := a.Net.StatePos(e.State)
		v := math.Abs(e.Reading.Value)
		if e.Struck || e.Measure != unit.Voltage || e.Reading.Over || st < 0 || a.C.States[st].Supply != "battery" || !posts(e, s) || v < held.ChargedFrom*n || v > held.ChargedTo*n {
			continue
		}
		if volts == nil {
			volts, index = map[int]float64{}, map[int]int{}
		}
		volts[st], index[st] = v, i
	}
	return volts, index
}

// posts reports whether a reading is taken across the battery.
func posts(e *casefile.Evidence, battery *circuit.Station) bool {
	return e.From == battery.From && e.To == battery.To || e.From == battery.To && e.To == battery.From
}

// chargingSays lists what was seen to be charged, as warnings.
func (a *Adviser) chargingSays(j *Job, from int) []Warning {
	volts, index := a.charging(j, from, len(j.Evidence))
	var out []Warning
	for i := range a.C.States {
		if v, ok := volts[i]; ok {
			out = append(out, Warning{Index: index[i] + 1, Code: "charging", Says: fmt.Sprintf("%s: something charges the battery, the engine or a charger. It says nothing of the battery: read it again with that off.", unit.Format(v, unit.Voltage))})
		}
	}
	return out
}

// charged moves a prediction from the cell's own battery to one that is held at r.charged
// volts: by the slope along the battery's volts, whatever those are in the cell.
func (a *Space) charged(p *predicted, r *reading, c *cell, theta []float64, sev [2]float64) {
	emf := a.Net.ParamIndex(a.Net.BatteryStation(), "emf")
	move := func(at int, slope, now float64) {
		p.mean += slope * (r.charged - now)
		p.extra = math.Hypot(p.extra, a.assumed.Reading.ChargedBy*a.C.NominalVoltage/12*math.Abs(slope))
		p.j[at] = 0
	}
	for k, f := range a.diags[c.diag].faults {
		if f.Mode == "discharged" && c.width[k] > 0 {
			move(len(a.unc)+k, p.j[len(a.unc)+k]/c.width[k], sev[k])
			return
		}
	}
	for u, x := range a.unc {
		if x == emf {
			move(u, p.j[u]/a.scale[u], theta[emf])
		}
	}
}
