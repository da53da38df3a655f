package fault

import (
	"fmt"
	"math"
	"sort"
	"strconv"
	"strings"

	"corriente/core/circuit"
	"corriente/core/unit"
)

// Fault is one thing wrong with one station, written station.mode.
type Fault struct{ Station, Mode string }

func (f Fault) String() string { return f.Station + "." + f.Mode }

// Open is the severity, in ohms, that stands for a complete open.
const Open = circuit.OpenOhms

// Scale says how bad a fault can be.
type Scale struct {
	Key    string  // the parameter the severity moves, station.parameter
	Unit   string  // ohm, V, x (a factor) or share
	Lo, Hi float64 // range of severities worth considering, SI
	Middle float64 // a middling one
	Log    bool    // spread evenly in the logarithm
	ToOpen bool    // may go all the way to an open
}

// strayVolts is how far a throttle that does not come home stands off its rest,
// and overcharge what a bad regulator adds on 12 V (both from memory).
const (
	strayVolts = 0.8
	overcharge = 1.8
)

// leastSpeed is the share of its rated speed that a good motor must reach.
const leastSpeed = 0.2

// Model knows a circuit's faults. It is immutable and may be shared.
type Model struct {
	Net    *circuit.Network
	Normal []float64 // A in each station at work in a good circuit
	faults []Fault
	scales map[Fault]*Scale
	index  map[Fault]int
}

// NewModel works out the faults of a circuit from its data and its healthy
// operating points. It refuses a circuit whose good motor does not run.
func NewModel(net *circuit.Network) (*Model, error) {
	c := net.C
	m := &Model{Net: net, Normal: make([]float64, len(c.Stations)), scales: map[Fault]*Scale{}, index: map[Fault]int{}}
	w, th, good := net.NewWork(), net.Nominal(), net.SoundAll()
	for i := range c.States {
		if c.States[i].Supply != "battery" {
			continue
		}
		w.Solve(i, th, good)
		for k, a := range w.I {
			m.Normal[k] = math.Max(m.Normal[k], math.Abs(a))
		}
		mo := net.MotorStation()
		if (c.States[i].ID == c.RunState || c.States[i].Commands) && mo >= 0 &&
			(w.Chatter || w.Motor.W < leastSpeed*c.Stations[mo].Params["rated_speed"].Value) {
			return nil, fmt.Errorf("in state %s a good %s does not turn its motor with these values: %s",
				c.States[i].ID, c.ID, stops(net, i))
		}
	}
	for k := range c.Stations {
		s := &c.Stations[k]
		modes := make([]string, 0, len(s.Faults))
		for mode := range s.Faults {
			modes = append(modes, mode)
		}
		sort.Strings(modes)
		for _, mode := range modes {
			f := Fault{s.ID, mode}
			m.index[f] = len(m.faults)
			m.faults = append(m.faults, f)
			m.scales[f] = m.scale(k, mode)
		}
	}
	return m, nil
}

// stops names the value that keeps a good motor from turning in a state: the one that, put
// back to what the family ships with, lets it turn.
func stops(net *circuit.Network, state int) string {
	const mend = "check battery, motor and load"
	c := net.C
	ships, err := circuit.Family(c.ID)
	if err != nil {
		return mend
	}
	w, good, mo := net.NewWork(), net.SoundAll(), net.MotorStation()
	scale := c.NominalVoltage / ships.NominalVoltage
	for p, pr := range net.Params {
		s := &c.Stations[pr.Station]
		own := ships.Station(s.ID)
		if own == nil {
			continue
		}
		was, now := own.Params[pr.Name].Value, s.Params[pr.Name].Value
		if was == now || scale != 1 && math.Abs(now/was-scale) < 1e-6 {
			continue
		}
		th := net.Nominal()
		th[p] = was
		w.Solve(state, th, good)
		if !w.Chatter && w.Motor.W >= leastSpeed*c.Stations[mo].Params["rated_speed"].Value {
			return fmt.Sprintf("%s.%s of %.4g %s stops it (the family ships with %.4g)", s.ID, pr.Name, now,
				circuit.ParamUnit(pr.Name), was)
		}
	}
	return mend
}

// Faults lists every single fault, station by station.
func (m *Model) Faults() []Fault { return m.faults }

// Has reports whether the circuit can have f.
func (m *Model) Has(f Fault) bool { _, ok := m.index[f]; return ok }

// Rate returns the relative prior rate of f.
func (m *Model) Rate(f Fault) float64 { return m.Net.C.Station(f.Station).Faults[f.Mode] }

// ScaleOf returns how bad f can be, nil for a fault without degrees.
func (m *Model) ScaleOf(f Fault) *Scale { return m.scales[f] }

func (m *Model) scale(k int, mode string) *Scale {
	c := m.Net.C
	s := &c.Stations[k]
	// Extra resistance is scale-free: f times nominal voltage over the normal
	// current of the branch, f log-uniform.
	unitR := c.NominalVoltage / math.Max(m.Normal[k], 0.05)
	key := s.ID + "."
	switch mode {
	case "high_resistance":
		return &Scale{Key: key + "resistance", Unit: "ohm", Lo: 0.03 * unitR, Hi: 3 * unitR, Middle: 0.3 * unitR, Log: true}
	case "brushes_worn", "low_brush_worn", "high_brush_worn":
		return &Scale{Key: key + "resistance", Unit: "ohm", Lo: 0.1 * unitR, Hi: 100 * unitR, Middle: 0.5 * unitR, Log: true, ToOpen: true}
	case "commutator_damaged":
		return &Scale{Key: key + "resistance", Unit: "ohm", Lo: 0.03 * unitR, Hi: 0.4 * unitR, Middle: 0.08 * unitR, Log: true}
	case "winding_grounded":
		return &Scale{Key: key + "shunt", Unit: "ohm", Lo: 0.03 * unitR, Hi: unitR, Middle: 0.15 * unitR, Log: true}
	case "short_to_ground":
		return &Scale{Key: key + "shunt", Unit: "ohm", Lo: 0.02, Hi: 1, Middle: 0.1, Log: true}
	case "weak":
		return &Scale{Key: key + "resistance", Unit: "x", Lo: 3, Hi: 15, Middle: 6, Log: true}
	case "discharged":
		e := s.Params["emf"].Value
		return &Scale{Key: key + "emf", Unit: "V", Lo: e * 0.70, Hi: e * 0.955, Middle: e * 0.89}
	case "shorted_turns":
		return &Scale{Key: key + "resistance", Unit: "share", Lo: 0.3, Hi: 0.85, Middle: 0.6}
	case "low":
		return &Scale{Key: key + "capacitance", Unit: "share", Lo: 0.2, Hi: 0.88, Middle: 0.6}
	case "grounded":
		return &Scale{Key: key + "shunt", Unit: "ohm", Lo: 0.1, Hi: 2000, Middle: 10, Log: true}
	case "bearing_drag":
		return &Scale{Key: key + "friction", Unit: "x", Lo: 2, Hi: 25, Middle: 4, Log: true}
	case "binding":
		return &Scale{Key: key + "load", Unit: "x", Lo: 1.25, Hi: 5, Middle: 1.8, Log: true}
	}
	return nil
}

// Apply puts f with a severity (see [Model.ScaleOf]; ignored where there is
// none) on top of the health of the stations. theta is the parameter vector the
// circuit is solved with.
func (m *Model) Apply(h []circuit.Health, theta []float64, f Fault, severity float64) {
	k := m.Net.C.StationIndex(f.Station)
	s := &m.Net.C.Stations[k]
	x := &h[k]
	if act, ok := effects[f.Mode]; ok {
		act(x, severity)
		return
	}
	switch f.Mode {
	case "open", "winding_open":
		if s.Kind == circuit.ResistorPack { // the thermal link feeds every tap but the plain wire
			x.Mask |= circuit.TapMask("tap_1") | circuit.TapMask("tap_2") | circuit.TapMask("tap_3")
			x.MaskOpen = true
		} else {
			x.Open = true
		}
	case "no_output":
		if s.Kind == circuit.Driver {
			x.Force = circuit.ForcedOpen
		} else {
			x.Silent = true
		}
	case "overcharging":
		x.Volts += overcharge * m.Net.C.NominalVoltage / 12
	case "discharged":
		// A flat battery's resistance rises as its charge falls (common
		// practice); the law is ours: ×2 at 0.9 V below full, per 12 V.
		e := s.Params["emf"].Value
		d := (e - severity) * 12 / m.Net.C.NominalVoltage / 0.9
		x.EMF += severity - e
		x.R *= 1 + d*d
	case "shorted_turns":
		x.R *= severity
		if s.Kind == circuit.Winding {
			x.Ke *= severity
		}
		if s.Kind == circuit.Motor {
			x.Ke *= severity
			// The shorted coils drive current round themselves: their braking
			// torque per rad/s is about a quarter of (1-share) ke²/R, from
			// averaging one coil's EMF over a turn (from memory).
			ke, r := theta[m.Net.ParamIndex(k, "ke")], theta[m.Net.ParamIndex(k, "resistance")]
			x.Drag += 0.25 * (1 - severity) * ke * ke / r
		}
	}
}

// effects is what the modes do whose effect is the same on every station.
var effects = map[string]func(x *circuit.Health, severity float64){
	"high_resistance":    addOhms,
	"commutator_damaged": addOhms,
	"brushes_worn": func(x *circuit.Health, severity float64) {
		if severity >= Open {
			x.Open = true
		} else {
			x.Extra += severity
		}
	},
	"low_brush_worn":   func(x *circuit.Health, severity float64) { brushWorn(x, "resistance", severity) },
	"high_brush_worn":  func(x *circuit.Health, severity float64) { brushWorn(x, "resistance_high", severity) },
	"tap_1_open":       func(x *circuit.Health, _ float64) { tapOpen(x, "tap_1") },
	"tap_2_open":       func(x *circuit.Health, _ float64) { tapOpen(x, "tap_2") },
	"tap_3_open":       func(x *circuit.Health, _ float64) { tapOpen(x, "tap_3") },
	"stuck_on":         func(x *circuit.Health, _ float64) { x.Force = circuit.ForcedClosed },
	"welded":           func(x *circuit.Health, _ float64) { x.Force = circuit.ForcedClosed },
	"stuck_open":       func(x *circuit.Health, _ float64) { x.Force = circuit.ForcedOpen },
	"no_command":       func(x *circuit.Health, _ float64) { x.Silent = true },
	"out_of_neutral":   func(x *circuit.Health, _ float64) { x.Stray, x.Volts = true, x.Volts+strayVolts },
	"shorted":          func(x *circuit.Health, _ float64) { x.Short = true },
	"low":              func(x *circuit.Health, severity float64) { x.Cap *= severity },
	"short_to_ground":  func(x *circuit.Health, severity float64) { x.Shunt = severity },
	"winding_grounded": func(x *circuit.Health, severity float64) { x.Shunt = severity },
	"grounded":         func(x *circuit.Health, severity float64) { x.Shunt = severity },
	"sticking":         func(x *circuit.Health, _ float64) { x.NoPull = true },
	"seized":           func(x *circuit.Health, _ float64) { x.Seized = true },
	"jammed":           func(x *circuit.Health, _ float64) { x.Seized = true },
	"slipping":         func(x *circuit.Health, _ float64) { x.Free = true },
	"binding":          func(x *circuit.Health, severity float64) { x.Load *= severity },
	"bearing_drag":     func(x *circuit.Health, severity float64) { x.Friction *= severity },
	"drag":             func(x *circuit.Health, _ float64) { x.Friction *= 6 },
	"weak":             func(x *circuit.Health, severity float64) { x.R *= severity },
	"dead_cell":        func(x *circuit.Health, _ float64) { x.EMF -= 2.1 }, // one cell (reference: a cell missing costs about 2.1 V)
}

func addOhms(x *circuit.Health, severity float64) { x.Extra += severity }

func brushWorn(x *circuit.Health, winding string, severity float64) {
	x.Mask |= circuit.TapMask(winding)
	if severity >= Open {
		x.MaskOpen = true
	} else {
		x.MaskExtra += severity
	}
}

func tapOpen(x *circuit.Health, tap string) {
	x.Mask |= circuit.TapMask(tap)
	x.MaskOpen = true
}

// Parse reads station.mode or station.mode=severity, such as
// pos_clamp.high_resistance=0.021ohm, battery.weak=x5.2,
// battery.discharged=11.4V, motor.shorted_turns=0.6. Without a severity the
// middling one is returned and assumed is true.
func (m *Model) Parse(text string) (f Fault, severity float64, assumed bool, err error) {
	name, sev, has := strings.Cut(strings.TrimSpace(text), "=")
	station, mode, ok := strings.Cut(name, ".")
	if !ok {
		return f, 0, false, fmt.Errorf("%q is not a fault: write station.mode, such as motor.seized", text)
	}
	f = Fault{station, mode}
	s := m.Net.C.Station(station)
	if s == nil {
		_, ids, _ := m.Net.C.IDs()
		return f, 0, false, fmt.Errorf("%q: circuit %s has no station %q; it has %s", text, m.Net.C.ID, station, strings.Join(ids, ", "))
	}
	if !m.Has(f) {
		var modes []string
		for _, x := range m.faults {
			if x.Station == station {
				modes = append(modes, x.Mode)
			}
		}
		return f, 0, false, fmt.Errorf("%q: %s has no fault %q; it has %s", text, station, mode, strings.Join(modes, ", "))
	}
	sc := m.scales[f]
	if !has {
		if sc == nil {
			return f, 0, false, nil
		}
		return f, sc.Middle, true, nil
	}
	if sc == nil {
		return f, 0, false, fmt.Errorf("%q: %s has no degrees; write it without =%s", text, f, sev)
	}
	severity, err = parseSeverity(strings.TrimSpace(sev), sc)
	if err != nil {
		return f, 0, false, fmt.Errorf("%q: %w", text, err)
	}
	return f, severity, false, nil
}

func parseSeverity(s string, sc *Scale) (float64, error) {
	bad := func(example string) (float64, error) {
		return 0, fmt.Errorf("%q is not a severity here; write it as %s", s, example)
	}
	switch sc.Unit {
	case "ohm":
		if sc.ToOpen && strings.EqualFold(s, "open") {
			return Open, nil
		}
		r, err := unit.Parse(s, unit.Resistance)
		if err != nil || r.Over || r.Value <= 0 {
			return bad("added ohms, such as 0.021ohm")
		}
		return r.Value, nil
	case "V":
		r, err := unit.Parse(s, unit.Voltage)
		if err != nil || r.Over || r.Value < 0 {
			return bad("volts, such as 11.4V")
		}
		return r.Value, nil
	case "x":
		v, err := strconv.ParseFloat(strings.TrimPrefix(strings.ToLower(s), "x"), 64)
		if err != nil || !(v > 0 && v < 1e6) {
			return bad("a factor, such as x1.75")
		}
		return v, nil
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || !(v > 0 && v < 1) {
		return bad("the share left, such as 0.6")
	}
	return v, nil
}

// FormatSeverity writes a severity as [Model.Parse] reads it.
func (sc *Scale) FormatSeverity(v float64) string {
	switch {
	case sc == nil:
		return ""
	case sc.Unit == "ohm" && v >= Open:
		return "open"
	case sc.Unit == "x":
		return fmt.Sprintf("x%.3g", v)
	case sc.Unit == "share":
		return fmt.Sprintf("%.3g", v)
	}
	return fmt.Sprintf("%.4g%s", v, sc.Unit)
}

// Label writes a fault mode as a technician says it.
func Label(mode string) string {
	if l, ok := modeLabels[mode]; ok {
		return l
	}
	return strings.ReplaceAll(mode, "_", " ")
}

var modeLabels = map[string]string{
	"discharged": "discharged", "weak": "weak under load", "dead_cell": "a dead cell",
	"high_resistance": "high resistance", "open": "open", "short_to_ground": "chafed through to ground",
	"stuck_open": "does not close", "welded": "welded shut", "shorted_turns": "shorted turns",
	"sticking": "energised but does not pull in", "brushes_worn": "worn or hanging brushes",
	"winding_open": "winding open", "winding_grounded": "winding shorted to the case",
	"commutator_damaged": "damaged commutator", "bearing_drag": "dragging bearings", "seized": "seized",
	"binding": "binds", "jammed": "jammed", "slipping": "slips",
	"no_output": "no output", "overcharging": "overcharging", "stuck_on": "stuck on", "no_command": "no command",
	"out_of_neutral": "not at rest when released", "tap_1_open": "speed 1 tap open", "tap_2_open": "speed 2 tap open",
	"tap_3_open":     "speed 3 tap open",
	"low_brush_worn": "low-speed brush worn", "high_brush_worn": "high-speed brush worn", "grounded": "shorted to the core",
	"shorted": "shorted through", "low": "too little capacity", "drag": "dragging",
}
