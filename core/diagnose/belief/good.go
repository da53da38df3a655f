package belief

import (
	"math"

	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/readings"
)

// GoodCircuit is the circuit without its faults, with the values the evidence
// points to: the ghost behind the picture, and "expected if good".
type GoodCircuit struct {
	a     *Reasoner
	theta []float64
	src   *Scored
	lin   map[int]*cells.Solved
	S     *cells.Solver
}

func (a *Reasoner) GoodCircuit(p *Posterior) *GoodCircuit {
	h := &GoodCircuit{a: a, theta: a.Theta, lin: map[int]*cells.Solved{}, S: a.NewSolver()}
	if len(p.Cells) > 0 {
		h.src = &p.Cells[0]
		h.theta = a.Nominal(&a.Cells[h.src.Cell])
		if h.src.Theta != nil {
			h.theta = h.src.Theta
		}
	}
	return h
}

func (h *GoodCircuit) At(state int) *cells.Solved {
	if l, ok := h.lin[state]; ok {
		return l
	}
	l := &cells.Solved{}
	h.S.Linearize(l, state, &h.a.Cells[0], h.theta, [2]float64{}, true)
	h.lin[state] = l
	return l
}

// Expect returns the mean and standard deviation of a reading in the good
// circuit, SI, meter error included, and whether a good circuit shows OL.
func (h *GoodCircuit) Expect(r *readings.Reading) (mean, sd float64, open bool) {
	p := readings.Predicted{Slopes: make([]float64, h.a.Values)}
	var l *cells.Solved
	if h.a.C.States[r.State].Powered() {
		l = h.At(r.State)
	}
	readings.Predict(h.a.Space, &p, r, l, &h.a.Cells[0], h.theta, [2]float64{}, h.S)
	if p.Open {
		return 0, 0, true
	}
	// Only the nominal values are shared with the fault's cell; its severity is not.
	for k := len(h.a.Uncertain); k < h.a.Values; k++ {
		p.Slopes[k] = 0
	}
	mean, v := p.Mean, 0.0
	if h.src != nil {
		m, pv := h.src.Project(p.Slopes)
		if h.src.Theta == nil {
			mean += m
		}
		v = pv
	} else {
		for _, x := range p.Slopes {
			v += x * x
		}
	}
	return mean, math.Sqrt(v + p.Extra*p.Extra + 1/(r.SlopeAt(mean)*r.SlopeAt(mean))), false
}
