package field

import (
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"

	"corriente/core/circuit"
)

// Fault is one thing wrong with a machine, as the families name it.
type Fault struct {
	Station, Mode string
	// Severity is in the unit the mode is measured by: ohms added, volts left, a
	// factor, or a share left. 0 where there are no degrees.
	Severity float64
}

func (f Fault) String() string { return f.Station + "." + f.Mode }

// Machine is one machine with what is wrong with it. It is not safe for concurrent use.
type Machine struct {
	C      *circuit.Circuit
	Faults []Fault
	// Precise says that volts are read with a meter of millivolts.
	Precise bool

	set  Settings
	rng  *rand.Rand
	node map[string]int
	par  []map[string]float64 // true values, per station
	n    float64              // nominal volts against 12

	soc      float64 // state of charge, 0 to 1
	surface  float64 // V, gone once current has flowed
	fresh    bool    // the surface charge still stands
	sag      float64 // V the battery still misses
	rest     float64 // inner resistance against nominal at full charge
	polar    float64 // polarisation's share of it
	warm     float64 // K of the windings above the day
	tries    int
	leak     []float64 // S, and to which post
	leakUp   []bool
	current  float64 // A of consumers
	drawAt   int     // node where the consumers return
	guardsOK []bool  // per driver station: its guards hold at all
	guardBy  float64 // factor on their limits
	expo     float64 // added to the load's exponent
	stick    float64 // friction that holds, against friction that runs
	folds    bool    // a module limits its current instead of switching off
	limit    float64 // a module's current limit against normal current
	twoCoils bool    // a solenoid with pull-in and hold-in winding
	normal   []float64
	good     map[string]float64 // speed of the sound machine, per state
	gain     map[string]float64 // a meter's gain error, by measure
	zero     float64            // A, where the clamp's zero stands
	blown    map[int]bool       // fuses
	pinned   bool               // no try-to-try variation: for what is expected of the sound machine
}

func (m *Machine) ln(sd float64) float64 { return math.Exp(sd * m.rng.NormFloat64()) }

// has returns a fault of a mode at a station.
func (m *Machine) has(station string, modes ...string) (Fault, bool) {
	for _, f := range m.Faults {
		if f.Station == station && slices.Contains(modes, f.Mode) {
			return f, true
		}
	}
	return Fault{}, false
}

func (m *Machine) any(modes ...string) (Fault, bool) {
	for _, f := range m.Faults {
		if slices.Contains(modes, f.Mode) {
			return f, true
		}
	}
	return Fault{}, false
}

// build makes a sound machine of a circuit: a draw of its true values.
func build(c *circuit.Circuit, set Settings, rng *rand.Rand) *Machine {
	m := &Machine{C: c, set: set, rng: rng, node: map[string]int{}, n: c.NominalVoltage / 12, blown: map[int]bool{},
		gain: map[string]float64{}, good: map[string]float64{}}
	for i := range c.Nodes {
		m.node[c.Nodes[i].ID] = i
		m.leak = append(m.leak, set.Leak*m.ln(1.2))
		m.leakUp = append(m.leakUp, rng.Float64() < 0.4)
	}
	mainHarness, control, frame := m.ln(set.Harness), m.ln(set.Harness), m.ln(set.Frame/2)
	for k := range c.Stations {
		s := &c.Stations[k]
		v := map[string]float64{}
		for name, p := range s.Params {
			v[name] = p.Value
		}
		switch s.Kind {
		case circuit.Wire, circuit.Joint, circuit.Fuse, circuit.Contact, circuit.Driver, circuit.ResistorPack:
			by := mainHarness
			if s.Side == "control" {
				by = control
			}
			for _, name := range sorted(v) {
				if name != "rating" && s.Kind != circuit.ResistorPack && s.Kind != circuit.Driver {
					v[name] *= by
				}
				if name != "rating" {
					v[name] *= m.ln(set.Part)
				}
			}
		case circuit.Coil:
			v["resistance"] *= m.ln(set.Small)
			v["pull_in"] *= m.ln(set.Small)
		case circuit.Motor:
			for _, name := range sorted(v) {
				switch name {
				case "resistance", "resistance_high":
					v[name] *= frame * m.ln(set.Frame/1.4)
				case "ke", "ke_high":
					v[name] *= m.ln(set.Frame / 1.6)
				case "brush_drop":
					v[name] *= m.ln(2 * set.Small)
				case "friction":
					v[name] *= m.ln(set.Friction)
				case "load":
					v[name] *= m.ln(set.Load)
				}
			}
		case circuit.Charger:
			v["present"] = 0
			if s.Params["present"].Value == 0 && rng.Float64() < 0.3 {
				v["present"] = 1
			}
		case circuit.Throttle:
			v["rest"], v["full"] = 0.3+0.35*rng.Float64(), 4+0.7*rng.Float64()
		case circuit.Control:
			for _, name := range sorted(v) {
				v[name] *= m.ln(set.Small)
			}
		}
		m.par = append(m.par, v)
		m.guardsOK = append(m.guardsOK, rng.Float64() >= set.Guard)
	}
	m.soc, m.rest, m.polar = 0.75+0.25*rng.Float64(), m.ln(0.25), 0.2+0.3*rng.Float64()
	if rng.Float64() < 1.0/3 {
		m.surface, m.fresh = set.Surface*m.n*rng.Float64(), true
	}
	m.current, m.drawAt = set.Consumers*rng.Float64()*math.Max(m.n/2, 1)/m.n, m.drawNode()
	m.guardBy, m.expo, m.stick = m.ln(0.12), set.Law*rng.NormFloat64(), 1.1+0.4*rng.Float64()
	m.limit, m.twoCoils, m.folds = 1.7+1.8*rng.Float64(), c.ID == "starter", rng.Float64() < 0.5
	for _, measure := range []string{"voltage", "current", "resistance"} {
		m.gain[measure] = 0.6 * (2*rng.Float64() - 1)
	}
	m.zero = set.Clamp * rng.NormFloat64()
	m.Precise = rng.Float64() < set.Precise
	return m
}

// sorted lists the names of values, always in the same order, so that the same seed makes
// the same machine.
func sorted(v map[string]float64) []string { return slices.Sorted(maps.Keys(v)) }

// drawNode is where other consumers return to the battery: the body or block, so that
// their current flows through the machine's last ground part; -1 where it has none.
func (m *Machine) drawNode() int {
	for _, id := range []string{"block", "frame", "body"} {
		if i, ok := m.node[id]; ok {
			return i
		}
	}
	return -1
}

// runs reports whether a sound machine does its work, in every state that asks for it.
func (m *Machine) runs() bool {
	m.pinned = true
	defer func() { m.pinned = false }()
	m.normal = nil
	normal := make([]float64, len(m.C.Stations))
	for i := range m.C.States {
		st := &m.C.States[i]
		if st.Supply == "none" {
			continue
		}
		p := m.point(st)
		m.good[st.ID] = p.speed
		if st.Supply == "battery" {
			for k, x := range p.i {
				normal[k] = math.Max(normal[k], math.Abs(x))
			}
		}
		if (st.Commands || st.ID == m.C.RunState) && (p.chatter || p.speed < 0.22*m.rated()) {
			return false
		}
	}
	m.normal = normal
	return true
}

func (m *Machine) motorAt() int {
	for k := range m.C.Stations {
		if m.C.Stations[k].Kind == circuit.Motor {
			return k
		}
	}
	return -1
}

func (m *Machine) rated() float64 { return m.par[m.motorAt()]["rated_speed"] }

// Draw makes a machine with so many faults, drawn by the families' rates and kept as a
// customer would complain of them. Direct-current families only.
func Draw(c *circuit.Circuit, set Settings, faults int, rng *rand.Rand) (*Machine, error) {
	for range 4000 {
		m := build(c, set, rng)
		if m.motorAt() < 0 || c.Mains {
			return nil, fmt.Errorf("circuit %s has no brushed motor on direct current: field machines are made of those that have", c.ID)
		}
		if !m.runs() {
			continue
		}
		for len(m.Faults) < faults {
			f, ok := m.pick()
			if !ok || slices.ContainsFunc(m.Faults, func(g Fault) bool { return g.Station == f.Station }) {
				continue
			}
			m.Faults = append(m.Faults, f)
		}
		m.blow()
		if faults == 0 || m.complained() {
			return m, nil
		}
	}
	return nil, fmt.Errorf("circuit %s: no machine of it both works when sound and fails when faulty", c.ID)
}

// pick draws a fault by the family's rates, with a severity of the field's own.
func (m *Machine) pick() (Fault, bool) {
	type choice struct {
		f Fault
		r float64
	}
	var all []choice
	total := 0.0
	for k := range m.C.Stations {
		s := &m.C.Stations[k]
		if s.Kind == circuit.Charger && m.par[k]["present"] < 0.5 {
			continue
		}
		modes := make([]string, 0, len(s.Faults))
		for mode := range s.Faults {
			modes = append(modes, mode)
		}
		slices.Sort(modes)
		for _, mode := range modes {
			all = append(all, choice{Fault{Station: s.ID, Mode: mode}, s.Faults[mode]})
			total += s.Faults[mode]
		}
	}
	x := m.rng.Float64() * total
	for _, c := range all {
		if x -= c.r; x <= 0 {
			c.f.Severity = m.severity(c.f)
			return c.f, true
		}
	}
	return Fault{}, false
}

// severity draws how bad a fault is.
func (m *Machine) severity(f Fault) float64 {
	k := m.C.StationIndex(f.Station)
	unit := m.C.NominalVoltage / math.Max(m.normal[k], 0.05)
	between := func(lo, hi float64) float64 { return lo * math.Pow(hi/lo, m.rng.Float64()) }
	switch f.Mode {
	case "high_resistance":
		return between(0.04, 2) * unit
	case "brushes_worn", "low_brush_worn", "high_brush_worn":
		if m.rng.Float64() < 0.25 {
			return openOhms
		}
		return between(0.12, 30) * unit
	case "commutator_damaged":
		return between(0.03, 0.3) * unit
	case "winding_grounded":
		return between(0.04, 0.8) * unit
	case "short_to_ground":
		return between(0.03, 1)
	case "weak":
		return between(3, 14)
	case "discharged":
		return 0.02 + 0.33*m.rng.Float64() // state of charge
	case "shorted_turns":
		return 0.35 + 0.45*m.rng.Float64()
	case "bearing_drag":
		return between(3, 20)
	case "binding":
		return between(1.4, 4)
	}
	return 0
}

// complained reports whether anybody would bring the machine: it is heard, seen, or slow.
func (m *Machine) complained() bool {
	if _, ok := m.any("open", "winding_open", "stuck_open", "welded", "sticking", "seized", "jammed", "slipping",
		"short_to_ground", "stuck_on",
		"no_output", "no_command", "out_of_neutral", "overcharging"); ok {
		return true
	}
	m.pinned = true
	defer func() { m.pinned = false }()
	worst := 1.0
	for i := range m.C.States {
		st := &m.C.States[i]
		if !st.Commands && st.ID != m.C.RunState {
			continue
		}
		p := m.point(st)
		if p.chatter {
			worst = 0
		} else if g := m.good[st.ID]; g > 0 {
			worst = math.Min(worst, p.speed/g)
		}
	}
	return m.rng.Float64() < 1/(1+math.Exp((worst-0.75)/0.04))
}

// blow lets fuses go that a fault overloads: what carries more than twice its rating
// does not hold (ISO 8820-3), what carries half again as much mostly does not.
func (m *Machine) blow() {
	m.pinned = true
	defer func() { m.pinned = false }()
	for i := range m.C.States {
		st := &m.C.States[i]
		if st.Supply != "battery" || !st.Commands && st.ID != m.C.RunState && st.ID != "rest" && st.ID != "key_on" {
			continue
		}
		p := m.point(st)
		for k := range m.C.Stations {
			s := &m.C.Stations[k]
			if s.Kind != circuit.Fuse {
				continue
			}
			times := math.Abs(p.i[k]) / m.par[k]["rating"]
			if times > 2 || times > 1.5 && m.rng.Float64() < 0.7 {
				m.blown[k] = true
				if !slices.ContainsFunc(m.Faults, func(f Fault) bool { return f.Station == s.ID }) {
					m.Faults = append(m.Faults, Fault{Station: s.ID, Mode: "open"})
				}
			}
		}
	}
}

// Repaired returns the machine with one station put right.
func (m *Machine) Repaired(station string) *Machine {
	x := *m
	x.Faults = slices.DeleteFunc(slices.Clone(m.Faults), func(f Fault) bool { return f.Station == station })
	x.blown = map[int]bool{}
	for k := range m.blown {
		if m.C.Stations[k].ID != station {
			x.blown[k] = true
		}
	}
	x.blow()
	return &x
}

// Lost is the share of the speed that the machine has lost, at worst, 0 to 1.
func (m *Machine) Lost() float64 {
	m.pinned = true
	defer func() { m.pinned = false }()
	lost := 0.0
	for i := range m.C.States {
		st := &m.C.States[i]
		if g := m.good[st.ID]; g > 0 && (st.Commands || st.ID == m.C.RunState) {
			lost = math.Max(lost, 1-m.point(st).speed/g)
		}
	}
	return math.Min(lost, 1)
}
