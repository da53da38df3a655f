package explain

import (
	"math"
	"slices"
	"sort"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/gauss"
	"corriente/core/diagnose/words"
	"corriente/core/fault"
)

// Inner is a finding still worth looking for in a motor that is apart.
type Inner struct {
	Observe  string            `json:"observe"`
	Label    string            `json:"label"`
	Question string            `json:"question"`
	Outcomes []circuit.Outcome `json:"outcomes"`
	Bits     float64           `json:"bits"`    // what it would tell about the fault
	Outcome  string            `json:"outcome"` // the last answer so far, empty while it was not looked at
	Given    []string          `json:"given"`   // all answers so far: a brush may be broken and stuck
}

// Inside lists what can be found inside the motor, the most telling about the fault
// first, the answered ones last: the mutual information between the answer and the
// surviving diagnoses. What would tell nothing more is still listed: it shows the next
// worn part before the motor is closed up.
func Inside(c *circuit.Circuit, ds []Ranked, evidence []casefile.Evidence) []Inner {
	out := []Inner{}
	for _, o := range c.Inside() {
		in := Inner{Observe: o.ID, Label: o.Label, Question: o.Question, Outcomes: o.Outcomes, Given: []string{}}
		for i := range evidence {
			if e := &evidence[i]; e.Observe == o.ID && !e.Struck {
				in.Outcome = e.Outcome
				if !slices.Contains(in.Given, e.Outcome) {
					in.Given = append(in.Given, e.Outcome)
				}
			}
		}
		x := &words.Observed{Look: &o}
		var mean []float64
		total, within := 0.0, 0.0
		for _, d := range ds {
			x.Faults = x.Faults[:0]
			for _, f := range d.Faults {
				if station, mode, ok := strings.Cut(f, "."); ok {
					x.Faults = append(x.Faults, fault.Fault{Station: station, Mode: mode})
				}
			}
			p := make([]float64, len(o.Outcomes))
			x.Rates(func(id string, v float64) {
				for k := range o.Outcomes {
					if o.Outcomes[k].ID == id {
						p[k] += v
					}
				}
			})
			if mean == nil {
				mean = make([]float64, len(p))
			}
			h := 0.0
			for k, v := range p {
				mean[k] += d.Probability * v
				h -= gauss.Plogp(v)
			}
			total, within = total+d.Probability, within+d.Probability*h
		}
		if total > 0 {
			h := 0.0
			for _, v := range mean {
				h -= gauss.Plogp(v / total)
			}
			in.Bits = math.Max(0, h-within/total)
		}
		out = append(out, in)
	}
	sort.SliceStable(out, func(i, j int) bool {
		if (out[i].Outcome == "") != (out[j].Outcome == "") {
			return out[i].Outcome == ""
		}
		return out[i].Bits > out[j].Bits
	})
	return out
}

// InsideShare is how likely the fault is to be found by taking the motor and what it
// turns apart, from 0 to 1: the share of the diagnoses given that name one of the parts
// the looks of [Inside] are about. Below a half, what is left to measure from outside
// comes first.
func InsideShare(c *circuit.Circuit, ds []Ranked) float64 {
	parts := map[string]bool{}
	for _, o := range c.Inside() {
		parts[o.Of] = true
	}
	for i := range c.Stations {
		if s := &c.Stations[i]; parts[s.Within] {
			parts[s.ID] = true
		}
	}
	in, total := 0.0, 0.0
	for _, d := range ds {
		total += d.Probability
		for _, f := range d.Faults {
			if station, _, _ := strings.Cut(f, "."); parts[station] {
				in += d.Probability
				break
			}
		}
	}
	if total <= 0 {
		return 0
	}
	return in / total
}
