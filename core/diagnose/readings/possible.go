package readings

import (
	"math"

	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/gauss"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Range is a band of values, SI.
type Range struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// aboveNominal is how far a supply may stand above its nominal voltage: a generator's
// 14.8 V on 12 V, with something to spare (common practice).
const aboveNominal = 1.3

// sliver is the share of a band of volts that may reach past zero before it is shown so.
const sliver = 0.05

// pastZero cuts off what reaches past zero by a sliver: it is the doubt of the meter, not volts or
// amperes the wrong way round.
func pastZero(lo, hi float64) (low, high float64) {
	w := sliver * (hi - lo)
	switch {
	case math.IsInf(w, 0) || math.IsNaN(w):
		return lo, hi
	case lo < 0 && hi > 0 && -lo < w:
		return 0, hi
	case lo < 0 && hi > 0 && hi < w:
		return lo, 0
	}
	return lo, hi
}

// Possible clips a band to what can be there at all: no volts beyond the supply, no
// negative ohms, no more amperes than a short of the battery gives. A band that is not a
// number becomes the widest one. Sign says which way a good circuit's current flows, 0 for
// either: a clamp does not expect it backwards.
func Possible(a *cells.Space, m unit.Measure, lo, hi, sign float64) Range {
	least, most := math.Inf(-1), math.Inf(1)
	switch m {
	case unit.Voltage:
		most = aboveNominal * a.C.NominalVoltage
		least = -most
		lo, hi = pastZero(lo, hi)
	case unit.Current:
		most = mostAmps(a)
		least = -most
		lo, hi = pastZero(lo, hi)
		if sign > 0 {
			least = 0
		} else if sign < 0 {
			most = 0
		}
	case unit.Resistance:
		least, most = 0, meter.OhmsOverLimit
	case unit.ACVoltage:
		least, most = 0, 1e3
	case unit.Capacitance:
		least, most = 0, 1
	case unit.Frequency:
		least, most = 0, 1e4
	}
	if math.IsNaN(lo) || math.IsInf(lo, -1) {
		lo = least
	}
	if math.IsNaN(hi) || math.IsInf(hi, 1) {
		hi = most
	}
	clip := func(x float64) float64 { return gauss.Significant(math.Min(math.Max(x, least), most)) }
	return Range{clip(lo), clip(hi)}
}

// mostAmps is what a short across a good battery would draw, A.
func mostAmps(a *cells.Space) float64 {
	b := a.Net.BatteryStation()
	if b < 0 {
		return 1e4
	}
	return a.Theta[a.Net.ParamIndex(b, "emf")] / math.Max(a.Theta[a.Net.ParamIndex(b, "resistance")], 1e-4)
}

// Direction is the sign of the current that a good circuit shows, 0 where next to none flows.
func Direction(m unit.Measure, mean float64) float64 {
	if m != unit.Current || math.Abs(mean) < 0.05 {
		return 0
	}
	return math.Copysign(1, mean)
}
