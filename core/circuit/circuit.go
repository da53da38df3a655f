// Package circuit holds the circuits as data and solves them: which stations
// the current passes, what each state asks of them, and what every node's
// voltage then is. Families are JSON files in families/, embedded; a workshop's
// own circuit is the same kind of file.
package circuit

import (
	"bytes"
	"embed"
	"encoding/json"
	"fmt"
	"io"
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
	Source  Kind = "source"
	Charger Kind = "charger"
	Joint   Kind = "joint"
	Wire    Kind = "wire"
	Fuse    Kind = "fuse"
	Contact Kind = "contact"
	Coil    Kind = "coil"
	Motor   Kind = "motor"
	Drive   Kind = "drive" // what the motor turns; has no nodes
)

// Param is a nominal value with what is known of it.
type Param struct {
	Value  float64 `json:"value"`            // SI
	Spread float64 `json:"spread,omitempty"` // standard deviation of the natural logarithm; for a value in volts see SD
	SD     float64 `json:"sd,omitempty"`     // standard deviation, SI, instead of Spread
}

// Node is a place where a probe can be put.
type Node struct {
	ID     string `json:"id"`
	Label  string `json:"label"`
	Place  string `json:"place"`
	Access string `json:"access"`
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
	ID          string             `json:"id"`
	Kind        Kind               `json:"kind"`
	From        string             `json:"from,omitempty"`
	To          string             `json:"to,omitempty"`
	Label       string             `json:"label"`
	Place       string             `json:"place"`
	Access      string             `json:"access"`
	Side        string             `json:"side,omitempty"`         // supply, ground or control: which part of the path it lies on
	ClosedBy    string             `json:"closed_by,omitempty"`    // the coil that closes this contact
	Rest        string             `json:"rest,omitempty"`         // a contact's position at rest: open or closed
	AllowedDrop float64            `json:"allowed_drop,omitempty"` // V at normal current; 0: no limit
	LoadLaw     string             `json:"load_law,omitempty"`     // motor: constant, linear, square
	Excitation  string             `json:"excitation,omitempty"`   // motor: permanent_magnet, series
	Params      map[string]Param   `json:"params,omitempty"`
	Faults      map[string]float64 `json:"faults"` // mode: prior rate, relative
	Caution     string             `json:"caution,omitempty"`
	Repair      *Action            `json:"repair,omitempty"`
	Replace     *Action            `json:"replace,omitempty"`
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
	Supply  string   `json:"supply"`            // battery, feed or none
	Feed    *Feed    `json:"feed,omitempty"`    // with supply feed
	Closed  []string `json:"closed,omitempty"`  // contacts held in the position that is not their rest
	Present []string `json:"present,omitempty"` // stations that are connected; empty: all
	Load    string   `json:"load"`              // coupled or free: does the motor turn its drive
	Access  string   `json:"access"`            // group that must be open to get there
	Caution string   `json:"caution,omitempty"`
}

// Powered reports whether current can flow in the state, so that volts and
// amperes may be read and ohms may not.
func (s *State) Powered() bool { return s.Supply != "none" }

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
	Access   string    `json:"access,omitempty"`
	// Model names what decides the answer: click, turning, lamps_dim and
	// turn_by_hand are derived from the solved circuit; rates is a table for
	// what physics does not decide.
	Model string                        `json:"model"`
	Coil  string                        `json:"coil,omitempty"` // for click
	Rates map[string]map[string]float64 `json:"rates,omitempty"`
	Tells string                        `json:"tells,omitempty"`
}

// Path is one way the current takes, drawn as a picture.
type Path struct {
	ID       string   `json:"id"`
	Label    string   `json:"label"`
	Stations []string `json:"stations"` // in the order of the current, head to tail
}

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
	Source:  {[]string{"emf", "resistance"}, []string{"surface_charge"}},
	Charger: {[]string{"present", "voltage", "current_limit"}, nil},
	Joint:   {[]string{"resistance"}, nil},
	Wire:    {[]string{"resistance"}, nil},
	Fuse:    {[]string{"rating", "resistance"}, nil},
	Contact: {[]string{"resistance"}, nil},
	Coil:    {[]string{"resistance", "pull_in"}, nil},
	Motor:   {[]string{"resistance", "brush_drop", "ke", "friction", "load", "rated_speed"}, []string{"saturation_current"}},
	Drive:   {nil, nil},
}

// KindModes lists the fault modes each kind of station can have.
func KindModes(k Kind) []string {
	switch k {
	case Source:
		return []string{"discharged", "weak", "dead_cell"}
	case Charger:
		return []string{"no_output", "overcharging"}
	case Joint:
		return []string{"high_resistance", "open"}
	case Wire:
		return []string{"high_resistance", "open", "short_to_ground"}
	case Fuse:
		return []string{"open", "high_resistance"}
	case Contact:
		return []string{"stuck_open", "high_resistance", "welded"}
	case Coil:
		return []string{"open", "shorted_turns", "sticking"}
	case Motor:
		return []string{"brushes_worn", "winding_open", "shorted_turns", "winding_grounded", "commutator_damaged", "bearing_drag", "seized"}
	case Drive:
		return []string{"binding", "jammed", "slipping"}
	}
	return nil
}

// ParamUnit returns the SI unit of a station parameter by its name.
func ParamUnit(param string) string {
	switch param {
	case "emf", "surface_charge", "pull_in", "brush_drop", "voltage":
		return "V"
	case "resistance":
		return "ohm"
	case "rating", "current_limit", "saturation_current":
		return "A"
	case "ke":
		return "V s/rad"
	case "friction", "load":
		return "N m"
	case "rated_speed":
		return "rad/s"
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
	}
	n.AccessMinutes = make(map[string]float64, len(c.AccessMinutes))
	for k, v := range c.AccessMinutes {
		n.AccessMinutes[k] = v
	}
	return &n
}

// Invalid says where in a circuit file something is wrong. Pointer is a JSON
// pointer (RFC 6901).
type Invalid struct{ Pointer, What string }

func (e *Invalid) Error() string { return e.Pointer + ": " + e.What }

var idPattern = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

func (c *Circuit) index() error {
	bad := func(ptr, what string, a ...any) error { return &Invalid{ptr, fmt.Sprintf(what, a...)} }
	if c.Format != Format {
		return bad("/format", "is %q, not %q", c.Format, Format)
	}
	if !idPattern.MatchString(c.ID) {
		return bad("/id", "%q is not an id: use a-z, 0-9 and _", c.ID)
	}
	if !(c.NominalVoltage > 0 && c.NominalVoltage <= 60) {
		return bad("/nominal_voltage", "%g V is outside 0 to 60 V DC: above that the work is for people licensed for it", c.NominalVoltage)
	}
	c.nodeIndex, c.stationIndex = map[string]int{}, map[string]int{}
	for i, n := range c.Nodes {
		p := fmt.Sprintf("/nodes/%d", i)
		if !idPattern.MatchString(n.ID) {
			return bad(p+"/id", "%q is not an id: use a-z, 0-9 and _", n.ID)
		}
		if _, dup := c.nodeIndex[n.ID]; dup {
			return bad(p+"/id", "node %q stands here twice", n.ID)
		}
		if !slices.Contains(accessGroups, n.Access) {
			return bad(p+"/access", "%q is not an access group", n.Access)
		}
		c.nodeIndex[n.ID] = i
	}
	if _, ok := c.nodeIndex[Ground]; !ok {
		return bad("/nodes", "there is no %s, the node that is 0 V", Ground)
	}
	motors, sources := 0, 0
	for i := range c.Stations {
		s := &c.Stations[i]
		p := fmt.Sprintf("/stations/%d", i)
		if !idPattern.MatchString(s.ID) {
			return bad(p+"/id", "%q is not an id: use a-z, 0-9 and _", s.ID)
		}
		if _, dup := c.stationIndex[s.ID]; dup {
			return bad(p+"/id", "station %q stands here twice", s.ID)
		}
		c.stationIndex[s.ID] = i
		kp, ok := kindParams[s.Kind]
		if !ok {
			return bad(p+"/kind", "%q is not a kind of station", s.Kind)
		}
		if s.Kind == Motor {
			motors++
		}
		if s.Kind == Source {
			sources++
		}
		if s.Kind != Drive {
			if _, ok := c.nodeIndex[s.From]; !ok {
				return bad(p+"/from", "station %q starts at %q, which is not a node", s.ID, s.From)
			}
			if _, ok := c.nodeIndex[s.To]; !ok {
				return bad(p+"/to", "station %q ends at %q, which is not a node", s.ID, s.To)
			}
			if s.From == s.To {
				return bad(p, "station %q joins %q to itself", s.ID, s.From)
			}
		}
		for _, need := range kp.required {
			if _, ok := s.Params[need]; !ok {
				return bad(p+"/params", "station %q, a %s, has no %s", s.ID, s.Kind, need)
			}
		}
		for name, v := range s.Params {
			if !slices.Contains(kp.required, name) && !slices.Contains(kp.optional, name) {
				return bad(p+"/params/"+name, "a %s has no %s", s.Kind, name)
			}
			if err := CheckParam(s.Kind, name, v.Value); err != nil {
				return bad(p+"/params/"+name, "%s.%s %v", s.ID, name, err)
			}
		}
		if !slices.Contains(accessGroups, s.Access) {
			return bad(p+"/access", "%q is not an access group", s.Access)
		}
		if s.Kind == Contact && s.Rest != "open" && s.Rest != "closed" {
			return bad(p+"/rest", "contact %q rests neither open nor closed", s.ID)
		}
		for mode, rate := range s.Faults {
			if !slices.Contains(KindModes(s.Kind), mode) {
				return bad(p+"/faults/"+mode, "a %s has no fault %q", s.Kind, mode)
			}
			if !(rate > 0) {
				return bad(p+"/faults/"+mode, "the rate of %s.%s is not above zero", s.ID, mode)
			}
		}
	}
	if motors > 1 {
		return bad("/stations", "%d motors: one circuit has one motor", motors)
	}
	if sources != 1 {
		return bad("/stations", "%d batteries: one circuit has one", sources)
	}
	for i := range c.Stations {
		if s := &c.Stations[i]; s.ClosedBy != "" {
			k, ok := c.stationIndex[s.ClosedBy]
			if !ok || c.Stations[k].Kind != Coil {
				return bad(fmt.Sprintf("/stations/%d/closed_by", i), "%q is not a coil of this circuit", s.ClosedBy)
			}
		}
	}
	if len(c.States) == 0 {
		return bad("/states", "a circuit needs at least one state")
	}
	for i := range c.States {
		st := &c.States[i]
		p := fmt.Sprintf("/states/%d", i)
		switch st.Supply {
		case "battery", "none":
		case "feed":
			if st.Feed == nil {
				return bad(p+"/feed", "state %q is fed directly but names no nodes", st.ID)
			}
			for _, n := range []string{st.Feed.Plus, st.Feed.Minus} {
				if _, ok := c.nodeIndex[n]; !ok {
					return bad(p+"/feed", "%q is not a node", n)
				}
			}
		default:
			return bad(p+"/supply", "%q is neither battery, feed nor none", st.Supply)
		}
		for _, id := range append(slices.Clone(st.Closed), st.Present...) {
			if _, ok := c.stationIndex[id]; !ok {
				return bad(p, "state %q names %q, which is not a station", st.ID, id)
			}
		}
	}
	if c.State(c.RunState) == nil {
		return bad("/run_state", "%q is not a state", c.RunState)
	}
	for i := range c.States {
		if c.States[i].Supply == "feed" {
			if _, ok := c.nodeIndex["bat_pos"]; !ok {
				return bad(fmt.Sprintf("/states/%d/supply", i), "a direct feed needs the node bat_pos, the feeding battery's plus")
			}
		}
	}
	for i, o := range c.Observations {
		p := fmt.Sprintf("/observations/%d", i)
		if len(o.Outcomes) < 2 || len(o.States) == 0 {
			return bad(p, "observation %q needs two or more outcomes and a state", o.ID)
		}
		switch o.Model {
		case "turning", "lamps_dim", "turn_by_hand", "rates":
		case "click":
			if k, ok := c.stationIndex[o.Coil]; !ok || c.Stations[k].Kind != Coil {
				return bad(p+"/coil", "%q is not a coil of this circuit", o.Coil)
			}
		default:
			return bad(p+"/model", "%q is not a way to answer: use click, turning, lamps_dim, turn_by_hand or rates", o.Model)
		}
		for _, s := range o.States {
			if c.State(s) == nil {
				return bad(fmt.Sprintf("/observations/%d/states", i), "observation %q names %q, which is not a state", o.ID, s)
			}
		}
	}
	if len(c.Paths) == 0 {
		return bad("/paths", "a circuit needs the path its main current takes")
	}
	for i, pa := range c.Paths {
		at := ""
		for k, id := range pa.Stations {
			p := fmt.Sprintf("/paths/%d/stations/%d", i, k)
			n, ok := c.stationIndex[id]
			if !ok || c.Stations[n].From == "" {
				return bad(p, "%q is not a station between two nodes", id)
			}
			if s := &c.Stations[n]; k > 0 && s.From != at {
				return bad(p, "%q starts at %s, but the path stands at %s", id, s.From, at)
			}
			at = c.Stations[n].To
		}
		if len(pa.Stations) == 0 {
			return bad(fmt.Sprintf("/paths/%d/stations", i), "this path is empty")
		}
	}
	return nil
}

// CheckParam refuses a value that a station parameter cannot have.
func CheckParam(k Kind, name string, v float64) error {
	max := 1e9
	min, strict := 0.0, false
	switch name {
	case "resistance", "ke", "rated_speed", "rating", "saturation_current", "current_limit":
		strict = true
	case "emf", "voltage", "pull_in", "brush_drop", "surface_charge":
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

// Observation returns an observation by id, nil when there is none.
func (c *Circuit) Observation(id string) *Observation {
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

// IDs of nodes, stations and states, for messages.
func (c *Circuit) IDs() (nodes, stations, states []string) {
	for _, n := range c.Nodes {
		nodes = append(nodes, n.ID)
	}
	for _, s := range c.Stations {
		stations = append(stations, s.ID)
	}
	for _, s := range c.States {
		states = append(states, s.ID)
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
			case "emf", "pull_in", "ke", "voltage", "surface_charge":
				f = k
			case "resistance":
				f = k * k
			case "rating", "current_limit", "saturation_current":
				f = 1 / k
			}
			p.Value *= f
			p.SD *= f
			c.Stations[i].Params[name] = p
		}
		c.Stations[i].AllowedDrop *= k
	}
	c.NominalVoltage = nominal
}

// ParamNames lists the parameters of a kind of station, required ones first.
func ParamNames(k Kind) []string {
	kp := kindParams[k]
	return append(slices.Clone(kp.required), kp.optional...)
}
