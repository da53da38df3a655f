package cells

import (
	"math"
	"slices"

	"corriente/core/circuit"
	"corriente/core/diagnose/gauss"
	"corriente/core/fault"
)

// Solved is one solved circuit and its derivatives per standard deviation of
// each uncertain parameter and severity.
type Solved struct {
	V, DV    []float32 // nodes; nodes × q
	I, DI    []float32 // stations; stations × q
	Island   []uint8   // island of each node
	Alt      []float32 // chatter: closed less open, V a node, else nil
	AltI     []float32
	Ratio    float64   // speed against the good machine's in the run state
	RatioSD  float64   // its standard deviation, from the uncertain values and the severities
	DRatio   []float64 // ∂ratio per standard deviation of each uncertain value and severity
	Fed      bool
	Spin     bool
	Pull     bool // a coil holds its contact in
	Chatters bool
	CoilV    float64
	Trip     bool    // a controller withholds its output and flashes a code
	Live     bool    // that controller has its supply
	Start    float64 // starting torque against the good motor's, capacitor motors
}

// goodSpeeds works out how the good motor's speed follows the uncertain values,
// state by state.
func (a *Space) goodSpeeds(w *circuit.Work) {
	dv := make([]float64, len(a.C.Nodes))
	for st := range a.C.States {
		d := make([]float64, len(a.Uncertain))
		if a.Moves[st] {
			w.Solve(st, a.Theta, a.Net.SoundAll())
			w.Linearize()
			for u, p := range a.Uncertain {
				f := a.Scale[u]
				if a.IsLog[u] {
					f *= a.Theta[p]
				}
				w.DV(dv, p)
				d[u] = w.DW(p, dv) * f / w.Motor.W
			}
			Mix(a, d)
		}
		a.dspin = append(a.dspin, d)
	}
}

// Solver is one goroutine's buffers.
type Solver struct {
	a         *Space
	W         *circuit.Work
	H         []circuit.Health
	dv        []float64
	dw, dgood []float64 // speed slopes of the cell and of the good machine
	good      []circuit.Health
	ohm       [3]ohms
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

func (s *Solver) Ohmmeter(which, state int, c *Cell, theta []float64, sev [2]float64) *circuit.Work {
	o := &s.ohm[which]
	if o.w == nil {
		o.w, o.h = s.a.Net.NewWork(), s.a.Net.SoundAll()
	} else if o.cell == c && o.state == state && o.theta == &theta[0] && o.sev == sev {
		return o.w
	}
	s.a.Health(o.h, theta, c.Diagnosis, sev)
	o.w.PrepareOhms(state, theta, o.h)
	o.state, o.cell, o.theta, o.sev = state, c, &theta[0], sev
	return o.w
}

func (a *Space) NewSolver() *Solver {
	return &Solver{a: a, W: a.Net.NewWork(), H: a.Net.SoundAll(), dv: make([]float64, len(a.C.Nodes)),
		dw: make([]float64, len(a.Uncertain)), dgood: make([]float64, len(a.Uncertain)), good: a.Net.SoundAll()}
}

func (s *Solver) solve(state int, ph phase, theta []float64, h []circuit.Health) {
	if !s.a.phased(state) || ph == settle {
		s.W.Solve(state, theta, h)
		return
	}
	s.W.SolvePhase(state, theta, h, ph == closed)
}

// phased reports whether coils are worked in the state: the run state's
// neighbours on the vehicle's own battery, with something closed.
func (a *Space) phased(state int) bool {
	st := &a.C.States[state]
	return st.Supply == "battery" && len(st.Closed) > 0
}

// Linearize solves one cell in one state and differentiates it.
func (s *Solver) Linearize(l *Solved, state int, c *Cell, theta []float64, sev [2]float64, derivatives bool) {
	a := s.a
	if l.V == nil {
		nn, ns := len(a.C.Nodes), len(a.C.Stations)
		buf := make([]float32, (nn+ns)*(1+a.Values))
		l.V, buf = buf[:nn], buf[nn:]
		l.DV, buf = buf[:nn*a.Values], buf[nn*a.Values:]
		l.I, l.DI = buf[:ns], buf[ns:]
	} else {
		clear(l.DV)
		clear(l.DI)
	}
	s.heal(c, theta, sev)
	if !a.C.States[state].Powered() {
		return // ohms are computed when asked for
	}
	s.solve(state, c.Phase, theta, s.H)
	w := s.W
	l.Chatters = c.Phase == Chatter && a.phased(state) || c.Phase == settle && w.Chatter
	if l.Island == nil {
		l.Island = make([]uint8, len(w.V))
	}
	for i, v := range w.V {
		l.V[i] = float32(v)
		l.Island[i] = uint8(w.Island[i])
	}
	for i, x := range w.I {
		l.I[i] = float32(x)
	}
	wSpeed := s.latent(l, state, c.Phase)
	running := a.C.States[state].Supply == "running" || a.C.States[state].Supply == "mains"
	if running {
		if derivatives {
			s.differences(l, state, c, theta, sev)
		}
		return
	}
	if derivatives {
		w.Linearize()
		q := a.Values
		dw := s.dw[:len(a.Uncertain)]
		for u, p := range a.Uncertain {
			f := a.Scale[u]
			if a.IsLog[u] {
				f *= theta[p]
			}
			dw[u] = 0
			if w.DV(s.dv, p) {
				for i, d := range s.dv {
					l.DV[i*q+u] = float32(d * f)
				}
				for k := range w.I {
					if a.C.Stations[k].From != "" {
						l.DI[k*q+u] = float32(w.DI(k, p, s.dv) * f)
					}
				}
				if wSpeed > 0 {
					dw[u] = w.DW(p, s.dv) * f / wSpeed
				}
			}
		}
		Mix(a, dw)
		for row := range slices.Chunk(l.DV, q) {
			Mix(a, row)
		}
		for row := range slices.Chunk(l.DI, q) {
			Mix(a, row)
		}
	}
	l.Alt, l.AltI = nil, nil
	if l.Chatters {
		s.W.SolvePhase(state, theta, s.H, true)
		s.either(l)
		wSpeed = s.W.Motor.W
	}
	// Speed is judged against what the same values would give without the fault.
	ref := a.reference(state)
	s.W.PullIn = 0
	s.W.Solve(ref, theta, s.good)
	l.Ratio = wSpeed / math.Max(s.W.Motor.W, 1e-9)
	if derivatives {
		// The good machine moves with the same values: what is left is how far the
		// share of its speed is uncertain.
		good := a.dspin[ref]
		if &theta[0] != &a.Theta[0] && s.W.Motor.W > a.still() {
			good = s.speedSlopes(theta)
		}
		if l.DRatio == nil {
			l.DRatio = make([]float64, a.Values)
		}
		for u, d := range s.dw {
			l.DRatio[u] = (d - good[u]) * l.Ratio
		}
	}
	wGood := math.Max(s.W.Motor.W, 1e-9)
	if !derivatives {
		return
	}
	if c.Windings && !l.Chatters {
		s.coilSlope(l, state, c, theta, sev)
	}
	// Severity: a one-sided difference, a tenth of the grid's half-width.
	for k, f := range a.Diags[c.Diagnosis].Faults {
		wd := c.Width[k]
		if wd == 0 || l.Chatters {
			continue
		}
		sv := sev
		sv[k] = Shift(a.Model.ScaleOf(f), sev[k], 0.1*wd)
		s.heal(c, theta, sv)
		s.solve(state, c.Phase, theta, s.H)
		u := len(a.Uncertain) + k
		for i, v := range s.W.V {
			l.DV[i*a.Values+u] = float32((v - float64(l.V[i])) / 0.1)
		}
		for i, x := range s.W.I {
			l.DI[i*a.Values+u] = float32((x - float64(l.I[i])) / 0.1)
		}
		l.DRatio[u] = (s.W.Motor.W/wGood - l.Ratio) / 0.1
	}
	l.RatioSD = gauss.Norm(l.DRatio)
}

// coilSlope replaces the slopes by the ohms of a solenoid with two windings, which stand in
// two places of the network, by one-sided differences.
func (s *Solver) coilSlope(l *Solved, state int, c *Cell, theta []float64, sev [2]float64) {
	a := s.a
	coil, _ := a.Net.Solenoid()
	for u, p := range a.Uncertain {
		if pr := a.Net.Params[p]; pr.Station != coil || pr.Name != "resistance" {
			continue
		}
		const step = 0.1
		th := slices.Clone(theta)
		th[p] *= math.Exp(step * a.Scale[u])
		s.heal(c, th, sev)
		s.solve(state, c.Phase, th, s.H)
		for i, v := range s.W.V {
			l.DV[i*a.Values+u] = float32((v - float64(l.V[i])) / step)
		}
		for k, x := range s.W.I {
			l.DI[k*a.Values+u] = float32((x - float64(l.I[k])) / step)
		}
	}
}

// either makes a solved state wide enough for the one that stands in the solver besides:
// nobody knows in which of the two a reading is taken.
func (s *Solver) either(l *Solved) {
	l.Alt, l.AltI = make([]float32, len(l.V)), make([]float32, len(l.I))
	for i, v := range s.W.V {
		l.Alt[i] = float32(v - float64(l.V[i]))
		l.V[i] = float32((v + float64(l.V[i])) / 2)
	}
	for k, x := range s.W.I {
		l.AltI[k] = float32(math.Abs(x - float64(l.I[k])))
		l.I[k] = float32((x + float64(l.I[k])) / 2)
	}
}

// heal sets the solver's stations to what is wrong with them in a cell.
func (s *Solver) heal(c *Cell, theta []float64, sev [2]float64) {
	s.W.PullIn = 0
	if c.Windings {
		s.W.PullIn = s.a.Assumed.Prior.PullInShare
	}
	s.a.Health(s.H, theta, c.Diagnosis, sev)
	for k := range s.a.C.Stations {
		if s.a.C.Stations[k].Kind != circuit.Driver {
			continue
		}
		switch c.Guarded {
		case Trips:
			s.H[k].Force = circuit.ForcedOpen
		case limits:
			s.H[k].Extra += s.a.C.NominalVoltage / (s.a.Assumed.Prior.Limit * math.Max(s.a.Model.Normal[k], 0.1))
		}
	}
}

// speedSlopes returns ∂ln(speed) per standard deviation of each uncertain value at
// the point solved last.
func (s *Solver) speedSlopes(theta []float64) []float64 {
	a, w := s.a, s.W
	w.Linearize()
	for u, p := range a.Uncertain {
		f := a.Scale[u]
		if a.IsLog[u] {
			f *= theta[p]
		}
		s.dgood[u] = 0
		if w.DV(s.dv, p) {
			s.dgood[u] = w.DW(p, s.dv) * f / w.Motor.W
		}
	}
	Mix(a, s.dgood)
	return s.dgood
}

// latent fills in what words are answered from, after a solve, and returns the
// motor's speed.
func (s *Solver) latent(l *Solved, state int, ph phase) float64 {
	a, w := s.a, s.W
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
func (s *Solver) differences(l *Solved, state int, c *Cell, theta []float64, sev [2]float64) {
	a := s.a
	th := slices.Clone(theta)
	for u, p := range a.Uncertain {
		const step = 0.05
		if a.IsLog[u] {
			th[p] = theta[p] * math.Exp(step*a.Scale[u])
		} else {
			th[p] = theta[p] + step*a.Scale[u]
		}
		s.W.Solve(state, th, s.H)
		for i, v := range s.W.V {
			l.DV[i*a.Values+u] = float32((v - float64(l.V[i])) / step)
		}
		th[p] = theta[p]
	}
	for row := range slices.Chunk(l.DV, a.Values) {
		Mix(a, row)
	}
	for k, f := range a.Diags[c.Diagnosis].Faults {
		if c.Width[k] == 0 {
			continue
		}
		sv := sev
		sv[k] = Shift(a.Model.ScaleOf(f), sev[k], 0.1*c.Width[k])
		s.heal(c, theta, sv)
		s.W.Solve(state, theta, s.H)
		for i, v := range s.W.V {
			l.DV[i*a.Values+len(a.Uncertain)+k] = float32((v - float64(l.V[i])) / 0.1)
		}
	}
	s.heal(c, theta, sev)
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

func (l *Solved) At(k int) float64 { return float64(l.I[k]) }

// Shifted returns the parameters and severities z standard deviations away.
func (a *Space) Shifted(c *Cell, z []float64) ([]float64, [2]float64) {
	theta := slices.Clone(a.Nominal(c))
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
	return theta, sev
}

// Runs reports whether a good machine with these values would still do its
// work.
func (a *Space) Runs(s *Solver, theta []float64) bool {
	if a.Net.MotorStation() < 0 {
		return true
	}
	s.W.PullIn = 0
	for _, st := range a.Asked {
		s.W.Solve(st, theta, s.good)
		if s.W.Chatter || a.Moves[st] && s.W.Motor.W < a.Assumed.Prior.Runs*a.Spin[st] {
			return false
		}
	}
	return true
}
