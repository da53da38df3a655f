// Package machine is a simulated machine with a hidden fault: probed with a
// meter that errs as meters do, it answers as the solved circuit says. It feeds
// the demo's readings and the evaluation of the adviser.
package machine

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strconv"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Hidden is a fault and how bad it is.
type Hidden struct {
	Fault    fault.Fault
	Severity float64
}

// Machine is one simulated machine. It is not safe for concurrent use.
type Machine struct {
	Net    *circuit.Network
	Model  *fault.Model
	Theta  []float64
	Hidden []Hidden

	h   []circuit.Health
	w   *circuit.Work
	rng *rand.Rand
	sys map[string]float64 // one meter in one place errs the same way each time
}

// New makes a machine with the given true parameter values; theta is kept.
func New(m *fault.Model, theta []float64, hidden []Hidden, rng *rand.Rand) *Machine {
	mc := &Machine{Net: m.Net, Model: m, Theta: theta, Hidden: hidden, h: m.Net.SoundAll(), w: m.Net.NewWork(), rng: rng, sys: map[string]float64{}}
	for _, x := range hidden {
		m.Apply(mc.h, theta, x.Fault, x.Severity)
	}
	return mc
}

// Spread draws true values around the nominal ones: resistances, motor
// constants and loads log-normal with standard deviation s, volts with the
// circuit's own. It tries again until a good machine runs, and gives the
// nominal values after a hundred tries.
func Spread(m *fault.Model, s float64, rng *rand.Rand) []float64 {
	net := m.Net
	w, good := net.NewWork(), net.SoundAll()
	run := net.StatePos(net.C.RunState)
	w.Solve(run, net.Nominal(), good)
	normal := w.Motor.W
	for range 100 {
		th := net.Nominal()
		for i, p := range net.Params {
			prm := net.C.Stations[p.Station].Params[p.Name]
			switch {
			case p.Name == "rating" || p.Name == "rated_speed":
			case prm.SD > 0:
				th[i] = math.Max(th[i]+prm.SD*rng.NormFloat64(), 0)
			case p.Name == "pull_in":
				th[i] *= math.Exp(prm.Spread * rng.NormFloat64())
			case prm.Spread > 0:
				th[i] *= math.Exp(s * rng.NormFloat64())
			}
		}
		w.Solve(run, th, good)
		if !w.Chatter && w.Motor.W > 0.6*normal {
			return th
		}
	}
	return net.Nominal()
}

// Speed returns the motor's speed in the run state against the same machine
// without its fault, 0..1 and above.
func (m *Machine) Speed() float64 {
	run := m.Net.StatePos(m.Net.C.RunState)
	m.w.Solve(run, m.Theta, m.Net.SoundAll())
	ref := m.w.Motor.W
	m.w.Solve(run, m.Theta, m.h)
	if ref <= 0 || m.w.Chatter {
		return 0
	}
	return m.w.Motor.W / ref
}

// Matters reports whether the fault is one at all: an open, a chatter, three
// per cent of the speed, or a station outside its allowed drop.
func (m *Machine) Matters() bool {
	for _, x := range m.Hidden {
		switch x.Fault.Mode {
		case "open", "winding_open", "stuck_open", "welded", "sticking", "seized", "jammed", "slipping", "short_to_ground":
			return true
		}
	}
	if len(m.Hidden) == 0 || m.Speed() < 0.97 {
		return true
	}
	c := m.Net.C
	for k := range c.Stations {
		if s := &c.Stations[k]; s.AllowedDrop > 0 && s.From != "" &&
			math.Abs(m.w.V[c.NodeIndex(s.From)]-m.w.V[c.NodeIndex(s.To)]) > s.AllowedDrop {
			return true
		}
	}
	return false
}

// Work solves the machine in a state and returns the operating point, valid
// until the next call.
func (m *Machine) Work(state string) *circuit.Work {
	m.w.Solve(m.Net.StatePos(state), m.Theta, m.h)
	return m.w
}

// Health is what is wrong, in the solver's terms.
func (m *Machine) Health() []circuit.Health { return m.h }

// Measure takes a reading: e names measure, state and place; the value is
// filled in as the meter shows it, with its error.
func (m *Machine) Measure(e *casefile.Evidence, in meter.Instrument) error {
	acc := in.For(e.Measure)
	if acc == nil {
		return fmt.Errorf("this meter reads no %s", e.Measure)
	}
	c := m.Net.C
	st := m.Net.StatePos(e.State)
	if st < 0 {
		return fmt.Errorf("no state %q", e.State)
	}
	var v float64
	switch e.Measure {
	case unit.Voltage:
		m.w.Solve(st, m.Theta, m.h)
		a, b := c.NodeIndex(e.From), c.NodeIndex(e.To)
		v = m.w.V[a] - m.w.V[b]
		if m.w.Chatter {
			alt := m.w.AltV[a] - m.w.AltV[b]
			v += (0.2 + 0.6*m.rng.Float64()) * (alt - v)
		}
		if !m.w.Held[a] || !m.w.Held[b] {
			m.w.Linearize()
			z := m.w.SourceOhms(a, b)
			v = v*in.Input()/(in.Input()+z) + 0.05*m.rng.NormFloat64() // a ghost
		}
	case unit.Current:
		m.w.Solve(st, m.Theta, m.h)
		k := c.StationIndex(e.Through)
		v = m.w.I[k]
		if m.w.Chatter {
			v += (0.2 + 0.6*m.rng.Float64()) * (m.w.AltI[k] - v)
		}
	case unit.Resistance:
		a, b := c.NodeIndex(e.From), c.NodeIndex(e.To)
		if e.Through != "" {
			s := c.Station(e.Through)
			a, b = c.NodeIndex(s.From), c.NodeIndex(s.To)
		}
		m.w.PrepareOhms(st, m.Theta, m.h)
		r, ok := m.w.Ohms(a, b)
		if !ok || r > meter.OhmsOverLimit {
			e.Value = "OL"
			return nil
		}
		v = r
	}
	key := fmt.Sprint(e.Measure, e.State, e.From, e.To, e.Through, in.Name)
	sys, ok := m.sys[key]
	if !ok {
		sys = 2*m.rng.Float64() - 1
		m.sys[key] = sys
	}
	v += sys * acc.Limit(v)
	shown, over := acc.Shows(v)
	if e.Measure == unit.Resistance {
		shown = math.Max(shown, 0)
	}
	if over {
		e.Value = "OL"
		return nil
	}
	e.Value = strconv.FormatFloat(shown, 'f', decimals(acc.Count(shown)), 64)
	return nil
}

func decimals(count float64) int {
	return max(0, int(math.Ceil(-math.Log10(count)-1e-9)))
}
