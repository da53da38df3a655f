package cells

import (
	"fmt"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"

	"corriente/core/circuit"
	"corriente/core/diagnose/assume"
	"corriente/core/fault"
)

// phase is what a cell assumes of the contacts that coils drive.
type phase uint8

const (
	settle  phase = iota // as the coil decides
	open                 // forced: the coil does not reach its pull-in
	closed               // forced: the coil pulls in and holds
	Chatter              // between the two
)

// Cell is a diagnosis at one severity.
type Cell struct {
	Diagnosis int
	Severity  [2]float64 // severity of each fault
	Width     [2]float64 // half spacing of the grid; logarithmic or linear as the scale says
	LogPrior  float64
	Phase     phase
	Guarded   guarding
	Ways      [3]int // of a cell whose driver wavers: the same with one that trips, and with those that limit
	Windings  bool   // a shift solenoid has a pull-in winding that returns through the motor
	Unwatched bool   // a driver's own checks do not work
	Charged   bool   // a float charger that nobody mentioned stands across the battery
}

// guarding is what a module or a controller does on more current than its own.
type guarding uint8

const (
	carries    guarding = iota // it carries it
	Trips                      // it switches itself off
	limits                     // it lets no more through than its limit, a low one
	limitsHigh                 // the same, a high one
	Wavers                     // now the one and now the other, from try to try
)

// Diagnosis is a set of faults: none, one or two.
type Diagnosis struct {
	Faults []fault.Fault
	Class  int // station set
	Cells  []int
	prior  float64
}

// Space is what can be wrong with one circuit with fixed parameters: every diagnosis, cut into
// cells, each solved in every state it is asked for. It is safe for concurrent use; what it
// computes once per state is kept.
type Space struct {
	C     *circuit.Circuit
	Net   *circuit.Network
	Model *fault.Model

	Assumed *assume.Table

	Theta     []float64
	Uncertain []int     // uncertain parameters, indices into Net.Params
	Scale     []float64 // one standard deviation, SI or logarithmic
	IsLog     []bool
	Alike     []Alike     // groups of uncertain values of parts made alike
	Tries     []float64   // per uncertain value: how far a try moves it, standard deviations
	Values    int         // uncertain values and two severities
	Run       int         // run state
	Asked     []int       // states in which the machine is asked to do its work
	Spin      []float64   // rad/s of a good motor at nominal values, per state
	Moves     []bool      // states in which a good motor turns
	dspin     [][]float64 // per state: ∂ln(speed of a good motor) per standard deviation of each uncertain value
	charger   []float64   // nominal values with a charger present; nil: it is known
	Diags     []Diagnosis
	Cells     []Cell
	BasePrior []float64 // log prior of each cell, nothing known
	Classes   []string  // "" is nothing wrong; a pair is "a+b"
	clsOf     map[string]int
	banks     []*Bank
	solved    atomic.Int64
}

// Bytes is about how much the cells that were solved so far take, bytes.
func (a *Space) Bytes() int { return int(a.solved.Load()) }

// Bank holds the cells of one state at their nominal values, each solved when it is first asked for: most are
// ruled out by readings in another state before anybody asks. It is safe for concurrent use.
type Bank struct {
	a     *Space
	state int
	empty *Solved // of every cell, in a state without a supply
	cells []atomic.Pointer[Solved]
}

// At returns a cell solved, which is not to be changed; s is the caller's solver.
func (b *Bank) At(s *Solver, cell int) *Solved {
	if b.empty != nil {
		return b.empty
	}
	if l := b.cells[cell].Load(); l != nil {
		return l
	}
	l := &Solved{}
	s.Linearize(l, b.state, b.a.AtNominal(cell))
	if b.cells[cell].CompareAndSwap(nil, l) { // or another was quicker; both found the same
		b.a.solved.Add(int64(l.bytes()))
		return l
	}
	if other := b.cells[cell].Load(); other != nil {
		return other
	}
	return l // emptied meanwhile
}

// New lists what can be wrong with a circuit.
func New(c *circuit.Circuit, t *assume.Table) (*Space, error) {
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
	a := &Space{C: c, Net: net, Model: m, Assumed: t, Theta: net.Nominal(), Run: net.StatePos(c.RunState), clsOf: map[string]int{}}
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
			a.Uncertain, a.Scale, a.IsLog = append(a.Uncertain, p), append(a.Scale, prm.SD), append(a.IsLog, false)
		case prm.Alike != "" && prm.Spread > 0 && prm.Value > 0:
			key := pr.Name + " " + prm.Alike
			i := slices.IndexFunc(a.Alike, func(g Alike) bool { return g.key == key })
			if i < 0 {
				i, a.Alike = len(a.Alike), append(a.Alike, Alike{key: key, Own: prm.Spread, Common: prm.Common})
			}
			a.Alike[i].U = append(a.Alike[i].U, len(a.Uncertain))
			a.Uncertain, a.Scale, a.IsLog = append(a.Uncertain, p), append(a.Scale, 1), append(a.IsLog, true)
		case prm.Spread > 0 && prm.Value > 0:
			a.Uncertain, a.Scale, a.IsLog = append(a.Uncertain, p), append(a.Scale, prm.Spread), append(a.IsLog, true)
		}
	}
	a.Values = len(a.Uncertain) + 2
	a.discrepancies()
	w := a.Net.NewWork()
	for i := range c.States {
		speed := 0.0
		if c.States[i].Powered() && net.MotorStation() >= 0 {
			w.Solve(i, a.Theta, net.SoundAll())
			speed = w.Motor.W
		}
		if c.States[i].Commands || i == a.Run {
			a.Asked = append(a.Asked, i)
		}
		a.Spin, a.Moves = append(a.Spin, speed), append(a.Moves, speed > a.still())
	}
	a.goodSpeeds(w)
	a.enumerate(w)
	for i := range c.States {
		b := &Bank{a: a, state: i}
		if c.States[i].Powered() {
			b.cells = make([]atomic.Pointer[Solved], len(a.Cells))
		} else {
			b.empty = &Solved{}
			a.room(b.empty)
		}
		a.banks = append(a.banks, b)
	}
	return a, nil
}

// still is the speed, rad/s, below which a motor is taken to stand: what leaks through an open
// does not count as turning.
func (a *Space) still() float64 {
	if m := a.Net.MotorStation(); m >= 0 {
		return a.Assumed.Prior.Still * a.C.Stations[m].Params["rated_speed"].Value
	}
	return 0
}

// reference is the state whose good speed another state's is judged by: its own
// where a good motor turns in it, else that of the run state.
func (a *Space) reference(state int) int {
	if a.Moves[state] {
		return state
	}
	return a.Run
}

// nominal is the parameter vector a cell starts from.
func (a *Space) nominal(c *Cell) []float64 {
	if c.Charged {
		return a.charger
	}
	return a.Theta
}

// Health sets the health of every station under a diagnosis with the given severities.
func (a *Space) Health(h []circuit.Health, theta []float64, d int, sev [2]float64) {
	for i := range h {
		h[i] = circuit.Sound()
	}
	for i, f := range a.Diags[d].Faults {
		a.Model.Apply(h, theta, f, sev[i])
	}
}

// Bank returns the solved cells of a state.
func (a *Space) Bank(state int) *Bank { return a.banks[state] }

// Empty forgets what was solved, which is solved again when it is asked for.
func (a *Space) Empty() {
	for _, b := range a.banks {
		for k := range b.cells {
			if l := b.cells[k].Swap(nil); l != nil {
				a.solved.Add(-int64(l.bytes()))
			}
		}
	}
}

// Between names the stations that lie between two nodes on one path of a state,
// for words.
func (a *Space) Between(state, from, to string) []string {
	for i := range a.C.Paths {
		p := &a.C.Paths[i]
		nodes, _, ok := a.C.Walk(p, state)
		if !ok || !p.In(state) {
			continue
		}
		x, y := slices.Index(nodes, from), slices.Index(nodes, to)
		if x > y {
			x, y = y, x
		}
		if x >= 0 && y > x {
			return p.Stations[x:y]
		}
	}
	return nil
}

// InPathOf reports whether two stations lie on one path of a state.
func (a *Space) InPathOf(state, one, other string) bool {
	return slices.ContainsFunc(a.C.Paths, func(p circuit.Path) bool {
		return p.In(state) && slices.Contains(p.Stations, one) && slices.Contains(p.Stations, other)
	})
}

// Share splits work over the cores: f does every step-th piece, beginning with
// from.
func Share(n int, f func(from, step int)) {
	workers := max(1, min(8, runtime.GOMAXPROCS(0), n))
	var wg sync.WaitGroup
	for k := range workers {
		wg.Go(func() { f(k, workers) })
	}
	wg.Wait()
}

// Label writes a diagnosis for people.
func (a *Space) Label(fs []fault.Fault) string {
	if len(fs) == 0 {
		return "nothing wrong"
	}
	s := ""
	for i, f := range fs {
		if i > 0 {
			s += ", and "
		}
		s += a.C.Station(f.Station).Label + ": " + fault.Label(f.Mode)
	}
	return s
}

// Middles lists the middle cell of every single diagnosis.
func (a *Space) Middles() []int {
	var out []int
	for d := range a.Diags {
		if c := a.Diags[d].Cells; len(a.Diags[d].Faults) < 2 {
			out = append(out, c[len(c)/2])
		}
	}
	return out
}
