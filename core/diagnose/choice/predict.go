package choice

import (
	"math"

	"corriente/core/casefile"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/readings"
	"corriente/core/diagnose/words"
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
func Hypotheses(a *cells.Space) []Hypothesis {
	var out []Hypothesis
	for _, k := range a.Middles() {
		d := &a.Diags[a.Cells[k].Diagnosis]
		h := Hypothesis{Label: a.Label(d.Faults)}
		for _, c := range d.Cells {
			h.Prior += math.Exp(a.BasePrior[c])
		}
		if len(d.Faults) > 0 {
			h.Station = d.Faults[0].Station
		}
		out = append(out, h)
	}
	return out
}

// Predictions says what each of [Hypotheses] predicts of a reading.
func Predictions(a *belief.Reasoner, e casefile.Evidence) []Prediction {
	var out []Prediction
	s := a.NewSolver()
	pr := readings.Predicted{Slopes: make([]float64, a.Values)}
	for _, k := range a.Middles() {
		c := &a.Cells[k]
		at := func(st int) *cells.Solved {
			l := &cells.Solved{}
			s.Linearize(l, st, a.AtNominal(k))
			return l
		}
		if e.Observe != "" {
			x := words.Observed{Space: a.Space, Look: a.C.Observation(e.Observe), Through: e.Through, Cell: c,
				Faults: a.Diags[c.Diagnosis].Faults, Severity: c.Severity, SolvedIn: at}
			out = append(out, Prediction{Words: x.Outcomes(a.Net.StatePos(e.State))})
			continue
		}
		r := readings.Prepare(a.Space, &e, MeterAtHand(a, &e, &belief.Job{}), 0)
		r.Ahead = true
		v := View{Sc: belief.AtNominal(a.Space, k), Lin: make([]*cells.Solved, len(a.C.States))}
		f := Foresee(a, &r, &v, s, &pr)
		out = append(out, Prediction{Mean: f.Mean, SD: f.SD, Open: f.Open})
	}
	return out
}

// Price is what a reading costs by itself, minutes, with nothing open yet.
func Price(a *belief.Reasoner, e casefile.Evidence) float64 {
	m, people := cost(a, &e, map[string]bool{"open_air": true}, "")
	if people > 1 {
		m *= a.Assumed.Choice.SecondPerson
	}
	return m
}
