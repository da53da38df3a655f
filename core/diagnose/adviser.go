// Package diagnose weighs evidence about one circuit: which faults explain what
// was read and seen, how sure that is, and which reading is worth taking next.
//
// The method: every diagnosis (nothing wrong, one fault, or two) is cut into
// cells, one for each grid point of its severity. A cell is a solved circuit
// with the analytic derivatives of every node voltage with respect to the
// uncertain nominal values, so a reading updates a cell exactly, as a Gaussian.
// Cells that matter are linearised again where the evidence has moved them.
package diagnose

import (
	"fmt"
	"math"
	"sync"

	"corriente/core/circuit"
	"corriente/core/fault"
)

// Version names the reasoning, and is stored with every verdict it gives.
const Version = "cells-1"

// Prior shares of the three kinds of diagnosis. A machine in the workshop has a
// complaint, so "nothing wrong" is rare; but at 0.05 a healthy machine could
// hardly ever be proved so.
const (
	priorNone = 0.15
	priorPair = 0.12
)

// phase is what a cell assumes of the contacts that coils drive.
type phase uint8

const (
	settle  phase = iota // as the coil decides
	open                 // forced: the coil does not reach its pull-in
	closed               // forced: the coil pulls in and holds
	chatter              // between the two
)

// cell is a diagnosis at one severity.
type cell struct {
	diag     int
	sev      [2]float64 // severity of each fault
	width    [2]float64 // half spacing of the grid; logarithmic or linear as the scale says
	logPrior float64
	phase    phase
}

// diagnosis is a set of faults: none, one or two.
type diagnosis struct {
	faults []fault.Fault
	class  int // station set
	cells  []int
	prior  float64
}

// Adviser reasons about one circuit with fixed parameters. It is safe for
// concurrent use; what it computes once per state is kept.
type Adviser struct {
	C     *circuit.Circuit
	Net   *circuit.Network
	Model *fault.Model

	theta   []float64
	unc     []int     // uncertain parameters, indices into Net.Params
	scale   []float64 // one standard deviation, SI or logarithmic
	isLog   []bool
	q       int // unc plus two severities
	run     int // run state
	runSpin float64
	diags   []diagnosis
	cells   []cell
	classes []string // "" is nothing wrong; a pair is "a+b"
	clsOf   map[string]int
	states  []*stateBank

	stepsMu sync.Mutex
	steps   map[string][]float64
}

// stateBank holds the solved cells of one state, built at first use.
type stateBank struct {
	once sync.Once
	lin  []linear
}

// linear is one solved circuit and its derivatives per standard deviation of
// each uncertain parameter and severity.
type linear struct {
	v, jv []float32 // nodes; nodes × q
	i, ji []float32 // stations; stations × q
	isle  []uint8   // island of each node
	alt   []float32 // chatter: |closed - open| a node, else nil
	altI  []float32
	ratio float64 // speed against the good machine's in the run state
	rsd   float64 // its standard deviation from the uncertain values
	fed   bool
	spin  bool
	pull  bool // a coil holds its contact in
	chat  bool
	coilV float64
}

// NewAdviser prepares the reasoning for a circuit.
func NewAdviser(c *circuit.Circuit) (*Adviser, error) {
	if len(c.Nodes) > 255 {
		return nil, fmt.Errorf("circuit %s has %d nodes; 255 is the most that is reasoned about", c.ID, len(c.Nodes))
	}
	net, err := circuit.Compile(c)
	if err != nil {
		return nil, err
	}
	m, err := fault.NewModel(net)
	if err != nil {
		return nil, err
	}
	a := &Adviser{C: c, Net: net, Model: m, theta: net.Nominal(), run: net.StatePos(c.RunState), clsOf: map[string]int{}, steps: map[string][]float64{}}
	for p, pr := range net.Params {
		prm := c.Stations[pr.Station].Params[pr.Name]
		switch {
		case pr.Name == "rating" || pr.Name == "rated_speed":
		case prm.SD > 0:
			a.unc, a.scale, a.isLog = append(a.unc, p), append(a.scale, prm.SD), append(a.isLog, false)
		case prm.Spread > 0 && prm.Value > 0:
			a.unc, a.scale, a.isLog = append(a.unc, p), append(a.scale, prm.Spread), append(a.isLog, true)
		}
	}
	a.q = len(a.unc) + 2
	w := net.NewWork()
	w.Solve(a.run, a.theta, net.SoundAll())
	a.runSpin = math.Max(w.Motor.W, 1e-9)
	a.enumerate(w)
	a.states = make([]*stateBank, len(c.States))
	for i := range a.states {
		a.states[i] = &stateBank{}
	}
	return a, nil
}

// gridPoint is one severity with the half-width it stands for.
type gridPoint struct{ sev, width float64 }

func grid(sc *fault.Scale, n int) []gridPoint {
	if sc == nil {
		return []gridPoint{{0, 0}}
	}
	var out []gridPoint
	lo, hi := sc.Lo, sc.Hi
	if sc.Log {
		lo, hi = math.Log(lo), math.Log(hi)
	}
	step := (hi - lo) / float64(n)
	for k := 0; k < n; k++ {
		x := lo + (float64(k)+0.5)*step
		if sc.Log {
			x = math.Exp(x)
		}
		// A Gaussian of this width in each slot adds up to nearly even cover.
		out = append(out, gridPoint{x, 0.6 * step})
	}
	if sc.ToOpen {
		out = append(out, gridPoint{fault.Open, 0})
	}
	return out
}

// enumerate lists the diagnoses and their cells, with priors: the family's
// rates, weighted by whether the fault at that severity would make anybody
// complain.
func (a *Adviser) enumerate(w *circuit.Work) {
	m := a.Model
	h := a.Net.SoundAll()
	total := 0.0
	for _, f := range m.Faults() {
		total += m.Rate(f)
	}
	a.addDiag(nil, priorNone)
	a.addCell(w, h, 0, [2]gridPoint{}, 1)
	for _, f := range m.Faults() {
		d := a.addDiag([]fault.Fault{f}, (1-priorNone-priorPair)*m.Rate(f)/total)
		pts := grid(m.ScaleOf(f), 7)
		for _, p := range pts {
			a.addCell(w, h, d, [2]gridPoint{p}, 1/float64(len(pts)))
		}
	}
	// Pairs: two different stations; causes and their consequences above chance.
	fs := m.Faults()
	var pairs [][2]fault.Fault
	var rates []float64
	sum := 0.0
	for i, f := range fs {
		for _, g := range fs[i+1:] {
			if f.Station == g.Station || hides(f) && hides(g) {
				continue
			}
			r := m.Rate(f) * m.Rate(g) / total
			if causal(f, g) || causal(g, f) {
				r *= 8
			}
			pairs, rates = append(pairs, [2]fault.Fault{f, g}), append(rates, r)
			sum += r
		}
	}
	for k, p := range pairs {
		d := a.addDiag(p[:], priorPair*rates[k]/sum)
		g0, g1 := grid(m.ScaleOf(p[0]), 2), grid(m.ScaleOf(p[1]), 2)
		share := 1 / float64(len(g0)*len(g1))
		for _, x := range g0 {
			for _, y := range g1 {
				a.addCell(w, h, d, [2]gridPoint{x, y}, share)
			}
		}
	}
	kept := a.diags[:0]
	sum = 0
	for _, d := range a.diags {
		if len(d.cells) > 0 {
			for _, k := range d.cells {
				a.cells[k].diag = len(kept)
				sum += math.Exp(a.cells[k].logPrior)
			}
			kept = append(kept, d)
		}
	}
	a.diags = kept
	for i := range a.cells {
		a.cells[i].logPrior -= math.Log(sum)
	}
}

// hides marks faults of which two at once are not worth telling apart.
func hides(f fault.Fault) bool { return f.Mode == "welded" || f.Mode == "short_to_ground" }

// causal: a blown fuse has a cause, and a seized or grounded motor is one.
func causal(f, g fault.Fault) bool {
	if f.Mode != "open" || g.Mode == "open" {
		return false
	}
	switch g.Mode {
	case "short_to_ground", "seized", "jammed", "winding_grounded", "shorted_turns":
		return true
	}
	return false
}

func (a *Adviser) addDiag(fs []fault.Fault, prior float64) int {
	key := ""
	for i, f := range fs {
		if i > 0 {
			key += "+"
		}
		key += f.Station
	}
	cls, ok := a.clsOf[key]
	if !ok {
		cls = len(a.classes)
		a.clsOf[key] = cls
		a.classes = append(a.classes, key)
	}
	a.diags = append(a.diags, diagnosis{faults: fs, class: cls, prior: prior})
	return len(a.diags) - 1
}

func (a *Adviser) health(h []circuit.Health, theta []float64, d int, sev [2]float64) {
	for i := range h {
		h[i] = circuit.Sound()
	}
	for i, f := range a.diags[d].faults {
		a.Model.Apply(h, theta, f, sev[i])
	}
}

// addCell solves the run state for a diagnosis at one severity, splits it where
// a coil is near its pull-in, and drops what is too mild to matter.
func (a *Adviser) addCell(w *circuit.Work, h []circuit.Health, d int, g [2]gridPoint, share float64) {
	sev := [2]float64{g[0].sev, g[1].sev}
	a.health(h, a.theta, d, sev)
	w.SolvePhase(a.run, a.theta, h, false)
	pullP, holdP, driven := 1.0, 1.0, false
	for k := range a.C.Stations {
		coil := a.C.StationIndex(a.C.Stations[k].ClosedBy)
		if a.C.Stations[k].ClosedBy == "" || coil < 0 {
			continue
		}
		driven = true
		need := a.theta[a.Net.ParamIndex(coil, "pull_in")]
		sd := math.Hypot(need*a.C.Stations[coil].Params["pull_in"].Spread, 0.03*a.C.NominalVoltage)
		pullP = normCDF((w.CoilVolts(coil) - need) / sd)
		if h[coil].NoPull || h[coil].Open {
			pullP = 0
		}
		if h[k].Force != circuit.AsCommanded {
			driven = false // what the coil does moves nothing
			continue
		}
		w.SolvePhase(a.run, a.theta, h, true)
		holdP = normCDF((w.CoilVolts(coil) - circuit.DropOut*need) / (circuit.DropOut*sd + 0.02*a.C.NominalVoltage))
	}
	type variant struct {
		ph phase
		p  float64
	}
	vs := []variant{{settle, 1}}
	if driven {
		vs = []variant{{open, 1 - pullP}, {closed, pullP * holdP}, {chatter, pullP * (1 - holdP)}}
	}
	for _, v := range vs {
		if v.p < 0.02 && driven {
			continue
		}
		ratio := 0.0
		switch v.ph {
		case closed:
			w.SolvePhase(a.run, a.theta, h, true)
			ratio = w.Motor.W / a.runSpin
		case settle:
			w.Solve(a.run, a.theta, h)
			ratio = w.Motor.W / a.runSpin
		}
		weight := 1.0
		if fs := a.diags[d].faults; len(fs) > 0 {
			lost := 1 - ratio
			loud := false
			for _, f := range fs {
				switch f.Mode {
				case "welded", "slipping", "open", "short_to_ground":
					loud = true
				}
			}
			if !loud {
				if lost < 0.03 && a.withinAllowance(w, v.ph) {
					continue // so mild that it belongs to nothing wrong
				}
				weight = 0.03 + 0.97/(1+math.Exp(-(lost-0.2)/0.03))
			}
		}
		a.diags[d].cells = append(a.diags[d].cells, len(a.cells))
		a.cells = append(a.cells, cell{diag: d, sev: sev, width: [2]float64{g[0].width, g[1].width},
			logPrior: math.Log(a.diags[d].prior * share * weight * v.p), phase: v.ph})
	}
}

// withinAllowance reports whether every station of the last solve keeps within
// its allowed drop.
func (a *Adviser) withinAllowance(w *circuit.Work, ph phase) bool {
	if ph == open || ph == chatter {
		return false
	}
	for k := range a.C.Stations {
		s := &a.C.Stations[k]
		if s.AllowedDrop > 0 && s.From != "" {
			if math.Abs(w.V[a.C.NodeIndex(s.From)]-w.V[a.C.NodeIndex(s.To)]) > s.AllowedDrop {
				return false
			}
		}
	}
	return true
}

func normCDF(x float64) float64 { return 0.5 * math.Erfc(-x/math.Sqrt2) }

// bank returns the solved cells of a state.
func (a *Adviser) bank(state int) []linear {
	b := a.states[state]
	b.once.Do(func() {
		lin := make([]linear, len(a.cells))
		share(len(a.cells), func(from, step int) {
			s := a.newSolver()
			for k := from; k < len(a.cells); k += step {
				s.linearize(&lin[k], state, &a.cells[k], a.theta, a.cells[k].sev, true)
			}
		})
		b.lin = lin
	})
	return b.lin
}

// solver is one goroutine's buffers.
type solver struct {
	a    *Adviser
	w    *circuit.Work
	h    []circuit.Health
	dv   []float64
	good []circuit.Health
	ohm  [3]ohms
}

// ohms is a network prepared for an ohmmeter: as it is, and with one or the
// other severity moved. The same cell is asked for many pairs of nodes.
type ohms struct {
	w     *circuit.Work
	h     []circuit.Health
	state int
	cell  *cell
	theta *float64
	sev   [2]float64
}

func (s *solver) ohmmeter(which, state int, c *cell, theta []float64, sev [2]float64) *circuit.Work {
	o := &s.ohm[which]
	if o.w == nil {
		o.w, o.h = s.a.Net.NewWork(), s.a.Net.SoundAll()
	} else if o.cell == c && o.state == state && o.theta == &theta[0] && o.sev == sev {
		return o.w
	}
	s.a.health(o.h, theta, c.diag, sev)
	o.w.PrepareOhms(state, theta, o.h)
	o.state, o.cell, o.theta, o.sev = state, c, &theta[0], sev
	return o.w
}

func (a *Adviser) newSolver() *solver {
	return &solver{a: a, w: a.Net.NewWork(), h: a.Net.SoundAll(), dv: make([]float64, len(a.C.Nodes)),
		good: a.Net.SoundAll()}
}

func (s *solver) solve(state int, ph phase, theta []float64, h []circuit.Health) {
	if !s.a.phased(state) || ph == settle {
		s.w.Solve(state, theta, h)
		return
	}
	s.w.SolvePhase(state, theta, h, ph == closed)
}

// phased reports whether coils are worked in the state: the run state's
// neighbours on the vehicle's own battery, with something closed.
func (a *Adviser) phased(state int) bool {
	st := &a.C.States[state]
	return st.Supply == "battery" && len(st.Closed) > 0
}

// linearize solves one cell in one state and differentiates it.
func (s *solver) linearize(l *linear, state int, c *cell, theta []float64, sev [2]float64, derivatives bool) {
	a := s.a
	if l.v == nil {
		nn, ns := len(a.C.Nodes), len(a.C.Stations)
		buf := make([]float32, (nn+ns)*(1+a.q))
		l.v, buf = buf[:nn], buf[nn:]
		l.jv, buf = buf[:nn*a.q], buf[nn*a.q:]
		l.i, l.ji = buf[:ns], buf[ns:]
	} else {
		clear(l.jv)
		clear(l.ji)
	}
	a.health(s.h, theta, c.diag, sev)
	if !a.C.States[state].Powered() {
		return // ohms are computed when asked for
	}
	s.solve(state, c.phase, theta, s.h)
	l.chat = c.phase == chatter && a.phased(state)
	w := s.w
	if l.isle == nil {
		l.isle = make([]uint8, len(w.V))
	}
	for i, v := range w.V {
		l.v[i] = float32(v)
		l.isle[i] = uint8(w.Island[i])
	}
	for i, x := range w.I {
		l.i[i] = float32(x)
	}
	l.fed, l.spin = w.Fed, w.Motor.W > 0
	wSpeed := w.Motor.W
	l.pull, l.coilV = false, 0
	for k := range a.C.Stations {
		if a.C.Stations[k].ClosedBy != "" {
			coil := a.C.StationIndex(a.C.Stations[k].ClosedBy)
			l.coilV = w.CoilVolts(coil)
			l.pull = !s.h[coil].NoPull && !s.h[coil].Open && (c.phase == closed ||
				c.phase == settle && l.coilV >= a.theta[a.Net.ParamIndex(coil, "pull_in")])
			if !a.phased(state) {
				l.pull = false
			}
		}
	}
	if derivatives {
		w.Linearize()
		q := a.q
		dwRun := 0.0
		for u, p := range a.unc {
			f := a.scale[u]
			if a.isLog[u] {
				f *= theta[p]
			}
			if !w.DV(s.dv, p) {
				continue
			}
			for i, d := range s.dv {
				l.jv[i*q+u] = float32(d * f)
			}
			for k := range w.I {
				if a.C.Stations[k].From != "" {
					l.ji[k*q+u] = float32(w.DI(k, p, s.dv) * f)
				}
			}
			if wSpeed > 0 {
				d := w.DW(p, s.dv) * f / wSpeed
				dwRun += d * d
			}
		}
		// The good machine moves with the same values, so of the relative
		// spread of speed only a part is the fault's doing.
		l.rsd = 0.4 * math.Sqrt(dwRun)
	}
	l.alt, l.altI = nil, nil
	if l.chat {
		s.w.SolvePhase(state, theta, s.h, true)
		l.alt, l.altI = make([]float32, len(l.v)), make([]float32, len(l.i))
		for i, v := range s.w.V {
			l.alt[i] = float32(math.Abs(v - float64(l.v[i])))
			l.v[i] = float32((v + float64(l.v[i])) / 2)
		}
		for k, x := range s.w.I {
			l.altI[k] = float32(math.Abs(x - float64(l.i[k])))
			l.i[k] = float32((x + float64(l.i[k])) / 2)
		}
		wSpeed = s.w.Motor.W
	}
	// Speed is judged against what the same values would give without the
	// fault: in the run state, or in the same direct feed.
	ref := state
	if a.C.States[state].Supply == "battery" {
		ref = a.run
	}
	s.w.Solve(ref, theta, s.good)
	l.ratio = wSpeed / math.Max(s.w.Motor.W, 1e-9)
	if !derivatives {
		return
	}
	// Severity: a one-sided difference, a tenth of the grid's half-width.
	for k, f := range a.diags[c.diag].faults {
		wd := c.width[k]
		if wd == 0 || l.chat {
			continue
		}
		sv := sev
		sv[k] = shift(a.Model.ScaleOf(f), sev[k], 0.1*wd)
		a.health(s.h, theta, c.diag, sv)
		s.solve(state, c.phase, theta, s.h)
		u := len(a.unc) + k
		for i, v := range s.w.V {
			l.jv[i*a.q+u] = float32((v - float64(l.v[i])) / 0.1)
		}
		for i, x := range s.w.I {
			l.ji[i*a.q+u] = float32((x - float64(l.i[i])) / 0.1)
		}
	}
}

// shift moves a severity along its scale.
func shift(sc *fault.Scale, sev, by float64) float64 {
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
