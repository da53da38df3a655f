package readings

import (
	"math"

	"corriente/core/diagnose/cells"
	"corriente/core/unit"
)

// A slip is a mistake of whoever reads or types: the wrong unit, the point misplaced, the
// leads swapped, 0 for OL. Each is a discrete alternative to a reading, weighed like a fault
// with a prior of its own: under a cell, a reading is what it says, or what it would have
// been without the slip, or a mistake of no kind.

// Alternative is what a reading may have been meant as.
type Alternative struct {
	value float64 // SI
	U     float64 // on the warped scale
	Rate  float64 // logarithm of its rate, with what the scale is stretched by
	What  string  // how it reads
	Leads bool    // the leads were swapped
}

// Alternatives lists what a reading may have been meant as, with its chance.
func Alternatives(a *cells.Space, r *Reading) []Alternative {
	if r.Over || r.Value == 0 {
		return nil
	}
	var out []Alternative
	rates := &a.Assumed.Slip
	scale := func(f, rate float64) {
		v := r.Value * f
		if r.Measure == unit.Voltage && math.Abs(v) > aboveNominal*a.C.NominalVoltage || r.Measure == unit.Current &&
			math.Abs(v) > mostAmps(a) {
			return
		}
		// The density of what was typed is that of what was meant, stretched by the factor.
		stretch := math.Log(f * r.SlopeAt(v) / r.SlopeAt(r.Value))
		out = append(out, Alternative{value: v, U: r.Warp(v), Rate: math.Log(rate) + stretch, What: unit.Format(v, r.Measure)})
	}
	scale(1e3, rates.Unit)
	scale(1e-3, rates.Unit)
	scale(10, rates.Point)
	scale(0.1, rates.Point)
	if (r.Measure == unit.Voltage || r.Measure == unit.Current) && math.Abs(r.Value)*r.SlopeAt(r.Value) > rates.LeastSign {
		out = append(out, Alternative{value: -r.Value, U: r.Warp(-r.Value), Rate: math.Log(rates.Leads),
			What: unit.Format(-r.Value, r.Measure), Leads: true})
	}
	return out
}
