package desk

import (
	"corriente/core/calc"
	"corriente/core/casefile"
	"corriente/core/circuit"
)

// CalcAnswer is what a calculator says.
type CalcAnswer struct {
	Says   string      `json:"says"`
	Judged string      `json:"judged"`
	Lines  []calc.Line `json:"lines"`
	Next   string      `json:"next"`
	Steps  []string    `json:"steps"`
	Ways   []calc.Way  `json:"ways"`
	Bars   []float64   `json:"bars"`
	Marked []int       `json:"marked"`
	Note   string      `json:"note"`
}

// CalcView is an answer and what it would put into the job.
type CalcView struct {
	CalcAnswer
	Evidence []casefile.Typed `json:"evidence"`
}

// Calculate answers a calculator's question about a part of a circuit; both may be left out
// where the question is about none. The error is a [*calc.Problem] where an input is wrong.
func Calculate(calculator string, inputs map[string]string, c *circuit.Circuit, part string) (*CalcView, error) {
	r, err := calc.Run(calculator, inputs, c, part)
	if err != nil {
		return nil, err
	}
	v := &CalcView{CalcAnswer: CalcAnswer{r.Says, r.Judged, r.Lines, r.Next, r.Steps, r.Ways, r.Bars, r.Marked,
		r.Note}, Evidence: []casefile.Typed{}}
	for i := range r.Evidence {
		v.Evidence = append(v.Evidence, r.Evidence[i].Typed())
	}
	return v, nil
}
