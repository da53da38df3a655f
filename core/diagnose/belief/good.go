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
	point cells.Point
	src   *Scored
	lin   map[int]*cells.Solved
	s     *cells.Solver
}

// GoodCircuit is the circuit without its faults at the values of the likeliest cell.
func (a *Reasoner) GoodCircuit(p *Posterior) *GoodCircuit {
	h := &GoodCircuit{a: a, point: a.AtNominal(0), lin: map[int]*cells.Solved{}, s: a.NewSolver()}
	if len(p.Cells) > 0 {
		h.src = &p.Cells[0]
		h.point.Theta = h.src.At(a.Space).Theta
	}
	return h
}

// At is the good circuit solved in a state.
func (h *GoodCircuit) At(state int) *cells.Solved {
	if l, ok := h.lin[state]; ok {
		return l
	}
	l := &cells.Solved{}
	h.s.Linearize(l, state, h.point)
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
	readings.Predict(h.s, &p, r, l, h.point)
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

// Closed tells by station which contacts and drivers conduct in the good circuit in a state.
func (h *GoodCircuit) Closed(state int) []bool {
	h.s.W.PullIn, h.s.W.Unwatched = 0, false
	h.s.W.Solve(state, h.point.Theta, h.a.Net.SoundAll())
	return h.s.W.Closed
}
