package field

import (
	"math"
	"slices"

	"corriente/core/circuit"
)

const (
	openOhms  = 1e9
	meterOhms = 1e7 // an ordinary meter's input
)

// point is what a machine does at one moment.
type point struct {
	v       []float64 // V of each node against battery minus
	i       []float64 // A through each station
	speed   float64   // rad/s
	amps    float64   // A through the motor, positive as it is meant to turn
	stalled bool
	chatter bool
	closed  []bool // contacts and drivers
	coilOn  []bool
	live    bool // a controller has its supply and is switched on
	trips   bool // and withholds its output
}

// part is one branch: a resistance, and a source in series with it.
type part struct {
	station int
	a, b    int
	r, emf  float64
}

// net is one state of a machine being solved.
type net struct {
	m      *Machine
	st     *circuit.State
	closed []bool
	coilOn []bool
	parts  []part
	held   bool    // a brake or a seizure holds the shaft
	factor float64 // of the load in this try
	noise  []float64
	amps   []float64 // of the last pass, for what depends on current
	off    []bool    // drivers that protect themselves
	fold   []float64 // Ω that stand for a driver's current limit
	probe  [2]int    // where the meter stands; -1 nowhere
	last   []float64 // node voltages of the last pass
}

// in is a state of the machine, nothing closed by a coil yet and nothing moved.
func (m *Machine) in(st *circuit.State) *net {
	k := len(m.C.Stations)
	n := &net{m: m, st: st, factor: 1, closed: make([]bool, k), coilOn: make([]bool, k), amps: make([]float64, k),
		off: make([]bool, k), fold: make([]float64, k), noise: make([]float64, k),
		probe: [2]int{-1, -1}}
	for i := range n.noise {
		n.noise[i] = 1
	}
	return n
}

// point solves a state with the closings and the weather of this moment.
func (m *Machine) point(st *circuit.State) *point { return m.pointWith(st, -1, -1) }

func (m *Machine) pointWith(st *circuit.State, from, to int) *point {
	n := m.in(st)
	n.probe = [2]int{from, to}
	if !m.pinned {
		for k := range n.noise {
			n.noise[k] = m.ln(m.moves(k))
		}
		n.factor = m.ln(m.set.Try)
	}
	var p *point
	flips := 0
	for pass := 0; pass < 8; pass++ {
		p = n.settle()
		changed := n.coils(p)
		changed = n.brakes(p) || changed
		changed = n.protects(p) || changed
		if !changed {
			break
		}
		flips = pass
	}
	p.chatter = flips >= 6
	p.closed, p.coilOn = n.closed, n.coilOn
	p.live, p.trips = n.controller(p)
	return p
}

// moves is how far a station's own resistance moves from one try to the next.
func (m *Machine) moves(k int) float64 {
	s := &m.C.Stations[k]
	_, bad := m.has(s.ID, "high_resistance")
	switch {
	case s.Kind == circuit.Contact && bad:
		return m.set.Burnt
	case s.Kind == circuit.Contact:
		return m.set.Contact
	case bad:
		return m.set.Loose
	case s.Kind == circuit.Motor:
		if _, worn := m.has(s.ID, "brushes_worn", "low_brush_worn", "high_brush_worn"); worn {
			return m.set.Brush
		}
		return 0.04
	}
	return 0.02
}

// settle solves the state with contacts, coils and brakes as they stand; what depends
// on current follows in some passes.
func (n *net) settle() *point {
	var p *point
	for range 6 {
		n.lay()
		p = n.solve()
		worst := 0.0
		for k := range n.amps {
			worst = math.Max(worst, math.Abs(p.i[k]-n.amps[k])/(0.01+math.Abs(p.i[k])))
			n.amps[k] = 0.5*n.amps[k] + 0.5*p.i[k]
		}
		if worst < 0.01 {
			break
		}
	}
	return p
}

// ends are the nodes a station joins in this state.
func (n *net) ends(k int) (a, b int) {
	s := &n.m.C.Stations[k]
	from, to := s.From, s.To
	if e, ok := n.st.Wiring[s.ID]; ok {
		from, to = e.From, e.To
	}
	return n.m.node[from], n.m.node[to]
}

func (n *net) present(k int) bool {
	s := &n.m.C.Stations[k]
	if s.Kind == circuit.Source {
		return n.st.Supply != "none"
	}
	if s.Kind == circuit.Charger {
		return n.st.Supply == "battery"
	}
	return (len(n.st.Present) == 0 || slices.Contains(n.st.Present, s.ID)) && !slices.Contains(n.st.Absent, s.ID)
}

// fault is what is wrong with a station, none where the state puts a good part there.
func (n *net) fault(k int, modes ...string) (Fault, bool) {
	id := n.m.C.Stations[k].ID
	if slices.Contains(n.st.Sound, id) {
		return Fault{}, false
	}
	return n.m.has(id, modes...)
}

// isClosed says whether a contact or a driver conducts.
func (n *net) isClosed(k int) bool {
	s := &n.m.C.Stations[k]
	if _, ok := n.fault(k, "stuck_open", "no_output"); ok {
		return false
	}
	if _, ok := n.fault(k, "welded", "stuck_on"); ok {
		return true
	}
	if s.ClosedBy != "" {
		return n.coilOn[n.m.C.StationIndex(s.ClosedBy)]
	}
	closed := (s.Rest == "closed") != slices.Contains(n.st.Closed, s.ID)
	if s.Kind != circuit.Driver {
		return closed
	}
	if c := n.m.C.StationIndex(s.CommandedBy); c >= 0 {
		if _, ok := n.fault(c, "no_command", "open"); ok {
			return false
		}
	}
	return closed && !n.off[k] && !n.withheld(k)
}

// lay lists the branches.
func (n *net) lay() {
	m := n.m
	n.parts = n.parts[:0]
	add := func(k, a, b int, r, emf float64) { n.parts = append(n.parts, part{k, a, b, math.Max(r, 1e-6), emf}) }
	for k := range m.C.Stations {
		s := &m.C.Stations[k]
		if !s.Kind.HasNodes() || !n.present(k) {
			continue
		}
		a, b := n.ends(k)
		if f, ok := n.fault(k, "short_to_ground", "winding_grounded"); ok {
			to := m.node[circuit.Ground]
			if s.Kind == circuit.Motor {
				to = b
				if s.Frame != "" {
					to = m.node[s.Frame]
				}
			}
			if to != a {
				add(-1, a, to, f.Severity, 0)
			}
		}
		switch s.Kind {
		case circuit.Source:
			emf, r := n.battery(k)
			add(k, a, b, r, emf)
		case circuit.Charger:
			n.charger(k, a, b, add)
		case circuit.Control, circuit.Throttle:
			n.signal(k, a, b, add)
		case circuit.Motor: // solved with the rest as its source
		default:
			n.plain(k, a, b, add)
		}
	}
	n.besides(add)
}

// besides lays what is no station: joins, aids, feeds, consumers, leakage and the meter.
func (n *net) besides(add func(k, a, b int, r, emf float64)) {
	m := n.m
	plus, minus := m.node["bat_pos"], m.node[circuit.Ground]
	if n.st.Supply == "battery" {
		for _, j := range m.C.Joins {
			add(-1, m.node[j.From], m.node[j.To], j.Ohms, 0)
		}
		if m.drawAt >= 0 && (n.st.Commands || n.st.ID == "key_on") && !m.pinned {
			add(-1, plus, m.drawAt, m.C.NominalVoltage/math.Max(m.current, 0.01), 0)
		}
	}
	for _, x := range n.st.Aids {
		r := x.Ohms
		if x.Kind == "lamp" { // a filament: a tenth of its hot resistance when cold
			a, b := m.node[x.From], m.node[x.To]
			glow := math.Sqrt(math.Min(math.Abs(n.volts(a, b))/m.C.NominalVoltage, 1))
			r *= 0.1 + 0.9*glow
		}
		add(-1, m.node[x.From], m.node[x.To], r, 0)
	}
	if f := n.st.Feed; f != nil { // leads and clamps of a jumper set
		if m.node[f.Plus] != plus {
			add(-1, plus, m.node[f.Plus], n.leads(), 0)
		}
		if m.node[f.Minus] != minus {
			add(-1, m.node[f.Minus], minus, n.leads(), 0)
		}
	}
	for i, g := range m.leak {
		to := minus
		if m.leakUp[i] {
			to = plus
		}
		if i != to {
			add(-1, i, to, 1/g, 0)
		}
	}
	if n.probe[0] >= 0 && n.probe[0] != n.probe[1] {
		add(-1, n.probe[0], n.probe[1], meterOhms, 0)
	}
}

// leads are one of a jumper set: a hundredth of the motor's own ohms.
func (n *net) leads() float64 {
	return 0.01 * n.m.C.Stations[n.m.motorAt()].Params["resistance"].Value
}

// volts is the last pass's voltage between two nodes, from the lamp's own current; a
// first guess before.
func (n *net) volts(a, b int) float64 {
	if n.last == nil {
		return n.m.C.NominalVoltage / 2
	}
	return n.last[a] - n.last[b]
}

// battery is the source's volts and ohms: charge, surface charge, polarisation, cold.
func (n *net) battery(k int) (emf, r float64) {
	m := n.m
	soc, r := m.soc, m.C.Stations[k].Params["resistance"].Value*m.rest
	if n.st.Supply == "feed" {
		// The feed is a good battery of the bench, not the vehicle's.
		return 12.55 * m.n, m.C.Stations[k].Params["resistance"].Value
	}
	if f, ok := n.fault(k, "discharged"); ok {
		soc = f.Severity
		r *= 1 + 1.6*(1-soc)*(1-soc)
	}
	emf = (11.75 + 0.95*math.Pow(soc, 0.8)) * m.n
	if f, ok := n.fault(k, "weak"); ok {
		r *= f.Severity
	}
	if _, ok := n.fault(k, "dead_cell"); ok {
		emf -= 2.05
		r *= 1.4
	}
	if given := m.C.Stations[k].Params["emf"].Value; math.Abs(given-12.6*m.n) > 0.3*m.n {
		emf *= given / (12.6 * m.n)
	}
	loaded := math.Abs(n.amps[k]) > 3
	if m.fresh && !loaded {
		emf += m.surface
	}
	if !m.pinned {
		emf -= m.sag
	}
	if loaded {
		r *= 1 + m.polar
	}
	return emf, r
}

func (n *net) charger(k, a, b int, add func(k, a, b int, r, emf float64)) {
	v := n.m.par[k]
	if v["present"] < 0.5 {
		return
	}
	if _, ok := n.fault(k, "no_output"); ok {
		return
	}
	volts := v["voltage"]
	if _, ok := n.fault(k, "overcharging"); ok {
		volts += 1.7 * n.m.n
	}
	lim := math.Max(v["current_limit"], 1)
	if -n.amps[k] > 0.95*lim || n.st.Commands { // it gives its limit and no more
		add(k, a, b, volts/lim*3, volts)
		return
	}
	// A charged battery takes little from it.
	add(k, a, b, 0.03, volts)
}

// signal is a command or a throttle.
func (n *net) signal(k, a, b int, add func(k, a, b int, r, emf float64)) {
	s := &n.m.C.Stations[k]
	if _, ok := n.fault(k, "open"); ok {
		return
	}
	v, live := 0.0, false
	if name, ok := n.st.Uses[s.ID]; ok {
		v, live = n.m.par[k][name], true
	}
	if _, ok := n.fault(k, "no_command"); ok {
		v = 0.02
		if s.Kind == circuit.Throttle && live {
			v = n.m.par[k]["rest"]
		}
	}
	if _, ok := n.fault(k, "out_of_neutral"); ok && live && v < 2 {
		v += 0.5 + 0.8*n.m.leak[0]/(n.m.leak[0]+n.m.set.Leak)
	}
	if v == 0 {
		v = 0.008 // an amplifier's own offset
	}
	add(k, a, b, 1500, v)
	if s.Kind == circuit.Throttle && live {
		for _, o := range s.Outputs {
			add(-1, n.m.node[o.From], n.m.node[o.To], 60, 5)
		}
	}
}

// plain is a part that is nothing but ohms.
func (n *net) plain(k, a, b int, add func(k, a, b int, r, emf float64)) {
	m, s := n.m, &n.m.C.Stations[k]
	r, open := n.ohms(k)
	if s.Kind == circuit.Contact || s.Kind == circuit.Driver {
		n.closed[k] = n.isClosed(k)
		if !n.closed[k] {
			add(k, a, b, openOhms, 0)
			return
		}
	}
	if open {
		add(k, a, b, openOhms, 0)
		return
	}
	r = r*n.noise[k] + n.fold[k]
	if s.Kind == circuit.Contact { // a film burns through as current rises
		ref := math.Max(m.C.NominalVoltage/50, 0.1)
		r *= 1 + 0.25/(1+math.Abs(n.amps[k])/ref)
	}
	if s.Kind == circuit.Coil {
		r *= 1 + 0.0039*math.Min(float64(m.tries)*3, 40)
		if m.twoCoils && s.ClosedBy == "" && n.solenoid(k, a, b, r, add) {
			return
		}
	}
	add(k, a, b, r, 0)
	if s.Kind == circuit.Driver {
		for _, o := range s.Outputs {
			add(-1, m.node[o.From], m.node[o.To], o.Ohms*1.3, 0)
		}
	}
}

// solenoid lays a pull-in winding through the motor and a hold-in winding to the case.
// Together they are what an ohmmeter sees of the coil.
func (n *net) solenoid(k, a, b int, r float64, add func(k, a, b int, r, emf float64)) bool {
	stud, ok := n.m.node["sol_m"]
	if !ok {
		return false
	}
	add(-1, a, stud, r/0.7, 0) // pull-in
	add(k, a, b, r/0.3, 0)     // hold-in
	return true
}

// ohms is a part's resistance with what is wrong with it, and whether it is open.
func (n *net) ohms(k int) (r float64, open bool) {
	m, s := n.m, &n.m.C.Stations[k]
	v := m.par[k]
	name := "resistance"
	switch s.Kind {
	case circuit.Driver:
		name = "on_resistance"
	case circuit.ResistorPack:
		name = "tap_1"
	}
	if u, ok := n.st.Uses[s.ID]; ok && circuit.ParamUnit(u) == "ohm" {
		name = u
	}
	if _, ok := n.fault(k, "stuck_on"); ok && name == "low_resistance" {
		name = "on_resistance"
	}
	r = v[name]
	if m.blown[k] && !slices.Contains(n.st.Sound, s.ID) {
		return r, true
	}
	if f, ok := n.fault(k, "high_resistance"); ok {
		r += f.Severity
	}
	if f, ok := n.fault(k, "shorted_turns"); ok && s.Kind == circuit.Coil {
		r *= f.Severity
	}
	if _, ok := n.fault(k, "open"); ok {
		return r, s.Kind != circuit.ResistorPack || name != "tap_4"
	}
	if _, ok := n.fault(k, name+"_open"); ok {
		return r, true
	}
	return r, false
}

// coils lets contacts follow their coils; it reports a change.
func (n *net) coils(p *point) bool {
	changed := false
	for k := range n.m.C.Stations {
		s := &n.m.C.Stations[k]
		if s.Kind != circuit.Coil || !n.present(k) {
			continue
		}
		a, b := n.ends(k)
		pull := math.Abs(p.v[a] - p.v[b])
		if stud, ok := n.m.node["sol_m"]; ok && n.m.twoCoils {
			// Ampere-turns of both windings; the contact shorts the pull-in one once closed.
			pull = 0.55*math.Abs(p.v[a]-p.v[stud]) + 0.45*pull
			if n.coilOn[k] {
				pull *= 2.2
			}
		}
		need := n.m.par[k]["pull_in"]
		if n.coilOn[k] {
			need *= 0.4
		}
		_, dead := n.fault(k, "sticking", "open")
		on := pull >= need && !dead
		if on != n.coilOn[k] {
			n.coilOn[k], changed = on, true
		}
	}
	return changed
}

// brakes holds a drive whose brake gets too little.
func (n *net) brakes(*point) bool {
	for k := range n.m.C.Stations {
		s := &n.m.C.Stations[k]
		if s.Kind != circuit.Drive || s.HeldBy == "" || n.st.Load == "free" || n.st.Feed != nil {
			continue
		}
		held := !n.coilOn[n.m.C.StationIndex(s.HeldBy)]
		if held != n.held {
			n.held = held
			return true
		}
	}
	return false
}

// protects switches a module off that meets more than its limit.
func (n *net) protects(p *point) bool {
	if n.m.normal == nil {
		return false
	}
	changed := false
	for k := range n.m.C.Stations {
		if n.m.C.Stations[k].Kind != circuit.Driver || n.off[k] || !n.closed[k] {
			continue
		}
		if _, stuck := n.fault(k, "stuck_on"); stuck {
			continue
		}
		most := n.m.limit * math.Max(n.m.normal[k], 0.1)
		switch i := math.Abs(p.i[k]); {
		case i <= 1.05*most && n.m.folds, i <= 2.2*most && !n.m.folds:
		case n.m.folds && n.fold[k] == 0:
			a, b := n.ends(k)
			all := math.Abs(p.v[a]-p.v[b])/i + n.m.C.NominalVoltage/i
			n.fold[k], changed = all*(i/most-1), true
		case !n.m.folds:
			n.off[k], changed = true, true
		}
	}
	return changed
}
