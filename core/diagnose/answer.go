package diagnose

import (
	"math"
	"math/rand/v2"

	"corriente/core/circuit"
	"corriente/core/machine"
)

// Answer lets a simulated machine answer an observation, drawn from the same
// chances that the reasoning uses, on the machine's own true values.
func (a *Adviser) Answer(m *machine.Machine, observe, state string, rng *rand.Rand) string {
	o := a.C.Observation(observe)
	st := a.Net.StatePos(state)
	w := m.Work(state)
	l := &linear{v: make([]float32, len(w.V)), fed: w.Fed, spin: w.Motor.W > 0, chat: w.Chatter}
	for i, v := range w.V {
		l.v[i] = float32(v)
	}
	speed := w.Motor.W
	h := m.Health()
	for k := range a.C.Stations {
		if by := a.C.Stations[k].ClosedBy; by != "" {
			coil := a.C.StationIndex(by)
			l.coilV = w.CoilVolts(coil)
			l.pull = a.phased(st) && !h[coil].NoPull && !h[coil].Open && l.coilV >= m.Theta[a.Net.ParamIndex(coil, "pull_in")]
			if h[k].Force == circuit.AsCommanded && !h[coil].NoPull && w.Closed[k] {
				l.pull = true
			}
		}
	}
	ref := st
	if a.C.States[st].Supply == "battery" {
		ref = a.run
	}
	rw := a.Net.NewWork()
	rw.Solve(ref, m.Theta, a.Net.SoundAll())
	l.ratio = speed / math.Max(rw.Motor.W, 1e-9)
	d := diagnosis{}
	var sev [2]float64
	for i, x := range m.Hidden {
		d.faults = append(d.faults, x.Fault)
		if i < 2 {
			sev[i] = x.Severity
		}
	}
	// A throw-away adviser view whose only diagnosis is the truth.
	view := &Adviser{C: a.C, Net: a.Net, Model: a.Model, theta: a.theta, run: a.run, runSpin: a.runSpin, diags: []diagnosis{d}}
	p := view.outcomes(o, st, &cell{}, l, sev)
	x := rng.Float64()
	for i, q := range p {
		if x -= q; x <= 0 {
			return o.Outcomes[i].ID
		}
	}
	return o.Outcomes[len(p)-1].ID
}
