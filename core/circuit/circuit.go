package circuit

import (
	"bytes"
	"embed"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"regexp"
	"slices"
	"sort"
	"strings"
	"sync"
)

// Format names the circuit file's format.
const Format = "corriente-circuit/1"

// Ground is the node that is 0 V in every printout.
const Ground = "bat_neg"

// Kind of a station; see the constants.
type Kind string

// Station kinds.
const (
	Source       Kind = "source"
	Charger      Kind = "charger"
	Joint        Kind = "joint"
	Wire         Kind = "wire"
	Fuse         Kind = "fuse"
	Contact      Kind = "contact"
	Coil         Kind = "coil"
	Driver       Kind = "driver" // a transistor module, or a controller's output
	ResistorPack Kind = "resistor_pack"
	Motor        Kind = "motor"
	Drive        Kind = "drive"    // what the motor turns; has no nodes
	Throttle     Kind = "throttle" // a potentiometer's wiper against its ground
	Control      Kind = "control"  // a command from logic
	Winding      Kind = "winding"  // one phase of a stator, or one winding of a mains motor
	Rectifier    Kind = "rectifier"
	Capacitor    Kind = "capacitor"
	Bearing      Kind = "bearing" // of a mains motor; has no nodes
)

// HasNodes reports whether a station of the kind joins two nodes: what turns
// does not.
func (k Kind) HasNodes() bool { return k != Drive && k != Bearing }

// Param is a nominal value with what is known of it.
type Param struct {
	Value  float64 `json:"value"`            // SI
	Spread float64 `json:"spread,omitempty"` // standard deviation of the natural logarithm; for a value in volts see SD
	SD     float64 `json:"sd,omitempty"`     // standard deviation, SI, instead of Spread
	// Alike names parts that are made alike, such as the phases of a stator: their values
	// of this name share what is not known of them, Common (standard deviation of the
	// natural logarithm), and Spread is what each then differs by.
	Alike  string  `json:"alike,omitempty"`
	Common float64 `json:"common,omitempty"`
}

// Node is a place where a probe can be put.
type Node struct {
	ID     string `json:"id"`
	Label  string `json:"label"`
	Place  string `json:"place"`
	Access string `json:"access"`
	Hidden bool   `json:"hidden,omitempty"` // inside a part: no probe reaches it
}

// Link is a plain connection inside a unit, or an aid clamped on for a test.
type Link struct {
	From string  `json:"from"`
	To   string  `json:"to"`
	Ohms float64 `json:"ohms"`
}

// Aid is something put into the circuit for one state: a test lamp or a jumper.
type Aid struct {
	Kind string `json:"kind"` // lamp or jumper
	Link
}

// Guard is a condition that a driver's own logic checks before it gives output.
type Guard struct {
	// Kind is loop (the resistance between two nodes lies within Min to Max
	// ohms), closed (the contact Station is closed) or neutral (the throttle
	// Station is at rest when it should be).
	Kind    string  `json:"kind"`
	Station string  `json:"station,omitempty"`
	From    string  `json:"from,omitempty"`
	To      string  `json:"to,omitempty"`
	Min     float64 `json:"min,omitempty"` // ohm
	Max     float64 `json:"max,omitempty"` // ohm
	Code    bool    `json:"code"`          // a blink code is flashed when it fails
}

// Second is a further way into a part, with a resistance of its own.
type Second struct {
	Ends
	Param string `json:"param"`
}

// Ends are the nodes a station joins while a state lasts, where they differ.
type Ends struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Action is a way to put a station right: what it costs by default, in the
// workshop's money, and what it cures. A job overrides the figures.
type Action struct {
	Label     string   `json:"label"`
	Cures     []string `json:"cures"`      // fault modes of the station
	Parts     float64  `json:"parts"`      // money
	Minutes   float64  `json:"minutes"`    // labour, access included
	WaitDays  float64  `json:"wait_days"`  // until the part is here
	Success   float64  `json:"success"`    // workmanship: the chance that the work holds when the fault is cured, 0..1
	LifeYears float64  `json:"life_years"` // how long it then lasts, median
}

// Station is one thing that current passes through and that can be judged,
// repaired or replaced.
type Station struct {
	ID          string  `json:"id"`
	Kind        Kind    `json:"kind"`
	From        string  `json:"from,omitempty"`
	To          string  `json:"to,omitempty"`
	Label       string  `json:"label"`
	Place       string  `json:"place"`
	Access      string  `json:"access"`
	Side        string  `json:"side,omitempty"`         // supply, ground or control: which part of the path it lies on
	ClosedBy    string  `json:"closed_by,omitempty"`    // the coil that closes this contact
	Rest        string  `json:"rest,omitempty"`         // a contact's position at rest: open or closed
	AllowedDrop float64 `json:"allowed_drop,omitempty"` // V at normal current; 0: no limit
	LoadLaw     string  `json:"load_law,omitempty"`     // motor: constant, linear, square
	Excitation  string  `json:"excitation,omitempty"`   // motor: permanent_magnet, series
	// motor or winding: node of its body, where a winding fault goes; default: To
	Frame       string  `json:"frame,omitempty"`
	CommandedBy string  `json:"commanded_by,omitempty"` // driver: the control or throttle it obeys
	Second      *Second `json:"second,omitempty"`       // motor: another brush that an ohmmeter can be put on
	// the station it is built into: no probe parts the two, one repair cures both
	Within  string             `json:"within,omitempty"`
	HeldBy  string             `json:"held_by,omitempty"` // drive: the coil of the brake that holds it until it pulls in
	Guards  []Guard            `json:"guards,omitempty"`  // driver
	Returns string             `json:"returns,omitempty"` // driver with guards: the node its own supply returns to
	Outputs []Link             `json:"outputs,omitempty"` // driver: what it feeds besides From-To while it is on
	Params  map[string]Param   `json:"params,omitempty"`
	Faults  map[string]float64 `json:"faults"` // mode: prior rate, relative
	Caution string             `json:"caution,omitempty"`
	Repair  *Action            `json:"repair,omitempty"`
	Replace *Action            `json:"replace,omitempty"`
}

// Feed is a supply put directly on two nodes.
type Feed struct {
	Plus  string `json:"plus"`
	Minus string `json:"minus"`
}

// State is what the circuit is asked to do while a reading is taken.
type State struct {
	ID      string   `json:"id"`
	Label   string   `json:"label"`
	How     string   `json:"how"`     // how to get there, one line
	Hold    string   `json:"hold"`    // how long, one phrase; may be empty
	Minutes float64  `json:"minutes"` // to get into the state
	People  int      `json:"people"`
	Supply  string   `json:"supply"`            // battery, feed, running (an engine turns the generator), mains or none
	Feed    *Feed    `json:"feed,omitempty"`    // with supply feed
	Closed  []string `json:"closed,omitempty"`  // contacts and drivers held in the position that is not their rest
	Present []string `json:"present,omitempty"` // stations that are connected; empty: all
	Absent  []string `json:"absent,omitempty"`  // stations that are taken out
	Load    string   `json:"load"`              // coupled or free: does the motor turn its drive
	Access  string   `json:"access"`            // group that must be open to get there
	Caution string   `json:"caution,omitempty"`

	Wiring     map[string]Ends   `json:"wiring,omitempty"`      // stations whose ends differ in this state: a reversing switch
	Uses       map[string]string `json:"uses,omitempty"`        // station: which parameter counts: a tap, a second brush, a command
	Aids       []Aid             `json:"aids,omitempty"`        // what is put in for the test
	Sound      []string          `json:"sound,omitempty"`       // stations replaced by known good ones
	LoadFactor float64           `json:"load_factor,omitempty"` // on the load: weight that helps or hinders; 0: 1
	// network: ohms see everything that is joined; default: only the parts between the probes
	Ohms     string   `json:"ohms,omitempty"`
	Reads    []string `json:"reads,omitempty"`    // measures that can be taken; default by supply
	Hidden   bool     `json:"hidden,omitempty"`   // serves an observation only
	Commands bool     `json:"commands,omitempty"` // the machine is asked to do its work: a complaint can show here
}

// Powered reports whether current can flow in the state, so that volts and
// amperes may be read and ohms may not.
func (s *State) Powered() bool { return s.Supply != "none" }

// CanRead reports whether a measure can be taken in the state.
func (s *State) CanRead(measure string) bool {
	if s.Reads != nil {
		return slices.Contains(s.Reads, measure)
	}
	if s.Powered() {
		return measure == "voltage" || measure == "current"
	}
	return measure == "resistance"
}

// Outcome is one answer of an observation.
type Outcome struct {
	ID    string `json:"id"`
	Label string `json:"label"`
}

// Observation is something seen, heard, felt or smelt, answered by a word.
type Observation struct {
	ID       string    `json:"id"`
	Label    string    `json:"label"`
	Question string    `json:"question"`
	Outcomes []Outcome `json:"outcomes"`
	States   []string  `json:"states"`
	Minutes  float64   `json:"minutes"`
	People   int       `json:"people"`
	Spends   float64   `json:"spends,omitempty"` // money used up, such as a fuse blown for looking
	Access   string    `json:"access,omitempty"`
	// Model names what decides the answer. All but rates are derived from the
	// solved circuit; rates is a table for what physics does not decide. See
	// [Models].
	Model string `json:"model"`
	// the station it is about: a coil that clicks, a fuse, a plug that warms
	Of string `json:"of,omitempty"`
	// the state that decides the answer, where it is not the one it is taken in
	SolveIn string                        `json:"solve_in,omitempty"`
	Compare []string                      `json:"compare,omitempty"` // two states whose speeds are compared
	Words   map[string]string             `json:"words,omitempty"`   // latent answer: outcome
	Rates   map[string]map[string]float64 `json:"rates,omitempty"`   // fault, or * for all others: outcome: probability
	Tells   string                        `json:"tells,omitempty"`
}

// NotSure answers every look: it was looked at and nobody could say. It counts as none.
const NotSure = "not_sure"

// Models are the ways an observation is answered.
var models = []string{"click", "turning", "lamps_dim", "turn_by_hand", "rates", "speed", "heard", "noise", "lamp", "heat", "fuse",
	"differs", "moves", "thump", "blink_code", "code_clears", "starts", "runs_on", "spark", "jump"}

// Path is one way the current takes, drawn as a picture.
type Path struct {
	ID       string   `json:"id"`
	Label    string   `json:"label"`
	Stations []string `json:"stations"`         // in the order of the current, head to tail
	States   []string `json:"states,omitempty"` // where it is taken; empty: in all
}

// In reports whether the path is taken in a state.
func (p *Path) In(state string) bool { return len(p.States) == 0 || slices.Contains(p.States, state) }

// Circuit is a family or a workshop's own circuit.
type Circuit struct {
	Format         string             `json:"format"`
	ID             string             `json:"id"`
	Title          string             `json:"title"`
	About          string             `json:"about"`
	NominalVoltage float64            `json:"nominal_voltage"`
	RunState       string             `json:"run_state"` // the state in which the complaint shows
	Nodes          []Node             `json:"nodes"`
	Stations       []Station          `json:"stations"`
	States         []State            `json:"states"`
	Observations   []Observation      `json:"observations"`
	Paths          []Path             `json:"paths"`
	AccessMinutes  map[string]float64 `json:"access_minutes"`
	AccessLabels   map[string]string  `json:"access_labels"`
	Cautions       []string           `json:"cautions"`
	Joins          []Link             `json:"joins,omitempty"`     // connections inside units, on the vehicle's own supply
	Mains          bool               `json:"mains,omitempty"`     // a mains part: dead tests only
	Frequency      float64            `json:"frequency,omitempty"` // Hz, of alternating-current states
	// Variants are the words a parameter that is no number can take, and how each
	// wires the circuit: stator.connection: wye, delta.
	Variants map[string]map[string]map[string]Ends `json:"variants,omitempty"`
	Variant  map[string]string                     `json:"variant,omitempty"` // the one that holds
	// Asks lists what a technician says of such a machine, for the first page.
	Asks *Asks `json:"asks,omitempty"`

	nodeIndex    map[string]int
	stationIndex map[string]int
}

// AccessGroups are the fixed ids of the access groups.
var accessGroups = []string{"open_air", "battery", "fuse_block", "relay", "switch", "dash", "control_unit",
	"connector", "motor_connector", "motor", "bench", "stripped"}

// AccessGroups returns the fixed ids of the access groups.
func AccessGroups() []string { return slices.Clone(accessGroups) }

// kindParams lists what each kind is described by; the first are required.
var kindParams = map[Kind]struct{ required, optional []string }{
	Source:       {[]string{"emf", "resistance"}, []string{"surface_charge"}},
	Charger:      {[]string{"present", "voltage", "current_limit"}, nil},
	Joint:        {[]string{"resistance"}, nil},
	Wire:         {[]string{"resistance"}, nil},
	Fuse:         {[]string{"rating", "resistance"}, nil},
	Contact:      {[]string{"resistance"}, nil},
	Coil:         {[]string{"resistance", "pull_in"}, nil},
	Driver:       {[]string{"on_resistance"}, []string{"low_resistance"}},
	ResistorPack: {[]string{"tap_1", "tap_2", "tap_3", "tap_4"}, nil},
	Motor: {[]string{"resistance", "brush_drop", "ke", "friction", "load", "rated_speed"},
		[]string{"saturation_current", "resistance_high", "ke_high"}},
	Drive:     {nil, nil},
	Throttle:  {[]string{"supply", "rest", "full"}, nil},
	Control:   {nil, []string{"low", "high"}},
	Winding:   {[]string{"resistance"}, []string{"emf", "inductance"}},
	Rectifier: {[]string{"voltage"}, nil},
	Capacitor: {[]string{"capacitance"}, nil},
	Bearing:   {nil, nil},
}

// kindModes lists the fault modes each kind of station can have.
var kindModes = map[Kind][]string{
	Source:       {"discharged", "weak", "dead_cell"},
	Charger:      {"no_output", "overcharging"},
	Joint:        {"high_resistance", "open"},
	Wire:         {"high_resistance", "open", "short_to_ground"},
	Fuse:         {"open", "high_resistance"},
	Contact:      {"stuck_open", "high_resistance", "welded"},
	Coil:         {"open", "shorted_turns", "sticking"},
	Driver:       {"no_output", "stuck_on"},
	ResistorPack: {"open", "tap_1_open", "tap_2_open", "tap_3_open"},
	Motor: {"brushes_worn", "winding_open", "shorted_turns", "winding_grounded", "commutator_damaged", "bearing_drag", "seized",
		"low_brush_worn", "high_brush_worn"},
	Drive:     {"binding", "jammed", "slipping"},
	Throttle:  {"no_command", "open", "out_of_neutral"},
	Control:   {"no_command"},
	Winding:   {"open", "shorted_turns", "grounded"},
	Rectifier: {"no_output", "shorted"},
	Capacitor: {"open", "low", "shorted"},
	Bearing:   {"seized", "drag"},
}

// KindModes lists the fault modes a kind of station can have.
func KindModes(k Kind) []string { return kindModes[k] }

// Kinds lists the kinds of station, sorted.
func Kinds() []Kind {
	out := make([]Kind, 0, len(kindParams))
	for k := range kindParams {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// ParamUnit returns the SI unit of a station parameter by its name.
func ParamUnit(param string) string {
	switch param {
	case "emf", "surface_charge", "pull_in", "brush_drop", "voltage", "low", "high", "supply", "rest", "full":
		return "V"
	case "resistance", "on_resistance", "low_resistance", "resistance_high", "tap_1", "tap_2", "tap_3", "tap_4":
		return "ohm"
	case "rating", "current_limit", "saturation_current":
		return "A"
	case "ke", "ke_high":
		return "V s/rad"
	case "friction", "load":
		return "N m"
	case "rated_speed":
		return "rad/s"
	case "inductance":
		return "H"
	case "capacitance":
		return "F"
	}
	return ""
}

//go:embed families/*.json
var familyFiles embed.FS

var loadFamilies = sync.OnceValues(func() (map[string]*Circuit, error) {
	out := map[string]*Circuit{}
	ents, err := familyFiles.ReadDir("families")
	if err != nil {
		return nil, err
	}
	for _, e := range ents {
		b, err := familyFiles.ReadFile("families/" + e.Name())
		if err != nil {
			return nil, err
		}
		c, err := Read(bytes.NewReader(b))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", e.Name(), err)
		}
		out[c.ID] = c
	}
	return out, nil
})

// Families returns the ids of the built-in families, sorted.
func Families() []string {
	m, err := loadFamilies()
	if err != nil {
		return nil
	}
	ids := make([]string, 0, len(m))
	for id := range m {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	return ids
}

// Family returns a built-in family. The result is shared: treat it as
// read-only, or [Circuit.Clone] it.
func Family(id string) (*Circuit, error) {
	m, err := loadFamilies()
	if err != nil {
		return nil, err
	}
	c, ok := m[id]
	if !ok {
		return nil, fmt.Errorf("no circuit family %q; the families are %s", id, strings.Join(Families(), ", "))
	}
	return c, nil
}

// Read decodes and checks one circuit file. Unknown fields are errors.
func Read(r io.Reader) (*Circuit, error) {
	d := json.NewDecoder(r)
	d.DisallowUnknownFields()
	var c Circuit
	if err := d.Decode(&c); err != nil {
		return nil, fmt.Errorf("this is not a circuit file: %w", err)
	}
	if err := c.index(); err != nil {
		return nil, err
	}
	return &c, nil
}

// Clone returns a copy whose stations can be changed without touching c.
func (c *Circuit) Clone() *Circuit {
	n := *c
	n.Stations = slices.Clone(c.Stations)
	for i := range n.Stations {
		p := make(map[string]Param, len(n.Stations[i].Params))
		for k, v := range n.Stations[i].Params {
			p[k] = v
		}
		n.Stations[i].Params = p
		n.Stations[i].Guards = slices.Clone(c.Stations[i].Guards)
	}
	n.States = slices.Clone(c.States)
	for i := range n.States {
		n.States[i].Aids = slices.Clone(c.States[i].Aids)
	}
	n.AccessMinutes = maps.Clone(c.AccessMinutes)
	n.Variant = maps.Clone(c.Variant)
	n.nodeIndex, n.stationIndex = maps.Clone(c.nodeIndex), maps.Clone(c.stationIndex)
	return &n
}

// Invalid says where in a circuit file something is wrong. Pointer is a JSON
// pointer (RFC 6901).
type Invalid struct{ Pointer, What string }

func (e *Invalid) Error() string { return e.Pointer + ": " + e.What }

var idPattern = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

// CheckParam refuses a value that a station parameter cannot have.
func CheckParam(k Kind, name string, v float64) error {
	max := 1e9
	min, strict := 0.0, false
	switch name {
	case "resistance", "ke", "rated_speed", "rating", "saturation_current", "current_limit", "on_resistance", "low_resistance",
		"tap_1", "tap_2", "tap_3", "tap_4", "resistance_high", "ke_high", "capacitance", "inductance":
		strict = true
	case "emf", "voltage", "pull_in", "brush_drop", "surface_charge", "low", "high", "supply", "rest", "full":
		max = 60
	case "present":
		max = 1
	}
	if !(v >= min) || strict && v == 0 || v > max {
		more := "from 0"
		if strict {
			more = "above 0"
		}
		return fmt.Errorf("of %g %s cannot be: give a number %s up to %g", v, ParamUnit(name), more, max)
	}
	return nil
}

// NodeIndex returns the index of a node, -1 when there is none.
func (c *Circuit) NodeIndex(id string) int {
	if i, ok := c.nodeIndex[id]; ok {
		return i
	}
	return -1
}

// StationIndex returns the index of a station, -1 when there is none.
func (c *Circuit) StationIndex(id string) int {
	if i, ok := c.stationIndex[id]; ok {
		return i
	}
	return -1
}

// Station returns a station by id, nil when there is none.
func (c *Circuit) Station(id string) *Station {
	if i, ok := c.stationIndex[id]; ok {
		return &c.Stations[i]
	}
	return nil
}

// Node returns a node by id, nil when there is none.
func (c *Circuit) Node(id string) *Node {
	if i, ok := c.nodeIndex[id]; ok {
		return &c.Nodes[i]
	}
	return nil
}

// State returns a state by id, nil when there is none.
func (c *Circuit) State(id string) *State {
	for i := range c.States {
		if c.States[i].ID == id {
			return &c.States[i]
		}
	}
	return nil
}

// SwapHelps is the observation that every circuit has besides its own: a known
// good part was put in a station's place; does it work now?
const SwapHelps = "swap_helps"

// CurrentTrace is the observation that every circuit with a brushed motor has
// besides its own: what the trace of the motor's current shows. Its words are
// those of the package trace.
const CurrentTrace = "current_trace"

func (c *Circuit) traced() *Observation {
	if c.Mains || !slices.ContainsFunc(c.Stations, func(s Station) bool { return s.Kind == Motor }) {
		return nil
	}
	o := &Observation{ID: CurrentTrace, Label: "Current trace", Question: "What does the motor's current show on the scope?",
		Outcomes: []Outcome{{"even", "even, no weak bar"}, {"weak_bar", "a weak bar"}, {"dropouts", "dropouts"},
			{"drags", "drags once a turn"}},
		Minutes: 6, People: 1, Model: "trace", Tells: "brushes and commutator, without taking the motor out"}
	for i := range c.States {
		if s := &c.States[i]; s.Powered() && s.Supply != "running" && s.Supply != "mains" {
			o.States = append(o.States, s.ID)
		}
	}
	return o
}

// Observation returns an observation by id, nil when there is none.
func (c *Circuit) Observation(id string) *Observation {
	if id == CurrentTrace {
		return c.traced()
	}
	if slices.Contains(insideIDs, id) && !c.Mains {
		for _, o := range c.inside() {
			if o.ID == id {
				return o
			}
		}
		return nil
	}
	if id == SwapHelps && !c.Mains {
		return &Observation{ID: SwapHelps, Label: "Swap test", Question: "With the known good part in its place: does it work now?",
			Outcomes: []Outcome{{"no", "no"}, {"yes", "yes"}}, States: []string{c.RunState}, Minutes: 2, People: 1, Model: "swap",
			Tells: "whether the part that was swapped is the one"}
	}
	for i := range c.Observations {
		if c.Observations[i].ID == id {
			return &c.Observations[i]
		}
	}
	return nil
}

// SetParam changes one parameter, named station.parameter.
func (c *Circuit) SetParam(station, param string, p Param) error {
	s := c.Station(station)
	if s == nil {
		return fmt.Errorf("circuit %s has no station %q", c.ID, station)
	}
	kp := kindParams[s.Kind]
	if !slices.Contains(kp.required, param) && !slices.Contains(kp.optional, param) {
		return fmt.Errorf("%s, a %s, has no parameter %q; it has %s", station, s.Kind, param,
			strings.Join(append(slices.Clone(kp.required), kp.optional...), ", "))
	}
	if err := CheckParam(s.Kind, param, p.Value); err != nil {
		return err
	}
	s.Params[param] = p
	return nil
}

// SetVariant wires the circuit as one of its variants, such as
// stator.connection: delta.
func (c *Circuit) SetVariant(name, word string) error {
	v, ok := c.Variants[name]
	if !ok {
		return fmt.Errorf("circuit %s has no choice %q", c.ID, name)
	}
	w, ok := v[word]
	if !ok {
		return fmt.Errorf("%q is not one of %s", word, strings.Join(slices.Sorted(maps.Keys(v)), ", "))
	}
	for id, e := range w {
		s := c.Station(id)
		s.From, s.To = e.From, e.To
	}
	if c.Variant == nil {
		c.Variant = map[string]string{}
	}
	c.Variant[name] = word
	return nil
}

// IDs of nodes, stations and states, for messages.
func (c *Circuit) IDs() (nodes, stations, states []string) {
	for _, n := range c.Nodes {
		if !n.Hidden {
			nodes = append(nodes, n.ID)
		}
	}
	for _, s := range c.Stations {
		stations = append(stations, s.ID)
	}
	for _, s := range c.States {
		if !s.Hidden {
			states = append(states, s.ID)
		}
	}
	return nodes, stations, states
}

// ScaleTo moves a circuit to another nominal voltage, keeping its power and the
// share of the supply that each part takes: volts follow the ratio, resistances
// its square, the motor constant the ratio. Parameters given later override.
func (c *Circuit) ScaleTo(nominal float64) {
	k := nominal / c.NominalVoltage
	if k == 1 {
		return
	}
	for i := range c.Stations {
		for name, p := range c.Stations[i].Params {
			f := 1.0
			switch name {
			case "emf", "pull_in", "ke", "voltage", "surface_charge", "ke_high":
				f = k
			case "resistance", "on_resistance", "low_resistance", "resistance_high", "tap_1", "tap_2", "tap_3", "tap_4":
				f = k * k
			case "rating", "current_limit", "saturation_current":
				f = 1 / k
			}
			p.Value *= f
			p.SD *= f
			c.Stations[i].Params[name] = p
		}
		c.Stations[i].AllowedDrop *= k
		for g := range c.Stations[i].Guards { // what a controller takes for a sound loop follows the loop
			c.Stations[i].Guards[g].Min *= k * k
			c.Stations[i].Guards[g].Max *= k * k
		}
	}
	for i := range c.States {
		for n := range c.States[i].Aids {
			if a := &c.States[i].Aids[n]; a.Kind == "lamp" {
				a.Ohms *= k * k
			}
		}
	}
	c.NominalVoltage = nominal
}

// ParamNames lists the parameters of a kind of station, required ones first.
func ParamNames(k Kind) []string {
	kp := kindParams[k]
	return append(slices.Clone(kp.required), kp.optional...)
}

// joined reports whether two nodes are one inside a unit.
func (c *Circuit) joined(a, b string) bool {
	for _, j := range c.Joins {
		if j.From == a && j.To == b || j.From == b && j.To == a {
			return true
		}
	}
	return false
}

// Asks is what a technician says of such a machine, so that the first page can
// suggest the circuit without asking for its name.
type Asks struct {
	Machine  []string `json:"machine"`  // what it moves: starter, heater fan, ...
	Symptoms []string `json:"symptoms"` // in the words of a complaint
}

// Walk returns the nodes of a path in a state: one more than stations. Where a
// station does not begin at the node the one before it ended at, or at one
// joined to it, ok is false and at names the station; the nodes are then those
// up to the break.
func (c *Circuit) Walk(p *Path, state string) (nodes []string, at int, ok bool) {
	st := c.State(state)
	ends := func(id string) (string, string) {
		if e, ok := st.Wiring[id]; ok {
			return e.From, e.To
		}
		s := c.Station(id)
		return s.From, s.To
	}
	same := func(x, y string) bool { return x == y || c.joined(x, y) }
	for k, id := range p.Stations {
		a, b := ends(id)
		if k == 0 {
			if len(p.Stations) > 1 {
				if x, y := ends(p.Stations[1]); !same(b, x) && !same(b, y) && (same(a, x) || same(a, y)) {
					a, b = b, a
				}
			}
			nodes = append(nodes, a, b)
			continue
		}
		last := nodes[len(nodes)-1]
		switch {
		case same(a, last):
		case same(b, last):
			a, b = b, a
		default:
			return nodes, k, false
		}
		nodes = append(nodes, b)
	}
	return nodes, 0, true
}
