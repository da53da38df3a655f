package readings

import (
	"math"
	"strings"

	"corriente/core/casefile"
	"corriente/core/diagnose/cells"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Reading is one numeric piece of evidence made ready for scoring.
type Reading struct {
	Index        int
	Measure      unit.Measure
	State        int
	From, To     int // nodes
	station      int // through
	Acc          meter.Accuracy
	Leads        float64 // sigma of the leads
	Value        float64
	Over         bool
	Floor, Slope float64 // warp
	U            float64
	pulled       bool   // ohms of one station pulled for it, not between two nodes
	Group        string // readings of one group share a systematic error
	Noise        float64
	Times        int     // how often it was taken
	Charged      float64 // volts that something holds the battery at, 0 where nothing does
	When         Presence
	Ahead        bool // not taken yet: a value that is foreseen
}

// Presence is whether a fault that comes and goes was there when evidence was taken.
type Presence uint8

const (
	Present Presence = iota
	absent           // it was not: the circuit was then a good one
	Unknown          // nobody knows
)

// PresenceOf says whether a fault was there as a piece of evidence was taken.
func PresenceOf(e *casefile.Evidence, intermittent bool) Presence {
	switch {
	case e.Symptom == "absent":
		return absent
	case e.Symptom == "unknown", e.Symptom == "" && intermittent:
		return Unknown
	}
	return Present
}

// Warp maps an SI value to a scale on which the meter's uncertainty is one unit
// everywhere; from JCGM 100's limit a + b|x|.
func (r *Reading) Warp(x float64) float64 {
	if r.Slope == 0 {
		return x / r.Floor
	}
	return math.Copysign(math.Log1p(r.Slope*math.Abs(x)/r.Floor)/r.Slope, x)
}

// Unwarp takes [Reading.Warp] back.
func (r *Reading) Unwarp(u float64) float64 {
	if r.Slope == 0 {
		return u * r.Floor
	}
	return math.Copysign(math.Expm1(r.Slope*math.Abs(u))*r.Floor/r.Slope, u)
}

// SlopeAt is the derivative of [Reading.Warp] at x.
func (r *Reading) SlopeAt(x float64) float64 { return 1 / (r.Floor + r.Slope*math.Abs(x)) }

// Prepare turns a checked piece of evidence, or a candidate, into a reading.
func Prepare(a *cells.Space, e *casefile.Evidence, in meter.Instrument, index int) Reading {
	acc := in.For(e.Measure)
	r := Reading{Index: index, Measure: e.Measure, State: a.Net.StatePos(e.State), From: a.C.NodeIndex(e.From), To: a.C.NodeIndex(e.To),
		station: a.C.StationIndex(e.Through), Acc: *acc, Value: e.Reading.Value, Over: e.Reading.Over}
	c := acc.Count(r.Value)
	r.Floor = math.Sqrt(acc.Counts*acc.Counts*c*c/3 + c*c/12)
	r.Slope = acc.Percent / 100 / math.Sqrt(3)
	if e.Measure != unit.Resistance && e.Measure != unit.Capacitance {
		r.Slope = math.Hypot(r.Slope, a.Assumed.Reading.Reproduce)
	}
	if e.Leads != "" {
		r.Leads = acc.Sigma(e.LeadsR.Value)
		r.Floor = math.Hypot(r.Floor, r.Leads)
	}
	r.U = r.Warp(r.Value)
	r.Noise = a.Assumed.Reading.Repeat
	r.Group = strings.Join([]string{string(e.Measure), e.State, e.From, e.To, e.Through, e.Instrument, e.Condition}, "|")
	if r.Measure == unit.Resistance && r.From < 0 && r.station >= 0 {
		s := &a.C.Stations[r.station]
		r.From, r.To, r.pulled = a.C.NodeIndex(s.From), a.C.NodeIndex(s.To), true
	}
	r.When, r.Times = PresenceOf(e, false), 1
	return r
}

// Condense makes one reading of those that were taken with one meter in one place and
// state: they share what the try and the meter err by, so that to repeat one says hardly
// more than once, however often. It stands at their median, and is as wide as they lie
// apart. The readings are sorted by group and value.
func Condense(a *cells.Space, in []Reading) []Reading {
	out := in[:0]
	for i := 0; i < len(in); {
		k := i + 1
		for k < len(in) && in[k].Group == in[i].Group && in[k].Over == in[i].Over && in[k].When == in[i].When && near(a, &in[i], &in[k]) {
			k++
		}
		r := in[i+(k-i)/2]
		if n := k - i; n > 1 && !r.Over {
			apart := in[k-1].U - in[i].U
			if n == 2 {
				r.U = (in[i].U + in[k-1].U) / 2
				r.Value = r.Unwarp(r.U)
			}
			r.Noise = math.Hypot(r.Noise, apart/4)
		}
		r.Times = k - i
		out = append(out, r)
		i = k
	}
	return out
}

// near reports whether two readings of one thing may be two tries at the same fault: a
// contact may show half as much again. Further apart they are two answers.
func near(a *cells.Space, r, s *Reading) bool {
	apart := math.Abs(r.Value - s.Value)
	return r.Over || apart <= a.Assumed.Reading.OtherShare*math.Max(math.Abs(r.Value), math.Abs(s.Value)) ||
		math.Abs(r.U-s.U) < a.Assumed.Reading.OtherAnswer
}
