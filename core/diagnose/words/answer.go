package words

import (
	"math/rand/v2"

	"corriente/core/diagnose/cells"
	"corriente/core/fault"
)

// Truth is what is really so of a machine.
type Truth struct {
	Theta    []float64     // its values, in the order of the network's parameters, SI
	Faults   []fault.Fault // what is wrong with it
	Severity [2]float64    // of the first two
}

// Asked is an observation asked for in a state.
type Asked struct {
	Observe, State string
	Codes          map[int][]string // what the machine's blink codes mean: station.mode
}

// Answer lets somebody look at a machine whose truth is known: an answer drawn from the chances
// that the reasoning uses.
func Answer(a *cells.Space, truth Truth, q Asked, rng *rand.Rand) string {
	d := cells.Diagnosis{Faults: truth.Faults}
	// A throw-away view whose only diagnosis is the truth.
	view := &cells.Space{C: a.C, Net: a.Net, Model: a.Model, Assumed: a.Assumed, Theta: truth.Theta, Run: a.Run,
		Asked: a.Asked, Spin: a.Spin, Moves: a.Moves,
		Diags: []cells.Diagnosis{d}, Values: 2}
	s, c, solved := view.NewSolver(), &cells.Cell{}, map[int]*cells.Solved{}
	x := Observed{Space: view, Look: a.C.Observation(q.Observe), Cell: c, Faults: d.Faults, Severity: truth.Severity,
		Codes: q.Codes, SolvedIn: func(st int) *cells.Solved {
			l, ok := solved[st]
			if !ok {
				l = &cells.Solved{}
				s.Solve(l, st, cells.Point{Cell: c, Theta: truth.Theta, Sev: truth.Severity})
				solved[st] = l
			}
			return l
		}}
	p := x.Outcomes(a.Net.StatePos(q.State))
	y := rng.Float64()
	for i, q := range p {
		if y -= q; y <= 0 {
			return x.Look.Outcomes[i].ID
		}
	}
	return x.Look.Outcomes[len(p)-1].ID
}
