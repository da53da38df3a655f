package circuit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// Copy makes a workshop's own circuit from another one: the same in everything
// but its id and title.
func (c *Circuit) Copy(id, title string) (*Circuit, error) {
	b, err := json.Marshal(c)
	if err != nil {
		return nil, err
	}
	n, err := Read(bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	n.ID, n.Title = id, title
	return n, n.index()
}

// Insert puts a new joint, wire, fuse or contact behind a station, on the side
// the current leaves it by: a connector nobody drew, a second fuse. It gets a node
// of its own. The circuit is left as it is when that cannot be.
func (c *Circuit) Insert(after string, kind Kind, id, label string, ohms float64) error {
	s := c.Station(after)
	switch {
	case s == nil:
		return fmt.Errorf("circuit %s has no station %q", c.ID, after)
	case !s.Kind.HasNodes() || s.Kind == Source || s.Kind == Charger || s.Kind == Control || s.Kind == Throttle:
		return fmt.Errorf("nothing can be put behind the %s: choose a station on a path", strings.ToLower(s.Label))
	case !slices.Contains([]Kind{Joint, Wire, Fuse, Contact}, kind):
		return fmt.Errorf("%q cannot be put in: choose joint, wire, fuse or contact", kind)
	case c.Station(id) != nil || c.Node(id+"_in") != nil:
		return fmt.Errorf("there is a station %q already: give the new one another id", id)
	case !idPattern.MatchString(id):
		return fmt.Errorf("%q is not an id: use a-z, 0-9 and _", id)
	}
	b, err := json.Marshal(c)
	if err != nil {
		return err
	}
	n := &Circuit{}
	if err := json.Unmarshal(b, n); err != nil {
		return err
	}
	k := slices.IndexFunc(n.Stations, func(x Station) bool { return x.ID == after })
	old := n.Stations[k].To
	mid := id + "_in"
	at := slices.IndexFunc(n.Nodes, func(x Node) bool { return x.ID == old })
	n.Nodes = slices.Insert(n.Nodes, at,
		Node{ID: mid, Label: label + ", battery side", Place: n.Nodes[at].Place, Access: n.Nodes[at].Access})
	n.Stations[k].To = mid
	st := Station{ID: id, Kind: kind, From: mid, To: old, Label: label, Place: n.Stations[k].Place,
		Access: n.Stations[k].Access, Side: n.Stations[k].Side,
		AllowedDrop: map[Kind]float64{Joint: 0.1, Wire: 0.2, Fuse: 0.1, Contact: 0.3}[kind],
		Params:      map[string]Param{"resistance": {Value: ohms, Spread: 0.3}}, Faults: map[string]float64{"high_resistance": 3}}
	switch kind {
	case Contact:
		st.Rest, st.Faults["stuck_open"] = "closed", 2
	case Fuse:
		st.Params["rating"], st.Faults["open"] = Param{Value: 20, Spread: 0.01}, 4
	default:
		st.Faults["open"] = 1
	}
	n.Stations = slices.Insert(n.Stations, k+1, st)
	if err := n.reindex(); err != nil {
		return err
	}
	for i := range n.States {
		x := &n.States[i]
		if e, ok := x.Wiring[after]; ok && e.To == old {
			e.To = mid
			x.Wiring[after] = e
		}
		if slices.Contains(x.Present, after) && x.Supply != "feed" {
			x.Present = append(x.Present, id)
		}
	}
	for i := range n.Paths {
		if p := slices.Index(n.Paths[i].Stations, after); p >= 0 {
			was := n.Paths[i].Stations
			n.Paths[i].Stations = slices.Insert(slices.Clone(was), p+1, id)
			state := c.RunState
			if len(n.Paths[i].States) > 0 {
				state = n.Paths[i].States[0]
			}
			if _, _, ok := n.Walk(&n.Paths[i], state); !ok { // walked the other way round
				n.Paths[i].Stations = slices.Insert(slices.Clone(was), p, id)
			}
		}
	}
	if err := n.Solvable(); err != nil {
		return err
	}
	*c = *n
	return nil
}

// Remove takes a joint, wire, fuse or contact out and joins what it parted. The
// circuit is left as it is when that cannot be.
func (c *Circuit) Remove(id string) error {
	s := c.Station(id)
	if s == nil {
		return fmt.Errorf("circuit %s has no station %q", c.ID, id)
	}
	if !slices.Contains([]Kind{Joint, Wire, Fuse, Contact}, s.Kind) || s.ClosedBy != "" {
		return fmt.Errorf("the %s cannot be taken out: the circuit does not work without it", strings.ToLower(s.Label))
	}
	// Of the two nodes, keep a battery post, else the first.
	keep, gone := s.From, s.To
	if gone == Ground || gone == "bat_pos" {
		keep, gone = gone, keep
	}
	b, err := json.Marshal(c)
	if err != nil {
		return err
	}
	n := &Circuit{}
	if err := json.Unmarshal(b, n); err != nil {
		return err
	}
	if err := n.without(s, keep, gone); err != nil {
		return err
	}
	if err := n.Solvable(); err != nil {
		return err
	}
	*c = *n
	return nil
}

// without takes a station and one of its nodes out of everything that names them; what hung on the node gone hangs on
// the one kept.
func (c *Circuit) without(s *Station, keep, gone string) error {
	drop := func(l []string) []string { return slices.DeleteFunc(l, func(x string) bool { return x == s.ID }) }
	c.Stations = slices.DeleteFunc(c.Stations, func(x Station) bool { return x.ID == s.ID })
	c.Nodes = slices.DeleteFunc(c.Nodes, func(x Node) bool { return x.ID == gone })
	for i := range c.States {
		x := &c.States[i]
		x.Closed, x.Present, x.Absent, x.Sound = drop(x.Closed), drop(x.Present), drop(x.Absent), drop(x.Sound)
		delete(x.Wiring, s.ID)
		delete(x.Uses, s.ID)
	}
	for _, ends := range c.namedNodes() {
		if *ends == gone {
			*ends = keep
		}
	}
	for i := range c.States { // the values of a map have no address
		for k, e := range c.States[i].Wiring {
			if e.From == gone {
				e.From = keep
			}
			if e.To == gone {
				e.To = keep
			}
			c.States[i].Wiring[k] = e
		}
	}
	for i := range c.Observations {
		o := &c.Observations[i]
		if o.Of == s.ID {
			return fmt.Errorf("the %s cannot be taken out: %q asks about it", strings.ToLower(s.Label), o.Question)
		}
		for f := range o.Rates {
			if st, _, _ := strings.Cut(f, "."); st == s.ID {
				delete(o.Rates, f)
			}
		}
	}
	for i := range c.Paths {
		c.Paths[i].Stations = drop(c.Paths[i].Stations)
	}
	c.Paths = slices.DeleteFunc(c.Paths, func(p Path) bool { return len(p.Stations) == 0 })
	return nil
}

// namedNodes is every place in a circuit that names a node, but for the wiring of its states.
func (c *Circuit) namedNodes() (at []*string) {
	for i := range c.Stations {
		x := &c.Stations[i]
		at = append(at, &x.From, &x.To, &x.Frame, &x.Returns)
		for k := range x.Guards {
			at = append(at, &x.Guards[k].From, &x.Guards[k].To)
		}
		for k := range x.Outputs {
			at = append(at, &x.Outputs[k].From, &x.Outputs[k].To)
		}
	}
	for i := range c.Joins {
		at = append(at, &c.Joins[i].From, &c.Joins[i].To)
	}
	for i := range c.States {
		x := &c.States[i]
		if x.Feed != nil {
			at = append(at, &x.Feed.Plus, &x.Feed.Minus)
		}
		for k := range x.Aids {
			at = append(at, &x.Aids[k].From, &x.Aids[k].To)
		}
	}
	return at
}

// Solvable checks a circuit's data and that it can be solved: no node that
// nothing joins, no station joined to itself, and a good machine that does its
// work. The error names the place.
func (c *Circuit) Solvable() error {
	if err := c.index(); err != nil {
		return err
	}
	for i := range c.Nodes {
		id := c.Nodes[i].ID
		used := false
		touches := func(x ...string) { used = used || slices.Contains(x, id) }
		for k := range c.Stations {
			s := &c.Stations[k]
			touches(s.From, s.To, s.Frame, s.Returns)
			for _, o := range s.Outputs {
				touches(o.From, o.To)
			}
			if s.Second != nil {
				touches(s.Second.From, s.Second.To)
			}
		}
		for k := range c.States {
			for _, e := range c.States[k].Wiring {
				touches(e.From, e.To)
			}
		}
		for _, j := range c.Joins {
			touches(j.From, j.To)
		}
		if !used {
			return &Invalid{fmt.Sprintf("/nodes/%d", i), fmt.Sprintf("node %q floats: no station joins it to anything", id)}
		}
	}
	n, err := Compile(c)
	if err != nil {
		return err
	}
	if n.MotorStation() < 0 {
		return nil
	}
	w := n.NewWork()
	m := &c.Stations[n.MotorStation()]
	for i := range c.States {
		if !c.States[i].Commands && c.States[i].ID != c.RunState {
			continue
		}
		w.Solve(i, n.Nominal(), n.SoundAll())
		if w.Chatter || w.Motor.W < 0.2*m.Params["rated_speed"].Value {
			return &Invalid{fmt.Sprintf("/states/%d", i),
				fmt.Sprintf("in %q the good %s does not turn with these values: check the battery, the motor and what stands before it",
					c.States[i].Label, strings.ToLower(m.Label))}
		}
	}
	return nil
}

// reindex finds nodes and stations by their ids again, while a circuit is being
// changed and its paths do not fit yet.
func (c *Circuit) reindex() error {
	c.nodeIndex, c.stationIndex = map[string]int{}, map[string]int{}
	for i := range c.Nodes {
		c.nodeIndex[c.Nodes[i].ID] = i
	}
	for i := range c.Stations {
		c.stationIndex[c.Stations[i].ID] = i
	}
	if len(c.nodeIndex) != len(c.Nodes) || len(c.stationIndex) != len(c.Stations) {
		return &Invalid{"", "two nodes or two stations share an id"}
	}
	return nil
}
