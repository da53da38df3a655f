package diagnose

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/meter"
	"corriente/core/phrase"
	"corriente/core/unit"
)

// Suggestion is a reading or an observation worth taking.
type Suggestion struct {
	Measure string  `json:"measure,omitempty"`
	Observe string  `json:"observe,omitempty"`
	State   string  `json:"state"`
	From    string  `json:"from,omitempty"`
	To      string  `json:"to,omitempty"`
	Through string  `json:"through,omitempty"`
	Minutes float64 `json:"minutes"`
	People  int     `json:"people"`
	Bits    float64 `json:"bits"`
	Spends  float64 `json:"spends,omitempty"` // money used up by taking it
	Because string  `json:"because"`

	right float64 // chance that the likeliest place is the right one once it is taken
	price float64 // minutes, a second person and money counted in

	Good    *Range   `json:"good,omitempty"`    // what a good circuit shows, SI
	GoodOL  bool     `json:"good_ol,omitempty"` // a good circuit shows OL
	Expects []Expect `json:"expects,omitempty"` // what the suspects predict
}

// Expect is what one suspect predicts of a reading, SI or a word.
type Expect struct {
	Station     string  `json:"station"` // "" is nothing wrong
	Probability float64 `json:"probability"`
	Low         float64 `json:"low"`
	High        float64 `json:"high"`
	OL          bool    `json:"ol,omitempty"`
	Outcome     string  `json:"outcome,omitempty"`
}

// Tells says how much a reading tells, in words: bits are for those who compute.
func Tells(bits float64) string {
	switch {
	case bits >= 0.5:
		return "much"
	case bits >= 0.1:
		return "some"
	}
	return "little"
}

// price is minutes with a second person and money counted in.
func (a *Adviser) price(minutes float64, people int, money, hourRate float64) float64 {
	if people > 1 {
		minutes *= a.assumed.Choice.SecondPerson
	}
	return minutes + money*60/hourRate
}

// samples is how many outcomes of a reading are tried in advance.
const samples = 14

// cellView is a surviving cell with a linearisation at its own best values, one
// state at a time.
type cellView struct {
	sc    *scored
	class int
	w     float64
	lin   []*linear
}

// Candidates lists every reading and every check that the circuit offers.
func (a *Adviser) Candidates() []casefile.Evidence {
	var out []casefile.Evidence
	for si := range a.C.States {
		st := &a.C.States[si]
		if st.Hidden {
			continue
		}
		switch st.Supply {
		case "none":
			out = append(out, a.ohmCandidates(si)...)
		case "running", "mains":
			out = append(out, a.runningCandidates(si)...)
		default:
			out = append(out, a.loadedCandidates(si)...)
		}
	}
	for i := range a.C.Observations {
		o := &a.C.Observations[i]
		for _, st := range o.States {
			out = append(out, casefile.Evidence{Observe: o.ID, State: st})
		}
	}
	return out
}

// pairSet collects readings between two nodes, each once.
type pairSet struct {
	a       *Adviser
	measure unit.Measure
	state   int
	seen    map[[2]int]bool
	out     []casefile.Evidence
}

func (a *Adviser) pairs(measure unit.Measure, state int) *pairSet {
	return &pairSet{a: a, measure: measure, state: state, seen: map[[2]int]bool{}}
}

func (p *pairSet) add(i, j int) {
	n := p.a.C.Nodes
	if i == j || i < 0 || j < 0 || n[i].Hidden || n[j].Hidden || p.seen[[2]int{i, j}] || p.seen[[2]int{j, i}] {
		return
	}
	p.seen[[2]int{i, j}] = true
	p.out = append(p.out, casefile.Evidence{Measure: p.measure, State: p.a.C.States[p.state].ID, From: n[i].ID, To: n[j].ID})
}

// terminals are the motor's own two terminals, -1 where no state feeds it
// direct.
func (a *Adviser) terminals() (plus, minus int) {
	for i := range a.C.States {
		if f := a.C.States[i].Feed; f != nil {
			return a.C.NodeIndex(f.Plus), a.C.NodeIndex(f.Minus)
		}
	}
	return -1, -1
}

func (a *Adviser) loadedCandidates(si int) []casefile.Evidence {
	st := &a.C.States[si]
	p := a.pairs(unit.Voltage, si)
	ground := a.C.NodeIndex(circuit.Ground)
	plus, minus := a.terminals()
	if st.Supply == "feed" {
		p.add(plus, minus)
	} else {
		for i := range a.C.Nodes {
			p.add(i, ground)
		}
		for k := range a.C.Stations {
			s := &a.C.Stations[k]
			if s.Kind.HasNodes() && s.Kind != circuit.Source && s.Kind != circuit.Charger && a.Net.Present(si, k) {
				p.add(a.Net.Ends(si, k))
			}
		}
		p.add(plus, minus)
		// The whole supply side in one reading.
		p.add(a.C.NodeIndex("bat_pos"), plus)
	}
	out := p.out
	if m := a.Net.MotorStation(); m >= 0 && a.Net.Present(si, m) {
		through := a.C.Stations[m].ID
		if st.Supply == "battery" {
			through = a.clampAt(si, through)
		}
		out = append(out, casefile.Evidence{Measure: unit.Current, State: st.ID, Through: through})
	}
	return out
}

// clampAt is where a clamp goes best in a state: round a wire of the path that
// carries the motor's current.
func (a *Adviser) clampAt(si int, through string) string {
	for _, kind := range []circuit.Kind{circuit.Wire, circuit.Joint} {
		for i := range a.C.Paths {
			p := &a.C.Paths[i]
			if !p.In(a.C.States[si].ID) || !slices.Contains(p.Stations, through) {
				continue
			}
			for _, id := range p.Stations {
				if a.C.Station(id).Kind == kind && a.Net.Present(si, a.C.StationIndex(id)) {
					return id
				}
			}
		}
	}
	return through
}

func (a *Adviser) ohmCandidates(si int) []casefile.Evidence {
	st := &a.C.States[si]
	p := a.pairs(unit.Resistance, si)
	var out []casefile.Evidence
	ends := map[[2]int][]string{}
	for k := range a.C.Stations {
		s := &a.C.Stations[k]
		switch s.Kind {
		case circuit.Source, circuit.Charger, circuit.Control, circuit.Drive, circuit.Bearing:
			continue
		}
		if !a.Net.Present(si, k) {
			continue
		}
		i, j := a.Net.Ends(si, k)
		p.add(i, j)
		ends[[2]int{i, j}] = append(ends[[2]int{i, j}], s.ID)
		if s.Second != nil {
			p.add(a.C.NodeIndex(s.Second.From), a.C.NodeIndex(s.Second.To))
		}
		if s.Kind == circuit.Winding { // against each other, and against the body
			for n := range a.C.Stations {
				if a.C.Stations[n].Kind == circuit.Winding {
					x, _ := a.Net.Ends(si, n)
					p.add(i, x)
				}
			}
			p.add(i, a.C.NodeIndex(s.Frame))
		}
		if s.Kind == circuit.Capacitor && st.CanRead("capacitance") {
			out = append(out, casefile.Evidence{Measure: unit.Capacitance, State: st.ID, From: s.From, To: s.To})
		}
	}
	plus, minus := a.terminals()
	p.add(plus, minus)
	// Two in parallel are told apart only one by one.
	for _, k := range slices.SortedFunc(maps.Keys(ends), func(x, y [2]int) int { return slices.Compare(x[:], y[:]) }) {
		if len(ends[k]) > 1 {
			for _, id := range ends[k] {
				out = append(out, casefile.Evidence{Measure: unit.Resistance, State: st.ID, Through: id})
			}
		}
	}
	return append(p.out, out...)
}

func (a *Adviser) runningCandidates(si int) []casefile.Evidence {
	st := &a.C.States[si]
	var out []casefile.Evidence
	if st.CanRead("voltage") {
		out = append(out, casefile.Evidence{Measure: unit.Voltage, State: st.ID, From: "bat_pos", To: circuit.Ground})
	}
	if st.CanRead("ac_voltage") {
		p := a.pairs(unit.ACVoltage, si)
		for k := range a.C.Stations {
			for n := range a.C.Stations {
				if a.C.Stations[k].Kind == circuit.Winding && a.C.Stations[n].Kind == circuit.Winding {
					i, _ := a.Net.Ends(si, k)
					j, _ := a.Net.Ends(si, n)
					p.add(i, j)
				}
			}
		}
		out = append(out, p.out...)
	}
	return out
}

// cost returns minutes and people for a candidate, given what is open and where
// the circuit stands.
func (a *Adviser) cost(e *casefile.Evidence, opened map[string]bool, state string) (minutes float64, people int) {
	st := a.C.State(e.State)
	people = 1
	need := map[string]bool{st.Access: true}
	if e.Observe != "" {
		o := a.C.Observation(e.Observe)
		minutes = o.Minutes
		people = max(people, o.People)
		if o.Access != "" {
			need[o.Access] = true
		}
		if s := a.C.Station(e.Through); s != nil { // what is swapped must be reached
			need[s.Access] = true
		}
	} else {
		minutes = a.assumed.Choice.Read
		for _, id := range []string{e.From, e.To} {
			if n := a.C.Node(id); n != nil {
				need[n.Access] = true
			}
		}
		if s := a.C.Station(e.Through); s != nil {
			need[s.Access] = true
		}
	}
	for g := range need {
		if !opened[g] {
			minutes += a.C.AccessMinutes[g]
		}
	}
	people = max(people, st.People)
	if e.State != state {
		minutes += st.Minutes
	}
	return minutes, people
}

// opened returns the access groups that the evidence shows to be open, and the
// state the circuit was last in.
func (a *Adviser) opened(j *Job) (map[string]bool, string) {
	open := map[string]bool{"open_air": true}
	state := ""
	for i := range j.Evidence {
		e := &j.Evidence[i]
		if e.Struck {
			continue
		}
		state = e.State
		if st := a.C.State(e.State); st != nil {
			open[st.Access] = true
		}
		for _, id := range []string{e.From, e.To} {
			if n := a.C.Node(id); n != nil {
				open[n.Access] = true
			}
		}
		if s := a.C.Station(e.Through); s != nil {
			open[s.Access] = true
		}
		if e.Observe != "" {
			if o := a.C.Observation(e.Observe); o.Access != "" {
				open[o.Access] = true
			}
		}
	}
	return open, state
}

func entropy(p []float64) float64 {
	h := 0.0
	for _, x := range p {
		if x > 0 {
			h -= x * math.Log2(x)
		}
	}
	return h
}

// Spent returns the minutes the evidence of a job has cost by the circuit's own
// figures: access once, states on entering.
func (a *Adviser) Spent(j *Job) float64 {
	open, state, total := map[string]bool{"open_air": true}, "", 0.0
	for i := range j.Evidence {
		if j.Evidence[i].Struck {
			continue
		}
		m, _ := a.cost(&j.Evidence[i], open, state)
		total += m
		o, s := a.opened(&Job{Evidence: j.Evidence[:i+1]})
		open, state = o, s
	}
	return total
}

// next orders the readings by information a minute about which station it is.
// The second result is every look, the most telling for its minutes first.
func (a *Adviser) next(ctx context.Context, j *Job, p *posterior) (best, looks []Suggestion, err error) {
	open, state := a.opened(j)
	views, classes := a.views(p)
	h0 := entropy(classes)
	done, told := a.answered(j)
	if err := ctx.Err(); err != nil {
		return nil, nil, err
	}
	type asked struct {
		e  casefile.Evidence
		r  reading
		fc []forecast
		wc [][]float64
		sg Suggestion
	}
	var cands []asked
	strain := a.strain(j, views)
	all := a.Candidates()
	for _, id := range j.Known.Shelf {
		if s := a.C.Station(id); s != nil && !a.C.Mains {
			all = append(all, casefile.Evidence{Observe: circuit.SwapHelps, State: a.C.RunState, Through: id})
		}
	}
	if o := a.C.Observation(circuit.CurrentTrace); o != nil && slices.Contains(j.Known.With, casefile.Scope) {
		for _, st := range o.States {
			if !a.C.State(st).Hidden {
				all = append(all, casefile.Evidence{Observe: o.ID, State: st})
			}
		}
	}
	for _, e := range all {
		if done[a.askKey(&e)] || a.outOfSocket(&e) || a.unreachable(&e, j.Known.Unreachable) || slices.Contains(j.Known.Without, string(e.Measure)) {
			continue
		}
		x := asked{e: e, sg: Suggestion{Measure: string(e.Measure), Observe: e.Observe, State: e.State, From: e.From, To: e.To, Through: e.Through}}
		x.sg.Minutes, x.sg.People = a.cost(&e, open, state)
		if o := a.C.Observation(e.Observe); o != nil {
			x.sg.Spends = o.Spends
		}
		x.sg.price = a.price(x.sg.Minutes, x.sg.People, x.sg.Spends, a.hourRate(j)) + strain(&e)
		if e.Observe == "" {
			x.r = a.prepare(&x.e, a.meterAtHand(&x.e, j), 0)
			x.fc = make([]forecast, len(views))
		}
		cands = append(cands, x)
	}
	// What each surviving cell predicts of each reading, cell by cell, so that a
	// cell is solved once a state.
	share(len(views), func(from, step int) {
		s := a.newSolver()
		pr := predicted{j: make([]float64, a.q)}
		for v := from; v < len(views); v += step {
			for k := range cands {
				if e := &cands[k].e; e.Observe == "" {
					cands[k].fc[v] = a.forecast(&cands[k].r, &views[v], s, &pr)
				} else {
					for _, st := range a.needs(a.C.Observation(e.Observe), a.Net.StatePos(e.State)) {
						a.viewAt(&views[v], st, s)
					}
				}
			}
		}
	})
	in, places := a.membership(views, len(classes))
	share(len(cands), func(from, step int) {
		at := make([]float64, places)
		for k := from; k < len(cands); k += step {
			c := &cands[k]
			if c.e.Observe != "" {
				c.wc = a.wordChances(&c.e, j, views)
				a.valueWord(&c.sg, c.wc, views, classes, in, at)
			} else {
				a.valueReading(&c.sg, &c.r, c.fc, views, classes, in, at)
			}
		}
	})
	out := make([]Suggestion, 0, len(cands))
	slices.SortStableFunc(cands, func(x, y asked) int {
		return cmp.Compare(a.rate(&y.sg)*a.lean(&y.sg, j.Known.Leaning), a.rate(&x.sg)*a.lean(&x.sg, j.Known.Leaning))
	})
	var fcs [][]forecast
	var wcs [][][]float64
	for k := range cands {
		if cands[k].sg.Bits >= 1e-4 && !told[a.askKey(&cands[k].e)] {
			out, fcs, wcs = append(out, cands[k].sg), append(fcs, cands[k].fc), append(wcs, cands[k].wc)
		}
	}
	looks = []Suggestion{}
	for k := range cands {
		if o := cands[k].sg.Observe; o != "" && o != circuit.CurrentTrace {
			sg := cands[k].sg
			sg.Bits, sg.right = round(sg.Bits), round(sg.right)
			looks = append(looks, sg)
		}
	}
	sort.SliceStable(looks, func(x, y int) bool { return a.rate(&looks[x]) > a.rate(&looks[y]) })
	if len(out) > 0 && (a.rate(&out[0]) < a.assumed.Choice.WorthRate || h0 < a.assumed.Choice.WorthAsking) {
		return []Suggestion{}, looks, nil
	}
	if j.Known.Leaning == 0 {
		a.lookAhead(out, fcs, wcs, views, open, state)
	}
	if len(out) > 8 {
		out = out[:8]
	}
	good := a.healthyView(p)
	for i := range out {
		out[i].Bits, out[i].right = round(out[i].Bits), round(out[i].right)
		a.because(&out[i])
		if out[i].Measure != "" {
			e := casefile.Evidence{Measure: unit.Measure(out[i].Measure), State: out[i].State, From: out[i].From, To: out[i].To, Through: out[i].Through}
			r := a.prepare(&e, a.meterAtHand(&e, j), 0)
			m, sd, open := good.expect(&r)
			if out[i].GoodOL = open; !open {
				out[i].Good = new(a.possible(e.Measure, m-1.645*sd, m+1.645*sd, direction(e.Measure, m)))
			}
		}
	}
	return out, looks, nil
}

// answered lists the questions that evidence has answered, and those that the complaint has: they
// are not asked again, though they may still be answered.
func (a *Adviser) answered(j *Job) (done, told map[string]bool) {
	done, told = map[string]bool{}, map[string]bool{}
	for i := range j.Evidence {
		if e := &j.Evidence[i]; !e.Struck {
			done[a.askKey(e)] = true
		}
	}
	for _, x := range a.understood(j) {
		if x.trust >= a.assumed.Prior.ComplaintTrust {
			told[a.askKey(&casefile.Evidence{Observe: x.o.ID, State: a.C.States[x.state].ID})] = true
		}
	}
	return done, told
}

// strain returns the price, in minutes, of energising a motor once more that may be held.
func (a *Adviser) strain(j *Job, views []cellView) func(e *casefile.Evidence) float64 {
	held, tries := 0.0, 0
	for i := range views {
		for _, f := range a.diags[a.cells[views[i].sc.cell].diag].faults {
			if f.Mode == "seized" || f.Mode == "jammed" {
				held += views[i].w
				break
			}
		}
	}
	for i := range j.Evidence {
		if e := &j.Evidence[i]; !e.Struck && a.works(e) {
			tries++
		}
	}
	return func(e *casefile.Evidence) float64 {
		if held < a.assumed.Choice.StallFrom || !a.works(e) {
			return 0
		}
		return math.Min(held, 1) * a.assumed.Choice.Stall * float64(1+tries)
	}
}

// works reports whether a piece of evidence is taken with the machine asked to work.
func (a *Adviser) works(e *casefile.Evidence) bool {
	st := a.C.State(e.State)
	return st != nil && (st.Commands || st.Supply == "feed")
}

// meterAtHand picks the job's instrument for a measure, the ordinary one when
// it names none.
func (a *Adviser) meterAtHand(e *casefile.Evidence, j *Job) meter.Instrument {
	in := meter.Default(e.Measure)
	for name, x := range j.Instruments {
		if x.For(e.Measure) != nil && (e.Instrument == "" || name < e.Instrument) {
			in, e.Instrument = x, name
		}
	}
	return in
}

// worthwhile keeps, once a verdict stands, only readings that are still worth
// taking: those that make the verdict surer by more than they cost, where a
// wrong one costs the work on the station it names and the machine's return.
func (a *Adviser) worthwhile(in []Suggestion, station *string, probability float64, j *Job) []Suggestion {
	wrong := a.assumed.Choice.Wrong
	if station != nil {
		if act := a.C.Station(*station).Replace; act != nil {
			wrong += act.Minutes + act.Parts*60/a.hourRate(j)
		}
	}
	out := []Suggestion{}
	for _, s := range in {
		if gain := s.right - probability; gain > a.assumed.Choice.LeastGain && gain*wrong > s.price {
			out = append(out, s)
		}
	}
	return out
}

// hourRate is what the technician's hour costs.
func (a *Adviser) hourRate(j *Job) float64 {
	if j.HourRate > 0 {
		return j.HourRate
	}
	return a.assumed.Choice.HourRate
}

// membership lists for each class of the views the stations in it, numbered from
// 1; nothing wrong is 0.
func (a *Adviser) membership(views []cellView, n int) (in [][]int, size int) {
	in, number := make([][]int, n), map[string]int{}
	for i := range views {
		c := views[i].class
		if in[c] != nil {
			continue
		}
		fs := a.diags[a.cells[views[i].sc.cell].diag].faults
		if len(fs) == 0 {
			in[c] = []int{0}
		}
		for _, f := range fs {
			if _, ok := number[f.Station]; !ok {
				number[f.Station] = len(number) + 1
			}
			in[c] = append(in[c], number[f.Station])
		}
	}
	return in, len(number) + 1
}

// likeliest is the chance that the likeliest place, nothing wrong among them, is
// the right one.
func likeliest(post []float64, in [][]int, at []float64) float64 {
	clear(at)
	for c, p := range post {
		for _, s := range in[c] {
			at[s] += p
		}
	}
	return slices.Max(at)
}

// rate is information for its price: bits a minute.
func (a *Adviser) rate(s *Suggestion) float64 {
	return s.Bits / (s.price + a.assumed.Choice.Overhead)
}

// lean is how the technician's leaning moves a suggestion in the order: quick
// tricks are what is answered by a word.
func (a *Adviser) lean(s *Suggestion, leaning float64) float64 {
	if s.Observe == "" {
		leaning = -leaning
	}
	return math.Pow(a.assumed.Choice.Leaning, leaning)
}

// divergence is the Kullback-Leibler divergence of post from prior, bits. Its
// mean over a reading's outcomes is the information the reading gives, and,
// unlike a difference of entropies, each sample of it is zero when the reading
// tells nothing.
func divergence(post, prior []float64) float64 {
	d := 0.0
	for i, x := range post {
		if x > 0 && prior[i] > 0 {
			d += x * math.Log2(x/prior[i])
		}
	}
	return math.Max(d, 0)
}

// outOfSocket reports whether a reading is across a coil whose contact a state has taken
// out: a relay that is not in its socket.
func (a *Adviser) outOfSocket(e *casefile.Evidence) bool {
	for _, id := range a.C.State(e.State).Absent {
		coil := a.C.Station(a.C.Station(id).ClosedBy)
		if coil != nil && (e.From == coil.From && e.To == coil.To || e.From == coil.To && e.To == coil.From || e.Through == coil.ID) {
			return true
		}
	}
	return false
}

// askKey names a question: the same look in another state is the same question where no
// state decides it.
func (a *Adviser) askKey(e *casefile.Evidence) string {
	if o := a.C.Observation(e.Observe); o != nil && o.Model == "rates" {
		return e.Observe + "|" + e.Through
	}
	from, to := e.From, e.To
	if from > to {
		from, to = to, from
	}
	return strings.Join([]string{string(e.Measure), e.Observe, e.State, from, to, e.Through}, "|")
}

// unreachable reports whether a reading needs something the technician cannot
// get at: a node, a station, an observation, a state, or an access group.
func (a *Adviser) unreachable(e *casefile.Evidence, ids []string) bool {
	needs := []string{e.From, e.To, e.Through, e.Observe, e.State, a.C.State(e.State).Access}
	for _, n := range []string{e.From, e.To} {
		if nd := a.C.Node(n); nd != nil {
			needs = append(needs, nd.Access)
		}
	}
	if s := a.C.Station(e.Through); s != nil {
		needs = append(needs, s.Access)
	}
	if o := a.C.Observation(e.Observe); o != nil {
		needs = append(needs, o.Access)
	}
	return slices.ContainsFunc(ids, func(id string) bool { return id != "" && slices.Contains(needs, id) })
}

// views collects the cells that carry the posterior, and the class weights.
func (a *Adviser) views(p *posterior) ([]cellView, []float64) {
	// What is left out weighs less than half a per cent together.
	const most, least, carry = 70, 12, 0.995
	var out []cellView
	tot, idx := 0.0, map[int]int{}
	var classes []float64
	for i := range p.cells {
		if i >= most || i >= least && tot >= carry {
			break
		}
		sc := &p.cells[i]
		cl := a.diags[a.cells[sc.cell].diag].class
		k, ok := idx[cl]
		if !ok {
			k = len(classes)
			idx[cl] = k
			classes = append(classes, 0)
		}
		classes[k] += sc.weight
		tot += sc.weight
		out = append(out, cellView{sc: sc, class: k, w: sc.weight, lin: make([]*linear, len(a.C.States))})
	}
	for i := range out {
		out[i].w /= tot
	}
	for k := range classes {
		classes[k] /= tot
	}
	return out, classes
}

func (a *Adviser) viewAt(v *cellView, state int, s *solver) *linear {
	if v.lin[state] != nil {
		return v.lin[state]
	}
	// A state that was solved for this cell already, at the same values, is taken
	// from there.
	theta := v.sc.theta
	if theta == nil {
		theta = a.nominal(&a.cells[v.sc.cell])
		if b := a.states[state]; b.built.Load() {
			v.lin[state] = &b.lin[v.sc.cell]
			return v.lin[state]
		}
	} else if l := v.sc.lins[state]; l != nil {
		v.lin[state] = l
		return l
	}
	l := &linear{}
	s.linearize(l, state, &a.cells[v.sc.cell], theta, v.sc.sev, true)
	v.lin[state] = l
	return l
}

func (a *Adviser) valueWord(sg *Suggestion, chances [][]float64, views []cellView, classes []float64, in [][]int, at []float64) {
	o := a.C.Observation(sg.Observe)
	joint := make([][]float64, len(o.Outcomes))
	for i := range joint {
		joint[i] = make([]float64, len(classes))
	}
	for i := range views {
		for k, x := range chances[i] {
			joint[k][views[i].class] += views[i].w * x
		}
	}
	gain := 0.0
	best := map[int]int{}
	for k := range joint {
		t := sum(joint[k])
		if t <= 0 {
			continue
		}
		post := make([]float64, len(classes))
		for c := range post {
			post[c] = joint[k][c] / t
			if joint[k][c] > joint[best[c]][c] {
				best[c] = k
			}
		}
		gain += t * divergence(post, classes)
		sg.right += t * likeliest(post, in, at)
	}
	sg.Bits = gain
	for _, c := range a.topClasses(views, classes, 3) {
		sg.Expects = append(sg.Expects, Expect{Station: a.classStation(views, c), Probability: round(classes[c]),
			Outcome: o.Outcomes[best[c]].ID})
	}
}

func (a *Adviser) classStation(views []cellView, c int) string {
	for i := range views {
		if views[i].class == c {
			return a.classes[a.diags[a.cells[views[i].sc.cell].diag].class]
		}
	}
	return ""
}

func (a *Adviser) topClasses(views []cellView, classes []float64, n int) []int {
	idx := make([]int, len(classes))
	for i := range idx {
		idx[i] = i
	}
	sort.SliceStable(idx, func(x, y int) bool { return classes[idx[x]] > classes[idx[y]] })
	if len(idx) > n {
		idx = idx[:n]
	}
	return idx
}

type forecast struct {
	mean, sd float64 // warped
	open     bool
}

// forecast says what a surviving cell expects of a reading, on its warped scale.
func (a *Adviser) forecast(r *reading, v *cellView, s *solver, pr *predicted) forecast {
	theta := v.sc.theta
	if theta == nil {
		theta = a.nominal(&a.cells[v.sc.cell])
	}
	var l *linear
	if a.C.States[r.state].Powered() {
		l = a.viewAt(v, r.state, s)
	}
	a.predict(pr, r, l, &a.cells[v.sc.cell], theta, v.sc.sev, s)
	if pr.open || r.measure == unit.Resistance && pr.mean > meter.OhmsOverLimit {
		return forecast{open: true, sd: 1}
	}
	m, va := v.sc.project(pr.j)
	for k, z := range v.sc.z0 {
		m -= pr.j[k] * z // so far it has been moved already
	}
	sl := r.slope(pr.mean)
	return forecast{mean: r.warp(pr.mean + m), sd: math.Sqrt((va+pr.extra*pr.extra)*sl*sl + 1 + r.noise*r.noise)}
}

func (a *Adviser) valueReading(sg *Suggestion, r *reading, fc []forecast, views []cellView, classes []float64, in [][]int, at []float64) {
	// Systematic samples through the mixture: each at a quantile of one cell.
	gain, cum, next := 0.0, 0.0, 0.5/samples
	post := make([]float64, len(classes))
	take := func(i int, q float64) {
		clear(post)
		var y float64
		openDraw := fc[i].open
		if !openDraw {
			y = fc[i].mean + fc[i].sd*normQuantile(q)
		}
		for k := range views {
			like := 1e-4
			switch {
			case openDraw && fc[k].open:
				like = 1
			case openDraw != fc[k].open:
				like = 0.003
				if !openDraw {
					like = 1e-6
				}
			default:
				z := (y - fc[k].mean) / fc[k].sd
				like = math.Exp(-0.5*z*z)/fc[k].sd/math.Sqrt(2*math.Pi) + 1e-6
			}
			post[views[k].class] += views[k].w * like
		}
		t := sum(post)
		for c := range post {
			post[c] /= t
		}
		gain += divergence(post, classes) / samples
		sg.right += likeliest(post, in, at) / samples
	}
	taken := 0
	for i := range views {
		lo := cum
		cum += views[i].w
		for next <= cum && taken < samples {
			// Spread the draws of one cell over its quantiles.
			q := (next - lo) / views[i].w
			take(i, math.Min(math.Max(q, 0.02), 0.98))
			taken++
			next += 1.0 / samples
		}
	}
	if taken < samples { // rounding
		more := float64(samples) / float64(max(taken, 1))
		gain, sg.right = gain*more, sg.right*more
	}
	sg.Bits = gain
	// What the suspects predict: the likeliest, and those that would read
	// differently.
	mid := 0.0
	for i := range views {
		mid += views[i].w * fc[i].mean
	}
	tell := make([]float64, len(classes))
	for i := range views {
		d := math.Abs(fc[i].mean-mid) / fc[i].sd
		if fc[i].open {
			d = 3
		}
		tell[views[i].class] += views[i].w * math.Min(d, 5)
	}
	top := a.topClasses(views, classes, 2)
	order := a.topClasses(views, tell, len(classes))
	for _, c := range order[:min(4, len(order))] {
		if !slices.Contains(top, c) {
			top = append(top, c)
		}
	}
	for _, c := range top {
		sg.Expects = append(sg.Expects, a.expectOf(c, classes, views, fc, r))
	}
	// A reason needs one that reads otherwise: the likeliest such, where none of these does.
	for _, c := range order {
		if slices.ContainsFunc(sg.Expects, func(x Expect) bool { return sg.Expects[0].parts(x) }) {
			break
		}
		if x := a.expectOf(c, classes, views, fc, r); !slices.Contains(top, c) && sg.Expects[0].parts(x) {
			sg.Expects = append(sg.Expects, x)
		}
	}
}

// expectOf is what one suspect predicts of a reading.
func (a *Adviser) expectOf(c int, classes []float64, views []cellView, fc []forecast, r *reading) Expect {
	x := Expect{Station: a.classStation(views, c), Probability: round(classes[c])}
	var own []forecast
	var ws []float64
	t, openW := 0.0, 0.0
	for i := range views {
		switch {
		case views[i].class != c:
		case fc[i].open:
			openW += views[i].w
		default:
			t += views[i].w
			own, ws = append(own, fc[i]), append(ws, views[i].w)
		}
	}
	if openW > t {
		x.OL = true
	} else if t > 0 {
		lo, hi := band(own, ws, t)
		b := a.possible(r.measure, r.unwarp(lo), r.unwarp(hi), 0)
		x.Low, x.High = b.Low, b.High
	}
	return x
}

// band is where nine readings in ten of a mixture lie: from the lower bound of the cell at a
// twentieth of the weight to the upper bound of the one at nineteen. It does not reach beyond what
// some cell predicts, as mean and deviation of the whole would.
func band(fc []forecast, w []float64, total float64) (lo, hi float64) {
	at := make([]int, len(fc))
	for i := range at {
		at[i] = i
	}
	edge := func(sign float64) float64 {
		x := func(i int) float64 { return fc[i].mean + sign*1.645*fc[i].sd }
		slices.SortFunc(at, func(i, j int) int { return cmp.Compare(sign*x(j), sign*x(i)) })
		sum := 0.0
		for _, i := range at {
			if sum += w[i]; sum >= 0.05*total {
				return x(i)
			}
		}
		return x(at[len(at)-1])
	}
	return edge(-1), edge(1)
}

// normQuantile is the standard normal quantile (Beasley-Springer-Moro is not
// needed here: the inverse of erfc is in the library).
func normQuantile(q float64) float64 { return -math.Sqrt2 * math.Erfcinv(2*q) }

// because says in one line what a suggestion would settle.
func (a *Adviser) because(s *Suggestion) {
	name := func(id string) string {
		if id == "" {
			return "nothing wrong"
		}
		parts := strings.Split(id, "+")
		for i, p := range parts {
			parts[i] = phrase.Lower(a.C.Station(p).Label)
		}
		return strings.Join(parts, " and ")
	}
	if s.Observe != "" {
		if len(s.Expects) >= 2 && s.Expects[0].Outcome != s.Expects[1].Outcome {
			o := a.C.Observation(s.Observe)
			word := func(id string) string {
				for _, x := range o.Outcomes {
					if x.ID == id {
						return x.Label
					}
				}
				return id
			}
			s.Because = fmt.Sprintf("“%s” points to %s, “%s” to %s", phrase.Upper(word(s.Expects[0].Outcome)), name(s.Expects[0].Station), word(s.Expects[1].Outcome), name(s.Expects[1].Station))
			return
		}
		s.Because = phrase.Upper(a.C.Observation(s.Observe).Tells)
		return
	}
	m := unit.Measure(s.Measure)
	say := func(x Expect) string {
		if x.OL {
			return fmt.Sprintf("OL if %s", name(x.Station))
		}
		lo, hi := unit.Format(x.Low, m), unit.Format(x.High, m)
		if lo == hi {
			return fmt.Sprintf("about %s if %s", lo, name(x.Station))
		}
		return fmt.Sprintf("%s to %s if %s", lo, hi, name(x.Station))
	}
	// A reason names two that would read differently; where no likely ones do, there is none to give.
	for i := 1; i < len(s.Expects); i++ {
		if x, y := s.Expects[0], s.Expects[i]; x.parts(y) {
			s.Because = say(x) + "; " + say(y)
			return
		}
	}
	if len(s.Expects) > 0 { // what tells is a seldom kind of fault in each of them
		s.Because = say(s.Expects[0]) + "; anything else tells at once"
	}
}

// parts reports whether two expectations of a reading can be told apart: one of them OL, or less than
// three quarters of the narrower within the other.
func (x Expect) parts(y Expect) bool {
	if x.OL || y.OL {
		return x.OL != y.OL
	}
	both := math.Min(x.High, y.High) - math.Max(x.Low, y.Low)
	narrow, wide := math.Min(x.High-x.Low, y.High-y.Low), math.Max(x.High-x.Low, y.High-y.Low)
	return both < 0.75*narrow || wide > 2*narrow
}

// Right is the chance that the likeliest place is the right one once the reading is
// taken: what acting then would be worth.
func (s *Suggestion) Right() float64 { return s.right }

// Minutes is what a reading costs after the evidence of a job so far: access that is open
// and the state that is held are paid for.
func (a *Adviser) Minutes(j *Job, e *casefile.Evidence) (minutes float64, people int) {
	open, state := a.opened(j)
	return a.cost(e, open, state)
}
