package proof

import (
	"math"
	"slices"
	"sort"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/choice"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/readings"
	"corriente/core/diagnose/words"
	"corriente/core/unit"
)

// Check is a reading or look that would show a repair to be good.
type Check struct {
	Measure string          `json:"measure,omitempty"`
	Observe string          `json:"observe,omitempty"`
	State   string          `json:"state"`
	From    string          `json:"from,omitempty"`
	To      string          `json:"to,omitempty"`
	Through string          `json:"through,omitempty"`
	Why     string          `json:"why"`
	Good    *readings.Range `json:"good,omitempty"`    // the band for this vehicle, SI
	GoodOL  bool            `json:"good_ol,omitempty"` // good shows OL
	Want    string          `json:"want,omitempty"`    // the word a good one answers
	Alike   bool            `json:"alike,omitempty"`   // the phases must agree within 5 % as well
	Before  *int            `json:"before,omitempty"`  // index of the evidence taken before, from 0
	After   *int            `json:"after,omitempty"`   // and of the last taken after the repair
	Passed  *bool           `json:"passed,omitempty"`  // null while it was not taken after
	bits    float64         // how much the one before accused the part
	slack   float64         // what the meter may show beside a band that ends at zero, SI
}

// MostChecks is how many a proof asks for: enough to show it, few enough to be done.
const MostChecks = 6

// sure is how many standard deviations wide a band is on either side.
const sure = 2.2

// tellsApart is how surely a reading must tell a mended part from a bad one to be asked
// for: the share of bad ones that it would show.
const tellsApart = 0.5

// Checks names the few checks that would show the work on the stations to be good: the
// machine does what it was said not to do; what convicted the parts reads as on a good
// machine; and what else tells these parts good from bad, with the motor's volts and
// amperes under load where there is room. op is what the evidence before the repair
// amounted to; after is what came since.
//
// The bands are those of a good machine of this kind with this vehicle's own values. What
// the readings taught of the parts that were bad is left out: the new ones are others.
func Checks(op *explain.Opinion, stations []string, after []casefile.Evidence) []Check {
	a := op.Reasoner
	p := proofPlan{op: op, a: a, good: a.GoodCircuit(&belief.Posterior{}), stations: stations, have: map[string]bool{}}
	p.sight()
	p.complained()
	p.purpose()
	p.charges()
	p.phases()
	p.convicted()
	p.telling()
	p.loaded()
	out := p.out[:min(len(p.out), MostChecks)]
	for i := range out {
		out[i].settle(after)
	}
	agree(out, after)
	return out
}

// unbalance is how far one phase may lie from the mean of the three, of that mean: NEMA
// MG 1 counts it so; five in a hundred is common practice for windings.
const unbalance = 0.05

// phases asks, where a winding was worked on, for the volts of all three: one by itself
// tells little, and their agreement much.
func (p *proofPlan) phases() {
	if !slices.ContainsFunc(p.stations, func(id string) bool { return p.a.C.Station(id).Kind == circuit.Winding }) {
		return
	}
	for _, e := range choice.Candidates(p.a) {
		if e.Measure == unit.ACVoltage && !choice.Unreachable(p.a, &e, p.op.Job.Known.Unreachable) {
			p.add(Check{Measure: string(e.Measure), State: e.State, From: e.From, To: e.To, Why: "the three phases alike", Alike: true})
		}
	}
}

// agree fails the phase that lies furthest from the mean of the three.
func agree(cs []Check, after []casefile.Evidence) {
	sum, n := 0.0, 0
	for i := range cs {
		if k := cs[i].After; cs[i].Alike && k != nil && !after[*k].Reading.Over {
			sum, n = sum+after[*k].Reading.Value, n+1
		}
	}
	if n < 3 {
		return
	}
	worst, at := unbalance*sum/float64(n), -1
	for i := range cs {
		if k := cs[i].After; cs[i].Alike && k != nil {
			if d := math.Abs(after[*k].Reading.Value - sum/float64(n)); d > worst {
				worst, at = d, i
			}
		}
	}
	if at >= 0 {
		cs[at].Passed = new(false)
	}
}

// proofPlan is a proof as it is put together.
type proofPlan struct {
	op       *explain.Opinion
	a        *belief.Reasoner
	good     *belief.GoodCircuit
	stations []string
	out      []Check
	have     map[string]bool

	cells []int // the parts good, then bad in each way they can be
	w     []float64
	lins  map[[2]int]*cells.Solved
	s     *cells.Solver
}

// add puts a check on the list once, with what a good machine shows; not where no good
// machine shows anything certain.
func (p *proofPlan) add(c Check) bool {
	e := c.Evidence()
	k := choice.AskKey(p.a, &e)
	for n := range p.op.Job.Evidence {
		if was := &p.op.Job.Evidence[n]; c.Before == nil && !was.Struck && Same(was, &c) {
			c.Before = new(n)
		}
	}
	if p.have[k] || !Band(p.op, &c, p.good) {
		return false
	}
	if outside(p.op, &c) && c.Observe == "" {
		c.Why = "it convicted the part"
	}
	p.have[k] = true
	p.out = append(p.out, c)
	return true
}

// functional reports whether a look says that the machine does its work.
func functional(o *circuit.Observation) bool {
	return slices.Contains([]string{"turning", "speed", "moves", "starts", "differs", "runs_on"}, o.Model)
}

// working reports whether a state asks the machine to work.
func working(a *belief.Reasoner, state string) bool {
	st := a.C.State(state)
	return st != nil && !st.Hidden && (st.Supply == "battery" || st.Supply == "mains" || st.Supply == "running") && len(st.Sound) == 0
}

// complained asks again for what the machine was seen not to do, in the state it was seen
// in.
func (p *proofPlan) complained() {
	for i := range p.op.Job.Evidence {
		e := &p.op.Job.Evidence[i]
		o := p.a.C.Observation(e.Observe)
		if e.Struck || o == nil || !functional(o) || !working(p.a, e.State) || len(p.out) >= 2 {
			continue
		}
		c := Check{Observe: e.Observe, State: e.State, Through: e.Through, Why: "as it was complained of"}
		if Band(p.op, &c, p.good) && c.Want != e.Outcome {
			p.add(c)
		}
	}
}

// sight prepares what tells these parts good from bad: a good machine, and one with each
// fault that they can have, at a middling severity.
func (p *proofPlan) sight() {
	p.s, p.lins = p.a.NewSolver(), map[[2]int]*cells.Solved{}
	share := map[string]float64{}
	for _, d := range p.op.Diagnoses {
		for _, f := range d.Faults {
			share[f] += d.Probability
		}
	}
	for _, k := range p.a.Middles() {
		fs := p.a.Diags[p.a.Cells[k].Diagnosis].Faults
		switch {
		case len(fs) == 0:
			p.cells, p.w = slices.Insert(p.cells, 0, k), slices.Insert(p.w, 0, 0.0)
		case slices.Contains(p.stations, fs[0].Station):
			// What the evidence made of it, and a little for what it had no eye for.
			p.cells, p.w = append(p.cells, k), append(p.w, share[fs[0].String()]+0.02)
		}
	}
	total := 0.0
	for _, x := range p.w {
		total += x
	}
	for i := range p.w {
		p.w[i] /= max(total, 1e-9)
	}
}

func (p *proofPlan) at(cell int) func(state int) *cells.Solved {
	return func(state int) *cells.Solved {
		l := p.lins[[2]int{cell, state}]
		if l == nil {
			l = &cells.Solved{}
			p.s.Linearize(l, state, p.a.AtNominal(cell))
			p.lins[[2]int{cell, state}] = l
		}
		return l
	}
}

// apart is the share of bad parts that a reading or look would tell from good ones, 0..1.
func (p *proofPlan) apart(e *casefile.Evidence) float64 {
	if len(p.cells) < 2 {
		return 0
	}
	sum := 0.0
	if o := p.a.C.Observation(e.Observe); o != nil {
		words := func(k int) []float64 {
			c := &p.a.Cells[k]
			x := words.Observed{Space: p.a.Space, Look: o, Through: e.Through, Cell: c,
				Faults: p.a.Diags[c.Diagnosis].Faults, Severity: c.Severity, SolvedIn: p.at(k)}
			return x.Outcomes(p.a.Net.StatePos(e.State))
		}
		good := words(p.cells[0])
		for i := 1; i < len(p.cells); i++ {
			d := 0.0
			for n, x := range words(p.cells[i]) {
				d += math.Abs(x-good[n]) / 2
			}
			sum += p.w[i] * d
		}
		return sum
	}
	r := readings.Prepare(p.a.Space, e, choice.MeterAtHand(p.a, e, p.op.Job), 0)
	pr := readings.Predicted{Slopes: make([]float64, p.a.Values)}
	cast := func(k int) choice.Forecast {
		v := choice.View{Sc: belief.AtNominal(p.a.Space, k), Lin: make([]*cells.Solved, len(p.a.C.States))}
		if p.a.C.States[r.State].Powered() {
			v.Lin[r.State] = p.at(k)(r.State)
		}
		return choice.Foresee(p.a, &r, &v, p.s, &pr)
	}
	good := cast(p.cells[0])
	for i := 1; i < len(p.cells); i++ {
		f := cast(p.cells[i])
		switch {
		case f.Open != good.Open:
			sum += p.w[i]
		case !f.Open:
			d := (f.Mean - good.Mean) / math.Hypot(f.SD, good.SD)
			sum += p.w[i] * (1 - math.Exp(-d*d/8))
		}
	}
	return sum
}

// purpose asks for what these parts are there for: of the looks that say that the machine
// does its work, the one that a bad part shows in, in whatever state that is.
func (p *proofPlan) purpose() {
	best, most := Check{}, 0.25
	run := Check{}
	for i := range p.a.C.Observations {
		o := &p.a.C.Observations[i]
		if !functional(o) || unreachableLook(p.a, o, p.op.Job) {
			continue
		}
		for _, state := range o.States {
			if !working(p.a, state) {
				continue
			}
			c := Check{Observe: o.ID, State: state, Why: "it does its work"}
			if state == p.a.C.RunState && run.Observe == "" {
				run = c
			}
			e := c.Evidence()
			if d := p.apart(&e); d > most+1e-9 {
				best, most = c, d
			}
		}
	}
	if best.Observe != "" {
		p.add(best)
	}
	if len(p.out) == 0 && run.Observe != "" {
		p.add(run)
	}
}

// charges asks, where an engine runs the circuit, for the volts that it charges with.
func (p *proofPlan) charges() {
	if st := p.a.C.State(p.a.C.RunState); st != nil && st.Supply == "running" && st.CanRead("voltage") {
		if b := p.a.Net.BatteryStation(); b >= 0 {
			s := &p.a.C.Stations[b]
			p.add(Check{Measure: string(unit.Voltage), State: st.ID, From: "bat_pos", To: Other(s, "bat_pos"),
				Why: "the battery is charged"})
		}
	}
}

// Other is the node at the other end of a station.
func Other(s *circuit.Station, node string) string {
	if s.From == node {
		return s.To
	}
	return s.From
}

// unreachableLook reports whether a job says that a look cannot be had.
func unreachableLook(a *belief.Reasoner, o *circuit.Observation, j *belief.Job) bool {
	return slices.Contains(j.Known.Unreachable, o.ID) || o.Access != "" && slices.Contains(j.Known.Unreachable, o.Access)
}

// convicted asks again for what pointed to these parts most.
func (p *proofPlan) convicted() {
	job := p.op.Job
	var seen []Check
	for i := range job.Evidence {
		e := &job.Evidence[i]
		st := p.a.C.State(e.State)
		if e.Struck || i >= len(p.op.Result.Evidence) || st == nil || e.Measure != "" && !st.CanRead(string(e.Measure)) {
			continue
		}
		n := i
		c := Check{Measure: string(e.Measure), Observe: e.Observe, State: e.State, From: e.From, To: e.To,
			Through: e.Through, Before: &n, Why: "it convicted the part"}
		c.bits = Accused(p.op, i, p.stations...)
		if e.Observe == circuit.SwapHelps || slices.Contains(Stripped(p.a.C), e.Observe) || c.bits < 0.2 {
			continue
		}
		if slices.Contains([]string{"smell", "connector", "tap_helps"}, e.Observe) { // these say what was, not what is
			continue
		}
		seen = append(seen, c)
	}
	sort.SliceStable(seen, func(i, j int) bool { return seen[i].bits > seen[j].bits })
	for _, c := range seen[:min(len(seen), 3)] {
		p.add(c)
	}
}

// leastShare is the probability that an explanation must have kept for what spoke for it to
// count.
const leastShare = 0.05

// Accused is how much a piece of evidence, by its index from 0, spoke for one of some parts
// being at fault: the most bits it gave an explanation with one of them in it that is still
// likely.
func Accused(op *explain.Opinion, i int, stations ...string) float64 {
	most := 0.0
	if i >= len(op.Result.Evidence) {
		return 0
	}
	for _, d := range op.Diagnoses {
		if d.Probability < leastShare || !slices.ContainsFunc(d.Faults, func(f string) bool {
			station, _, _ := strings.Cut(f, ".")
			return slices.Contains(stations, station)
		}) {
			continue
		}
		most = max(most, op.Result.Evidence[i].Bits[strings.Join(d.Faults, "+")])
	}
	return most
}

// telling asks for the readings that tell these parts good from bad most surely, in
// circuit before out of it.
func (p *proofPlan) telling() {
	type worth struct {
		c Check
		d float64
	}
	var ws []worth
	for _, e := range choice.Candidates(p.a) {
		if e.Observe != "" || choice.Unreachable(p.a, &e, p.op.Job.Known.Unreachable) ||
			slices.Contains(p.op.Job.Known.Without, string(e.Measure)) || !p.touches(&e) {
			continue
		}
		if d := p.apart(&e); d >= tellsApart/2 {
			if !working(p.a, e.State) { // what is back in place is not taken apart again where need not be
				d *= 0.8
			}
			ws = append(ws, worth{Check{Measure: string(e.Measure), State: e.State, From: e.From, To: e.To,
				Through: e.Through, Why: "it tells a good part from a bad one"}, d})
		}
	}
	sort.SliceStable(ws, func(i, j int) bool { return ws[i].d > ws[j].d+1e-9 })
	n := 0
	for _, w := range ws {
		// One that tells less is asked for only where nothing tells more.
		if n < 2 && (w.d >= tellsApart || len(p.out) < 3) && p.add(w.c) {
			n++
		}
	}
}

// touches reports whether a reading is taken at these parts, at the motor or, with the
// engine running, at the battery.
func (p *proofPlan) touches(e *casefile.Evidence) bool {
	for _, id := range p.stations {
		s := p.a.C.Station(id)
		if s.Kind == circuit.Winding || s.Kind == circuit.Rectifier { // wye's middle is out of reach: against the others
			if slices.Contains([]string{e.From, e.To}, s.From) || slices.Contains([]string{e.From, e.To}, s.To) {
				return true
			}
		}
		if e.Through == id || e.Through == "" && (e.From == s.From && e.To == s.To || e.From == s.To && e.To == s.From) {
			return true
		}
	}
	return false
}

// loaded asks for the motor's own volts and amperes at work.
func (p *proofPlan) loaded() {
	run := p.a.C.RunState
	st := p.a.C.State(run)
	if st == nil || !st.Powered() || !st.CanRead("voltage") || st.Supply != "battery" {
		return
	}
	for _, id := range p.stations {
		if s := p.a.C.Station(id); s.From != "" && s.To != "" && !hidden(p.a, s.From, s.To) &&
			s.Kind != circuit.Motor && p.a.Net.Present(p.a.Net.StatePos(run), p.a.C.StationIndex(id)) && p.carries(run, id) {
			p.add(Check{Measure: string(unit.Voltage), State: run, From: s.From, To: s.To, Why: "the work was done here, under load"})
		}
	}
	if k := p.a.Net.MotorStation(); k >= 0 {
		m := &p.a.C.Stations[k]
		from, to := m.From, m.To
		if plus, minus := choice.Terminals(p.a); plus >= 0 { // where a probe gets at it
			from, to = p.a.C.Nodes[plus].ID, p.a.C.Nodes[minus].ID
		}
		if !hidden(p.a, from, to) {
			p.add(Check{Measure: string(unit.Voltage), State: run, From: from, To: to, Why: "what arrives at the motor"})
		}
		if !slices.Contains(p.op.Job.Known.Without, string(unit.Current)) {
			p.add(Check{Measure: string(unit.Current), State: run, Through: m.ID, Why: "what the motor draws"})
		}
	}
}

// hidden reports whether one of some nodes is out of a probe's reach.
func hidden(a *belief.Reasoner, nodes ...string) bool {
	return slices.ContainsFunc(nodes, func(id string) bool { n := a.C.Node(id); return n == nil || n.Hidden })
}

// carries reports whether a station carries current in a state of a good machine.
func (p *proofPlan) carries(state, station string) bool {
	l := p.at(p.cells[0])(p.a.Net.StatePos(state))
	x := words.Observed{Space: p.a.Space, Cell: &p.a.Cells[p.cells[0]]}
	return x.Amps(l, p.a.C.StationIndex(station)) > 0.02
}

// settle fills in what was taken after the repair.
func (c *Check) settle(after []casefile.Evidence) {
	for n := range after {
		if e := &after[n]; !e.Struck && Same(e, c) {
			k := n
			c.After = &k
		}
	}
	if k := c.After; k != nil {
		ok := c.holds(&after[*k])
		c.Passed = &ok
	}
}

// Stripped lists the observations that are made inside a motor which is apart.
func Stripped(c *circuit.Circuit) []string {
	var out []string
	for _, o := range c.Inside() {
		out = append(out, o.ID)
	}
	return out
}

// Evidence is the question as a piece of evidence without its answer.
func (c *Check) Evidence() casefile.Evidence {
	return casefile.Evidence{Measure: unit.Measure(c.Measure), Observe: c.Observe, State: c.State, From: c.From,
		To: c.To, Through: c.Through}
}

// Same reports whether a piece of evidence is this check, its probes either way round.
func Same(e *casefile.Evidence, c *Check) bool {
	if string(e.Measure) != c.Measure || e.Observe != c.Observe || e.State != c.State || e.Through != c.Through {
		return false
	}
	return e.From == c.From && e.To == c.To || e.From == c.To && e.To == c.From
}

// holds reports whether what was taken lies in the band.
func (c *Check) holds(e *casefile.Evidence) bool {
	switch {
	case c.Observe != "":
		return e.Outcome == c.Want
	case e.Reading.Over || c.GoodOL:
		return e.Reading.Over == c.GoodOL
	case c.Good == nil:
		return false
	}
	v := e.Reading.Value
	if e.From != "" && e.From == c.To && e.To == c.From && e.Measure != unit.Resistance {
		v = -v
	}
	return v >= c.Good.Low-c.slack && v <= c.Good.High+c.slack
}

// Band fills in what a good circuit of this vehicle shows; false where that is nothing
// certain: no band is asked for where none can be.
func Band(op *explain.Opinion, c *Check, good *belief.GoodCircuit) bool {
	a := op.Reasoner
	if c.Observe != "" {
		o := a.C.Observation(c.Observe)
		x := &words.Observed{Space: a.Space, Look: o, Cell: &a.Cells[0], SolvedIn: good.At}
		best := -1.0
		for i, p := range x.Outcomes(a.Net.StatePos(c.State)) {
			if p > best {
				best, c.Want = p, o.Outcomes[i].ID
			}
		}
		return best > certain
	}
	e := c.Evidence()
	r := readings.Prepare(a.Space, &e, choice.MeterAtHand(a, &e, op.Job), 0)
	m, sd, open := good.Expect(&r)
	if open {
		c.GoodOL = true
		return true
	}
	// The meter's own error at that value belongs to the band.
	sd = math.Hypot(sd, r.Acc.Sigma(m))
	lo, hi := m-sure*sd, m+sure*sd
	s := a.C.Station(c.Through)
	if e.Measure == unit.Resistance || e.Measure == unit.Voltage && len(a.Between(c.State, c.From, c.To)) == 1 && s == nil {
		// The sign is known; about zero the meter's own error may show the other.
		c.slack = sure * r.Acc.Sigma(0)
		if m < 0 {
			hi = math.Min(hi, 0)
		} else {
			lo = math.Max(lo, 0)
		}
	}
	c.Good = new(readings.Possible(a.Space, e.Measure, lo, hi, readings.Direction(e.Measure, m)))
	if e.Measure == unit.Voltage && c.Good.High-c.Good.Low > vague*a.C.NominalVoltage {
		return false
	}
	if e.Measure == unit.Current && c.Good.High > manifold*math.Max(c.Good.Low, 0) && !outside(op, c) {
		return false
	}
	return !math.IsInf(c.Good.High, 0) && c.Good.High > c.Good.Low
}

// manifold is how many times its lower end a band of amperes may reach and still be one: what
// an engine or a pump takes differs that much from machine to machine, and a band beyond it
// would pass anything.
const manifold = 5

// outside reports whether what was read before lies outside a band: then it tells, however
// wide it is.
func outside(op *explain.Opinion, c *Check) bool {
	return c.Before != nil && !c.holds(&op.Job.Evidence[*c.Before])
}

// certain is how probable the commonest answer to a look must be on a good machine for a
// repair to be judged by it: one good relay in a few is not heard.
const certain = 0.8

// vague is how wide a band of volts may be, of the nominal voltage, to be one.
const vague = 0.6
