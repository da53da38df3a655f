package winding

import (
	"errors"
	"math"
)

// MaxTestVolts is the most that a capacitor is tested with here, V AC, from an
// isolated source. Mains is refused.
const MaxTestVolts = 25

// FromCurrent is the capacitance in farads that passes a current (A) at a voltage
// (V AC, up to [MaxTestVolts]) and frequency (Hz): C = I/(2πfV) (IEC 60252-1).
// percentV and percentI are what the meters may be off by, rectangular, per cent.
func FromCurrent(volts, amperes, hertz, percentV, percentI float64) (Value, error) {
	switch {
	case !(volts > 0 && amperes > 0 && hertz > 0) || math.IsInf(volts+amperes+hertz, 0):
		return Value{}, errors.New("volts, amperes and hertz above zero are needed")
	case volts > MaxTestVolts:
		return Value{}, errors.New("a capacitor is tested from an isolated source of at most 25 V AC, never from " +
			"the mains: use a small transformer, or a meter with a capacitance range")
	}
	c := amperes / (2 * math.Pi * hertz * volts)
	return Value{c, c * math.Hypot(percentV, percentI) / 100 / math.Sqrt(3)}, nil
}

// Discharge is the time in seconds that a resistor (Ω) takes to bring a capacitor
// (F) to under 1 % of its voltage, 5RC, and the watts it takes at first, V²/R.
func Discharge(farad, ohm, volts float64) (seconds, watts float64) {
	return 5 * ohm * farad, volts * volts / ohm
}

// Mark is what stands on a capacitor.
type Mark struct {
	Farads, Volts float64
	Start         bool // for starting only: it stands seconds of current, not hours
}

// MayReplace says whether a capacitor may take another's place: the same
// microfarads within the mark's tolerance in per cent, at least the voltage, and of the same kind.
func (m Mark) MayReplace(old Mark, tolerance float64) error {
	switch {
	case math.Abs(m.Farads/old.Farads-1) > tolerance/100:
		return errors.New("its microfarads are outside the tolerance of the old one's mark: it would shift the " +
			"start winding's current, and heat it or starve it")
	case m.Volts < old.Volts:
		return errors.New("its voltage is lower than the old one's: across a running winding there is more than the " +
			"supply, and it would break down")
	case m.Start != old.Start:
		return errors.New("a start capacitor stands seconds of current and a run capacitor hours: neither takes the other's place")
	}
	return nil
}
