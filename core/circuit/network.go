package circuit

import (
	"fmt"
	"math"
	"slices"
	"sync"

	"corriente/core/linear"
	"corriente/core/motor"
)

// OpenOhms stands in for an open: far above anything a meter can tell from OL.
const OpenOhms = 1e9

// tieOhms joins the leads of a direct feed to the nodes they are clamped on.
const tieOhms = 1e-6

// signalOhms is the output resistance of a command or a throttle, and
// throttleOhms what an ohmmeter sees across a throttle: common sizes, from
// memory; neither loads anything here.
const (
	signalOhms   = 1e3
	throttleOhms = 5e3
	chargerOhms  = 0.02
)

// gmin keeps a floating node's equation solvable, in siemens.
const gmin = 1e-12

// DropOut is the share of its pull-in voltage at which a coil lets go.
const DropOut = 0.4

// SurfaceChargeGone is the battery current, in amperes, that takes the surface
// charge off within seconds.
const SurfaceChargeGone = 5.0

// Position of a contact that a fault forces.
type Position uint8

// Positions.
const (
	AsCommanded Position = iota
	ForcedOpen
	ForcedClosed
)

// Health is what is wrong with one station, in the terms the solver needs. The
// zero value is not sound: use [Sound].
type Health struct {
	Extra    float64 // Ω added in series
	Shunt    float64 // Ω from the station's hot end to its frame or ground; 0: none
	EMF      float64 // V added to a source
	R        float64 // factor on resistance
	Ke       float64 // factor on the motor constant
	Friction float64 // factor on friction
	Load     float64 // factor on the load; set on the drive
	Drag     float64 // N m s/rad added
	Cap      float64 // factor on capacitance
	Volts    float64 // V added to what a charger holds or a throttle rests at
	Open     bool
	Seized   bool
	Free     bool // the drive lets the motor run unloaded
	NoPull   bool // the coil does not pull in, whatever it gets
	Silent   bool // a command, throttle, charger or rectifier that gives nothing
	Stray    bool // the throttle is not at rest when it should be
	Short    bool // a capacitor or a rectifier shorted through
	Force    Position

	// A fault of one tap or one brush: it counts only in states that use one of
	// the parameters in Mask (bit 1<<slot).
	Mask      uint32
	MaskExtra float64 // Ω
	MaskOpen  bool
}

// Sound is the health of a good station.
func Sound() Health { return Health{R: 1, Ke: 1, Friction: 1, Load: 1, Cap: 1} }

// TapMask returns the bit of a resistance parameter for [Health.Mask].
func TapMask(param string) uint32 {
	for s, name := range slotNames {
		if name == param {
			return 1 << s
		}
	}
	return 0
}

// slot numbers a station's parameters.
const (
	slotR = iota
	slotEMF
	slotSurface
	slotPullIn
	slotBrush
	slotKe
	slotFriction
	slotLoad
	slotSpeed
	slotSat
	slotRating
	slotOn
	slotLow
	slotTap1
	slotTap2
	slotTap3
	slotTap4
	slotRHigh
	slotKeHigh
	slotPresent
	slotVoltage
	slotLimit
	slotCmdLow
	slotCmdHigh
	slotSupply
	slotRest
	slotFull
	slotInductance
	slotCapacitance
	slotCount
)

var slotNames = [slotCount]string{"resistance", "emf", "surface_charge", "pull_in", "brush_drop", "ke", "friction",
	"load", "rated_speed", "saturation_current", "rating",
	"on_resistance", "low_resistance", "tap_1", "tap_2", "tap_3", "tap_4", "resistance_high", "ke_high", "present",
	"voltage", "current_limit",
	"low", "high", "supply", "rest", "full", "inductance", "capacitance"}

// ParamRef names one parameter of a network.
type ParamRef struct {
	Station int
	Name    string
	slot    int
}

// Network is a circuit compiled for solving. It is immutable and may be shared.
type Network struct {
	C      *Circuit
	Params []ParamRef // order of the parameter vector

	a, b       []int    // node indices of each station, -1 for what turns
	na, nb     [][]int  // the same, state by state
	rslot      [][]int8 // state × station: the parameter that is its resistance; -1: none
	uslot      [][]int8 // state × station: the parameter a state names; -1: none
	pi         [][slotCount]int
	ground     int
	motor      int // station index, -1 without one
	drive      int
	battery    int   // -1 on mains parts
	charger    int   // -1 without one
	frameOf    []int // node of the body of a motor or winding
	heldBy     int   // the coil of the brake on the drive, -1
	coilOf     []int // contact → coil station, -1
	cmdOf      []int // driver → control or throttle, -1
	guards     [][]guard
	outputs    [][]element
	joins      []element
	solenoid   int // a coil on the motor it switches: it may have a pull-in winding through it; -1
	stud       int // the node of its contact that the motor hangs on
	loadPower  int
	series     bool
	driven     []int // contacts driven by a coil
	statePos   map[string]int
	closedIn   [][]bool // state × station: commanded away from rest
	presentIn  [][]bool
	soundIn    [][]bool
	feedP, fdM []int    // per state
	paths      sync.Map // ohmKey → *ohmPath
}

type guard struct {
	*Guard
	station int
	path    [][]int // per state: the stations of the loop; nil: no loop
}

// Compile prepares a circuit for solving.
func Compile(c *Circuit) (*Network, error) {
	if c.nodeIndex == nil {
		if err := c.index(); err != nil {
			return nil, err
		}
	}
	n := &Network{C: c, ground: max(c.NodeIndex(Ground), 0), motor: -1, drive: -1, battery: -1, charger: -1,
		heldBy: -1, statePos: map[string]int{}}
	for k := range c.Stations {
		n.compileStation(k)
		if err := n.compileRole(k); err != nil {
			return nil, err
		}
	}
	n.joins = n.links(c.Joins)
	n.compileStates()
	for k := range c.Stations {
		n.guards = append(n.guards, n.guardsOf(&c.Stations[k]))
	}
	return n, nil
}

// compileStation notes a station's ends, its parameters and what it hangs on.
func (n *Network) compileStation(k int) {
	c, s := n.C, &n.C.Stations[k]
	a, b := c.NodeIndex(s.From), c.NodeIndex(s.To)
	n.a, n.b = append(n.a, a), append(n.b, b)
	var slots [slotCount]int
	for i := range slots {
		slots[i] = -1
		if _, ok := s.Params[slotNames[i]]; ok {
			slots[i] = len(n.Params)
			n.Params = append(n.Params, ParamRef{k, slotNames[i], i})
		}
	}
	n.pi = append(n.pi, slots)
	coil := -1
	if s.ClosedBy != "" {
		coil = c.StationIndex(s.ClosedBy)
		n.driven = append(n.driven, k)
	}
	n.coilOf = append(n.coilOf, coil)
	n.cmdOf = append(n.cmdOf, c.StationIndex(s.CommandedBy))
	frame := b
	if s.Frame != "" {
		frame = c.NodeIndex(s.Frame)
	}
	n.frameOf = append(n.frameOf, frame)
	n.outputs = append(n.outputs, n.links(s.Outputs))
}

// links are connections as elements of no station.
func (n *Network) links(ls []Link) (out []element) {
	for _, l := range ls {
		out = append(out, element{-1, n.C.NodeIndex(l.From), n.C.NodeIndex(l.To), 1 / l.Ohms})
	}
	return out
}

// compileRole notes which station is the motor, the drive, the battery and the charger.
func (n *Network) compileRole(k int) error {
	switch s := &n.C.Stations[k]; s.Kind {
	case Motor:
		n.motor = k
		switch s.LoadLaw {
		case "constant", "":
		case "linear":
			n.loadPower = 1
		case "square":
			n.loadPower = 2
		default:
			return invalid(fmt.Sprintf("/stations/%d/load_law", k), "%q is neither constant, linear nor square", s.LoadLaw)
		}
		n.series = s.Excitation == "series"
		if n.series && n.pi[k][slotSat] < 0 {
			return invalid(fmt.Sprintf("/stations/%d/params", k), "a series-wound motor needs saturation_current")
		}
	case Drive:
		n.drive, n.heldBy = k, n.C.StationIndex(s.HeldBy)
	case Source:
		n.battery = k
	case Charger:
		n.charger = k
	}
	return nil
}

// guardsOf are the conditions that a driver checks, with the stations of each loop in each state.
func (n *Network) guardsOf(s *Station) (gs []guard) {
	c := n.C
	for i := range s.Guards {
		g := guard{Guard: &s.Guards[i], station: c.StationIndex(s.Guards[i].Station)}
		if g.Kind == "loop" {
			for st := range c.States {
				g.path = append(g.path, n.route(st, c.NodeIndex(g.From), c.NodeIndex(g.To), true))
			}
		}
		gs = append(gs, g)
	}
	return gs
}

func (n *Network) compileStates() {
	n.solenoid, n.stud = n.shiftCoil()
	for i := range n.C.States {
		n.compileState(&n.C.States[i], i)
	}
}

// shiftCoil finds a shift solenoid: a coil that returns where the motor does and whose
// contact feeds the motor itself.
func (n *Network) shiftCoil() (coil, stud int) {
	for _, k := range n.driven {
		c := n.coilOf[k]
		if n.motor >= 0 && n.b[c] == n.b[n.motor] && n.b[k] == n.a[n.motor] {
			return c, n.b[k]
		}
	}
	return -1, -1
}

// Solenoid returns the coil of a shift solenoid and the node that its contact feeds the
// motor by, -1 where the circuit has none.
func (n *Network) Solenoid() (coil, stud int) { return n.solenoid, n.stud }

func (n *Network) compileState(st *State, i int) {
	c := n.C
	n.statePos[st.ID] = i
	set := func(ids []string) []bool {
		x := make([]bool, len(c.Stations))
		for _, id := range ids {
			x[c.StationIndex(id)] = true
		}
		return x
	}
	present := set(st.Present)
	if len(st.Present) == 0 {
		for k := range present {
			present[k] = true
		}
	}
	for _, id := range st.Absent {
		present[c.StationIndex(id)] = false
	}
	if n.battery >= 0 {
		present[n.battery] = st.Supply != "none"
	}
	if n.charger >= 0 {
		present[n.charger] = st.Supply == "battery"
	}
	n.closedIn, n.presentIn, n.soundIn = append(n.closedIn, set(st.Closed)), append(n.presentIn, present), append(n.soundIn, set(st.Sound))
	na, nb := slices.Clone(n.a), slices.Clone(n.b)
	rs, us := make([]int8, len(na)), make([]int8, len(na))
	for k := range c.Stations {
		s := &c.Stations[k]
		if e, ok := st.Wiring[s.ID]; ok {
			na[k], nb[k] = c.NodeIndex(e.From), c.NodeIndex(e.To)
		}
		us[k], rs[k] = -1, -1
		if u, ok := st.Uses[s.ID]; ok {
			us[k] = int8(slices.Index(slotNames[:], u))
		}
		switch s.Kind {
		case Driver:
			rs[k] = slotOn
		case ResistorPack:
			rs[k] = slotTap1
		default:
			if n.pi[k][slotR] >= 0 {
				rs[k] = slotR
			}
		}
		if us[k] >= 0 && ParamUnit(slotNames[us[k]]) == "ohm" {
			rs[k] = us[k]
		}
	}
	n.na, n.nb, n.rslot, n.uslot = append(n.na, na), append(n.nb, nb), append(n.rslot, rs), append(n.uslot, us)
	p, m := -1, -1
	if st.Feed != nil {
		p, m = c.NodeIndex(st.Feed.Plus), c.NodeIndex(st.Feed.Minus)
	}
	n.feedP, n.fdM = append(n.feedP, p), append(n.fdM, m)
}

// Ends returns the nodes a station joins in a state, -1 for what turns.
func (n *Network) Ends(state, k int) (a, b int) { return n.na[state][k], n.nb[state][k] }

// Present reports whether a station is connected in a state.
func (n *Network) Present(state, k int) bool { return n.presentIn[state][k] }

// IsSound reports whether a state puts a known good part in a station's place.
func (n *Network) IsSound(state, k int) bool { return n.soundIn[state][k] }

// BatteryStation returns the index of the battery, -1 on mains parts.
func (n *Network) BatteryStation() int { return n.battery }

// ChargerStation returns the index of the charger, -1 without one.
func (n *Network) ChargerStation() int { return n.charger }

// Nominal returns the parameter vector of the circuit's nominal values.
func (n *Network) Nominal() []float64 {
	th := make([]float64, len(n.Params))
	for i, p := range n.Params {
		th[i] = n.C.Stations[p.Station].Params[p.Name].Value
	}
	return th
}

// ParamIndex returns the position of station.param in the parameter vector, -1
// when there is none.
func (n *Network) ParamIndex(station int, param string) int {
	for s, name := range slotNames {
		if name == param && station >= 0 {
			return n.pi[station][s]
		}
	}
	return -1
}

// MotorStation returns the index of the motor, -1 without one.
func (n *Network) MotorStation() int { return n.motor }

// DriveStation returns the index of what the motor turns, -1 without one.
func (n *Network) DriveStation() int { return n.drive }

// StatePos returns the index of a state, -1 when there is none.
func (n *Network) StatePos(id string) int {
	if i, ok := n.statePos[id]; ok {
		return i
	}
	return -1
}

// SoundAll returns a vector of sound stations.
func (n *Network) SoundAll() []Health {
	h := make([]Health, len(n.C.Stations))
	for i := range h {
		h[i] = Sound()
	}
	return h
}

// Point is a solved operating point. Slices are indexed like the circuit's
// nodes and stations.
type Point struct {
	V       []float64 // V against bat_neg
	Held    []bool    // false: every path from the node to a post passes an open
	Island  []int     // nodes joined by anything but opens share a number
	I       []float64 // A from → to; 0 for what is not connected
	Closed  []bool    // contacts: position
	Motor   motor.Point
	MotorV  float64 // V across the motor's terminals
	Fed     bool    // there is voltage across the motor
	Chatter bool    // a coil cannot hold its contact; V and I are with it open, Alt* with it closed

	AltV, AltI []float64
	AltMotor   motor.Point
}

type element struct {
	station int // -1: a shunt or a feed lead
	a, b    int
	g       float64
}

// Work holds the buffers of one solver. It is not safe for concurrent use;
// solving allocates nothing.
type Work struct {
	Point
	net    *Network
	n      int             // unknowns: all nodes but ground
	row    []int           // node → row, -1 for ground
	g, z   []float64       // n×n
	factor linear.Cholesky // of g, in its place
	rhs    []float64
	v0     []float64
	zc     []float64
	el     []element
	emfs   []float64 // per element: its own voltage, from a to b
	uf     []int
	isOp   []bool // element is open
	coil   []bool // station: coil pulled in
	m      motor.Params
	sgn    float64 // -1 where the motor is fed the other way round
	hasM   bool
	theta  []float64
	h      []Health
	good   []Health
	st     int
	a, b   []int // ends of the stations in the state
	slope  motor.Slopes
	gm     float64
	lin    bool
	surf   bool
	float  floatMode
	brake  bool // the brake holds the drive
	// PullIn is the share of a shift solenoid's conductance that is its pull-in winding,
	// which returns through the motor; 0 takes the coil as one winding to the case.
	PullIn float64

	// Unwatched: a driver's own checks, those it would flash a code for, do not work, and it gives
	// its output whatever they would find.
	Unwatched bool
	rub       float64 // share of the load that binding adds as friction
	second    int     // an ohmmeter stands on the motor's second brush: the parameter that counts

	ohm ohmScratch
	ac  acPoint
}

// floatMode is what a charger does at an operating point.
type floatMode uint8

const (
	chargerOff    floatMode = iota
	chargerHolds            // its voltage
	chargerLimits           // its current
)

// NewWork returns buffers for solving n.
func (n *Network) NewWork() *Work {
	nn, ns := len(n.C.Nodes), len(n.C.Stations)
	w := &Work{net: n, n: nn - 1, row: make([]int, nn), g: make([]float64, nn*nn), z: make([]float64, nn*nn),
		rhs: make([]float64, nn), v0: make([]float64, nn), zc: make([]float64, nn), el: make([]element, 0, 2*ns+nn+8),
		emfs: make([]float64, 0, 2*ns+nn+8), uf: make([]int, nn), isOp: make([]bool, 0, 2*ns+nn+8),
		coil: make([]bool, ns), good: n.SoundAll(),
		a: n.a, b: n.b, sgn: 1}
	r := 0
	for i := range w.row {
		if i == n.ground {
			w.row[i] = -1
			continue
		}
		w.row[i] = r
		r++
	}
	w.V, w.AltV = make([]float64, nn), make([]float64, nn)
	w.Held, w.Island = make([]bool, nn), make([]int, nn)
	w.I, w.AltI = make([]float64, ns), make([]float64, ns)
	w.Closed = make([]bool, ns)
	w.ohm.init(nn, ns)
	return w
}

func (w *Work) param(k, slot int) float64 {
	if i := w.net.pi[k][slot]; i >= 0 {
		return w.theta[i]
	}
	return 0
}

// Solve finds the stable operating point reached from rest in a state, for
// parameter values theta (in the order of [Network.Params]) and the health of
// each station. The result stands in w until the next call. theta and h are
// kept by reference until then.
func (w *Work) Solve(state int, theta []float64, h []Health) {
	n := w.net
	w.begin(state, theta, h)
	if n.C.States[state].Supply == "running" || n.C.States[state].Supply == "mains" {
		w.solveRunning()
		return
	}
	for try := 0; ; try++ {
		w.settled()
		changed := false
		for _, k := range n.driven {
			c := n.coilOf[k]
			v := w.CoilVolts(c)
			need := w.param(c, slotPullIn)
			if w.coil[c] {
				need *= DropOut
			}
			on := v >= need && !w.h[c].NoPull && !w.h[c].Open && n.presentIn[w.st][c]
			if on != w.coil[c] {
				w.coil[c], changed = on, true
			}
		}
		if !changed {
			return
		}
		if try >= 3 {
			w.chatter()
			return
		}
	}
}

func (w *Work) begin(state int, theta []float64, h []Health) {
	n := w.net
	w.st, w.theta, w.h, w.lin, w.Chatter = state, theta, h, false, false
	w.a, w.b = n.na[state], n.nb[state]
	w.substitute(h)
	for i := range w.coil {
		w.coil[i] = false
	}
	w.surf, w.float, w.brake, w.second = true, chargerOff, false, 0
	if n.charger >= 0 && n.presentIn[state][n.charger] && w.param(n.charger, slotPresent) >= 0.5 && !w.h[n.charger].Silent {
		w.float = chargerHolds
	}
}

// substitute puts known good parts in place where the state does: the feed is a
// good battery, because the vehicle's own may be the bad one.
func (w *Work) substitute(h []Health) {
	n := w.net
	feed := n.C.States[w.st].Supply == "feed"
	if !feed && len(n.C.States[w.st].Sound) == 0 {
		return
	}
	w.good = w.good[:len(h)]
	copy(w.good, h)
	if feed {
		w.good[n.battery] = Sound()
	}
	for k, ok := range n.soundIn[w.st] {
		if ok {
			w.good[k] = Sound()
		}
	}
	w.h = w.good
}

// settled solves with the coils as they stand; the surface charge goes once
// current flows, a charger limits its current, a brake that gets too little
// holds the drive.
func (w *Work) settled() {
	n := w.net
	w.brake = false
	w.once()
	for range 3 {
		changed := false
		if b := n.battery; b >= 0 && w.surf && w.param(b, slotSurface) != 0 && math.Abs(w.I[b]) >= SurfaceChargeGone {
			w.surf, changed = false, true
		}
		if c := n.charger; c >= 0 && w.float == chargerHolds {
			switch i := -w.I[c]; {
			case i < 0:
				w.float, changed = chargerOff, true
			case i > w.param(c, slotLimit):
				w.float, changed = chargerLimits, true
			}
		}
		if c := n.heldBy; c >= 0 && !w.brake && n.feedP[w.st] < 0 && n.C.States[w.st].Load != "free" && w.hasM {
			if w.h[c].NoPull || w.h[c].Open || w.CoilVolts(c) < w.param(c, slotPullIn) {
				w.brake, changed = true, true
			}
		}
		if !changed {
			return
		}
		w.once()
	}
}

// chatter keeps the closed phase beside the open one.
func (w *Work) chatter() {
	for _, k := range w.net.driven {
		w.coil[w.net.coilOf[k]] = true
	}
	w.once()
	copy(w.AltV, w.V)
	copy(w.AltI, w.I)
	w.AltMotor = w.Point.Motor
	for _, k := range w.net.driven {
		w.coil[w.net.coilOf[k]] = false
	}
	w.once()
	w.Chatter = true
}

// SolvePhase solves with the driven contacts forced to one phase, whatever
// their coils get: the two halves of a chatter, or a state near the pull-in.
func (w *Work) SolvePhase(state int, theta []float64, h []Health, closed bool) {
	w.begin(state, theta, h)
	for _, k := range w.net.driven {
		w.coil[w.net.coilOf[k]] = closed
	}
	w.settled()
}

// CoilVolts returns the voltage across a coil station.
func (w *Work) CoilVolts(k int) float64 { return math.Abs(w.V[w.a[k]] - w.V[w.b[k]]) }

// Theta returns the parameter vector of the last solve.
func (w *Work) Theta() []float64 { return w.theta }

// Guarded reports whether a driver's own logic withholds its output in a state,
// and whether it flashes a code for it.
func (w *Work) Guarded(k int) (withheld, code bool) {
	for i := range w.net.guards[k] {
		if g := &w.net.guards[k][i]; !(w.Unwatched && g.Code) && !w.guardHolds(g) {
			withheld = true
			code = code || g.Code
		}
	}
	return withheld, code
}

func (w *Work) guardHolds(g *guard) bool {
	switch g.Kind {
	case "closed":
		return w.contactClosed(g.station) && !w.h[g.station].Open
	case "neutral":
		return !w.h[g.station].Stray
	}
	path := g.path[w.st]
	if path == nil {
		return false
	}
	r := 0.0
	for _, k := range path {
		r += w.stationOhms(k)
	}
	return r >= g.Min && r <= g.Max
}

// stationOhms is what an ohmmeter would see across one station by itself,
// +Inf for an open.
func (w *Work) stationOhms(k int) float64 {
	n, h := w.net, &w.h[k]
	masked := h.Mask != 0 && w.masked(k)
	if h.Open || masked && h.MaskOpen || !n.presentIn[w.st][k] {
		return math.Inf(1)
	}
	r := h.Extra
	if masked {
		r += h.MaskExtra
	}
	switch n.C.Stations[k].Kind {
	case Contact, Driver:
		if !w.contactClosed(k) {
			return math.Inf(1)
		}
	case Capacitor, Rectifier:
		if !h.Short {
			return math.Inf(1)
		}
		return 0.1 + r
	case Throttle:
		return throttleOhms
	case Source, Charger, Control:
		return math.Inf(1)
	}
	return w.resistance(k)*h.R + r
}

// masked reports whether a fault of one tap or brush counts in this state.
func (w *Work) masked(k int) bool {
	s := w.slotOf(k)
	return s >= 0 && w.h[k].Mask&(1<<s) != 0
}

// resistance is a station's own, by the parameter that counts in this state.
func (w *Work) resistance(k int) float64 {
	if s := w.slotOf(k); s >= 0 {
		return w.param(k, s)
	}
	return 0
}

func (w *Work) slotOf(k int) int {
	s := int(w.net.rslot[w.st][k])
	if w.second > 0 && k == w.net.motor {
		return w.second
	}
	if s == slotLow && w.h[k].Force == ForcedClosed {
		return slotOn // a module stuck on conducts fully, whatever it is told
	}
	return s
}

func (w *Work) contactClosed(k int) bool {
	n := w.net
	switch w.h[k].Force {
	case ForcedOpen:
		return false
	case ForcedClosed:
		return true
	}
	if c := n.coilOf[k]; c >= 0 {
		return w.coil[c]
	}
	closed := n.C.Stations[k].Rest == "closed"
	if n.closedIn[w.st][k] {
		closed = !closed
	}
	if n.C.Stations[k].Kind == Driver {
		if c := n.cmdOf[k]; c >= 0 && (w.h[c].Silent || w.h[c].Open) {
			return false
		}
		withheld, _ := w.Guarded(k)
		return closed && !withheld
	}
	return closed
}

func (w *Work) add(station, a, b int, g float64, open bool) {
	w.el = append(w.el, element{station, a, b, g})
	w.emfs = append(w.emfs, 0)
	w.isOp = append(w.isOp, open)
}

// addOhms adds a station that is nothing but resistance; a shift solenoid has two.
func (w *Work) addOhms(k int, passive bool) {
	n, a, b := w.net, w.a[k], w.b[k]
	r := w.stationOhms(k)
	switch {
	case math.IsInf(r, 1):
		w.add(k, a, b, 1/OpenOhms, true)
	case k == n.solenoid && w.PullIn > 0 && !passive:
		w.add(k, a, b, (1-w.PullIn)/r, false)
		w.add(-1, a, n.stud, w.PullIn/r, false)
	default:
		w.add(k, a, b, 1/r, false)
	}
}

// source adds an element with a voltage of its own.
func (w *Work) source(station, a, b int, g, emf float64) {
	w.add(station, a, b, g, false)
	w.emfs[len(w.emfs)-1] = emf
}

// build lists the elements of the state. With passive set, sources and the
// motor's back-EMF are left out, as an ohmmeter sees them.
func (w *Work) build(passive bool) {
	n := w.net
	w.el, w.emfs, w.isOp = w.el[:0], w.emfs[:0], w.isOp[:0]
	w.hasM = false
	for k := range n.C.Stations {
		s := &n.C.Stations[k]
		w.Closed[k] = false
		if !s.Kind.HasNodes() || !n.presentIn[w.st][k] {
			continue
		}
		if h := &w.h[k]; h.Shunt > 0 {
			if to := w.shuntTo(k); to != w.a[k] {
				w.add(-1, w.a[k], to, 1/h.Shunt, false)
			}
		}
		if s.Kind == Contact || s.Kind == Driver {
			w.Closed[k] = w.contactClosed(k)
		}
		if w.active(k, passive) {
			continue
		}
		w.addOhms(k, passive)
		if s.Kind == Driver && w.Closed[k] && !passive {
			w.addAll(n.outputs[k])
		}
	}
	if n.C.States[w.st].Supply == "battery" {
		w.addAll(n.joins)
	}
	if !passive {
		w.addLeads()
	}
}

// active adds what a station is besides ohms: a source, a signal, a motor that turns. It reports whether that is all.
// With passive, as an ohmmeter sees it, sources give nothing and motors are their windings.
func (w *Work) active(k int, passive bool) bool {
	a, b, h := w.a[k], w.b[k], &w.h[k]
	switch w.net.C.Stations[k].Kind {
	case Source:
		switch {
		case passive:
			return true
		case w.floats():
			w.add(k, a, b, 1/OpenOhms, true) // full, it takes no current
			return true
		case h.Open:
			return false
		}
		emf := w.param(k, slotEMF) + h.EMF
		if w.surf {
			emf += w.param(k, slotSurface)
		}
		w.source(k, a, b, 1/(w.param(k, slotR)*h.R+h.Extra), emf)
		return true
	case Charger:
		if !passive && w.float == chargerHolds {
			w.source(k, a, b, 1/chargerOhms, w.param(k, slotVoltage)+h.Volts)
		}
		return true
	case Control, Throttle:
		if !passive {
			w.signal(k)
		}
		return true
	case Motor:
		r := w.stationOhms(k)
		if math.IsInf(r, 1) || passive {
			return false
		}
		w.hasM = true
		w.motorParams(k, r)
		return true
	case Rectifier:
		return !h.Short
	}
	return false
}

func (w *Work) addAll(es []element) {
	for _, e := range es {
		w.add(-1, e.a, e.b, e.g, false)
	}
}

// addLeads adds a state's lamps and jumpers, and the leads of a direct feed.
func (w *Work) addLeads() {
	n := w.net
	for _, x := range n.C.States[w.st].Aids {
		w.add(-1, n.C.nodeIndex[x.From], n.C.nodeIndex[x.To], 1/x.Ohms, false)
	}
	if n.feedP[w.st] < 0 {
		return
	}
	if a, b := n.C.NodeIndex("bat_pos"), n.feedP[w.st]; a != b {
		w.add(-1, a, b, 1/tieOhms, false)
	}
	if a, b := n.fdM[w.st], n.ground; a != b {
		w.add(-1, a, b, 1/tieOhms, false)
	}
}

// floats reports whether a charger carries the circuit by itself: above the
// battery's own voltage a charged battery takes next to nothing, so what the
// battery is worth does not show.
func (w *Work) floats() bool {
	n := w.net
	if w.float != chargerHolds {
		return false
	}
	return w.param(n.charger, slotVoltage)+w.h[n.charger].Volts > w.param(n.battery, slotEMF)+w.h[n.battery].EMF
}

// shuntTo is where a fault to the body goes: a motor's or winding's frame,
// battery minus for a wire.
func (w *Work) shuntTo(k int) int {
	switch w.net.C.Stations[k].Kind {
	case Motor, Winding:
		return w.net.frameOf[k]
	}
	return w.net.ground
}

// signal adds the voltage that a command or a throttle gives.
func (w *Work) signal(k int) {
	n, h := w.net, &w.h[k]
	a, b := w.a[k], w.b[k]
	if h.Open {
		w.add(k, a, b, 1/OpenOhms, true)
		return
	}
	v := 0.0
	if s := w.signalSlot(k); s >= 0 {
		v = w.param(k, s)
	}
	if n.C.Stations[k].Kind == Throttle && w.uslotOf(k) >= 0 {
		v += h.Volts
	}
	w.source(k, a, b, 1/signalOhms, v)
	if n.C.Stations[k].Kind == Throttle && w.uslotOf(k) >= 0 { // live: its supply stands too
		for _, o := range n.outputs[k] {
			w.source(-1, o.a, o.b, o.g, w.param(k, slotSupply))
		}
	}
}

func (w *Work) uslotOf(k int) int { return int(w.net.uslot[w.st][k]) }

// signalSlot is the parameter that sets a command's or throttle's voltage, -1
// for 0 V.
func (w *Work) signalSlot(k int) int {
	u := w.uslotOf(k)
	if u >= 0 && w.h[k].Silent {
		if w.net.C.Stations[k].Kind == Throttle {
			return slotRest
		}
		return -1
	}
	return u
}

func (w *Work) motorParams(k int, r float64) {
	n, h := w.net, &w.h[k]
	st := &n.C.States[w.st]
	w.m = motor.Params{Resistance: r, BrushDrop: w.param(k, slotBrush), Ke: w.param(k, w.keSlot()) * h.Ke,
		Friction: w.param(k, slotFriction) * h.Friction, Load: w.param(k, slotLoad), RatedSpeed: w.param(k, slotSpeed),
		LoadPower: n.loadPower, Series: n.series, SatCurrent: w.param(k, slotSat), Drag: h.Drag, Seized: h.Seized || w.brake}
	w.m.SpeedKnee, w.rub = 0.01*w.m.RatedSpeed, 0
	// 0.2 % of the normal running current.
	w.m.BrushKnee = 0.002 * (w.param(k, slotFriction) + w.param(k, slotLoad)) / w.param(k, slotKe)
	if w.m.BrushKnee <= 0 {
		w.m.BrushKnee = 1e-3
	}
	if st.LoadFactor > 0 {
		w.m.Load *= st.LoadFactor
	}
	if n.drive >= 0 {
		d := &w.h[n.drive]
		// What binds rubs, whatever the speed and whichever way it goes: a fan's or pump's own law stays as it is,
		// and weight that helps takes nothing off it.
		if w.loadScales(d) {
			w.m.Load *= d.Load
		} else if !d.Free && st.Load != "free" {
			w.rub = d.Load - 1
			w.m.Friction += w.rub * w.param(k, slotLoad)
		}
		if d.Free {
			w.m.Load = 0
		}
		if d.Seized && st.Load != "free" {
			w.m.Seized = true
		}
	}
	if st.Load == "free" {
		w.m.Load = 0
	}
}

// loadScales reports whether a drive's fault scales the load itself: where it takes from it, or where
// the load is the same everywhere, so that more of it is as friction would be.
func (w *Work) loadScales(drive *Health) bool {
	return drive.Load < 1 || w.net.loadPower == 0 && w.net.C.States[w.st].LoadFactor == 0
}

func (w *Work) keSlot() int {
	if w.slotOf(w.net.motor) == slotRHigh {
		return slotKeHigh
	}
	return slotKe
}

func (w *Work) find(i int) int {
	for w.uf[i] != i {
		w.uf[i] = w.uf[w.uf[i]]
		i = w.uf[i]
	}
	return i
}

func (w *Work) connect() {
	for i := range w.uf {
		w.uf[i] = i
	}
	for i, e := range w.el {
		if !w.isOp[i] {
			w.uf[w.find(e.a)] = w.find(e.b)
		}
	}
	if w.hasM {
		w.uf[w.find(w.a[w.net.motor])] = w.find(w.b[w.net.motor])
	}
}

// assemble fills w.g with the nodal matrix of w.el and factors it: the matrix is symmetric and positive definite by
// construction.
func (w *Work) assemble() {
	n := w.n
	g := w.g[:n*n]
	for i := range g {
		g[i] = 0
	}
	for i := 0; i < n; i++ {
		g[i*n+i] = gmin
	}
	for _, e := range w.el {
		i, j := w.row[e.a], w.row[e.b]
		if i >= 0 {
			g[i*n+i] += e.g
		}
		if j >= 0 {
			g[j*n+j] += e.g
		}
		if i >= 0 && j >= 0 {
			g[i*n+j] -= e.g
			g[j*n+i] -= e.g
		}
	}
	w.factor = linear.FactorAbove(g, n, 1e-30)
}

func (w *Work) inject(b []float64, node int, amp float64) {
	if r := w.row[node]; r >= 0 {
		b[r] += amp
	}
}

func (w *Work) at(x []float64, node int) float64 {
	if r := w.row[node]; r >= 0 {
		return x[r]
	}
	return 0
}

// once solves with the coils as they stand in w.coil. The one motor sees the
// rest of the network as a Thevenin source, so no iteration over the network is
// needed.
func (w *Work) once() {
	n := w.net
	w.build(false)
	w.connect()
	w.assemble()
	v := w.v0[:w.n]
	for i := range v {
		v[i] = 0
	}
	for i, e := range w.el {
		if x := w.emfs[i]; x != 0 {
			w.inject(v, e.a, x*e.g)
			w.inject(v, e.b, -x*e.g)
		}
	}
	if w.float == chargerLimits {
		lim := w.param(n.charger, slotLimit)
		w.inject(v, w.a[n.charger], lim)
		w.inject(v, w.b[n.charger], -lim)
	}
	w.factor.Solve(v)
	w.Motor, w.MotorV, w.Fed, w.sgn = motor.Point{Stalled: true}, 0, false, 1
	if w.hasM {
		a, b := w.a[n.motor], w.b[n.motor]
		z := w.zc[:w.n]
		for i := range z {
			z[i] = 0
		}
		w.inject(z, a, 1)
		w.inject(z, b, -1)
		w.factor.Solve(z)
		rth := w.at(z, a) - w.at(z, b)
		voc := w.at(v, a) - w.at(v, b)
		if voc < 0 {
			w.sgn = -1
		}
		w.Motor = w.m.Solve(w.sgn*voc, rth)
		w.Motor.I *= w.sgn
		for i := range v {
			v[i] -= z[i] * w.Motor.I
		}
	}
	for i := range w.V {
		w.V[i] = w.at(v, i)
	}
	gr := w.find(n.ground)
	for i := range w.Held {
		w.Island[i] = w.find(i)
		w.Held[i] = w.Island[i] == gr
	}
	for k := range w.I {
		w.I[k] = 0
	}
	for i, e := range w.el {
		if e.station >= 0 && !w.isOp[i] {
			w.I[e.station] = e.g * (w.V[e.a] - w.V[e.b] - w.emfs[i])
		}
	}
	if w.float == chargerLimits {
		w.I[n.charger] = -w.param(n.charger, slotLimit)
	}
	if n.motor >= 0 && n.presentIn[w.st][n.motor] {
		a, b := w.a[n.motor], w.b[n.motor]
		w.MotorV = w.V[a] - w.V[b]
		w.Fed = math.Abs(w.MotorV) > 0.05 && w.Held[a] && w.Held[b]
		if w.hasM {
			w.I[n.motor] = w.Motor.I
		}
	}
}

// Linearize prepares the derivatives at the solved point. After it, [Work.DV],
// [Work.DI], [Work.DW] and [Work.SourceOhms] may be called.
func (w *Work) Linearize() {
	n := w.n
	z := w.z[:n*n]
	for c := 0; c < n; c++ {
		col := z[c*n : c*n+n]
		for i := range col {
			col[i] = 0
		}
		col[c] = 1
		w.factor.Solve(col)
	}
	w.lin, w.gm = true, 0
	if !w.hasM {
		return
	}
	// Fold the motor's slope in: a rank-one update (Sherman-Morrison).
	pt := w.Motor
	pt.I *= w.sgn
	w.slope = w.m.Linearize(pt)
	if w.sgn < 0 { // i and v both change sign: slopes against parameters turn, di/dv does not
		w.slope.IR, w.slope.IVb, w.slope.IKe = -w.slope.IR, -w.slope.IVb, -w.slope.IKe
		w.slope.IFriction, w.slope.ILoad, w.slope.DWDV = -w.slope.IFriction, -w.slope.ILoad, -w.slope.DWDV
	}
	w.gm = w.slope.DIDV
	a, b := w.a[w.net.motor], w.b[w.net.motor]
	zc := w.zc[:n]
	for i := range zc {
		zc[i] = w.zAt(i, a) - w.zAt(i, b)
	}
	rth := w.at(zc, a) - w.at(zc, b)
	f := w.gm / (1 + w.gm*rth)
	for i := 0; i < n; i++ {
		for j := 0; j < n; j++ {
			z[i*n+j] -= f * zc[i] * zc[j]
		}
	}
}

func (w *Work) zAt(row, node int) float64 {
	if r := w.row[node]; r >= 0 {
		return w.z[row*w.n+r]
	}
	return 0
}

// SourceOhms returns the small-signal resistance that a meter across two nodes
// sees, in ohms.
func (w *Work) SourceOhms(a, b int) float64 {
	var z float64
	if r := w.row[a]; r >= 0 {
		z += w.zAt(r, a) - w.zAt(r, b)
	}
	if r := w.row[b]; r >= 0 {
		z += w.zAt(r, b) - w.zAt(r, a)
	}
	return z
}

// branchSlope returns the current that a station's branch gains, from a to b at
// constant node voltages, per unit of parameter p, and whether p acts on a
// branch that is connected.
func (w *Work) branchSlope(p ParamRef) (di float64, a, b int, ok bool) {
	n := w.net
	k := p.Station
	if !n.presentIn[w.st][k] || !n.C.Stations[k].Kind.HasNodes() || w.h[k].Open {
		return 0, 0, 0, false
	}
	a, b = w.a[k], w.b[k]
	if k == n.motor {
		if !w.hasM {
			return 0, 0, 0, false
		}
		h := &w.h[k]
		switch p.slot {
		case w.slotOf(k):
			return w.slope.IR * h.R, a, b, true
		case slotBrush:
			return w.slope.IVb, a, b, true
		case w.keSlot():
			return w.slope.IKe * h.Ke, a, b, true
		case slotFriction:
			return w.slope.IFriction * h.Friction, a, b, true
		case slotLoad:
			return w.slope.ILoad*w.loadFactor() + w.slope.IFriction*w.rub, a, b, true
		}
		return 0, 0, 0, false
	}
	i := slices.IndexFunc(w.el, func(e element) bool { return e.station == k })
	if i < 0 {
		if k == n.charger && w.float == chargerLimits && p.slot == slotLimit {
			return -1, a, b, true
		}
		return 0, 0, 0, false
	}
	if w.isOp[i] {
		return 0, 0, 0, false
	}
	g := w.el[i].g
	switch n.C.Stations[k].Kind {
	case Control, Throttle:
		if p.slot == w.signalSlot(k) {
			return -g, a, b, true
		}
		return 0, 0, 0, false
	case Charger:
		if p.slot == slotVoltage {
			return -g, a, b, true
		}
		return 0, 0, 0, false
	}
	switch p.slot {
	case w.slotOf(k):
		v := w.V[a] - w.V[b] - w.emfs[i]
		return -v * g * g * w.h[k].R, a, b, true
	case slotEMF:
		return -g, a, b, true
	case slotSurface:
		if w.surf {
			return -g, a, b, true
		}
	}
	return 0, 0, 0, false
}

func (w *Work) loadFactor() float64 {
	if w.param(w.net.motor, slotLoad) == 0 {
		return 0
	}
	return w.m.Load / w.param(w.net.motor, slotLoad)
}

// DV fills dst (one entry a node) with ∂V/∂parameter, and reports whether any
// of it can differ from zero. p indexes [Network.Params].
func (w *Work) DV(dst []float64, p int) bool {
	di, a, b, ok := w.branchSlope(w.net.Params[p])
	if !ok || di == 0 {
		for i := range dst {
			dst[i] = 0
		}
		return false
	}
	for i := range dst {
		dst[i] = 0
		if r := w.row[i]; r >= 0 {
			dst[i] = -di * (w.zAt(r, a) - w.zAt(r, b))
		}
	}
	return true
}

// DI returns ∂I/∂parameter of station k, given dv from [Work.DV] for the same
// parameter.
func (w *Work) DI(k, p int, dv []float64) float64 {
	n := w.net
	a, b := w.a[k], w.b[k]
	d := 0.0
	if pr := n.Params[p]; pr.Station == k {
		if di, _, _, ok := w.branchSlope(pr); ok {
			d = di
		}
	}
	if k == n.motor {
		return d + w.gm*(dv[a]-dv[b])
	}
	for i, e := range w.el {
		if e.station == k {
			if w.isOp[i] {
				return 0
			}
			return d + e.g*(dv[a]-dv[b])
		}
	}
	return 0
}

// DW returns ∂speed/∂parameter, given dv from [Work.DV] for the same parameter.
func (w *Work) DW(p int, dv []float64) float64 {
	n := w.net
	if !w.hasM || w.Motor.Stalled {
		return 0
	}
	d := w.slope.DWDV * (dv[w.a[n.motor]] - dv[w.b[n.motor]])
	if pr := n.Params[p]; pr.Station == n.motor {
		h := &w.h[n.motor]
		switch pr.slot {
		case w.slotOf(n.motor):
			d += w.slope.WR * h.R
		case slotBrush:
			d += w.slope.WVb
		case w.keSlot():
			d += w.slope.WKe * h.Ke
		case slotFriction:
			d += w.slope.WFriction * h.Friction
		case slotLoad:
			d += w.slope.WLoad*w.loadFactor() + w.slope.WFriction*w.rub
		}
	}
	return d
}

// MotorSpeedRPM returns the motor's speed in revolutions a minute.
func (p *Point) MotorSpeedRPM() float64 { return p.Motor.W * 30 / math.Pi }

// Torque returns the armature's own torque, N m.
func (w *Work) Torque() float64 {
	if !w.hasM {
		return 0
	}
	i := math.Abs(w.Motor.I)
	k := w.m.Ke
	if w.m.Series {
		k *= math.Abs(i) / math.Hypot(i, w.m.SatCurrent)
	}
	return k * i
}
