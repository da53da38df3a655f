package field

import (
	"fmt"
	"math"
	"slices"
	"strconv"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/unit"
)

// after is what a try does to the machine: windings warm, charge goes.
func (m *Machine) after(st *circuit.State, p *point) {
	if st.Supply != "battery" && st.Supply != "feed" {
		return
	}
	m.tries++
	k := m.motorAt()
	load := p.amps / math.Max(m.normalOf(k), 0.1)
	m.warm = math.Min(m.warm*0.8+m.set.Warm*math.Min(load*load, 6)*m.rng.Float64(), 90)
	m.sag *= 0.5
	if st.Supply == "battery" && p.amps > 5 {
		m.fresh = false
		m.sag = math.Max(m.sag, m.set.Sag*m.n*math.Min(load, 2)/2*m.rng.Float64())
	}
}

// Measure takes a reading with an ordinary meter, as somebody writes it down.
func (m *Machine) Measure(e *casefile.Evidence) error {
	st := m.C.State(e.State)
	if st == nil {
		return fmt.Errorf("no state %q", e.State)
	}
	switch e.Measure {
	case unit.Voltage:
		a, b := m.node[e.From], m.node[e.To]
		p := m.pointWith(st, a, b)
		v := p.v[a] - p.v[b]
		if p.chatter { // the display jumps: somebody takes the middle
			q := m.pointWith(st, a, b)
			v = (v + q.v[a] - q.v[b]) / 2
		}
		m.after(st, p)
		e.Value = m.volts(v)
	case unit.Current:
		p := m.point(st)
		k := m.C.StationIndex(e.Through)
		v := p.i[k]
		if m.C.Stations[k].Kind == circuit.Source {
			v = -v
		}
		m.after(st, p)
		m.zero += 0.3 * m.set.Clamp * m.rng.NormFloat64()
		v = v*(1+0.02*m.gain["current"]) + m.zero*math.Max(1, m.normalOf(m.motorAt())/60)
		digits := 1
		if math.Abs(v) > 20 && m.rng.Float64() < m.set.Rounds {
			digits = 0
		}
		e.Value = strconv.FormatFloat(v, 'f', digits, 64)
	case unit.Resistance:
		e.Value = m.resistance(st, e)
	default:
		return fmt.Errorf("a field machine has no %s to read", e.Measure)
	}
	return nil
}

// volts is what is written down of a voltage.
func (m *Machine) volts(v float64) string {
	if m.Precise { // its last digit is worth nothing on a machine that works
		return strconv.FormatFloat(v*(1+0.0005*m.gain["voltage"])+0.0015*m.rng.NormFloat64(), 'f', 3, 64)
	}
	v = v*(1+0.005*m.gain["voltage"]) + 0.01*m.rng.NormFloat64()*0.5
	switch x := m.rng.Float64(); {
	case math.Abs(v) > 2 && x < m.set.Rounds:
		return strconv.FormatFloat(v, 'f', 1, 64)
	case math.Abs(v) < 0.4 && x < 0.3: // the millivolt range
		return strconv.FormatFloat(v*1000, 'f', 0, 64) + " mV"
	}
	return strconv.FormatFloat(v, 'f', 2, 64)
}

// resistance is what is written down of ohms.
func (m *Machine) resistance(st *circuit.State, e *casefile.Evidence) string {
	from, to := e.From, e.To
	r := math.Inf(1)
	if e.Through != "" {
		s := m.C.Station(e.Through)
		if x, open := m.in(st).ohms(m.C.StationIndex(s.ID)); !open {
			r = x
		}
	} else {
		r = m.loop(st, m.node[from], m.node[to])
	}
	k := m.motorAt()
	a, b := m.node[m.C.Stations[k].From], m.node[m.C.Stations[k].To]
	if x, y := m.node[from], m.node[to]; e.Through == "" && (x == a && y == b || x == b && y == a || m.C.Stations[k].Second != nil) {
		if _, worn := m.any("brushes_worn"); worn { // carbon dust, or nothing
			switch u := m.rng.Float64(); {
			case math.IsInf(r, 1) && u < 0.5:
				r = 1e3 * math.Pow(5e3, m.rng.Float64())
			case u < 0.15:
				r = math.Inf(1)
			default:
				r *= m.ln(0.5)
			}
		} else if !math.IsInf(r, 1) {
			r *= 1 + 0.3*math.Abs(m.ln(0.3)-1)
		}
	}
	r += 0.1 + 0.2*m.rng.Float64() // the leads, not taken off
	r *= 1 + 0.008*m.gain["resistance"]
	switch {
	case r > 4e7:
		return "OL"
	case r > 1e6:
		return strconv.FormatFloat(r/1e6, 'f', 2, 64) + "M"
	case r > 1e3:
		return strconv.FormatFloat(r/1e3, 'f', 2, 64) + "k"
	case r > 100:
		return strconv.FormatFloat(r, 'f', 0, 64)
	}
	return strconv.FormatFloat(r, 'f', 1, 64)
}

// Answer is what somebody says of the machine. through is the part that was swapped.
func (m *Machine) Answer(observe, state, through string) string {
	o := m.C.Observation(observe)
	if m.rng.Float64() < m.set.Wrong {
		return o.Outcomes[m.rng.IntN(len(o.Outcomes))].ID
	}
	if o.SolveIn != "" {
		state = o.SolveIn
	}
	st := m.C.State(state)
	say := func(latent string) string {
		if w, ok := o.Words[latent]; ok {
			latent = w
		}
		for i := range o.Outcomes {
			if o.Outcomes[i].ID == latent {
				return latent
			}
		}
		if latent == "erratic" {
			return "slow"
		}
		return o.Outcomes[0].ID
	}
	if o.Model == "turn_by_hand" {
		return say(m.byHand(st))
	}
	if o.Model == "rates" {
		return say(m.table(o))
	}
	if o.Model == "swap" {
		return say(m.swapped(through))
	}
	p := m.point(st)
	defer m.after(st, p)
	return say(m.word(o, st, p))
}

func hasWord(o *circuit.Observation, id string) bool {
	return slices.ContainsFunc(o.Outcomes, func(x circuit.Outcome) bool { return x.ID == id })
}

func (m *Machine) yes(p float64) string {
	if m.rng.Float64() < p {
		return "yes"
	}
	return "no"
}

// word is what is seen or heard in a state.
func (m *Machine) word(o *circuit.Observation, st *circuit.State, p *point) string {
	moving := p.speed > 0.02*m.rated()
	switch o.Model {
	case "turning", "speed":
		return m.turning(o, st, p)
	case "click":
		return m.clicks(o, st, p)
	case "thump":
		switch {
		case p.stalled && m.rng.Float64() < 0.7, moving && m.rng.Float64() < 0.55:
			return "single"
		}
		return "none"
	case "heard":
		return m.yes(map[bool]float64{true: 0.93, false: 0.03}[p.speed > 0.12*m.rated()])
	case "moves":
		_, slip := m.any("slipping")
		if f, ok := m.any("welded"); ok && f.Station == o.Of {
			return m.yes(0.1)
		}
		return m.yes(map[bool]float64{true: 0.95, false: 0.02}[moving && !slip])
	case "noise":
		return m.noise(st, p, moving)
	case "lamps_dim":
		return m.dims(st, p)
	case "lamp":
		return m.lamp(st, p)
	case "heat":
		k := m.C.StationIndex(o.Of)
		a, b := m.in(st).ends(k)
		return map[bool]string{true: "hot", false: "cool"}[math.Abs(p.i[k]*(p.v[a]-p.v[b])) > 4*m.ln(0.35)]
	case "fuse":
		return m.fuse(o, p)
	case "differs":
		return m.differs(o)
	case "blink_code":
		if p.live && p.trips {
			return strconv.Itoa(1 + m.rng.IntN(8))
		}
		return "0"
	case "code_clears":
		return m.yes(map[bool]float64{true: 0.94, false: 0.05}[p.live && !p.trips])
	case "spark":
		return m.spark(p)
	case "jump":
		return m.yes(map[bool]float64{true: 0.75, false: 0.06}[p.speed > 0.4*m.rated()])
	case "runs_on":
		if f, ok := m.any("welded"); ok && f.Station == o.Of && moving {
			return "runs_on"
		}
		return "stops"
	}
	return ""
}

// spark is what is seen when the last lead is held to the post twice or thrice.
func (m *Machine) spark(p *point) string {
	switch flow := math.Abs(p.amps) / math.Max(m.normalOf(m.motorAt()), 0.1) * m.ln(0.3); {
	case flow < 0.03:
		return "none"
	case flow > 1.9:
		return "strong"
	}
	return "small"
}

// fuse is what a new fuse does.
func (m *Machine) fuse(o *circuit.Observation, p *point) string {
	k := m.C.StationIndex(o.Of)
	switch times := math.Abs(p.i[k]) / m.par[k]["rating"] * m.ln(0.1); {
	case times > 2.3:
		return "blows_at_once"
	case times > 1.4:
		return "blows_later"
	}
	return "holds"
}

// differs is whether two speeds are heard to differ.
func (m *Machine) differs(o *circuit.Observation) string {
	var w [2]float64
	for i, id := range o.Compare {
		w[i] = m.point(m.C.State(id)).speed
	}
	return m.yes(map[bool]float64{true: 0.93, false: 0.05}[w[1] > 1.15*w[0] && w[0] > 0])
}

// turning is how it goes: people say slow when it is clearly slow.
func (m *Machine) turning(o *circuit.Observation, st *circuit.State, p *point) string {
	_, named := o.Words["free"]
	ref := m.good[st.ID]
	if ref <= 0 {
		ref = m.good[m.C.RunState]
	}
	ratio := p.speed / math.Max(ref, 1e-9)
	_, slip := m.any("slipping")
	coupled := st.Load != "free"
	switch {
	case p.chatter:
		return "none"
	case p.speed < 0.02*m.rated():
		if _, ok := m.any("seized", "jammed"); !ok && p.stalled && hasWord(o, "little") && m.rng.Float64() < 0.25 {
			return "little"
		}
		return "none"
	case slip && coupled && (o.Model == "turning" || named):
		if o.Model == "turning" {
			return "free_spin"
		}
		return "free"
	case slip && coupled:
		return "none"
	}
	if f, ok := m.any("brushes_worn", "commutator_damaged", "binding", "jammed"); ok &&
		m.rng.Float64() < map[string]float64{"commutator_damaged": 0.25}[f.Mode]+0.08 {
		return "erratic"
	}
	if ratio < 0.68*m.ln(0.12) {
		return "slow"
	}
	if !coupled && o.Model == "turning" && m.rng.Float64() < 0.5 && hasWord(o, "free_spin") {
		return "free_spin"
	}
	return "normal"
}

func (m *Machine) clicks(o *circuit.Observation, _ *circuit.State, p *point) string {
	k := m.C.StationIndex(o.Of)
	switch {
	case p.chatter:
		return "chatter"
	case p.coilOn[k]:
		if p.speed > 0.5*m.rated() && m.rng.Float64() < 0.15 {
			return "none"
		}
		return "single"
	case m.rng.Float64() < 0.04:
		return "single"
	}
	return "none"
}

func (m *Machine) noise(st *circuit.State, p *point, moving bool) string {
	x := m.rng.Float64()
	switch {
	case p.stalled:
		if x < 0.55 {
			return "hum"
		}
	case moving:
		if f, ok := m.any("bearing_drag"); ok && x < math.Min(0.3+0.03*f.Severity, 0.75) {
			return "rough"
		}
		if _, ok := m.any("binding", "slipping"); ok && st.Load != "free" && x < 0.35 {
			return "grind"
		}
		if _, ok := m.any("commutator_damaged"); ok && x < 0.3 {
			return "rough"
		}
	}
	return "none"
}

func (m *Machine) dims(st *circuit.State, p *point) string {
	k := m.motorAt()
	before := m.restVolts()
	sag := before - p.v[m.node["bat_pos"]]
	if m.normalOf(k) < 60/m.n {
		return m.yes(map[bool]float64{true: 0.75, false: 0.06}[p.amps > 1.6*m.normalOf(k)])
	}
	return m.yes(1 / (1 + math.Exp(-(sag/m.n-1.7)/0.35)))
}

func (m *Machine) restVolts() float64 {
	for i := range m.C.States {
		if st := &m.C.States[i]; st.Supply == "battery" && !st.Commands {
			return m.point(st).v[m.node["bat_pos"]]
		}
	}
	return 12.5 * m.n
}

func (m *Machine) lamp(st *circuit.State, p *point) string {
	for _, aid := range st.Aids {
		if aid.Kind != "lamp" {
			continue
		}
		v := math.Abs(p.v[m.node[aid.From]]-p.v[m.node[aid.To]]) / m.C.NominalVoltage * m.ln(0.05)
		switch { // light goes with a high power of the volts
		case v > 0.72:
			return "bright"
		case v > 0.18:
			return "dim"
		}
	}
	return "dark"
}

// byHand is how it turns: in place what it drives comes along.
func (m *Machine) byHand(st *circuit.State) string {
	x := m.rng.Float64()
	coupled := st.Load != "free"
	if _, ok := m.any("seized"); ok && x < 0.9 && !(coupled && m.C.ID == "starter" && x < 0.5) {
		return "locked"
	}
	if _, ok := m.any("jammed"); ok && coupled && x < 0.88 {
		return "locked"
	}
	if f, ok := m.any("binding"); ok && coupled && x < 1/(1+math.Exp(-(f.Severity-1.7)/0.3)) {
		return "stiff"
	}
	if f, ok := m.any("bearing_drag"); ok {
		s := 0.85 / (1 + math.Exp(-(f.Severity-4)/1.5))
		if coupled {
			s *= 0.4
		}
		if x < s {
			return "stiff"
		}
	}
	if x > 0.96 {
		return "stiff"
	}
	return "free"
}

// table answers what physics does not decide, by the family's own table, less sure of
// itself than the table.
func (m *Machine) table(o *circuit.Observation) string {
	t := o.Rates["*"]
	for _, f := range m.Faults {
		if own, ok := o.Rates[f.String()]; ok {
			t = own
			break
		}
	}
	ids := make([]string, 0, len(t))
	total := 0.0
	share := func(id string) float64 { return 0.85*t[id] + 0.15*o.Rates["*"][id] }
	for i := range o.Outcomes {
		ids = append(ids, o.Outcomes[i].ID)
		total += share(o.Outcomes[i].ID)
	}
	x := m.rng.Float64() * total
	for _, id := range ids {
		if x -= share(id); x <= 0 {
			return id
		}
	}
	return ids[0]
}

func (m *Machine) swapped(through string) string {
	here, others := false, 0
	for _, f := range m.Faults {
		if f.Station == through || m.C.Station(f.Station).Within == through {
			here = true
		} else {
			others++
		}
	}
	return m.yes(map[bool]float64{true: 0.93, false: 0.06}[here && others == 0])
}

// Stations lists what is wrong, by station.
func (m *Machine) Stations() []string {
	var out []string
	for _, f := range m.Faults {
		if !slices.Contains(out, f.Station) {
			out = append(out, f.Station)
		}
	}
	return out
}
