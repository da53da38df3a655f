package diagnose

import (
	"math"

	"corriente/core/casefile"
)

// Prediction is what one diagnosis, at a middling severity, says of a reading.
type Prediction struct {
	Words []float64 // an observation: chance of each outcome
	Mean  float64   // a reading, on the scale on which the meter's uncertainty is one
	SD    float64
	Open  bool // OL
}

// Hypothesis is one diagnosis at a middling severity.
type Hypothesis struct {
	Label   string
	Station string // "" for nothing wrong
	Prior   float64
}

// Hypotheses lists nothing wrong and every single fault with its prior, and
// Predictions, in the same order, what each says of a reading. They make the
// reduced problems on which the adviser is held against the exact optimum.
func (a *Space) Hypotheses() []Hypothesis {
	var out []Hypothesis
	for _, k := range a.middles() {
		d := &a.diags[a.cells[k].diag]
		h := Hypothesis{Label: a.label(d.faults)}
		for _, c := range d.cells {
			h.Prior += math.Exp(a.basePrior[c])
		}
		if len(d.faults) > 0 {
			h.Station = d.faults[0].Station
		}
		out = append(out, h)
	}
	return out
}

// middles lists the middle cell of every single diagnosis.
func (a *Space) middles() []int {
	var out []int
	for d := range a.diags {
		if c := a.diags[d].cells; len(a.diags[d].faults) < 2 {
			out = append(out, c[len(c)/2])
		}
	}
	return out
}

// Predictions says what each of [Adviser.Hypotheses] predicts of a reading.
func (a *Adviser) Predictions(e casefile.Evidence) []Prediction {
	var out []Prediction
	s := a.newSolver()
	pr := predicted{j: make([]float64, a.q)}
	for _, k := range a.middles() {
		c := &a.cells[k]
		at := func(st int) *linear {
			l := &linear{}
			s.linearize(l, st, c, a.nominal(c), c.sev, true)
			return l
		}
		if e.Observe != "" {
			x := observed{a: a.Space, o: a.C.Observation(e.Observe), through: e.Through, c: c, diag: a.diags[c.diag].faults, sev: c.sev, at: at}
			out = append(out, Prediction{Words: x.outcomes(a.Net.StatePos(e.State))})
			continue
		}
		r := a.prepare(&e, a.meterAtHand(&e, &Job{}), 0)
		v := cellView{sc: &scored{cell: k, sev: c.sev, theta: a.nominal(c)}, lin: make([]*linear, len(a.C.States))}
		f := a.forecast(&r, &v, s, &pr)
		out = append(out, Prediction{Mean: f.mean, SD: f.sd, Open: f.open})
	}
	return out
}

// Price is what a reading costs by itself, minutes, with nothing open yet.
func (a *Adviser) Price(e casefile.Evidence) float64 {
	m, people := a.cost(&e, map[string]bool{"open_air": true}, "")
	if people > 1 {
		m *= a.assumed.Choice.SecondPerson
	}
	return m
}
