package circuit

import (
	"fmt"
	"math"

	"corriente/core/motor"
)

// OpenOhms stands in for an open: far above anything a meter can tell from OL.
const OpenOhms = 1e9

// tieOhms joins the leads of a direct feed to the nodes they are clamped on.
const tieOhms = 1e-6

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
	Open     bool
	Seized   bool
	Free     bool // the drive lets the motor run unloaded
	NoPull   bool // the coil does not pull in, whatever it gets
	Force    Position
}

// Sound is the health of a good station.
func Sound() Health { return Health{R: 1, Ke: 1, Friction: 1, Load: 1} }

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
	slotCount
)

var slotNames = [slotCount]string{"resistance", "emf", "surface_charge", "pull_in", "brush_drop", "ke", "friction", "load", "rated_speed", "saturation_current", "rating"}

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

	a, b       []int // node indices of each station, -1 for a drive
	pi         [][slotCount]int
	ground     int
	motor      int // station index, -1 without one
	frame      int // node of the motor's body
	drive      int
	battery    int
	coilOf     []int // contact → coil station, -1
	loadPower  int
	series     bool
	driven     []int // contacts driven by a coil
	statePos   map[string]int
	closedIn   [][]bool // state × station: commanded away from rest
	presentIn  [][]bool
	feedP, fdM []int // per state
}

// Compile prepares a circuit for solving.
func Compile(c *Circuit) (*Network, error) {
	if c.nodeIndex == nil {
		if err := c.index(); err != nil {
			return nil, err
		}
	}
	n := &Network{C: c, ground: c.NodeIndex(Ground), motor: -1, drive: -1, frame: c.NodeIndex(Ground), statePos: map[string]int{}}
	for k := range c.Stations {
		s := &c.Stations[k]
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
		switch s.Kind {
		case Motor:
			n.motor, n.frame = k, b
			switch s.LoadLaw {
			case "constant", "":
			case "linear":
				n.loadPower = 1
			case "square":
				n.loadPower = 2
			default:
				return nil, &Invalid{fmt.Sprintf("/stations/%d/load_law", k), fmt.Sprintf("%q is neither constant, linear nor square", s.LoadLaw)}
			}
			n.series = s.Excitation == "series"
			if n.series && slots[slotSat] < 0 {
				return nil, &Invalid{fmt.Sprintf("/stations/%d/params", k), "a series-wound motor needs saturation_current"}
			}
		case Drive:
			n.drive = k
		case Source:
			n.battery = k
		case Charger:
			return nil, &Invalid{fmt.Sprintf("/stations/%d/kind", k), "chargers are not solved yet"}
		}
	}
	for i := range c.States {
		st := &c.States[i]
		n.statePos[st.ID] = i
		closed := make([]bool, len(c.Stations))
		for _, id := range st.Closed {
			closed[c.StationIndex(id)] = true
		}
		present := make([]bool, len(c.Stations))
		for k := range present {
			present[k] = len(st.Present) == 0
		}
		for _, id := range st.Present {
			present[c.StationIndex(id)] = true
		}
		present[n.battery] = st.Supply != "none"
		n.closedIn, n.presentIn = append(n.closedIn, closed), append(n.presentIn, present)
		p, m := -1, -1
		if st.Feed != nil {
			p, m = c.NodeIndex(st.Feed.Plus), c.NodeIndex(st.Feed.Minus)
		}
		n.feedP, n.fdM = append(n.feedP, p), append(n.fdM, m)
	}
	return n, nil
}

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
	net   *Network
	n     int       // unknowns: all nodes but ground
	row   []int     // node → row, -1 for ground
	g, z  []float64 // n×n
	rhs   []float64
	v0    []float64
	zc    []float64
	el    []element
	uf    []int
	isOp  []bool // element is open
	coil  []bool // station: coil pulled in
	m     motor.Params
	hasM  bool
	emf   float64
	rsrc  float64
	theta []float64
	h     []Health
	good  []Health
	st    int
	slope motor.Slopes
	gm    float64
	lin   bool
	surf  bool
}

// NewWork returns buffers for solving n.
func (n *Network) NewWork() *Work {
	nn, ns := len(n.C.Nodes), len(n.C.Stations)
	w := &Work{net: n, n: nn - 1, row: make([]int, nn), g: make([]float64, nn*nn), z: make([]float64, nn*nn),
		rhs: make([]float64, nn), v0: make([]float64, nn), zc: make([]float64, nn), el: make([]element, 0, ns+4),
		uf: make([]int, nn), isOp: make([]bool, 0, ns+4), coil: make([]bool, ns), good: n.SoundAll()}
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
	for try := 0; ; try++ {
		w.settled()
		changed := false
		for _, k := range n.driven {
			c := n.coilOf[k]
			v := math.Abs(w.V[n.a[c]] - w.V[n.b[c]])
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
	if n.feedP[state] >= 0 {
		// The feed is a good battery: the vehicle's own may be the bad one.
		w.good = w.good[:len(h)]
		copy(w.good, h)
		w.good[n.battery] = Sound()
		w.h = w.good
	}
	for i := range w.coil {
		w.coil[i] = false
	}
	w.surf = true
}

// settled solves with the coils as they stand; the surface charge goes once
// current flows.
func (w *Work) settled() {
	w.once()
	b := w.net.battery
	if w.surf && w.param(b, slotSurface) != 0 && math.Abs(w.I[b]) >= SurfaceChargeGone {
		w.surf = false
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
func (w *Work) CoilVolts(k int) float64 { return math.Abs(w.V[w.net.a[k]] - w.V[w.net.b[k]]) }

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
	return closed
}

func (w *Work) add(station, a, b int, g float64, open bool) {
	w.el = append(w.el, element{station, a, b, g})
	w.isOp = append(w.isOp, open)
}

// build lists the elements of the state. With passive set, sources and the
// motor's back-EMF are left out, as an ohmmeter sees them.
func (w *Work) build(passive bool) {
	n := w.net
	w.el, w.isOp = w.el[:0], w.isOp[:0]
	w.hasM, w.emf = false, 0
	for k := range n.C.Stations {
		s := &n.C.Stations[k]
		w.Closed[k] = false
		if s.Kind == Drive || !n.presentIn[w.st][k] {
			continue
		}
		h := &w.h[k]
		a, b := n.a[k], n.b[k]
		r := w.param(k, slotR)*h.R + h.Extra
		if h.Shunt > 0 {
			if s.Kind == Motor {
				w.add(-1, a, n.frame, 1/h.Shunt, false)
			} else {
				w.add(-1, a, n.ground, 1/h.Shunt, false)
			}
		}
		if h.Open {
			w.add(k, a, b, 1/OpenOhms, true)
			continue
		}
		switch s.Kind {
		case Source:
			if passive {
				continue
			}
			w.emf = w.param(k, slotEMF) + h.EMF
			if w.surf {
				w.emf += w.param(k, slotSurface)
			}
			w.rsrc = r
			w.add(k, a, b, 1/r, false)
		case Contact:
			w.Closed[k] = w.contactClosed(k)
			if !w.Closed[k] {
				w.add(k, a, b, 1/OpenOhms, true)
				continue
			}
			w.add(k, a, b, 1/r, false)
		case Motor:
			if passive {
				w.add(k, a, b, 1/r, false)
				continue
			}
			w.hasM = true
			w.motorParams(k, r)
		default:
			w.add(k, a, b, 1/r, false)
		}
	}
	if !passive && n.feedP[w.st] >= 0 {
		if a, b := n.C.NodeIndex("bat_pos"), n.feedP[w.st]; a != b {
			w.add(-1, a, b, 1/tieOhms, false)
		}
		if a, b := n.fdM[w.st], n.ground; a != b {
			w.add(-1, a, b, 1/tieOhms, false)
		}
	}
}

func (w *Work) motorParams(k int, r float64) {
	n, h := w.net, &w.h[k]
	w.m = motor.Params{Resistance: r, BrushDrop: w.param(k, slotBrush), Ke: w.param(k, slotKe) * h.Ke,
		Friction: w.param(k, slotFriction) * h.Friction, Load: w.param(k, slotLoad), RatedSpeed: w.param(k, slotSpeed),
		LoadPower: n.loadPower, Series: n.series, SatCurrent: w.param(k, slotSat), Drag: h.Drag, Seized: h.Seized}
	w.m.SpeedKnee = 0.01 * w.m.RatedSpeed
	w.m.BrushKnee = 0.002 * (w.param(k, slotFriction) + w.param(k, slotLoad)) / w.param(k, slotKe)
	if w.m.BrushKnee <= 0 {
		w.m.BrushKnee = 1e-3
	}
	if n.drive >= 0 {
		d := &w.h[n.drive]
		w.m.Load *= d.Load
		if d.Free {
			w.m.Load = 0
		}
		if d.Seized && n.C.States[w.st].Load != "free" {
			w.m.Seized = true
		}
	}
	if n.C.States[w.st].Load == "free" {
		w.m.Load = 0
	}
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
		w.uf[w.find(w.net.a[w.net.motor])] = w.find(w.net.b[w.net.motor])
	}
}

// assemble fills w.g with the nodal matrix of w.el and factors it (Cholesky:
// the matrix is symmetric and positive definite by construction).
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
	for i := 0; i < n; i++ {
		ri := g[i*n : i*n+n]
		for j := 0; j <= i; j++ {
			rj := g[j*n : j*n+n]
			s := ri[j]
			for k := 0; k < j; k++ {
				s -= ri[k] * rj[k]
			}
			if i == j {
				ri[i] = math.Sqrt(math.Max(s, 1e-30))
			} else {
				ri[j] = s / rj[j]
			}
		}
	}
}

// solveRHS solves G x = b in place.
func (w *Work) solveRHS(b []float64) {
	n, g := w.n, w.g
	for i := 0; i < n; i++ {
		s := b[i]
		for k := 0; k < i; k++ {
			s -= g[i*n+k] * b[k]
		}
		b[i] = s / g[i*n+i]
	}
	for i := n - 1; i >= 0; i-- {
		s := b[i]
		for k := i + 1; k < n; k++ {
			s -= g[k*n+i] * b[k]
		}
		b[i] = s / g[i*n+i]
	}
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
	if n.presentIn[w.st][n.battery] {
		is := w.emf / w.rsrc
		w.inject(v, n.a[n.battery], is)
		w.inject(v, n.b[n.battery], -is)
	}
	w.solveRHS(v)
	w.Motor, w.MotorV, w.Fed = motor.Point{Stalled: true}, 0, false
	if w.hasM {
		a, b := n.a[n.motor], n.b[n.motor]
		z := w.zc[:w.n]
		for i := range z {
			z[i] = 0
		}
		w.inject(z, a, 1)
		w.inject(z, b, -1)
		w.solveRHS(z)
		rth := w.at(z, a) - w.at(z, b)
		voc := w.at(v, a) - w.at(v, b)
		w.Motor = w.m.Solve(voc, rth)
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
			w.I[e.station] = e.g * (w.V[e.a] - w.V[e.b])
			if e.station == n.battery {
				w.I[e.station] -= w.emf * e.g
			}
		}
	}
	if n.motor >= 0 && n.presentIn[w.st][n.motor] {
		a, b := n.a[n.motor], n.b[n.motor]
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
		w.solveRHS(col)
	}
	w.lin, w.gm = true, 0
	if !w.hasM {
		return
	}
	// Fold the motor's slope in: a rank-one update (Sherman-Morrison).
	w.slope = w.m.Linearize(w.Motor)
	w.gm = w.slope.DIDV
	a, b := w.net.a[w.net.motor], w.net.b[w.net.motor]
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
	if !n.presentIn[w.st][k] || n.C.Stations[k].Kind == Drive || w.h[k].Open {
		return 0, 0, 0, false
	}
	a, b = n.a[k], n.b[k]
	if k == n.motor {
		if !w.hasM {
			return 0, 0, 0, false
		}
		h := &w.h[k]
		switch p.slot {
		case slotR:
			return w.slope.IR * h.R, a, b, true
		case slotBrush:
			return w.slope.IVb, a, b, true
		case slotKe:
			return w.slope.IKe * h.Ke, a, b, true
		case slotFriction:
			return w.slope.IFriction * h.Friction, a, b, true
		case slotLoad:
			return w.slope.ILoad * w.loadFactor(), a, b, true
		}
		return 0, 0, 0, false
	}
	if n.C.Stations[k].Kind == Contact && !w.Closed[k] {
		return 0, 0, 0, false
	}
	switch p.slot {
	case slotR:
		r := w.theta[n.pi[k][slotR]]*w.h[k].R + w.h[k].Extra
		v := w.V[a] - w.V[b]
		if k == n.battery {
			v -= w.emf
		}
		return -v / (r * r) * w.h[k].R, a, b, true
	case slotEMF:
		return -1 / w.rsrc, a, b, true
	case slotSurface:
		if w.surf {
			return -1 / w.rsrc, a, b, true
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
	a, b := n.a[k], n.b[k]
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
	d := w.slope.DWDV * (dv[n.a[n.motor]] - dv[n.b[n.motor]])
	if pr := n.Params[p]; pr.Station == n.motor {
		h := &w.h[n.motor]
		switch pr.slot {
		case slotR:
			d += w.slope.WR * h.R
		case slotBrush:
			d += w.slope.WVb
		case slotKe:
			d += w.slope.WKe * h.Ke
		case slotFriction:
			d += w.slope.WFriction * h.Friction
		case slotLoad:
			d += w.slope.WLoad * w.loadFactor()
		}
	}
	return d
}

// PrepareOhms factors the passive network of an unpowered state. After it,
// [Work.Ohms] and [Work.DOhms] may be called.
func (w *Work) PrepareOhms(state int, theta []float64, h []Health) {
	w.st, w.theta, w.h, w.lin = state, theta, h, false
	for i := range w.coil {
		w.coil[i] = false
	}
	w.build(true)
	// An ohmmeter's OL stands for every open, so opens are left out; each
	// island is tied to ground at one node, which carries no current.
	k := 0
	for i := range w.el {
		if !w.isOp[i] {
			w.el[k] = w.el[i]
			k++
		}
	}
	w.el = w.el[:k]
	w.isOp = w.isOp[:k]
	for i := range w.isOp {
		w.isOp[i] = false
	}
	w.connect()
	gr := w.find(w.net.ground)
	for i := range w.uf {
		if w.find(i) == i && i != gr {
			w.el = append(w.el, element{-1, i, w.net.ground, 1})
			w.isOp = append(w.isOp, false)
		}
	}
	w.assemble()
	n := w.n
	for c := 0; c < n; c++ {
		col := w.z[c*n : c*n+n]
		for i := range col {
			col[i] = 0
		}
		col[c] = 1
		w.solveRHS(col)
	}
}

// Ohms returns the resistance between two nodes as an ohmmeter would see it,
// and false for an open line.
func (w *Work) Ohms(a, b int) (float64, bool) {
	if w.find(a) != w.find(b) {
		return 0, false
	}
	return w.SourceOhms(a, b), true
}

// DOhms returns ∂(resistance between a and b)/∂parameter, Ω per unit.
func (w *Work) DOhms(a, b, p int) float64 {
	n := w.net
	pr := n.Params[p]
	if pr.slot != slotR {
		return 0
	}
	k := pr.Station
	for _, e := range w.el {
		if e.station != k {
			continue
		}
		// u: voltage across the element when 1 A flows from a to b.
		u := 0.0
		for _, t := range [2]struct {
			node int
			sign float64
		}{{e.a, 1}, {e.b, -1}} {
			if r := w.row[t.node]; r >= 0 {
				u += t.sign * (w.zAt(r, a) - w.zAt(r, b))
			}
		}
		i := u * e.g // current through the element
		return i * i * w.h[k].R
	}
	return 0
}

// MotorSpeedRPM returns the motor's speed in revolutions a minute.
func (p *Point) MotorSpeedRPM() float64 { return p.Motor.W * 30 / math.Pi }

// Torque returns the armature's own torque, N m.
func (w *Work) Torque() float64 {
	if !w.hasM {
		return 0
	}
	i := w.Motor.I
	k := w.m.Ke
	if w.m.Series {
		k *= math.Abs(i) / math.Hypot(i, w.m.SatCurrent)
	}
	return k * i
}
