package cells

import (
	"math"
	"slices"

	"corriente/core/circuit"
	"corriente/core/diagnose/gauss"
	"corriente/core/fault"
)

// Point is a cell at values of its own: the circuit that is solved.
type Point struct {
	*Cell
	Theta []float64  // the circuit's values, in the order of its network's parameters, SI
	Sev   [2]float64 // how bad each fault is, on the scale of its mode
}

// AtNominal is a cell where it starts from.
func (a *Space) AtNominal(cell int) Point {
	c := &a.Cells[cell]
	return Point{c, a.nominal(c), c.Severity}
}

// Solved is one solved circuit and its derivatives per standard deviation of
// each uncertain parameter and severity.
type Solved struct {
	V        []float32 // nodes, V against the reference
	I        []float32 // stations, A
	slopes   packed
	Island   []uint8   // of each node: between two of them nothing conducts
	Alt      *Apart    // a coil chatters: closed less open; else nil
	Fold     *Apart    // a driver limits its current: for e-fold the ohms that stand for it; else nil
	Ratio    float64   // speed against the good machine's in the run state
	RatioSD  float64   // its standard deviation, from the uncertain values and the severities
	dratio   []float32 // ∂ratio per standard deviation of each uncertain value and severity
	Fed      bool      // the motor
	Spin     bool      // it turns
	Pull     bool      // a coil holds its contact in
	Chatters bool      // a coil neither holds nor lets go
	CoilV    float64   // V across it
	Trip     bool      // a controller withholds its output and flashes a code
	Live     bool      // that controller has its supply
	Start    float64   // starting torque against the good motor's, capacitor motors
}

// Apart is how far the same cell lies off otherwise.
type Apart struct{ V, I []float32 } // nodes, V; stations, A

// bytes is about how much it takes: its own fields and what they point to.
func (l *Solved) bytes() int {
	four, two := len(l.V)+len(l.I)+len(l.dratio)+len(l.slopes.steps), len(l.slopes.all)+len(l.slopes.cols)+len(l.slopes.rows)
	return 288 + 4*four + 2*two + len(l.Island)
}

// Solver is one goroutine's buffers.
type Solver struct {
	Space     *Space
	W         *circuit.Work
	H         []circuit.Health
	dv        []float64
	slope     table
	dratio    []float64
	dw, dgood []float64 // speed slopes of the cell and of the good machine
	good      []circuit.Health
	ohm       [3]ohms
}

// NewSolver makes the buffers of one goroutine.
func (a *Space) NewSolver() *Solver {
	return &Solver{Space: a, W: a.Net.NewWork(), H: a.Net.SoundAll(), dv: make([]float64, len(a.C.Nodes)),
		slope: newTable(len(a.C.Nodes), len(a.C.Stations), a.Values), dratio: make([]float64, a.Values),
		dw: make([]float64, len(a.Uncertain)), dgood: make([]float64, len(a.Uncertain)), good: a.Net.SoundAll()}
}

// ohms is a network prepared for an ohmmeter: as it is, and with one or the
// other severity moved. The same cell is asked for many pairs of nodes.
type ohms struct {
	w     *circuit.Work
	h     []circuit.Health
	state int
	cell  *Cell
	theta *float64
	sev   [2]float64
}

// Ohmmeter is the network at a point, in a state without a supply, ready to be asked for ohms.
// which is 0 for the point itself, 1 and 2 for one with the first or the second severity moved.
func (s *Solver) Ohmmeter(which, state int, at Point) *circuit.Work {
	o := &s.ohm[which]
	if o.w == nil {
		o.w, o.h = s.Space.Net.NewWork(), s.Space.Net.SoundAll()
	} else if o.cell == at.Cell && o.state == state && o.theta == &at.Theta[0] && o.sev == at.Sev {
		return o.w
	}
	s.Space.Health(o.h, at.Theta, at.Diagnosis, at.Sev)
	o.w.PrepareOhms(state, at.Theta, o.h)
	o.state, o.cell, o.theta, o.sev = state, at.Cell, &at.Theta[0], at.Sev
	return o.w
}

// phased reports whether coils are worked in the state: the run state's
// neighbours on the vehicle's own battery, with something closed.
func (a *Space) phased(state int) bool {
	st := &a.C.States[state]
	return st.Supply == "battery" && len(st.Closed) > 0
}

// solve works out the network at a point.
func (s *Solver) solve(state int, at Point) {
	s.heal(at)
	if !s.Space.phased(state) || at.Phase == settle {
		s.W.Solve(state, at.Theta, s.H)
		return
	}
	s.W.SolvePhase(state, at.Theta, s.H, at.Phase == closed)
}

// Solve works out one cell in one state, without derivatives.
func (s *Solver) Solve(l *Solved, state int, at Point) {
	s.Space.room(l)
	if s.Space.C.States[state].Powered() { // ohms are computed when asked for
		s.volts(l, state, at)
	}
}

// volts is [Solver.Solve] of a state with a supply. It returns the motor's speed, rad/s.
func (s *Solver) volts(l *Solved, state int, at Point) float64 {
	speed := s.asIs(l, state, at)
	if s.Space.onItsOwn(state) {
		return speed
	}
	speed, _ = s.against(l, state, at, speed)
	return speed
}

// Linearize works out one cell in one state and differentiates it.
func (s *Solver) Linearize(l *Solved, state int, at Point) {
	a := s.Space
	a.room(l)
	if !a.C.States[state].Powered() {
		return // ohms are computed when asked for
	}
	s.slope.clear()
	clear(s.dratio)
	defer func() { l.slopes = s.slope.pack() }()
	speed := s.asIs(l, state, at)
	if a.onItsOwn(state) {
		s.differences(l, state, at)
		return
	}
	s.slopes(at, speed)
	_, wGood := s.against(l, state, at, speed)
	s.ratioSlopes(l, state, at)
	if at.Windings && !l.Chatters {
		s.coilSlope(l, state, at)
	}
	if at.Guarded == limits || at.Guarded == limitsHigh {
		s.fold(l, state, at)
	}
	// Severity: a one-sided difference, a tenth of the grid's half-width.
	for k, f := range a.Diags[at.Diagnosis].Faults {
		wd := at.Width[k]
		if wd == 0 || l.Chatters {
			continue
		}
		moved := at
		moved.Sev[k] = Shift(a.Model.ScaleOf(f), at.Sev[k], 0.1*wd)
		s.solve(state, moved)
		u := len(a.Uncertain) + k
		s.since(l, u, 0.1)
		s.dratio[u] = (s.W.Motor.W/wGood - l.Ratio) / 0.1
	}
	l.RatioSD = gauss.Norm(s.dratio)
	l.dratio = make([]float32, a.Values)
	for u, d := range s.dratio {
		l.dratio[u] = float32(d)
	}
}

// since makes the slopes by a value out of what has changed since the cell was solved, where the value was
// moved by a step, in standard deviations.
func (s *Solver) since(l *Solved, u int, step float64) {
	for i, v := range s.W.V {
		*s.slope.v(i, u) = float32((v - float64(l.V[i])) / step)
	}
	for k, x := range s.W.I {
		*s.slope.i(k, u) = float32((x - float64(l.I[k])) / step)
	}
}

// room makes the room a solved circuit takes, or clears what another left in it.
func (a *Space) room(l *Solved) {
	l.slopes, l.dratio, l.Alt, l.Fold = packed{}, nil, nil, nil
	if l.V != nil {
		return
	}
	nn, ns := len(a.C.Nodes), len(a.C.Stations)
	buf := make([]float32, nn+ns)
	l.V, l.I = buf[:nn:nn], buf[nn:]
	l.Island = make([]uint8, nn)
}

// onItsOwn reports whether a state feeds its small network from a generator or the mains.
func (a *Space) onItsOwn(state int) bool {
	supply := a.C.States[state].Supply
	return supply == "running" || supply == "mains"
}

// asIs solves the network at a point and returns the motor's speed, rad/s.
func (s *Solver) asIs(l *Solved, state int, at Point) float64 {
	a := s.Space
	s.solve(state, at)
	w := s.W
	l.Chatters = at.Phase == Chatter && a.phased(state) || at.Phase == settle && w.Chatter
	for i, v := range w.V {
		l.V[i] = float32(v)
		l.Island[i] = uint8(w.Island[i])
	}
	for i, x := range w.I {
		l.I[i] = float32(x)
	}
	return s.latent(l, state, at.Phase)
}

// slopes differentiates the network solved last by the uncertain values; speed is the motor's.
func (s *Solver) slopes(at Point, speed float64) {
	a, w := s.Space, s.W
	w.Linearize()
	for u, p := range a.Uncertain {
		f := a.step(u, at.Theta)
		s.dw[u] = 0
		if !w.DV(s.dv, p) {
			continue
		}
		for i, d := range s.dv {
			*s.slope.v(i, u) = float32(d * f)
		}
		for k := range w.I {
			if a.C.Stations[k].From != "" {
				*s.slope.i(k, u) = float32(w.DI(k, p, s.dv) * f)
			}
		}
		if speed > 0 {
			s.dw[u] = w.DW(p, s.dv) * f / speed
		}
	}
	Mix(a, s.dw)
	for row := range s.slope.rows() {
		Mix(a, row)
	}
}

// step is one standard deviation of an uncertain value, SI.
func (a *Space) step(u int, theta []float64) float64 {
	f := a.Scale[u]
	if a.IsLog[u] {
		f *= theta[a.Uncertain[u]]
	}
	return f
}

// against judges the motor's speed by what the same values would give without the fault, and
// returns both. A coil that chatters is solved the other way as well. At other values than the nominal ones it
// leaves the good machine in the solver's network.
func (s *Solver) against(l *Solved, state int, at Point, speed float64) (moved, good float64) {
	a := s.Space
	l.Alt = nil
	if l.Chatters {
		s.W.SolvePhase(state, at.Theta, s.H, true)
		s.either(l)
		speed = s.W.Motor.W
	}
	ref := a.reference(state)
	if &at.Theta[0] == &a.Theta[0] {
		good = a.Spin[ref] // every cell's
	} else {
		s.W.PullIn, s.W.Unwatched = 0, false
		s.W.Solve(ref, at.Theta, s.good)
		good = s.W.Motor.W
	}
	good = math.Max(good, 1e-9)
	l.Ratio = speed / good
	return speed, good
}

// ratioSlopes differentiates the share of the speed: the good machine, solved last, moves with the
// same values; what is left is how far the share is uncertain.
func (s *Solver) ratioSlopes(l *Solved, state int, at Point) {
	a := s.Space
	good := a.dspin[a.reference(state)]
	if &at.Theta[0] != &a.Theta[0] && s.W.Motor.W > a.still() {
		good = s.speedSlopes(at.Theta)
	}
	for u, d := range s.dw {
		s.dratio[u] = (d - good[u]) * l.Ratio
	}
}

// fold works out what the volts and amperes hang on the ohms that stand for a driver's limit:
// nobody knows where it limits, and from try to try it differs.
func (s *Solver) fold(l *Solved, state int, at Point) {
	const step = 0.2
	by := math.Exp(step)
	s.heal(at)
	for k := range s.Space.C.Stations {
		if s.Space.C.Stations[k].Kind == circuit.Driver {
			s.H[k].Extra += (by - 1) * s.Space.limitOhms(k, at.Guarded)
		}
	}
	s.W.Solve(state, at.Theta, s.H)
	l.Fold = &Apart{make([]float32, len(l.V)), make([]float32, len(l.I))}
	for i, v := range s.W.V {
		l.Fold.V[i] = float32((v - float64(l.V[i])) / step)
	}
	for k, x := range s.W.I {
		l.Fold.I[k] = float32((x - float64(l.I[k])) / step)
	}
}

// limitOhms are the ohms that stand for a driver which limits its current.
func (a *Space) limitOhms(k int, g guarding) float64 {
	most := a.Assumed.Prior.Limit
	if g == limitsHigh {
		most = a.Assumed.Prior.LimitHigh
	}
	return a.C.NominalVoltage / (most * math.Max(a.Model.Normal[k], 0.1))
}

// coilSlope replaces the slopes by the ohms of a solenoid with two windings, which stand in
// two places of the network, by one-sided differences.
func (s *Solver) coilSlope(l *Solved, state int, at Point) {
	a := s.Space
	coil, _ := a.Net.Solenoid()
	for u, p := range a.Uncertain {
		if pr := a.Net.Params[p]; pr.Station != coil || pr.Name != "resistance" {
			continue
		}
		const step = 0.1
		moved := at
		moved.Theta = slices.Clone(at.Theta)
		moved.Theta[p] *= math.Exp(step * a.Scale[u])
		s.solve(state, moved)
		s.since(l, u, step)
	}
}

// heal sets the solver's stations to what is wrong with them at a point.
func (s *Solver) heal(at Point) {
	s.W.PullIn, s.W.Unwatched = 0, at.Unwatched
	if at.Windings {
		s.W.PullIn = s.Space.Assumed.Prior.PullInShare
	}
	s.Space.Health(s.H, at.Theta, at.Diagnosis, at.Sev)
	for k := range s.Space.C.Stations {
		if s.Space.C.Stations[k].Kind != circuit.Driver {
			continue
		}
		switch at.Guarded {
		case Trips:
			s.H[k].Force = circuit.ForcedOpen
		case limits, limitsHigh:
			s.H[k].Extra += s.Space.limitOhms(k, at.Guarded)
		}
	}
}

// speedSlopes returns ∂ln(speed) per standard deviation of each uncertain value at
// the point solved last.
func (s *Solver) speedSlopes(theta []float64) []float64 {
	a, w := s.Space, s.W
	w.Linearize()
	for u, p := range a.Uncertain {
		s.dgood[u] = 0
		if w.DV(s.dv, p) {
			s.dgood[u] = w.DW(p, s.dv) * a.step(u, theta) / w.Motor.W
		}
	}
	Mix(a, s.dgood)
	return s.dgood
}

// goodSpeeds works out how the good motor's speed follows the uncertain values,
// state by state.
func (a *Space) goodSpeeds(w *circuit.Work) {
	s := &Solver{Space: a, W: w, dv: make([]float64, len(a.C.Nodes)), dgood: make([]float64, len(a.Uncertain))}
	for st := range a.C.States {
		d := make([]float64, len(a.Uncertain))
		if a.Moves[st] {
			w.Solve(st, a.Theta, a.Net.SoundAll())
			copy(d, s.speedSlopes(a.Theta))
		}
		a.dspin = append(a.dspin, d)
	}
}

// either makes a solved state wide enough for the one that stands in the solver besides:
// nobody knows in which of the two a reading is taken.
func (s *Solver) either(l *Solved) {
	l.Alt = &Apart{make([]float32, len(l.V)), make([]float32, len(l.I))}
	for i, v := range s.W.V {
		l.Alt.V[i] = float32(v - float64(l.V[i]))
		l.V[i] = float32((v + float64(l.V[i])) / 2)
	}
	for k, x := range s.W.I {
		l.Alt.I[k] = float32(math.Abs(x - float64(l.I[k])))
		l.I[k] = float32((x + float64(l.I[k])) / 2)
	}
}

// latent fills in what words are answered from, after a solve, and returns the
// motor's speed.
func (s *Solver) latent(l *Solved, state int, ph phase) float64 {
	a, w := s.Space, s.W
	l.Fed, l.Spin = w.Fed, w.Motor.W > a.still()
	l.Pull, l.CoilV = false, 0
	for k := range a.C.Stations {
		st := &a.C.Stations[k]
		if st.ClosedBy != "" {
			coil := a.C.StationIndex(st.ClosedBy)
			l.CoilV = w.CoilVolts(coil)
			l.Pull = a.phased(state) && !s.H[coil].NoPull && !s.H[coil].Open && (ph == closed ||
				ph == settle && l.CoilV >= a.Theta[a.Net.ParamIndex(coil, "pull_in")])
		}
		if len(st.Guards) > 0 {
			x, y := a.C.NodeIndex(st.From), a.C.NodeIndex(st.Returns)
			keyed := true
			for i := range st.Guards {
				if g := &st.Guards[i]; g.Kind == "closed" && !g.Code {
					keyed = w.Closed[a.C.StationIndex(g.Station)]
				}
			}
			l.Live = keyed && a.C.States[state].Supply == "battery" && w.V[x]-w.V[y] > 0.6*a.C.NominalVoltage
			_, code := w.Guarded(k)
			l.Trip = l.Live && code
		}
	}
	if a.C.States[state].Supply == "mains" {
		t := w.StartTorque()
		s.good = s.good[:len(s.H)]
		th := w.Theta()
		w.Solve(state, th, s.good)
		l.Start = t / math.Max(w.StartTorque(), 1e-9)
		w.Solve(state, th, s.H)
	}
	return w.Motor.W
}

// differences fills in the derivatives of a running state, where the network is
// small, by finite differences.
func (s *Solver) differences(l *Solved, state int, at Point) {
	a := s.Space
	th := slices.Clone(at.Theta)
	for u, p := range a.Uncertain {
		const step = 0.05
		if a.IsLog[u] {
			th[p] = at.Theta[p] * math.Exp(step*a.Scale[u])
		} else {
			th[p] = at.Theta[p] + step*a.Scale[u]
		}
		s.W.Solve(state, th, s.H)
		for i, v := range s.W.V {
			*s.slope.v(i, u) = float32((v - float64(l.V[i])) / step)
		}
		th[p] = at.Theta[p]
	}
	for row := range s.slope.rows() {
		Mix(a, row)
	}
	for k, f := range a.Diags[at.Diagnosis].Faults {
		if at.Width[k] == 0 {
			continue
		}
		moved := at
		moved.Sev[k] = Shift(a.Model.ScaleOf(f), at.Sev[k], 0.1*at.Width[k])
		s.heal(moved)
		s.W.Solve(state, at.Theta, s.H)
		for i, v := range s.W.V {
			*s.slope.v(i, len(a.Uncertain)+k) = float32((v - float64(l.V[i])) / 0.1)
		}
	}
	s.heal(at)
}

// Shift moves a severity along its scale.
func Shift(sc *fault.Scale, sev, by float64) float64 {
	if sc == nil || by == 0 || sev >= fault.Open {
		return sev
	}
	if sc.Log {
		return sev * math.Exp(by)
	}
	if sc.Unit == "share" {
		return math.Min(math.Max(sev+by, 0.02), 0.999)
	}
	return math.Max(sev+by, 0)
}

// Moved is a cell z standard deviations of each value and severity from where it starts.
func (a *Space) Moved(c *Cell, z []float64) Point {
	theta := slices.Clone(a.nominal(c))
	moved := z
	if len(a.Alike) > 0 {
		moved = slices.Clone(z)
		Mix(a, moved)
	}
	for u, p := range a.Uncertain {
		if a.IsLog[u] {
			theta[p] *= math.Exp(moved[u] * a.Scale[u])
		} else {
			theta[p] = math.Max(theta[p]+moved[u]*a.Scale[u], 0)
		}
	}
	sev := c.Severity
	for k, f := range a.Diags[c.Diagnosis].Faults {
		sev[k] = Shift(a.Model.ScaleOf(f), c.Severity[k], z[len(a.Uncertain)+k]*c.Width[k])
	}
	return Point{c, theta, sev}
}

// Runs reports whether a good machine with these values would still do its
// work.
func (a *Space) Runs(s *Solver, theta []float64) bool {
	if a.Net.MotorStation() < 0 {
		return true
	}
	s.W.PullIn, s.W.Unwatched = 0, false
	for _, st := range a.Asked {
		s.W.Solve(st, theta, s.good)
		if s.W.Chatter || a.Moves[st] && s.W.Motor.W < a.Assumed.Prior.Runs*a.Spin[st] {
			return false
		}
	}
	return true
}
