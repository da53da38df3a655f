package diagnose

import (
	"math/rand/v2"

	"corriente/core/machine"
)

// Answer lets a simulated machine answer an observation, drawn from the same
// chances that the reasoning uses, on the machine's own true values.
func (a *Space) Answer(m *machine.Machine, observe, state string, codes map[int][]string, rng *rand.Rand) string {
	d := diagnosis{}
	var sev [2]float64
	for i, x := range m.Hidden {
		d.faults = append(d.faults, x.Fault)
		if i < 2 {
			sev[i] = x.Severity
		}
	}
	// A throw-away view whose only diagnosis is the truth.
	view := &Space{C: a.C, Net: a.Net, Model: a.Model, assumed: a.assumed, theta: m.Theta, run: a.run, asked: a.asked, spin: a.spin, moves: a.moves,
		diags: []diagnosis{d}, q: 2}
	s, c, solved := view.newSolver(), &cell{}, map[int]*linear{}
	x := observed{a: view, o: a.C.Observation(observe), c: c, diag: d.faults, sev: sev, codes: codes, at: func(st int) *linear {
		l, ok := solved[st]
		if !ok {
			l = &linear{}
			s.linearize(l, st, c, m.Theta, sev, false)
			solved[st] = l
		}
		return l
	}}
	p := x.outcomes(a.Net.StatePos(state))
	y := rng.Float64()
	for i, q := range p {
		if y -= q; y <= 0 {
			return x.o.Outcomes[i].ID
		}
	}
	return x.o.Outcomes[len(p)-1].ID
}
