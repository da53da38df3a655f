package belief

import (
	"fmt"
	"math"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/readings"
	"corriente/core/unit"
)

// An engine that runs, or a charger on the posts, holds the battery's volts up: 13.8 V say
// nothing of the battery, and all that is read in that state is read at those volts.

// charging lists the states in which something was seen to charge the battery, and the
// volts it holds; index is the reading that showed it. Circuits that have a charger of
// their own know it by its cells.
func (a *Reasoner) charging(j *Job, from, upto int) (volts map[int]float64, index map[int]int) {
	b := a.Net.BatteryStation()
	if b < 0 || a.Net.ChargerStation() >= 0 {
		return nil, nil
	}
	s, held := &a.C.Stations[b], &a.Assumed.Reading
	n := a.C.NominalVoltage / 12
	for i := from; i < upto; i++ {
		e := &j.Evidence[i]
		st := a.Net.StatePos(e.State)
		v := math.Abs(e.Reading.Value)
		if e.Struck || e.Measure != unit.Voltage || e.Reading.Over || st < 0 || a.C.States[st].Supply != "battery" ||
			!posts(e, s) || v < held.ChargedFrom*n || v > held.ChargedTo*n {
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

// ChargingSays lists what was seen to be charged, as warnings.
func (a *Reasoner) ChargingSays(j *Job, from int) []readings.Warning {
	volts, index := a.charging(j, from, len(j.Evidence))
	var out []readings.Warning
	for i := range a.C.States {
		if v, ok := volts[i]; ok {
			out = append(out, readings.Warning{Index: index[i] + 1, Code: "charging",
				Says: fmt.Sprintf("%s: something charges the battery, the engine or a charger. It says nothing of "+
					"the battery: read it again with that off.", unit.Format(v, unit.Voltage))})
		}
	}
	return out
}
