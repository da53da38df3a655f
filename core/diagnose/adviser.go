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
	"slices"
	"sync"
	"sync/atomic"

	"corriente/core/circuit"
	"corriente/core/diagnose/assume"
	"corriente/core/fault"
)

// Version names the reasoning, and is stored with every verdict it gives.
const Version = "cells-5"

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
	guarded  guarding
	windings bool // a shift solenoid has a pull-in winding that returns through the motor
	charged  bool // a float charger that nobody mentioned stands across the battery
}

// guarding is what a module or a controller does on more current than its own.
type guarding uint8

const (
	carries guarding = iota // it carries it
	trips                   // it switches itself off
	limits                  // it lets no more through than its limit
)

// diagnosis is a set of faults: none, one or two.
type diagnosis struct {
	faults []fault.Fault
	class  int // station set
	cells  []int
	prior  float64
}

// Space is what can be wrong with one circuit with fixed parameters: every diagnosis, cut into
// cells, each solved in every state it is asked for. It is safe for concurrent use; what it
// computes once per state is kept.
type Space struct {
	C     *circuit.Circuit
	Net   *circuit.Network
	Model *fault.Model

	assumed *assume.Table

	theta     []float64
	unc       []int     // uncertain parameters, indices into Net.Params
	scale     []float64 // one standard deviation, SI or logarithmic
	isLog     []bool
	alike     []alike     // of unc
	tries     []float64   // of unc: see discrepancies
	q         int         // unc plus two severities
	run       int         // run state
	asked     []int       // states in which the machine is asked to do its work
	spin      []float64   // rad/s of a good motor at nominal values, per state
	moves     []bool      // states in which a good motor turns
	dspin     [][]float64 // per state: ∂ln(speed of a good motor) per standard deviation of each uncertain value
	charger   []float64   // nominal values with a charger present; nil: it is known
	diags     []diagnosis
	cells     []cell
	basePrior []float64 // log prior of each cell, nothing known
	classes   []string  // "" is nothing wrong; a pair is "a+b"
	clsOf     map[string]int
	states    []*stateBank
}

// Adviser reasons about one circuit with fixed parameters. It is safe for concurrent use.
type Adviser struct {
	*Space

	stepsMu    sync.Mutex
	steps      map[string][]float64
	firsts     map[string][]float32 // first scores by prior and evidence
	firstOrder []string             // their keys, oldest first

	wordsMu sync.Mutex
	words   map[wordKey]*wordBank
}

// wordBank holds, for an observation in a state, the logarithm of each answer's
// chance under every cell at nominal values, built at first use.
type wordBank struct {
	once sync.Once
	logp []float32 // cells × outcomes
}

type wordKey struct {
	obs   string
	state int
}

// wordsOf returns the word bank of an observation, for jobs without a table of
// blink codes.
func (a *Adviser) wordsOf(o *circuit.Observation, state int) []float32 {
	k := wordKey{o.ID, state}
	a.wordsMu.Lock()
	b := a.words[k]
	if b == nil {
		b = &wordBank{}
		a.words[k] = b
	}
	a.wordsMu.Unlock()
	b.once.Do(func() {
		banks := map[int][]linear{}
		for _, st := range a.needs(o, state) {
			banks[st] = a.bank(st)
		}
		n := len(o.Outcomes)
		logp := make([]float32, len(a.cells)*n)
		share(len(a.cells), func(from, step int) {
			for i := from; i < len(a.cells); i += step {
				c := &a.cells[i]
				x := observed{a: a.Space, o: o, c: c, diag: a.diags[c.diag].faults, sev: c.sev, at: func(st int) *linear { return &banks[st][i] }}
				for m, p := range x.outcomes(state) {
					logp[i*n+m] = float32(math.Log(p))
				}
			}
		})
		b.logp = logp
	})
	return b.logp
}

// stateBank holds the solved cells of one state, built at first use.
type stateBank struct {
	once  sync.Once
	built atomic.Bool
	lin   []linear
}

// linear is one solved circuit and its derivatives per standard deviation of
// each uncertain parameter and severity.
type linear struct {
	v, jv []float32 // nodes; nodes × q
	i, ji []float32 // stations; stations × q
	isle  []uint8   // island of each node
	alt   []float32 // chatter: closed less open, V a node, else nil
	altI  []float32
	ratio float64   // speed against the good machine's in the run state
	rsd   float64   // its standard deviation, from the uncertain values and the severities
	dr    []float64 // ∂ratio per standard deviation of each uncertain value and severity
	fed   bool
	spin  bool
	pull  bool // a coil holds its contact in
	chat  bool
	coilV float64
	trip  bool    // a controller withholds its output and flashes a code
	live  bool    // that controller has its supply
	start float64 // starting torque against the good motor's, capacitor motors
}

// NewAdviser prepares the reasoning for a circuit.
func NewAdviser(c *circuit.Circuit) (*Adviser, error) {
	t, err := assume.Standard()
	if err != nil {
		return nil, err
	}
	return NewAdviserWith(c, t)
}

// NewAdviserWith is [NewAdviser] with other assumptions: how far a verdict hangs on them.
func NewAdviserWith(c *circuit.Circuit, t *assume.Table) (*Adviser, error) {
	s, err := newSpace(c, t)
	if err != nil {
		return nil, err
	}
	return &Adviser{Space: s, steps: map[string][]float64{}, firsts: map[string][]float32{}, words: map[wordKey]*wordBank{}}, nil
}

// newSpace lists what can be wrong with a circuit.
func newSpace(c *circuit.Circuit, t *assume.Table) (*Space, error) {
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
	a := &Space{C: c, Net: net, Model: m, assumed: t, theta: net.Nominal(), run: net.StatePos(c.RunState), clsOf: map[string]int{}}
	if k := net.ChargerStation(); k >= 0 {
		if p := c.Stations[k].Params["present"]; p.Value == 0 && p.Spread == 0 {
			a.charger = net.Nominal()
			a.charger[net.ParamIndex(k, "present")] = 1
		}
	}
	for p, pr := range net.Params {
		prm := a.inHarness(&c.Stations[pr.Station], pr.Name)
		switch {
		case pr.Name == "rating" || pr.Name == "rated_speed" || pr.Name == "present" || pr.Name == "supply":
		case prm.SD > 0:
			a.unc, a.scale, a.isLog = append(a.unc, p), append(a.scale, prm.SD), append(a.isLog, false)
		case prm.Alike != "" && prm.Spread > 0 && prm.Value > 0:
			key := pr.Name + " " + prm.Alike
			i := slices.IndexFunc(a.alike, func(g alike) bool { return g.key == key })
			if i < 0 {
				i, a.alike = len(a.alike), append(a.alike, alike{key: key, own: prm.Spread, common: prm.Common})
			}
			a.alike[i].u = append(a.alike[i].u, len(a.unc))
			a.unc, a.scale, a.isLog = append(a.unc, p), append(a.scale, 1), append(a.isLog, true)
		case prm.Spread > 0 && prm.Value > 0:
			a.unc, a.scale, a.isLog = append(a.unc, p), append(a.scale, prm.Spread), append(a.isLog, true)
		}
	}
	a.q = len(a.unc) + 2
	a.discrepancies()
	w := a.Net.NewWork()
	for i := range c.States {
		speed := 0.0
		if c.States[i].Powered() && net.MotorStation() >= 0 {
			w.Solve(i, a.theta, net.SoundAll())
			speed = w.Motor.W
		}
		if c.States[i].Commands || i == a.run {
			a.asked = append(a.asked, i)
		}
		a.spin, a.moves = append(a.spin, speed), append(a.moves, speed > a.still())
	}
	a.goodSpeeds(w)
	a.enumerate(w)
	a.states = make([]*stateBank, len(c.States))
	for i := range a.states {
		a.states[i] = &stateBank{}
	}
	return a, nil
}

// inHarness is a station's value with what is known of it; a part of a harness whose value
// nobody gave shares what is not known with the others.
func (a *Space) inHarness(s *circuit.Station, name string) circuit.Param {
	p, usual := s.Params[name], &a.assumed.Prior
	if name != "resistance" || p.Alike != "" || p.Spread < usual.Unknown {
		return p
	}
	switch s.Kind {
	case circuit.Wire, circuit.Joint, circuit.Fuse, circuit.Contact:
		p.Alike, p.Common, p.Spread = "harness", usual.HarnessCommon, usual.HarnessOwn
		if s.Side == "control" {
			p.Alike = "control"
		}
	case circuit.Source:
		p.Spread = usual.BatterySpread
	}
	return p
}

// alike is a group of uncertain values of parts that are made alike. Of n of them with
// a spread of their own each and one in common the covariance of the logarithms is
// own² I + common² 11ᵀ; its symmetric root is own I + (√(own² + n common²) - own)/n 11ᵀ.
type alike struct {
	key         string
	u           []int // in unc
	own, common float64
}

// mix turns slopes by each value's logarithm into slopes by independent standard
// deviations, in place; the root is symmetric, so it turns the latter into logarithms
// as well.
func mix[F float32 | float64](a *Space, row []F) {
	for _, g := range a.alike {
		n := float64(len(g.u))
		sum := 0.0
		for _, u := range g.u {
			sum += float64(row[u])
		}
		shared := sum * (math.Sqrt(g.own*g.own+n*g.common*g.common) - g.own) / n
		for _, u := range g.u {
			row[u] = F(g.own*float64(row[u]) + shared)
		}
	}
}

// unmix takes [mix] back: slopes by independent standard deviations become slopes by
// each value's logarithm.
func unmix(a *Space, row []float64) {
	for _, g := range a.alike {
		n := float64(len(g.u))
		c := math.Sqrt(g.own*g.own+n*g.common*g.common) - g.own
		sum := 0.0
		for _, u := range g.u {
			sum += row[u]
		}
		shared := sum / (g.own + c) * c / n
		for _, u := range g.u {
			row[u] = (row[u] - shared) / g.own
		}
	}
}

// goodSpeeds works out how the good motor's speed follows the uncertain values,
// state by state.
func (a *Space) goodSpeeds(w *circuit.Work) {
	dv := make([]float64, len(a.C.Nodes))
	for st := range a.C.States {
		d := make([]float64, len(a.unc))
		if a.moves[st] {
			w.Solve(st, a.theta, a.Net.SoundAll())
			w.Linearize()
			for u, p := range a.unc {
				f := a.scale[u]
				if a.isLog[u] {
					f *= a.theta[p]
				}
				w.DV(dv, p)
				d[u] = w.DW(p, dv) * f / w.Motor.W
			}
			mix(a, d)
		}
		a.dspin = append(a.dspin, d)
	}
}

// still is the speed, rad/s, below which a motor is taken to stand: what leaks through an open
// does not count as turning.
func (a *Space) still() float64 {
	if m := a.Net.MotorStation(); m >= 0 {
		return a.assumed.Prior.Still * a.C.Stations[m].Params["rated_speed"].Value
	}
	return 0
}

// reference is the state whose good speed another state's is judged by: its own
// where a good motor turns in it, else that of the run state.
func (a *Space) reference(state int) int {
	if a.moves[state] {
		return state
	}
	return a.run
}

// nominal is the parameter vector a cell starts from.
func (a *Space) nominal(c *cell) []float64 {
	if c.charged {
		return a.charger
	}
	return a.theta
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
func (a *Space) enumerate(w *circuit.Work) {
	m, share := a.Model, &a.assumed.Prior
	h := a.Net.SoundAll()
	total := 0.0
	for _, f := range a.faults() {
		total += m.Rate(f)
	}
	a.addDiag(nil, share.None)
	a.addCell(w, h, 0, [2]gridPoint{}, 1)
	for _, f := range a.faults() {
		d := a.addDiag([]fault.Fault{f}, (1-share.None-share.Pair)*m.Rate(f)/total)
		pts := grid(m.ScaleOf(f), 7)
		for _, p := range pts {
			a.addCell(w, h, d, [2]gridPoint{p}, 1/float64(len(pts)))
		}
	}
	// Pairs: two different stations; causes and their consequences above chance.
	fs := a.faults()
	var pairs [][2]fault.Fault
	var rates []float64
	sum := 0.0
	for i, f := range fs {
		for _, g := range fs[i+1:] {
			if f.Station == g.Station || hides(f) && hides(g) || a.isCharger(f) && a.isCharger(g) {
				continue
			}
			r := m.Rate(f) * m.Rate(g) / total
			if a.causal(f, g) || a.causal(g, f) {
				r *= share.Causal
			}
			pairs, rates = append(pairs, [2]fault.Fault{f, g}), append(rates, r)
			sum += r
		}
	}
	for k, p := range pairs {
		d := a.addDiag(p[:], share.Pair*rates[k]/sum)
		g0, g1 := grid(m.ScaleOf(p[0]), 2), grid(m.ScaleOf(p[1]), 2)
		each := 1 / float64(len(g0)*len(g1))
		for _, x := range g0 {
			for _, y := range g1 {
				a.addCell(w, h, d, [2]gridPoint{x, y}, each)
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
		a.basePrior = append(a.basePrior, a.cells[i].logPrior)
	}
}

// hides marks faults of which two at once are not worth telling apart.
func hides(f fault.Fault) bool { return f.Mode == "welded" || f.Mode == "short_to_ground" }

// faults lists the faults that can be: a charger that is known to be missing has
// none.
func (a *Space) faults() []fault.Fault {
	k := a.Net.ChargerStation()
	if k < 0 || a.charger != nil || a.theta[a.Net.ParamIndex(k, "present")] >= 0.5 {
		return a.Model.Faults()
	}
	var out []fault.Fault
	for _, f := range a.Model.Faults() {
		if !a.isCharger(f) {
			out = append(out, f)
		}
	}
	return out
}

func (a *Space) isCharger(f fault.Fault) bool {
	return a.C.Station(f.Station).Kind == circuit.Charger
}

// causal: a blown fuse has a cause, and a seized or grounded motor is one; a
// joint that runs hot comes with a motor that draws too much.
func (a *Space) causal(f, g fault.Fault) bool {
	if f.Mode != "open" || a.C.Station(f.Station).Kind != circuit.Fuse {
		return false
	}
	switch g.Mode {
	case "short_to_ground", "seized", "jammed", "winding_grounded", "shorted_turns":
		return true
	}
	return false
}

func (a *Space) addDiag(fs []fault.Fault, prior float64) int {
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

func (a *Space) health(h []circuit.Health, theta []float64, d int, sev [2]float64) {
	for i := range h {
		h[i] = circuit.Sound()
	}
	for i, f := range a.diags[d].faults {
		a.Model.Apply(h, theta, f, sev[i])
	}
}

// addCell adds a diagnosis at one severity, once without and once with a float
// charger where that is not known.
func (a *Space) addCell(w *circuit.Work, h []circuit.Health, d int, g [2]gridPoint, share float64) {
	fs := a.diags[d].faults
	charged, battery := false, len(fs) < 2
	for _, f := range fs {
		charged = charged || a.isCharger(f)
		battery = battery || a.C.Station(f.Station).Kind == circuit.Source
	}
	switch {
	case a.charger == nil:
		a.addPhases(w, h, d, g, share, false)
	case charged:
		a.addPhases(w, h, d, g, share*a.assumed.Prior.Charger, true)
	case battery:
		a.addPhases(w, h, d, g, share*(1-a.assumed.Prior.Charger), false)
		a.addPhases(w, h, d, g, share*a.assumed.Prior.Charger, true)
	default: // two faults elsewhere: a charger would not change the choice between them
		a.addPhases(w, h, d, g, share*(1-a.assumed.Prior.Charger), false)
	}
}

// addPhases solves the states in which the machine is asked to work, splits the
// cell where a coil is near its pull-in, and drops what is too mild to matter.
func (a *Space) addPhases(w *circuit.Work, h []circuit.Health, d int, g [2]gridPoint, share float64, charged bool) {
	sev := [2]float64{g[0].sev, g[1].sev}
	c := cell{diag: d, sev: sev, width: [2]float64{g[0].width, g[1].width}, charged: charged}
	theta := a.nominal(&c)
	a.health(h, theta, d, sev)
	pullP, holdP, driven := 1.0, 1.0, false
	for k := range a.C.Stations {
		coil := a.C.StationIndex(a.C.Stations[k].ClosedBy)
		if a.C.Stations[k].ClosedBy == "" || coil < 0 {
			continue
		}
		driven = true
		w.SolvePhase(a.run, theta, h, false)
		need := theta[a.Net.ParamIndex(coil, "pull_in")]
		sd := math.Hypot(need*a.C.Stations[coil].Params["pull_in"].Spread, a.assumed.Prior.PullInSpread*a.C.NominalVoltage)
		pullP = normCDF((w.CoilVolts(coil) - need) / sd)
		if h[coil].NoPull || h[coil].Open {
			pullP = 0
		}
		if c, _ := a.Net.Solenoid(); c == coil && h[a.Net.MotorStation()].Open {
			pullP *= a.assumed.Prior.PullsWithoutMotor
		}
		if h[k].Force != circuit.AsCommanded {
			driven = false // what the coil does moves nothing
			continue
		}
		w.SolvePhase(a.run, theta, h, true)
		holdP = normCDF((w.CoilVolts(coil) - circuit.DropOut*need) / (circuit.DropOut*sd + a.assumed.Prior.HoldSpread*a.C.NominalVoltage))
	}
	type variant struct {
		ph phase
		p  float64
	}
	guards := []guarding{carries}
	if a.overloaded(w, theta, h) >= 0 {
		guards = []guarding{carries, trips, limits}
	}
	vs := []variant{{settle, 1}}
	if driven {
		vs = []variant{{open, 1 - pullP}, {closed, pullP * holdP}, {chatter, pullP * (1 - holdP)}}
	}
	for _, v := range vs {
		if v.p < 0.02 && driven {
			continue
		}
		weight := 1.0
		if fs := a.diags[d].faults; len(fs) > 0 && !slices.ContainsFunc(fs, a.loud) {
			lost, within := a.lost(w, theta, h, v.ph)
			if lost < a.assumed.Prior.Mild && within && !slices.ContainsFunc(fs, a.isCharger) {
				continue // so mild that it belongs to nothing wrong
			}
			weight = a.assumed.Prior.Complaint.Of(lost)
		}
		c.logPrior, c.phase = math.Log(a.diags[d].prior*share*weight*v.p/float64(len(guards))), v.ph
		for _, g := range guards {
			c.guarded, c.windings = g, false
			if v.ph != closed && a.twoWindings(h) {
				one := c
				one.logPrior += math.Log(1 - a.assumed.Prior.PullIn)
				a.keepCell(d, one)
				c.windings = true
				two := c
				two.logPrior += math.Log(a.assumed.Prior.PullIn)
				a.keepCell(d, two)
				continue
			}
			a.keepCell(d, c)
		}
	}
}

// loud marks faults that are always ones, whatever the speed: an open, what runs
// when it should not, and those of parts that turn nothing.
func (a *Space) loud(f fault.Fault) bool {
	switch f.Mode {
	case "welded", "slipping", "open", "short_to_ground", "stuck_on":
		return true
	}
	switch a.C.Station(f.Station).Kind {
	case circuit.Winding, circuit.Rectifier, circuit.Capacitor, circuit.Bearing:
		return true
	}
	return a.Net.MotorStation() < 0
}

// lost is the greatest share of speed lost in a state in which the machine is
// asked to work, and whether every station keeps within its allowed drop.
func (a *Space) lost(w *circuit.Work, theta []float64, h []circuit.Health, ph phase) (lost float64, within bool) {
	within = true
	for _, st := range a.asked {
		switch {
		case ph == settle || len(a.C.States[st].Closed) == 0:
			w.Solve(st, theta, h)
		case ph == closed:
			w.SolvePhase(st, theta, h, true)
		default:
			return 1, false
		}
		if a.moves[st] {
			lost = math.Max(lost, 1-w.Motor.W/a.spin[st])
		}
		for k := range a.C.Stations {
			s := &a.C.Stations[k]
			if s.AllowedDrop > 0 && a.Net.Present(st, k) && s.Kind != circuit.Driver {
				x, y := a.Net.Ends(st, k)
				within = within && math.Abs(w.V[x]-w.V[y]) <= s.AllowedDrop
			}
		}
	}
	return lost, within
}

func normCDF(x float64) float64 { return 0.5 * math.Erfc(-x/math.Sqrt2) }

// bank returns the solved cells of a state.
func (a *Space) bank(state int) []linear {
	b := a.states[state]
	b.once.Do(func() {
		lin := make([]linear, len(a.cells))
		share(len(a.cells), func(from, step int) {
			s := a.newSolver()
			for k := from; k < len(a.cells); k += step {
				s.linearize(&lin[k], state, &a.cells[k], a.nominal(&a.cells[k]), a.cells[k].sev, true)
			}
		})
		b.lin = lin
		b.built.Store(true)
	})
	return b.lin
}

// solver is one goroutine's buffers.
type solver struct {
	a         *Space
	w         *circuit.Work
	h         []circuit.Health
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

// twoWindings reports whether it shows how many windings a shift solenoid has: while its
// contact is open and it is fed.
func (a *Space) twoWindings(h []circuit.Health) bool {
	coil, _ := a.Net.Solenoid()
	return coil >= 0 && !h[coil].Open
}

func (a *Space) keepCell(d int, c cell) {
	a.diags[d].cells = append(a.diags[d].cells, len(a.cells))
	a.cells = append(a.cells, c)
}

func (a *Space) newSolver() *solver {
	return &solver{a: a, w: a.Net.NewWork(), h: a.Net.SoundAll(), dv: make([]float64, len(a.C.Nodes)),
		dw: make([]float64, len(a.unc)), dgood: make([]float64, len(a.unc)), good: a.Net.SoundAll()}
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
func (a *Space) phased(state int) bool {
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
	s.heal(c, theta, sev)
	if !a.C.States[state].Powered() {
		return // ohms are computed when asked for
	}
	s.solve(state, c.phase, theta, s.h)
	w := s.w
	l.chat = c.phase == chatter && a.phased(state) || c.phase == settle && w.Chatter
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
	wSpeed := s.latent(l, state, c.phase)
	running := a.C.States[state].Supply == "running" || a.C.States[state].Supply == "mains"
	if running {
		if derivatives {
			s.differences(l, state, c, theta, sev)
		}
		return
	}
	if derivatives {
		w.Linearize()
		q := a.q
		dw := s.dw[:len(a.unc)]
		for u, p := range a.unc {
			f := a.scale[u]
			if a.isLog[u] {
				f *= theta[p]
			}
			dw[u] = 0
			if w.DV(s.dv, p) {
				for i, d := range s.dv {
					l.jv[i*q+u] = float32(d * f)
				}
				for k := range w.I {
					if a.C.Stations[k].From != "" {
						l.ji[k*q+u] = float32(w.DI(k, p, s.dv) * f)
					}
				}
				if wSpeed > 0 {
					dw[u] = w.DW(p, s.dv) * f / wSpeed
				}
			}
		}
		mix(a, dw)
		for row := range slices.Chunk(l.jv, q) {
			mix(a, row)
		}
		for row := range slices.Chunk(l.ji, q) {
			mix(a, row)
		}
	}
	l.alt, l.altI = nil, nil
	if l.chat {
		s.w.SolvePhase(state, theta, s.h, true)
		s.either(l)
		wSpeed = s.w.Motor.W
	}
	// Speed is judged against what the same values would give without the fault.
	ref := a.reference(state)
	s.w.PullIn = 0
	s.w.Solve(ref, theta, s.good)
	l.ratio = wSpeed / math.Max(s.w.Motor.W, 1e-9)
	if derivatives {
		// The good machine moves with the same values: what is left is how far the
		// share of its speed is uncertain.
		good := a.dspin[ref]
		if &theta[0] != &a.theta[0] && s.w.Motor.W > a.still() {
			good = s.speedSlopes(theta)
		}
		if l.dr == nil {
			l.dr = make([]float64, a.q)
		}
		for u, d := range s.dw {
			l.dr[u] = (d - good[u]) * l.ratio
		}
	}
	wGood := math.Max(s.w.Motor.W, 1e-9)
	if !derivatives {
		return
	}
	if c.windings && !l.chat {
		s.coilSlope(l, state, c, theta, sev)
	}
	// Severity: a one-sided difference, a tenth of the grid's half-width.
	for k, f := range a.diags[c.diag].faults {
		wd := c.width[k]
		if wd == 0 || l.chat {
			continue
		}
		sv := sev
		sv[k] = shift(a.Model.ScaleOf(f), sev[k], 0.1*wd)
		s.heal(c, theta, sv)
		s.solve(state, c.phase, theta, s.h)
		u := len(a.unc) + k
		for i, v := range s.w.V {
			l.jv[i*a.q+u] = float32((v - float64(l.v[i])) / 0.1)
		}
		for i, x := range s.w.I {
			l.ji[i*a.q+u] = float32((x - float64(l.i[i])) / 0.1)
		}
		l.dr[u] = (s.w.Motor.W/wGood - l.ratio) / 0.1
	}
	l.rsd = norm(l.dr)
}

// coilSlope replaces the slopes by the ohms of a solenoid with two windings, which stand in
// two places of the network, by one-sided differences.
func (s *solver) coilSlope(l *linear, state int, c *cell, theta []float64, sev [2]float64) {
	a := s.a
	coil, _ := a.Net.Solenoid()
	for u, p := range a.unc {
		if pr := a.Net.Params[p]; pr.Station != coil || pr.Name != "resistance" {
			continue
		}
		const step = 0.1
		th := slices.Clone(theta)
		th[p] *= math.Exp(step * a.scale[u])
		s.heal(c, th, sev)
		s.solve(state, c.phase, th, s.h)
		for i, v := range s.w.V {
			l.jv[i*a.q+u] = float32((v - float64(l.v[i])) / step)
		}
		for k, x := range s.w.I {
			l.ji[k*a.q+u] = float32((x - float64(l.i[k])) / step)
		}
	}
}

// either makes a solved state wide enough for the one that stands in the solver besides:
// nobody knows in which of the two a reading is taken.
func (s *solver) either(l *linear) {
	l.alt, l.altI = make([]float32, len(l.v)), make([]float32, len(l.i))
	for i, v := range s.w.V {
		l.alt[i] = float32(v - float64(l.v[i]))
		l.v[i] = float32((v + float64(l.v[i])) / 2)
	}
	for k, x := range s.w.I {
		l.altI[k] = float32(math.Abs(x - float64(l.i[k])))
		l.i[k] = float32((x + float64(l.i[k])) / 2)
	}
}

// overloaded returns the driver that carries more than its share where a machine is asked
// to work, -1 where none does.
func (a *Space) overloaded(w *circuit.Work, theta []float64, h []circuit.Health) int {
	for k := range a.C.Stations {
		if a.C.Stations[k].Kind != circuit.Driver || h[k].Force != circuit.AsCommanded {
			continue
		}
		for _, st := range a.asked {
			w.Solve(st, theta, h)
			if w.Closed[k] && math.Abs(w.I[k]) > a.assumed.Prior.Overload*math.Max(a.Model.Normal[k], 0.1) {
				return k
			}
		}
	}
	return -1
}

// heal sets the solver's stations to what is wrong with them in a cell.
func (s *solver) heal(c *cell, theta []float64, sev [2]float64) {
	s.w.PullIn = 0
	if c.windings {
		s.w.PullIn = s.a.assumed.Prior.PullInShare
	}
	s.a.health(s.h, theta, c.diag, sev)
	for k := range s.a.C.Stations {
		if s.a.C.Stations[k].Kind != circuit.Driver {
			continue
		}
		switch c.guarded {
		case trips:
			s.h[k].Force = circuit.ForcedOpen
		case limits:
			s.h[k].Extra += s.a.C.NominalVoltage / (s.a.assumed.Prior.Limit * math.Max(s.a.Model.Normal[k], 0.1))
		}
	}
}

func norm(x []float64) float64 {
	s := 0.0
	for _, v := range x {
		s += v * v
	}
	return math.Sqrt(s)
}

// speedSlopes returns ∂ln(speed) per standard deviation of each uncertain value at
// the point solved last.
func (s *solver) speedSlopes(theta []float64) []float64 {
	a, w := s.a, s.w
	w.Linearize()
	for u, p := range a.unc {
		f := a.scale[u]
		if a.isLog[u] {
			f *= theta[p]
		}
		s.dgood[u] = 0
		if w.DV(s.dv, p) {
			s.dgood[u] = w.DW(p, s.dv) * f / w.Motor.W
		}
	}
	mix(a, s.dgood)
	return s.dgood
}

// latent fills in what words are answered from, after a solve, and returns the
// motor's speed.
func (s *solver) latent(l *linear, state int, ph phase) float64 {
	a, w := s.a, s.w
	l.fed, l.spin = w.Fed, w.Motor.W > a.still()
	l.pull, l.coilV = false, 0
	for k := range a.C.Stations {
		st := &a.C.Stations[k]
		if st.ClosedBy != "" {
			coil := a.C.StationIndex(st.ClosedBy)
			l.coilV = w.CoilVolts(coil)
			l.pull = a.phased(state) && !s.h[coil].NoPull && !s.h[coil].Open && (ph == closed ||
				ph == settle && l.coilV >= a.theta[a.Net.ParamIndex(coil, "pull_in")])
		}
		if len(st.Guards) > 0 {
			x, y := a.C.NodeIndex(st.From), a.C.NodeIndex(st.Returns)
			keyed := true
			for i := range st.Guards {
				if g := &st.Guards[i]; g.Kind == "closed" && !g.Code {
					keyed = w.Closed[a.C.StationIndex(g.Station)]
				}
			}
			l.live = keyed && a.C.States[state].Supply == "battery" && w.V[x]-w.V[y] > 0.6*a.C.NominalVoltage
			_, code := w.Guarded(k)
			l.trip = l.live && code
		}
	}
	if a.C.States[state].Supply == "mains" {
		t := w.StartTorque()
		s.good = s.good[:len(s.h)]
		th := w.Theta()
		w.Solve(state, th, s.good)
		l.start = t / math.Max(w.StartTorque(), 1e-9)
		w.Solve(state, th, s.h)
	}
	return w.Motor.W
}

// differences fills in the derivatives of a running state, where the network is
// small, by finite differences.
func (s *solver) differences(l *linear, state int, c *cell, theta []float64, sev [2]float64) {
	a := s.a
	th := slices.Clone(theta)
	for u, p := range a.unc {
		const step = 0.05
		if a.isLog[u] {
			th[p] = theta[p] * math.Exp(step*a.scale[u])
		} else {
			th[p] = theta[p] + step*a.scale[u]
		}
		s.w.Solve(state, th, s.h)
		for i, v := range s.w.V {
			l.jv[i*a.q+u] = float32((v - float64(l.v[i])) / step)
		}
		th[p] = theta[p]
	}
	for row := range slices.Chunk(l.jv, a.q) {
		mix(a, row)
	}
	for k, f := range a.diags[c.diag].faults {
		if c.width[k] == 0 {
			continue
		}
		sv := sev
		sv[k] = shift(a.Model.ScaleOf(f), sev[k], 0.1*c.width[k])
		s.heal(c, theta, sv)
		s.w.Solve(state, theta, s.h)
		for i, v := range s.w.V {
			l.jv[i*a.q+len(a.unc)+k] = float32((v - float64(l.v[i])) / 0.1)
		}
	}
	s.heal(c, theta, sev)
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
