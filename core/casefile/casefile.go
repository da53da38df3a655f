package casefile

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"corriente/core/circuit"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Format names the case format.
const Format = "corriente-case/1"

// Case is one diagnostic job.
type Case struct {
	Circuit        *circuit.Circuit // with the case's parameters set
	CircuitID      string
	Inline         bool // the file carries the circuit whole
	NominalVoltage float64
	AmbientC       float64
	Parameters     []Given
	Specifications []Specification
	Instruments    map[string]meter.Instrument
	AccessMinutes  map[string]float64
	Intermittent   bool
	Codes          map[int][]string
	Known          Known
	Repairs        []Repair
	Evidence       []Evidence
	Job            *Job
}

// Known is what the workshop knows of the machine and of its own means. It
// shifts the priors and the order of the readings.
type Known struct {
	NewParts    []string `json:"new_parts,omitempty"`   // stations
	WasApart    []string `json:"was_apart,omitempty"`   // stations somebody had their hands on
	Shelf       []string `json:"shelf,omitempty"`       // stations of which a known good part is at hand, for a swap test
	Without     []string `json:"without,omitempty"`     // measures no instrument is at hand for
	With        []string `json:"with,omitempty"`        // what is at hand besides a meter and a clamp: a scope
	Unreachable []string `json:"unreachable,omitempty"` // nodes, stations, observations, states or access groups that cannot be reached
	// CodesTrust is how far the table of blink codes is believed, 0 to 1; 0 or absent
	// means fully.
	CodesTrust float64 `json:"codes_trust,omitempty"`
	// Rates is what the workshop's own jobs say of the faults, by station.mode.
	Rates map[string]Learned `json:"rates,omitempty"`
	// Access is how long getting at things takes as learned here, by access group; the
	// case's own minutes begin with it.
	Access map[string]LearnedMinutes `json:"access,omitempty"`
	// Plate is a motor's plate as it was typed. What follows from it stands among the parameters.
	Plate *Plate `json:"plate,omitempty"`
	// Leaning is the technician's: -1 meter first, 1 quick tricks first.
	Leaning float64 `json:"leaning,omitempty"`
}

// IsZero reports whether nothing is known.
func (k *Known) IsZero() bool {
	return len(k.NewParts)+len(k.WasApart)+len(k.Shelf)+len(k.Without)+len(k.With)+len(k.Unreachable)+len(k.Rates)+len(k.Access) == 0 &&
		k.Leaning == 0 && k.CodesTrust == 0 && k.Plate == nil
}

// Plate is a motor's plate, each as typed: 0.8 kW, 12 V, 15 A, 1500 rpm. Empty: not known.
type Plate struct {
	Power   string `json:"power,omitempty"`
	Voltage string `json:"voltage,omitempty"`
	Current string `json:"current,omitempty"`
	Speed   string `json:"speed,omitempty"`
}

// Learned is how a workshop's own jobs move a fault's rate.
type Learned struct {
	Factor float64 `json:"factor"` // on the shipped rate, above 0 and up to 100
	N      int     `json:"n"`      // times it was the fault here
	Of     int     `json:"of"`     // jobs on such a circuit here
}

// LearnedMinutes is how long an access takes by a workshop's own jobs.
type LearnedMinutes struct {
	Minutes float64 `json:"minutes"`
	N       int     `json:"n"` // jobs that said so
}

// Scope in [Known.With] is an oscilloscope with a current clamp.
const Scope = "scope"

// Repair is work that was done on a station in the middle of a job: evidence up
// to After was taken before it, what follows after it.
type Repair struct {
	ID       string `json:"id,omitempty"`
	Station  string `json:"station"`
	After    int    `json:"after"` // pieces of evidence taken before it
	What     string `json:"what,omitempty"`
	At       string `json:"at,omitempty"`
	Decision string `json:"decision,omitempty"` // id of what was chosen; empty: put right while measuring
	By       string `json:"by,omitempty"`       // name of who did it
}

// Check refuses knowledge that does not fit a circuit. Pointers are relative.
func (k *Known) Check(c *circuit.Circuit) *Problem {
	_, stations, states := c.IDs()
	for _, f := range []struct {
		name string
		ids  []string
	}{{"new_parts", k.NewParts}, {"was_apart", k.WasApart}, {"shelf", k.Shelf}} {
		for i, id := range f.ids {
			if c.Station(id) == nil {
				return problem(fmt.Sprintf("/%s/%d", f.name, i), "circuit %s has no station %q%s; it has %s", c.ID,
					id, near(id, stations), strings.Join(stations, ", "))
			}
		}
	}
	for i, m := range k.Without {
		if !unit.Measure(m).Valid() {
			return problem(fmt.Sprintf("/without/%d", i), "%q is not a measure", m)
		}
	}
	for i, id := range k.With {
		if id != Scope {
			return problem(fmt.Sprintf("/with/%d", i), "%q is no means that changes the advice; %q is", id, Scope)
		}
	}
	for i, id := range k.Unreachable {
		if c.Station(id) == nil && c.Node(id) == nil && c.State(id) == nil && c.Observation(id) == nil &&
			!slices.Contains(circuit.AccessGroups(), id) {
			return problem(fmt.Sprintf("/unreachable/%d", i),
				"circuit %s has nothing named %q: name a node, a station, an observation, an access group or one of the states %s",
				c.ID, id, strings.Join(states, ", "))
		}
	}
	for _, f := range slices.Sorted(maps.Keys(k.Rates)) {
		station, mode, _ := strings.Cut(f, ".")
		if s := c.Station(station); s == nil || !slices.Contains(circuit.KindModes(s.Kind), mode) {
			return problem("/rates/"+f, "circuit %s has no fault %q", c.ID, f)
		}
		if r := k.Rates[f]; !(r.Factor > 0 && r.Factor <= 100) || r.N < 0 || r.Of < r.N {
			return problem("/rates/"+f, "a factor lies above 0 and up to 100, and n is part of the jobs")
		}
	}
	for _, g := range slices.Sorted(maps.Keys(k.Access)) {
		if _, ok := c.AccessMinutes[g]; !ok {
			return problem("/access/"+g, "circuit %s has no access group %q: it has %s", c.ID, g,
				strings.Join(slices.Sorted(maps.Keys(c.AccessMinutes)), ", "))
		}
		if a := k.Access[g]; !(a.Minutes >= 0 && a.Minutes <= 10000) || a.N < 0 {
			return problem("/access/"+g, "minutes lie from 0 to 10,000, and n counts jobs")
		}
	}
	if !(k.CodesTrust >= 0 && k.CodesTrust <= 1) {
		return problem("/codes_trust", "%g is not a share: give 0 to 1", k.CodesTrust)
	}
	if !(k.Leaning >= -1 && k.Leaning <= 1) {
		return problem("/leaning", "%g is not a leaning: give -1 (meter first) to 1 (quick tricks first)", k.Leaning)
	}
	return nil
}

// Given is a parameter the case gives, in the order of its name.
type Given struct {
	Name    string  // station.parameter
	Value   float64 // SI
	Percent float64 // how well it is known; 0: the default of 5 %
	Word    string  // instead of Value for load_law and excitation
}

// Specification is a limit from the vehicle's manual.
type Specification struct {
	Measure   unit.Measure
	State     string
	From, To  string
	Low, High unit.Reading
}

// Evidence is one reading or one observation, in the order it was taken.
type Evidence struct {
	ID         string // client-made; may be empty
	Measure    unit.Measure
	Observe    string
	State      string
	From, To   string
	Through    string
	Value      string // as typed
	Outcome    string
	Instrument string
	Leads      string // as typed; resistance only
	// Uncertainty is the value's own standard uncertainty, as text with its unit, where it
	// is not a plain reading of a meter: a four-wire fit, a value corrected by hand. Of a look
	// it is the chance that it is wrong, in per cent: what a trace's analysis is not sure of.
	Uncertainty string
	Condition   string // "", hot, cold, wiggle, after_tap
	Symptom     string // "", present, absent, unknown
	TakenAt     string // RFC 3339; may be empty
	Struck      bool   // struck out: kept, not weighed

	Reading unit.Reading // parsed Value, leads taken off
	LeadsR  unit.Reading
	own     float64 // parsed Uncertainty, SI; 0: the instrument's; of a look a share
}

// mostDoubt is how unsure a look may be that still counts, per cent.
const mostDoubt = 50

// Doubt is the chance that a checked look is wrong besides what looks are, 0 to 0.5; 0 of a
// reading.
func (e *Evidence) Doubt() float64 {
	if e.Observe == "" {
		return 0
	}
	return e.own
}

// Job is what the workshop knows around the evidence. The reasoning does not
// read it.
type Job struct {
	ID        string   `json:"id,omitempty"`
	Machine   string   `json:"machine,omitempty"`
	Complaint string   `json:"complaint,omitempty"`
	When      []string `json:"when,omitempty"` // cold, hot, wet, after_knock
	History   string   `json:"history,omitempty"`
	// Controller is the make-up of the controller whose blink codes are read; the
	// table that holds stands in the case's codes.
	Controller string `json:"controller,omitempty"`
	// Acknowledged lists the states whose caution was read and understood.
	Acknowledged []string   `json:"acknowledged,omitempty"`
	OpenedAt     string     `json:"opened_at,omitempty"`
	ClosedAt     string     `json:"closed_at,omitempty"`
	Decisions    []Decision `json:"decisions,omitempty"`
	Proofs       []Proof    `json:"proofs,omitempty"`
}

// Decision is what was chosen, kept with the job.
type Decision struct {
	ID      string  `json:"id,omitempty"`
	Option  string  `json:"option"`
	Station string  `json:"station,omitempty"`
	Price   float64 `json:"price,omitempty"`
	Reason  string  `json:"reason,omitempty"`
	By      string  `json:"by,omitempty"` // who decided: customer or workshop
	At      string  `json:"at,omitempty"`

	Stations  []string `json:"stations,omitempty"`  // all parts the plan is for; empty: station alone
	Label     string   `json:"label,omitempty"`     // the option in words
	Who       string   `json:"who,omitempty"`       // name of who decided
	SetAside  string   `json:"set_aside,omitempty"` // why what stood against it was set aside
	Found     string   `json:"found,omitempty"`     // what the verdict said then
	Temporary bool     `json:"temporary,omitempty"`
	Until     string   `json:"until,omitempty"` // of a temporary repair, a day
	Limit     string   `json:"limit,omitempty"` // of a temporary repair
	Life      float64  `json:"life_years,omitempty"`
	Warranty  float64  `json:"warranty_years,omitempty"`
}

// Proof is a signature under what was done, kept with the job.
type Proof struct {
	ID      string            `json:"id,omitempty"`
	Of      []string          `json:"of,omitempty"` // the repairs it is for, by the id of their decision or of their work
	Result  string            `json:"result"`       // passed, remark or failed
	Remark  string            `json:"remark,omitempty"`
	Signed  string            `json:"signed,omitempty"`  // name
	Counter string            `json:"counter,omitempty"` // hours or mileage, as read
	After   int               `json:"after,omitempty"`   // pieces of evidence there were
	Was     map[string]string `json:"was,omitempty"`     // by repair: station.mode, or none
	At      string            `json:"at,omitempty"`
	By      string            `json:"by,omitempty"` // name of who entered it
}

// Problem says where in a case something is wrong and how to mend it. Pointer
// is a JSON pointer (RFC 6901), or "line L, column C" for broken JSON.
type Problem struct{ Pointer, What string }

func (p *Problem) Error() string {
	if p.Pointer == "" {
		return p.What
	}
	return p.Pointer + ": " + p.What
}

func problem(ptr, format string, a ...any) *Problem {
	return &Problem{Pointer: ptr, What: fmt.Sprintf(format, a...)}
}

var (
	conditions = []string{"", "hot", "cold", "wiggle", "after_tap"}
	symptoms   = []string{"", "present", "absent", "unknown"}
)

// MeterFor returns the instrument of a piece of evidence: the named one, or the
// ordinary one for its measure.
//
// A value with an uncertainty of its own is its own instrument: one count of it makes just
// that standard deviation.
func MeterFor(e *Evidence, instruments map[string]meter.Instrument) meter.Instrument {
	if e.own > 0 {
		// Sigma is c √(1/3 + 1/12) for one count c.
		a := &meter.Accuracy{Counts: 1, Resolution: e.own * math.Sqrt(12.0/5)}
		return meter.Instrument{Kind: meter.Multimeter, DCVoltage: a, DCCurrent: a, Resistance: a, ACVoltage: a,
			Capacitance: a, Frequency: a}
	}
	if in, ok := instruments[e.Instrument]; ok && e.Instrument != "" {
		return in
	}
	return meter.Default(e.Measure)
}

// Sigma is the standard uncertainty of a checked reading, SI; leads counted in.
func (e *Evidence) Sigma(instruments map[string]meter.Instrument) float64 {
	in := MeterFor(e, instruments)
	acc := in.For(e.Measure)
	if acc == nil {
		return 0
	}
	u := acc.Sigma(e.Reading.Value)
	if e.Leads != "" {
		u = math.Hypot(u, acc.Sigma(e.LeadsR.Value))
	}
	return u
}

// Check completes one piece of evidence against a circuit: it parses the value
// and refuses what cannot be. Pointers in the problem are relative, such as
// /from. A nil result means the evidence can be weighed.
func (e *Evidence) Check(c *circuit.Circuit, instruments map[string]meter.Instrument) *Problem {
	switch {
	case e.Measure == "" && e.Observe == "":
		return problem("", "neither a reading nor an observation: give measure or observe")
	case e.Measure != "" && e.Observe != "":
		return problem("/observe", "a reading and an observation in one: split them in two")
	case !slices.Contains(conditions, e.Condition):
		return problem("/condition", "%q is not a condition: use hot, cold, wiggle or after_tap", e.Condition)
	case !slices.Contains(symptoms, e.Symptom):
		return problem("/symptom", "%q is not one of present, absent, unknown", e.Symptom)
	case e.Observe != "":
		return e.checkObservation(c)
	}
	if p := e.checkState(c); p != nil {
		return p
	}
	if e.Outcome != "" {
		return problem("/outcome", "a reading has a value, not an outcome")
	}
	if p := e.checkPlace(c); p != nil {
		return p
	}
	return e.checkValue(instruments)
}

// checkState fills the state of a reading in where it goes without saying, and refuses one in which its measure cannot
// be taken.
func (e *Evidence) checkState(c *circuit.Circuit) *Problem {
	if !e.Measure.Valid() {
		return problem("/measure", "%q is not a measure: use voltage, current or resistance%s", e.Measure,
			near(string(e.Measure), []string{"voltage", "current", "resistance"}))
	}
	if p := e.fillState(c); p != nil {
		return p
	}
	_, _, states := c.IDs()
	dead := e.Measure == unit.Resistance || e.Measure == unit.Capacitance
	switch st := c.State(e.State); {
	case st == nil:
		return problem("/state", "circuit %s has no state %q%s; it has %s", c.ID, e.State, near(e.State, states),
			strings.Join(states, ", "))
	case st.Hidden:
		return problem("/state", "%q serves the circuit's own reckoning: use one of %s", e.State, strings.Join(states, ", "))
	case st.Supply == "mains":
		return problem("/state", "no reading is taken in %q: mains parts get dead tests only. Isolate, lock, prove "+
			"dead, discharge the capacitor, then use state isolated", e.State)
	case dead && st.Powered():
		return problem("/state", "ohms in %q, where the circuit is powered, would measure nothing and can harm "+
			"the meter: disconnect first and use state isolated", e.State)
	case !dead && !st.Powered():
		return problem("/state", "in %q nothing is connected, so there are no volts or amperes to read: use a powered state", e.State)
	case !st.CanRead(string(e.Measure)):
		return problem("/measure", "circuit %s has no %s to read in %s", c.ID, strings.ReplaceAll(string(e.Measure), "_", " "), e.State)
	}
	return nil
}

// checkPlace refuses a reading whose nodes or station the circuit does not have in its state.
func (e *Evidence) checkPlace(c *circuit.Circuit) *Problem {
	if e.Measure == unit.Current || e.Measure == unit.Resistance && e.Through != "" {
		return e.checkThrough(c)
	}
	if e.Through != "" {
		return problem("/through", "a voltage lies between two nodes: give from and to")
	}
	nodes, _, _ := c.IDs()
	for _, f := range [2]struct{ field, id string }{{"/from", e.From}, {"/to", e.To}} {
		if f.id == "" {
			return problem(f.field, "a %s needs two nodes, from and to", e.Measure)
		}
		if n := c.Node(f.id); n == nil || n.Hidden {
			return problem(f.field, "circuit %s has no node %q%s; it has %s", c.ID, f.id, near(f.id, nodes), strings.Join(nodes, ", "))
		}
	}
	if e.From == e.To {
		return problem("/to", "both probes on %q: choose two different nodes", e.From)
	}
	return nil
}

// checkThrough refuses a reading of a station that is not in the circuit, or not connected in the state.
func (e *Evidence) checkThrough(c *circuit.Circuit) *Problem {
	if e.From != "" || e.To != "" {
		return problem("/from", "name either the station the current goes through or two nodes, not both")
	}
	_, stations, _ := c.IDs()
	s, st := c.Station(e.Through), c.State(e.State)
	switch {
	case e.Through == "":
		return problem("/through", "through which station was the current measured? It has %s", strings.Join(stations, ", "))
	case s == nil || !s.Kind.HasNodes():
		return problem("/through", "circuit %s has no station %q%s to measure through; it has %s", c.ID,
			e.Through, near(e.Through, stations), strings.Join(stations, ", "))
	case len(st.Present) > 0 && !slices.Contains(st.Present, e.Through) && s.Kind != circuit.Source,
		slices.Contains(st.Absent, e.Through):
		return problem("/through", "in %q the %s is not connected", e.State, e.Through)
	}
	return nil
}

// accuracy finds what the reading's instrument is good for, and reads the reading's own uncertainty.
func (e *Evidence) accuracy(instruments map[string]meter.Instrument) (*meter.Accuracy, *Problem) {
	if _, ok := instruments[e.Instrument]; !ok && e.Instrument != "" {
		return nil, problem("/instrument", "no instrument %q is described; there are %s", e.Instrument,
			orNone(slices.Sorted(maps.Keys(instruments))))
	}
	e.own = 0
	if e.Uncertainty != "" {
		u, err := unit.Parse(e.Uncertainty, e.Measure)
		if err != nil || u.Over || !(u.Value > 0) {
			return nil, problem("/uncertainty", "%q is no standard uncertainty: give it with its unit, such as 0.4 mohm", e.Uncertainty)
		}
		e.own = u.Value
	}
	in := MeterFor(e, instruments)
	if acc := in.For(e.Measure); acc != nil {
		return acc, nil
	}
	return nil, problem("/instrument", "%q measures no %s: name one that does, or leave it out", e.Instrument, e.Measure)
}

// overLimit names what an over-range mark was on, for the measures on which it only says that the range was too small.
var overLimit = map[unit.Measure]string{unit.Voltage: "volts", unit.Current: "amperes", unit.ACVoltage: "AC volts",
	unit.Capacitance: "microfarads", unit.Frequency: "hertz"}

// checkValue parses the value as typed and takes the leads off; it refuses what no meter shows.
func (e *Evidence) checkValue(instruments map[string]meter.Instrument) *Problem {
	acc, p := e.accuracy(instruments)
	if p != nil {
		return p
	}
	r, err := unit.Parse(e.Value, e.Measure)
	if err != nil {
		return problem("/value", "%v", err)
	}
	if r.Over && e.Measure != unit.Resistance {
		return problem("/value", "OL on %s means the range was too small: choose the next range and take it again", overLimit[e.Measure])
	}
	if size := math.Abs(r.Value); !r.Over && size > acc.FullScale()*1.1 {
		return problem("/value", "%s is more than this meter can show (%s full scale): check the unit or name another instrument",
			unit.Format(r.Value, e.Measure), unit.Format(acc.FullScale(), e.Measure))
	}
	e.LeadsR = unit.Reading{}
	if e.Leads != "" {
		if p := e.takeLeadsOff(&r, acc); p != nil {
			return p
		}
	}
	e.Reading = r
	return nil
}

// takeLeadsOff subtracts what the leads read when their tips were held together from ohms.
func (e *Evidence) takeLeadsOff(r *unit.Reading, acc *meter.Accuracy) *Problem {
	if e.Measure != unit.Resistance {
		return problem("/leads", "leads are subtracted from ohms only")
	}
	l, err := unit.Parse(e.Leads, unit.Resistance)
	if err != nil {
		return problem("/leads", "%v", err)
	}
	if l.Over || l.Value > 10 {
		return problem("/leads", "leads of %s are broken: mend them, hold the tips together and read again", l.String(unit.Resistance))
	}
	if !r.Over {
		if r.Value < l.Value-2*acc.Sigma(l.Value) {
			return problem("/leads", "the leads alone read %s, more than the part's %s: take both again",
				l.String(unit.Resistance), r.String(unit.Resistance))
		}
		r.Value = math.Max(r.Value-l.Value, 0)
	}
	e.LeadsR = l
	return nil
}

func (e *Evidence) checkObservation(c *circuit.Circuit) *Problem {
	o := c.Observation(e.Observe)
	if o == nil {
		ids := make([]string, 0, len(c.Observations))
		for i := range c.Observations {
			ids = append(ids, c.Observations[i].ID)
		}
		return problem("/observe", "circuit %s has no observation %q%s; it has %s", c.ID, e.Observe,
			near(e.Observe, ids), strings.Join(ids, ", "))
	}
	if e.Observe == circuit.SwapHelps {
		if s := c.Station(e.Through); s == nil {
			_, stations, _ := c.IDs()
			return problem("/through", "which station was swapped for a known good part? It has %s", strings.Join(stations, ", "))
		}
	} else if e.Through != "" {
		return problem("/through", "an observation has an outcome, no value, nodes, leads or instrument")
	}
	if e.Value != "" || e.From != "" || e.To != "" || e.Leads != "" || e.Instrument != "" {
		return problem("", "an observation has an outcome, no value, nodes, leads or instrument")
	}
	e.own = 0
	if e.Uncertainty != "" {
		v, err := strconv.ParseFloat(strings.TrimSpace(strings.TrimSuffix(strings.Replace(e.Uncertainty, ",", ".", 1), "%")), 64)
		if err != nil || !strings.HasSuffix(e.Uncertainty, "%") || !(v >= 0 && v <= mostDoubt) {
			return problem("/uncertainty", "%q is no uncertainty of a look: give the chance that it is wrong, 0 to %d %%",
				e.Uncertainty, mostDoubt)
		}
		e.own = v / 100
	}
	if e.State == "" {
		e.State = o.States[0]
		if slices.Contains(o.States, c.RunState) {
			e.State = c.RunState
		}
	}
	if !slices.Contains(o.States, e.State) {
		if c.State(e.State) == nil {
			_, _, states := c.IDs()
			return problem("/state", "circuit %s has no state %q%s; it has %s", c.ID, e.State, near(e.State, states),
				strings.Join(states, ", "))
		}
		return problem("/state", "%s is not observed in %q but in %s", e.Observe, e.State, strings.Join(o.States, ", "))
	}
	words := make([]string, 0, len(o.Outcomes))
	for _, x := range o.Outcomes {
		words = append(words, x.ID)
	}
	if !slices.Contains(words, e.Outcome) && e.Outcome != circuit.NotSure {
		return problem("/outcome", "%q is not an answer to %s%s; the answers are %s, or %s", e.Outcome, e.Observe,
			near(e.Outcome, words), strings.Join(words, ", "), circuit.NotSure)
	}
	return nil
}

// fillState gives a reading without a state the only one it can be taken in.
func (e *Evidence) fillState(c *circuit.Circuit) (p *Problem) {
	if e.State == "" {
		e.State, p = onlyState(c, e.Measure)
	}
	return p
}

// onlyState is the one state of a circuit in which a measure can be taken; where there are
// several it names them, where none, the states there are.
func onlyState(c *circuit.Circuit, m unit.Measure) (string, *Problem) {
	var can, all []string
	for i := range c.States {
		st := &c.States[i]
		if st.Hidden {
			continue
		}
		all = append(all, st.ID)
		if st.Supply != "mains" && st.CanRead(string(m)) {
			can = append(can, st.ID)
		}
	}
	word := strings.ReplaceAll(string(m), "_", " ")
	switch len(can) {
	case 1:
		return can[0], nil
	case 0:
		return "", problem("/state", "circuit %s has no state in which %s is read; it has %s", c.ID, word, strings.Join(all, ", "))
	}
	return "", problem("/state", "in which state was this %s taken? It can be in %s", word, strings.Join(can, ", "))
}

func orNone(names []string) string {
	if len(names) == 0 {
		return "none"
	}
	return strings.Join(names, ", ")
}

// near suggests the closest of a list to what was typed.
func near(got string, have []string) string {
	best, bestD := "", 3
	for _, h := range have {
		if d := distance(strings.ToLower(got), h); d < bestD {
			best, bestD = h, d
		}
	}
	if best == "" || got == "" {
		return ""
	}
	return fmt.Sprintf(" (did you mean %q?)", best)
}

// distance is the Levenshtein distance.
func distance(a, b string) int {
	prev := make([]int, len(b)+1)
	for j := range prev {
		prev[j] = j
	}
	for i := 1; i <= len(a); i++ {
		cur := make([]int, len(b)+1)
		cur[0] = i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			cur[j] = min(prev[j]+1, cur[j-1]+1, prev[j-1]+cost)
		}
		prev = cur
	}
	return prev[len(b)]
}
