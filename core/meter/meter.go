package meter

import (
	"math"

	"corriente/core/unit"
)

// Accuracy is one function of an instrument: ±(Percent of reading + Counts of
// the last digit).
type Accuracy struct {
	Percent    float64   `json:"percent"`          // percent of the reading, 0..50
	Counts     float64   `json:"counts"`           // counts of the last digit, 0..1000
	Resolution float64   `json:"resolution"`       // SI size of one count on the largest range, > 0
	Ranges     []float64 `json:"ranges,omitempty"` // full scale of each range, SI, rising; empty: one range
}

// Kind of an instrument.
type Kind string

// The kinds a case file may name.
const (
	Multimeter Kind = "multimeter"
	DCClamp    Kind = "dc_clamp"
)

// Instrument is one meter on the bench. A nil function means it cannot measure
// that.
type Instrument struct {
	Name            string    `json:"-"`
	Kind            Kind      `json:"kind"`
	DCVoltage       *Accuracy `json:"dc_voltage,omitempty"`
	DCCurrent       *Accuracy `json:"dc_current,omitempty"`
	Resistance      *Accuracy `json:"resistance,omitempty"`
	ACVoltage       *Accuracy `json:"ac_voltage,omitempty"`
	Capacitance     *Accuracy `json:"capacitance,omitempty"`
	Frequency       *Accuracy `json:"frequency,omitempty"`
	InputResistance float64   `json:"input_resistance,omitempty"` // Ω on volts; 0 means [DefaultInput]
}

// DefaultInput is the input resistance of an ordinary digital meter on DC
// volts, in ohms (common practice).
const DefaultInput = 10e6

// OhmsOverLimit is where an ordinary handheld shows OL on ohms (common
// practice: 40 to 60 MΩ).
const OhmsOverLimit = 6e7

// Handheld is the ordinary meter that stands in where a case names none:
// 0.5 % + 2 counts of 0.01 V, 0.8 % + 3 counts of 0.1 Ω.
func Handheld() Instrument {
	return Instrument{
		Name: "ordinary handheld", Kind: Multimeter,
		DCVoltage:   &Accuracy{Percent: 0.5, Counts: 2, Resolution: 0.01},
		Resistance:  &Accuracy{Percent: 0.8, Counts: 3, Resolution: 0.1},
		ACVoltage:   &Accuracy{Percent: 1, Counts: 3, Resolution: 0.01},
		Capacitance: &Accuracy{Percent: 2, Counts: 5, Resolution: 1e-8},
		Frequency:   &Accuracy{Percent: 0.1, Counts: 2, Resolution: 0.01},
	}
}

// Clamp is the ordinary DC clamp: 2 % + 5 counts of 0.1 A.
func Clamp() Instrument {
	return Instrument{Name: "ordinary clamp", Kind: DCClamp, DCCurrent: &Accuracy{Percent: 2, Counts: 5, Resolution: 0.1}}
}

// Default returns the instrument that is assumed for a measure.
func Default(m unit.Measure) Instrument {
	if m == unit.Current {
		return Clamp()
	}
	return Handheld()
}

// For returns the accuracy of the instrument on measure m, nil when it has
// none.
func (in Instrument) For(m unit.Measure) *Accuracy {
	switch m {
	case unit.Voltage:
		return in.DCVoltage
	case unit.Current:
		return in.DCCurrent
	case unit.Resistance:
		return in.Resistance
	case unit.ACVoltage:
		return in.ACVoltage
	case unit.Capacitance:
		return in.Capacitance
	case unit.Frequency:
		return in.Frequency
	}
	return nil
}

// Input returns the input resistance on volts, in ohms.
func (in Instrument) Input() float64 {
	if in.InputResistance > 0 {
		return in.InputResistance
	}
	return DefaultInput
}

// Count returns the SI size of one count on the smallest range that holds v: a
// tenth of [Accuracy.Resolution] for each range down from the largest. Ranges a
// decade apart are assumed, as meters have them.
func (a Accuracy) Count(v float64) float64 {
	c := a.Resolution
	for i := len(a.Ranges) - 2; i >= 0; i-- {
		if math.Abs(v) > a.Ranges[i] {
			break
		}
		c /= 10
	}
	return c
}

// Limit returns the half-width of the interval the maker promises around v, SI.
func (a Accuracy) Limit(v float64) float64 {
	return math.Abs(v)*a.Percent/100 + a.Counts*a.Count(v)
}

// Sigma returns the standard uncertainty of v, SI: Limit/√3 combined with the
// display's own rounding of one count (GUM, 4.3.7 and F.2.2.1).
func (a Accuracy) Sigma(v float64) float64 {
	c := a.Count(v)
	return math.Sqrt(a.Limit(v)*a.Limit(v)/3 + c*c/12)
}

// FullScale returns the largest reading, SI; +Inf when no ranges are given.
func (a Accuracy) FullScale() float64 {
	if len(a.Ranges) == 0 {
		return math.Inf(1)
	}
	return a.Ranges[len(a.Ranges)-1]
}

// Shows returns what the display would say for a true value v: rounded to the
// count, over when beyond full scale.
func (a Accuracy) Shows(v float64) (float64, bool) {
	if math.Abs(v) > a.FullScale() || math.IsInf(v, 0) {
		return 0, true
	}
	c := a.Count(v)
	return math.Round(v/c) * c, false
}

// CannotTell reports whether the accuracy is too coarse to tell x from zero:
// less than three counts, where a reading cannot be told from a short.
func (a Accuracy) CannotTell(x float64) bool { return math.Abs(x) < 3*a.Count(x) }
