package circuit

import (
	"fmt"
	"slices"
	"strings"
)

// invalid says at which place of a circuit something is wrong.
func invalid(ptr, format string, a ...any) error { return &Invalid{ptr, fmt.Sprintf(format, a...)} }

// index checks a circuit and finds its nodes and stations by their ids. The error is always an *[Invalid].
func (c *Circuit) index() error {
	for _, check := range []func() error{c.checkHead, c.indexNodes, c.indexStations, c.checkJoins, c.checkCoils, c.checkStates,
		c.checkObservations, c.checkPaths} {
		if err := check(); err != nil {
			return err
		}
	}
	return nil
}

func (c *Circuit) checkHead() error {
	switch v := c.NominalVoltage; {
	case c.Format != Format:
		return invalid("/format", "is %q, not %q", c.Format, Format)
	case !idPattern.MatchString(c.ID):
		return invalid("/id", "%q is not an id: use a-z, 0-9 and _", c.ID)
	case !(v > 0 && v <= 60) && !(c.Mains && v > 0 && v <= 250):
		return invalid("/nominal_voltage", "%g V is outside 0 to 60 V DC: above that the work is for people licensed for it", v)
	}
	return nil
}

func (c *Circuit) indexNodes() error {
	c.nodeIndex = map[string]int{}
	for i, n := range c.Nodes {
		p := fmt.Sprintf("/nodes/%d", i)
		if !idPattern.MatchString(n.ID) {
			return invalid(p+"/id", "%q is not an id: use a-z, 0-9 and _", n.ID)
		}
		if _, dup := c.nodeIndex[n.ID]; dup {
			return invalid(p+"/id", "node %q stands here twice", n.ID)
		}
		if !slices.Contains(accessGroups, n.Access) {
			return invalid(p+"/access", "%q is not an access group", n.Access)
		}
		c.nodeIndex[n.ID] = i
	}
	if _, ok := c.nodeIndex[Ground]; !ok && !c.Mains {
		return invalid("/nodes", "there is no %s, the node that is 0 V", Ground)
	}
	return nil
}

func (c *Circuit) indexStations() error {
	c.stationIndex = map[string]int{}
	count := map[Kind]int{}
	for i := range c.Stations {
		s, p := &c.Stations[i], fmt.Sprintf("/stations/%d", i)
		if !idPattern.MatchString(s.ID) {
			return invalid(p+"/id", "%q is not an id: use a-z, 0-9 and _", s.ID)
		}
		if _, dup := c.stationIndex[s.ID]; dup {
			return invalid(p+"/id", "station %q stands here twice", s.ID)
		}
		c.stationIndex[s.ID] = i
		count[s.Kind]++
		if _, ok := kindParams[s.Kind]; !ok {
			return invalid(p+"/kind", "%q is not a kind of station", s.Kind)
		}
		for _, check := range []func(*Station, string) error{c.checkEnds, checkParams, checkModes} {
			if err := check(s, p); err != nil {
				return err
			}
		}
	}
	if count[Motor] > 1 {
		return invalid("/stations", "%d motors: one circuit has one motor", count[Motor])
	}
	if count[Source] != 1 && !c.Mains {
		return invalid("/stations", "%d batteries: one circuit has one", count[Source])
	}
	return nil
}

// checkEnds refuses a station that does not lie between two nodes, where its kind does.
func (c *Circuit) checkEnds(s *Station, p string) error {
	if !s.Kind.HasNodes() {
		return nil
	}
	if _, ok := c.nodeIndex[s.From]; !ok {
		return invalid(p+"/from", "station %q starts at %q, which is not a node", s.ID, s.From)
	}
	if _, ok := c.nodeIndex[s.To]; !ok {
		return invalid(p+"/to", "station %q ends at %q, which is not a node", s.ID, s.To)
	}
	if s.From == s.To {
		return invalid(p, "station %q joins %q to itself", s.ID, s.From)
	}
	return nil
}

// checkParams refuses a station without what its kind needs, with what it does not know, or with values that cannot be.
func checkParams(s *Station, p string) error {
	known := kindParams[s.Kind]
	for _, need := range known.required {
		if _, ok := s.Params[need]; !ok {
			return invalid(p+"/params", "station %q, a %s, has no %s", s.ID, s.Kind, need)
		}
	}
	for name, v := range s.Params {
		if !slices.Contains(known.required, name) && !slices.Contains(known.optional, name) {
			return invalid(p+"/params/"+name, "a %s has no %s", s.Kind, name)
		}
		if err := CheckParam(s.Kind, name, v.Value); err != nil {
			return invalid(p+"/params/"+name, "%s.%s %v", s.ID, name, err)
		}
	}
	return nil
}

// checkModes refuses faults that a station's kind does not have.
func checkModes(s *Station, p string) error {
	if !slices.Contains(accessGroups, s.Access) {
		return invalid(p+"/access", "%q is not an access group", s.Access)
	}
	if s.Kind == Contact && s.Rest != "open" && s.Rest != "closed" {
		return invalid(p+"/rest", "contact %q rests neither open nor closed", s.ID)
	}
	for mode, rate := range s.Faults {
		if !slices.Contains(KindModes(s.Kind), mode) {
			return invalid(p+"/faults/"+mode, "a %s has no fault %q", s.Kind, mode)
		}
		if !(rate > 0) {
			return invalid(p+"/faults/"+mode, "the rate of %s.%s is not above zero", s.ID, mode)
		}
	}
	return nil
}

func (c *Circuit) checkCoils() error {
	for i := range c.Stations {
		if s := &c.Stations[i]; s.ClosedBy != "" {
			if k, ok := c.stationIndex[s.ClosedBy]; !ok || c.Stations[k].Kind != Coil {
				return invalid(fmt.Sprintf("/stations/%d/closed_by", i), "%q is not a coil of this circuit", s.ClosedBy)
			}
		}
	}
	return nil
}

// checkNode refuses an id that is no node's.
func (c *Circuit) checkNode(ptr, id string) error {
	if _, ok := c.nodeIndex[id]; !ok {
		return invalid(ptr, "%q is not a node", id)
	}
	return nil
}

// checkKind refuses an id that is no station's of one of some kinds; the first names them.
func (c *Circuit) checkKind(ptr, id string, kinds ...Kind) error {
	if k, ok := c.stationIndex[id]; !ok || !slices.Contains(kinds, c.Stations[k].Kind) {
		return invalid(ptr, "%q is not a %s of this circuit", id, kinds[0])
	}
	return nil
}

func (c *Circuit) checkLink(ptr string, l Link) error {
	if err := c.checkNode(ptr+"/from", l.From); err != nil {
		return err
	}
	if err := c.checkNode(ptr+"/to", l.To); err != nil {
		return err
	}
	if !(l.Ohms > 0 && l.Ohms < 1e9) || l.From == l.To {
		return invalid(ptr, "%g ohm from %s to %s is not a connection: give two nodes and more than 0 ohm", l.Ohms, l.From, l.To)
	}
	return nil
}

// checkJoins refuses what names a node or a station that is not there: connections, and what stations say of others.
func (c *Circuit) checkJoins() error {
	for i, j := range c.Joins {
		if err := c.checkLink(fmt.Sprintf("/joins/%d", i), j); err != nil {
			return err
		}
	}
	for i := range c.Stations {
		if err := c.checkRelations(i); err != nil {
			return err
		}
	}
	return nil
}

// checkRelations refuses what the i-th station says of others that are not there.
func (c *Circuit) checkRelations(i int) error {
	s, p := &c.Stations[i], fmt.Sprintf("/stations/%d", i)
	var errs []error
	if s.Frame != "" {
		errs = append(errs, c.checkNode(p+"/frame", s.Frame))
	}
	if s.Returns != "" || len(s.Guards) > 0 {
		errs = append(errs, c.checkNode(p+"/returns", s.Returns))
	}
	if s.CommandedBy != "" {
		errs = append(errs, c.checkKind(p+"/commanded_by", s.CommandedBy, Control, Throttle))
	}
	if k, ok := c.stationIndex[s.Within]; s.Within != "" && (!ok || k == i) {
		errs = append(errs, invalid(p+"/within", "%q is not another station of this circuit", s.Within))
	}
	if s.HeldBy != "" {
		errs = append(errs, c.checkKind(p+"/held_by", s.HeldBy, Coil))
	}
	if x := s.Second; x != nil {
		if _, ok := s.Params[x.Param]; !ok {
			errs = append(errs, invalid(p+"/second/param", "%s has no %s", s.ID, x.Param))
		}
		errs = append(errs, c.checkNode(p+"/second", x.From), c.checkNode(p+"/second", x.To))
	}
	for k, o := range s.Outputs {
		errs = append(errs, c.checkLink(fmt.Sprintf("%s/outputs/%d", p, k), o))
	}
	for k, g := range s.Guards {
		errs = append(errs, c.checkGuard(fmt.Sprintf("%s/guards/%d", p, k), g))
	}
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// checkGuard refuses a guard of no known kind, or of what is not there.
func (c *Circuit) checkGuard(ptr string, g Guard) error {
	switch g.Kind {
	case "loop":
		if err := c.checkNode(ptr+"/from", g.From); err != nil {
			return err
		}
		return c.checkNode(ptr+"/to", g.To)
	case "closed":
		return c.checkKind(ptr+"/station", g.Station, Contact)
	case "neutral":
		return c.checkKind(ptr+"/station", g.Station, Throttle)
	}
	return invalid(ptr+"/kind", "%q is none of loop, closed and neutral", g.Kind)
}

func (c *Circuit) checkStates() error {
	if len(c.States) == 0 {
		return invalid("/states", "a circuit needs at least one state")
	}
	for i := range c.States {
		st, p := &c.States[i], fmt.Sprintf("/states/%d", i)
		if err := c.checkSupply(st, p); err != nil {
			return err
		}
		if err := c.checkState(st, p); err != nil {
			return err
		}
	}
	if c.State(c.RunState) == nil {
		return invalid("/run_state", "%q is not a state", c.RunState)
	}
	for i := range c.States {
		if _, ok := c.nodeIndex["bat_pos"]; c.States[i].Supply == "feed" && !ok {
			return invalid(fmt.Sprintf("/states/%d/supply", i), "a direct feed needs the node bat_pos, the feeding battery's plus")
		}
	}
	return nil
}

func (c *Circuit) checkSupply(st *State, p string) error {
	switch st.Supply {
	case "battery", "none", "running":
		return nil
	case "mains":
		if !c.Mains {
			return invalid(p+"/supply", "state %q is on the mains, but the circuit is not a mains part", st.ID)
		}
		return nil
	case "feed":
		if st.Feed == nil {
			return invalid(p+"/feed", "state %q is fed directly but names no nodes", st.ID)
		}
		if err := c.checkNode(p+"/feed", st.Feed.Plus); err != nil {
			return err
		}
		return c.checkNode(p+"/feed", st.Feed.Minus)
	}
	return invalid(p+"/supply", "%q is none of battery, feed, running, mains and none", st.Supply)
}

// checkState checks the names and numbers of one state.
func (c *Circuit) checkState(st *State, p string) error {
	for _, id := range slices.Concat(st.Closed, st.Present, st.Absent, st.Sound) {
		if _, ok := c.stationIndex[id]; !ok {
			return &Invalid{p, fmt.Sprintf("state %q names %q, which is not a station", st.ID, id)}
		}
	}
	for id, e := range st.Wiring {
		_, okS := c.stationIndex[id]
		_, okF := c.nodeIndex[e.From]
		_, okT := c.nodeIndex[e.To]
		if !okS || !okF || !okT || e.From == e.To {
			return &Invalid{p + "/wiring/" + id, "names a station or a node that is not there, or joins a node to itself"}
		}
	}
	for id, param := range st.Uses {
		s := c.Station(id)
		if s == nil {
			return &Invalid{p + "/uses/" + id, fmt.Sprintf("%q is not a station", id)}
		}
		if _, ok := s.Params[param]; !ok {
			return &Invalid{p + "/uses/" + id, fmt.Sprintf("%s has no %s", id, param)}
		}
	}
	for i, a := range st.Aids {
		_, okF := c.nodeIndex[a.From]
		_, okT := c.nodeIndex[a.To]
		if !okF || !okT || !(a.Ohms > 0) || a.Kind != "lamp" && a.Kind != "jumper" {
			return &Invalid{fmt.Sprintf("%s/aids/%d", p, i), "an aid is a lamp or a jumper between two nodes, with its ohms"}
		}
	}
	if st.LoadFactor < 0 || st.LoadFactor > 10 {
		return &Invalid{p + "/load_factor", fmt.Sprintf("%g is not a factor on the load: give 0 to 10", st.LoadFactor)}
	}
	return nil
}

func (c *Circuit) checkObservations() error {
	for i := range c.Observations {
		if err := c.checkObservation(&c.Observations[i], fmt.Sprintf("/observations/%d", i)); err != nil {
			return err
		}
	}
	return nil
}

func (c *Circuit) checkObservation(o *Observation, p string) error {
	if len(o.Outcomes) < 2 || len(o.States) == 0 {
		return invalid(p, "observation %q needs two or more outcomes and a state", o.ID)
	}
	if !slices.Contains(models, o.Model) {
		return invalid(p+"/model", "%q is not a way to answer: use one of %s", o.Model, strings.Join(models, ", "))
	}
	k, ok := c.stationIndex[o.Of]
	if o.Of != "" && !ok {
		return invalid(p+"/of", "%q is not a station", o.Of)
	}
	if o.Model == "click" && (!ok || c.Stations[k].Kind != Coil) {
		return invalid(p+"/of", "%q is not a coil of this circuit", o.Of)
	}
	for _, id := range append(slices.Clone(o.Compare), o.SolveIn) {
		if id != "" && c.State(id) == nil {
			return invalid(p, "observation %q names %q, which is not a state", o.ID, id)
		}
	}
	for f := range o.Rates {
		st, mode, _ := strings.Cut(f, ".")
		if s := c.Station(st); f != "*" && (s == nil || s.Faults[mode] == 0) {
			return invalid(p+"/rates/"+f, "%q is not a fault of this circuit", f)
		}
	}
	for _, s := range o.States {
		if c.State(s) == nil {
			return invalid(p+"/states", "observation %q names %q, which is not a state", o.ID, s)
		}
	}
	return nil
}

func (c *Circuit) checkPaths() error {
	if len(c.Paths) == 0 {
		return invalid("/paths", "a circuit needs the path its main current takes")
	}
	for i := range c.Paths {
		if err := c.checkPath(&c.Paths[i], fmt.Sprintf("/paths/%d", i)); err != nil {
			return err
		}
	}
	return nil
}

func (c *Circuit) checkPath(pa *Path, p string) error {
	for k, id := range pa.Stations {
		if n, ok := c.stationIndex[id]; !ok || !c.Stations[n].Kind.HasNodes() {
			return invalid(fmt.Sprintf("%s/stations/%d", p, k), "%q is not a station between two nodes", id)
		}
	}
	for _, id := range pa.States {
		if c.State(id) == nil {
			return invalid(p+"/states", "%q is not a state", id)
		}
	}
	in := c.RunState
	if len(pa.States) > 0 {
		in = pa.States[0]
	}
	if _, at, ok := c.Walk(pa, in); !ok {
		return invalid(fmt.Sprintf("%s/stations/%d", p, at), "%q does not begin where the one before it ends", pa.Stations[at])
	}
	if len(pa.Stations) == 0 {
		return invalid(p+"/stations", "this path is empty")
	}
	return nil
}
