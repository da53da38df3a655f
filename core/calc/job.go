package calc

import (
	"strconv"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/unit"
	"corriente/core/winding"
)

// capacitance is a measured capacitor as evidence.
func (a *ask) capacitance(v winding.Value) casefile.Evidence {
	return casefile.Evidence{Measure: unit.Capacitance, State: "isolated", From: a.part.From, To: a.part.To,
		Value: strconv.FormatFloat(v.X*1e6, 'g', 5, 64) + " uF", Uncertainty: strconv.FormatFloat(v.U*1e6, 'g', 3, 64) + " uF"}
}

// motor is the constants of the job's motor, nil without one.
func (a *ask) motor() map[string]float64 {
	if a.c == nil {
		return nil
	}
	for i := range a.c.Stations {
		if s := &a.c.Stations[i]; s.Kind == circuit.Motor {
			out := map[string]float64{}
			for k, p := range s.Params {
				out[k] = p.Value
			}
			return out
		}
	}
	return nil
}

// benchCurrent offers the unloaded current as evidence, where the circuit has a
// bench state.
func (a *ask) benchCurrent(r *Result, amperes float64) {
	if a.c.State("bench") == nil {
		return
	}
	for i := range a.c.Stations {
		if s := &a.c.Stations[i]; s.Kind == circuit.Motor {
			r.Evidence = append(r.Evidence, casefile.Evidence{Measure: unit.Current, State: "bench", Through: s.ID,
				Value: strconv.FormatFloat(amperes, 'g', 4, 64) + " A"})
			return
		}
	}
}
