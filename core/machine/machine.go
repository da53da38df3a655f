package machine

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/words"
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
	mc := &Machine{Net: m.Net, Model: m, Theta: theta, Hidden: hidden, h: m.Net.SoundAll(), w: m.Net.NewWork(),
		rng: rng, sys: map[string]float64{}}
	for _, x := range hidden {
		m.Apply(mc.h, theta, x.Fault, x.Severity)
	}
	return mc
}

// Truth is what is really so of the machine, for the answers of somebody who looks at it.
func (m *Machine) Truth() words.Truth {
	t := words.Truth{Theta: m.Theta}
	for i, x := range m.Hidden {
		t.Faults = append(t.Faults, x.Fault)
		if i < len(t.Severity) {
			t.Severity[i] = x.Severity
		}
	}
	return t
}

// asked lists the states in which the machine is asked to do its work.
func asked(c *circuit.Circuit) []int {
	var out []int
	for i := range c.States {
		if c.States[i].Commands || c.States[i].ID == c.RunState {
			out = append(out, i)
		}
	}
	return out
}

// Spread draws true values around the nominal ones: resistances, motor
// constants and loads log-normal with standard deviation s, volts with the
// circuit's own. It tries again until a good machine runs, and gives the
// nominal values after a hundred tries.
func Spread(m *fault.Model, s float64, rng *rand.Rand) []float64 {
	net := m.Net
	w, good := net.NewWork(), net.SoundAll()
	states := asked(net.C)
	normal := make([]float64, len(states))
	for i, st := range states {
		w.Solve(st, net.Nominal(), good)
		normal[i] = w.Motor.W
	}
	runs := func(th []float64) bool {
		for i, st := range states {
			w.Solve(st, th, good)
			if w.Chatter || w.Motor.W < 0.6*normal[i] {
				return false
			}
		}
		return true
	}
	for range 100 {
		th, shared := net.Nominal(), map[string]float64{}
		for i, p := range net.Params {
			prm := net.C.Stations[p.Station].Params[p.Name]
			switch {
			case p.Name == "rating" || p.Name == "rated_speed":
			case prm.SD > 0:
				th[i] = math.Max(th[i]+prm.SD*rng.NormFloat64(), 0)
			case prm.Alike != "": // what parts made alike share is drawn once
				key := p.Name + " " + prm.Alike
				if _, ok := shared[key]; !ok {
					shared[key] = math.Exp(math.Min(prm.Common, s) * rng.NormFloat64())
				}
				th[i] *= shared[key] * math.Exp(prm.Spread*rng.NormFloat64())
			case p.Name == "pull_in" || prm.Spread > 0 && prm.Spread < 0.2: // known better than most
				th[i] *= math.Exp(prm.Spread * rng.NormFloat64())
			case prm.Spread > 0:
				th[i] *= math.Exp(s * rng.NormFloat64())
			}
		}
		if net.MotorStation() < 0 || runs(th) {
			return th
		}
	}
	return net.Nominal()
}

// Speed returns the least of the motor's speeds in the states in which it is
// asked to work, each against the same machine without its fault, 0..1 and above.
func (m *Machine) Speed() float64 {
	if m.Net.MotorStation() < 0 {
		return 0
	}
	least := math.Inf(1)
	for _, st := range asked(m.Net.C) {
		m.w.Solve(st, m.Theta, m.Net.SoundAll())
		ref := m.w.Motor.W
		m.w.Solve(st, m.Theta, m.h)
		switch {
		case ref <= 0:
		case m.w.Chatter:
			return 0
		default:
			least = math.Min(least, m.w.Motor.W/ref)
		}
	}
	return least
}

// Loud reports whether a fault is always one, whatever the speed.
func Loud(c *circuit.Circuit, f fault.Fault) bool {
	switch f.Mode {
	case "open", "winding_open", "stuck_open", "welded", "sticking", "seized", "jammed", "slipping", "short_to_ground", "stuck_on",
		"no_output", "no_command", "out_of_neutral":
		return true
	}
	switch c.Station(f.Station).Kind {
	case circuit.Charger, circuit.Winding, circuit.Rectifier, circuit.Capacitor, circuit.Bearing:
		return true
	}
	return false
}

// Matters reports whether the fault is one at all: an open, a chatter, three
// per cent of the speed, or a station outside its allowed drop.
func (m *Machine) Matters() bool {
	c := m.Net.C
	for _, x := range m.Hidden {
		if Loud(c, x.Fault) {
			return true
		}
	}
	if len(m.Hidden) == 0 || m.Speed() < 0.97 {
		return true
	}
	for _, st := range asked(c) {
		m.w.Solve(st, m.Theta, m.h)
		for k := range c.Stations {
			if s := &c.Stations[k]; s.AllowedDrop > 0 && s.Kind != circuit.Driver && m.Net.Present(st, k) {
				if a, b := m.Net.Ends(st, k); math.Abs(m.w.V[a]-m.w.V[b]) > s.AllowedDrop {
					return true
				}
			}
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
		if c.States[st].Supply == "running" {
			break
		}
		if m.w.Island[a] != m.w.Island[b] {
			m.w.Linearize()
			z := m.w.SourceOhms(a, b)
			v = v*in.Input()/(in.Input()+z) + 0.05*m.rng.NormFloat64() // a ghost
		}
	case unit.Current:
		m.w.Solve(st, m.Theta, m.h)
		k := c.StationIndex(e.Through)
		v = m.w.I[k]
		if k == m.Net.BatteryStation() {
			v = -v // a clamp reads what leaves the battery
		}
		if m.w.Chatter {
			v += (0.2 + 0.6*m.rng.Float64()) * (m.w.AltI[k] - v)
		}
	case unit.Resistance:
		m.w.PrepareOhms(st, m.Theta, m.h)
		var r float64
		var ok bool
		if e.Through != "" {
			r, ok = m.w.OhmsThrough(c.StationIndex(e.Through))
		} else {
			r, ok = m.w.Ohms(c.NodeIndex(e.From), c.NodeIndex(e.To))
		}
		if !ok || r > meter.OhmsOverLimit {
			e.Value = "OL"
			return nil
		}
		v = r
	case unit.ACVoltage:
		m.w.Solve(st, m.Theta, m.h)
		x, ok := m.w.ACVolts(c.NodeIndex(e.From), c.NodeIndex(e.To))
		if v = x; !ok {
			v = math.Abs(0.5 * m.rng.NormFloat64()) // a ghost
		}
	case unit.Frequency:
		v = c.Frequency
	case unit.Capacitance:
		for k := range c.Stations {
			if h := &m.h[k]; c.Stations[k].Kind == circuit.Capacitor && !h.Open && !h.Short {
				v = m.Theta[m.Net.ParamIndex(k, "capacitance")] * h.Cap
			}
		}
	}
	key := fmt.Sprint(e.Measure, e.State, e.From, e.To, e.Through, in.Name)
	sys, ok := m.sys[key]
	if !ok {
		sys = 2*m.rng.Float64() - 1
		m.sys[key] = sys
	}
	e.Value = display(e.Measure, acc, v+sys*acc.Limit(v))
	return nil
}

// display is what a meter shows of a value, SI; OL beyond its full scale.
func display(m unit.Measure, acc *meter.Accuracy, v float64) string {
	shown, over := acc.Shows(v)
	if over {
		return "OL"
	}
	if slices.Contains([]unit.Measure{unit.Resistance, unit.Capacitance, unit.ACVoltage, unit.Frequency}, m) {
		shown = math.Max(shown, 0) // no display shows less than none of these
	}
	count := acc.Count(shown)
	if m == unit.Capacitance { // a bare number would be taken for microfarads
		return strconv.FormatFloat(shown*1e6, 'f', decimals(count*1e6), 64) + " uF"
	}
	return strconv.FormatFloat(shown, 'f', decimals(count), 64)
}

func decimals(count float64) int {
	return max(0, int(math.Ceil(-math.Log10(count)-1e-9)))
}
