package choice

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
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/gauss"
	"corriente/core/diagnose/readings"
	"corriente/core/diagnose/words"
	"corriente/core/fault"
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

	before float64 // chance that the likeliest place is the right one now
	right  float64 // chance that the likeliest place is the right one once it is taken
	price  float64 // minutes, a second person and money counted in

	Good    *readings.Range `json:"good,omitempty"`    // what a good circuit shows, SI
	GoodOL  bool            `json:"good_ol,omitempty"` // a good circuit shows OL
	Expects []Expect        `json:"expects,omitempty"` // what the suspects predict
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
func price(a *belief.Reasoner, minutes float64, people int, money, hourRate float64) float64 {
	if people > 1 {
		minutes *= a.Assumed.Choice.SecondPerson
	}
	return minutes + money*60/hourRate
}

// samples is how many outcomes of a reading are tried in advance.
const samples = 14

// View is a surviving cell with a linearisation at its own best values, one
// state at a time.
type View struct {
	Sc    *belief.Scored
	class int
	W     float64
	Lin   []*cells.Solved
}

// Candidates lists every reading and every check that the circuit offers.
func Candidates(a *belief.Reasoner) []casefile.Evidence {
	var out []casefile.Evidence
	for si := range a.C.States {
		st := &a.C.States[si]
		if st.Hidden {
			continue
		}
		switch st.Supply {
		case "none":
			out = append(out, ohmCandidates(a, si)...)
		case "running", "mains":
			out = append(out, runningCandidates(a, si)...)
		default:
			out = append(out, loadedCandidates(a, si)...)
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
	a       *belief.Reasoner
	measure unit.Measure
	state   int
	seen    map[[2]int]bool
	out     []casefile.Evidence
}

func pairs(a *belief.Reasoner, measure unit.Measure, state int) *pairSet {
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

// Terminals are the motor's own two terminals, -1 where no state feeds it
// direct.
func Terminals(a *belief.Reasoner) (plus, minus int) {
	for i := range a.C.States {
		if f := a.C.States[i].Feed; f != nil {
			return a.C.NodeIndex(f.Plus), a.C.NodeIndex(f.Minus)
		}
	}
	return -1, -1
}

func loadedCandidates(a *belief.Reasoner, si int) []casefile.Evidence {
	st := &a.C.States[si]
	p := pairs(a, unit.Voltage, si)
	ground := a.C.NodeIndex(circuit.Ground)
	plus, minus := Terminals(a)
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
			through = clampAt(a, si, through)
		}
		out = append(out, casefile.Evidence{Measure: unit.Current, State: st.ID, Through: through})
	}
	return out
}

// clampAt is where a clamp goes best in a state: round a wire of the path that
// carries the motor's current.
func clampAt(a *belief.Reasoner, si int, through string) string {
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

func ohmCandidates(a *belief.Reasoner, si int) []casefile.Evidence {
	st := &a.C.States[si]
	p := pairs(a, unit.Resistance, si)
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
	plus, minus := Terminals(a)
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

func runningCandidates(a *belief.Reasoner, si int) []casefile.Evidence {
	st := &a.C.States[si]
	var out []casefile.Evidence
	if st.CanRead("voltage") {
		out = append(out, casefile.Evidence{Measure: unit.Voltage, State: st.ID, From: "bat_pos", To: circuit.Ground})
	}
	if st.CanRead("ac_voltage") {
		p := pairs(a, unit.ACVoltage, si)
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
func cost(a *belief.Reasoner, e *casefile.Evidence, opened map[string]bool, state string) (minutes float64, people int) {
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
		minutes = a.Assumed.Choice.Read
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

// Opened returns the access groups that the evidence shows to be open, and the
// state the circuit was last in.
func Opened(a *belief.Reasoner, j *belief.Job) (map[string]bool, string) {
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

// Spent returns the minutes the evidence of a job has cost by the circuit's own
// figures: access once, states on entering.
func Spent(a *belief.Reasoner, j *belief.Job) float64 {
	open, state, total := map[string]bool{"open_air": true}, "", 0.0
	for i := range j.Evidence {
		if j.Evidence[i].Struck {
			continue
		}
		m, _ := cost(a, &j.Evidence[i], open, state)
		total += m
		o, s := Opened(a, &belief.Job{Evidence: j.Evidence[:i+1]})
		open, state = o, s
	}
	return total
}

// question is a reading or a check that could be asked for.
type question struct {
	e     casefile.Evidence
	r     readings.Reading // of a reading, made ready
	casts []Forecast       // of a reading, by view
	words [][]float64      // of a check: chances of its answers, by view
	sg    Suggestion
}

// asking is a job at the point where the next question is chosen.
type asking struct {
	a       *belief.Reasoner
	j       *belief.Job
	views   []View
	classes []float64 // weight of each class of diagnoses
	in      [][]int   // the parts in each class, see membership
	places  int       // how many there are
	open    map[string]bool
	state   string
}

// most is how many suggestions are given.
const most = 8

// Next orders the readings by information a minute about which station it is.
// The second result is every check, the most telling for its minutes first.
func Next(ctx context.Context, a *belief.Reasoner, j *belief.Job, p *belief.Posterior) (best, checks []Suggestion, err error) {
	k := asking{a: a, j: j}
	k.open, k.state = Opened(a, j)
	k.views, k.classes = Views(a, p)
	k.in, k.places = membership(a, k.views, len(k.classes))
	before := gauss.Round(likeliest(k.classes, k.in, make([]float64, k.places)))
	done, told := answered(a, j)
	qs := k.questions(done)
	for _, step := range []func([]question){k.foresee, k.value} {
		if err := ctx.Err(); err != nil {
			return nil, nil, err
		}
		step(qs)
	}
	slices.SortStableFunc(qs, func(x, y question) int {
		return cmp.Compare(rate(a, &y.sg)*lean(a, &y.sg, j.Known.Leaning), rate(a, &x.sg)*lean(a, &x.sg, j.Known.Leaning))
	})
	checks = k.checks(qs)
	qs = slices.DeleteFunc(qs, func(q question) bool { return q.sg.Bits < 1e-4 || told[AskKey(a, &q.e)] })
	if len(qs) == 0 || rate(a, &qs[0].sg) < a.Assumed.Choice.WorthRate || gauss.Entropy(k.classes) < a.Assumed.Choice.WorthAsking {
		return []Suggestion{}, checks, nil
	}
	if j.Known.Leaning == 0 {
		k.lookAhead(qs)
	}
	qs = qs[:min(len(qs), most)]
	good := a.GoodCircuit(p)
	for i := range qs {
		sg := k.finished(&qs[i], good)
		sg.before = before
		best = append(best, sg)
	}
	return best, checks, nil
}

// questions lists what could be asked, with its price; what was answered is left out.
func (k *asking) questions(done map[string]bool) []question {
	a, j := k.a, k.j
	all := Candidates(a)
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
	strain := strain(a, j, k.views)
	var out []question
	for _, e := range all {
		if done[AskKey(a, &e)] || outOfSocket(a, &e) || Unreachable(a, &e, j.Known.Unreachable) ||
			slices.Contains(j.Known.Without, string(e.Measure)) {
			continue
		}
		x := question{e: e, sg: Suggestion{Measure: string(e.Measure), Observe: e.Observe, State: e.State,
			From: e.From, To: e.To, Through: e.Through}}
		x.sg.Minutes, x.sg.People = cost(a, &e, k.open, k.state)
		if o := a.C.Observation(e.Observe); o != nil {
			x.sg.Spends = o.Spends
		}
		x.sg.price = price(a, x.sg.Minutes, x.sg.People, x.sg.Spends, hourRate(a, j)) + strain(&e)
		if e.Observe == "" {
			x.r = readings.Prepare(a.Space, &x.e, MeterAtHand(a, &x.e, j), 0)
			x.r.Ahead = true
			x.casts = make([]Forecast, len(k.views))
		}
		out = append(out, x)
	}
	return out
}

// foresee works out what each surviving cell predicts of each reading, cell by cell, so that a
// cell is solved once a state.
func (k *asking) foresee(qs []question) {
	a := k.a
	cells.Share(len(k.views), func(from, step int) {
		s := a.NewSolver()
		pr := readings.Predicted{Slopes: make([]float64, a.Values)}
		for v := from; v < len(k.views); v += step {
			for i := range qs {
				if e := &qs[i].e; e.Observe == "" {
					qs[i].casts[v] = Foresee(a, &qs[i].r, &k.views[v], s, &pr)
				} else {
					for _, st := range words.Needs(a.Space, a.C.Observation(e.Observe), a.Net.StatePos(e.State)) {
						ViewAt(a, &k.views[v], st, s)
					}
				}
			}
		}
	})
}

// value works out what each question tells.
func (k *asking) value(qs []question) {
	cells.Share(len(qs), func(from, step int) {
		at := make([]float64, k.places)
		for i := from; i < len(qs); i += step {
			if q := &qs[i]; q.e.Observe != "" {
				q.words = k.wordChances(&q.e)
				k.valueWord(q, at)
			} else {
				k.valueReading(q, at)
				k.expectations(q)
			}
		}
	})
}

// checks lists every check among the questions, the most telling for its minutes first.
func (k *asking) checks(qs []question) []Suggestion {
	out := []Suggestion{}
	for i := range qs {
		if o := qs[i].sg.Observe; o != "" && o != circuit.CurrentTrace {
			sg := qs[i].sg
			sg.Bits, sg.right = gauss.Round(sg.Bits), gauss.Round(sg.right)
			out = append(out, sg)
		}
	}
	sort.SliceStable(out, func(x, y int) bool { return rate(k.a, &out[x]) > rate(k.a, &out[y]) })
	return out
}

// finished is a suggestion as it is shown: rounded, with its reason and what a good circuit shows.
func (k *asking) finished(q *question, good *belief.GoodCircuit) Suggestion {
	sg := q.sg
	sg.Bits, sg.right = gauss.Round(sg.Bits), gauss.Round(sg.right)
	because(k.a, &sg)
	if sg.Measure == "" {
		return sg
	}
	e := q.e
	r := readings.Prepare(k.a.Space, &e, MeterAtHand(k.a, &e, k.j), 0)
	r.Ahead = true
	m, sd, open := good.Expect(&r)
	if sg.GoodOL = open; !open {
		sg.Good = new(readings.Possible(k.a.Space, e.Measure, m-1.645*sd, m+1.645*sd, readings.Direction(e.Measure, m)))
	}
	return sg
}

// answered lists the questions that evidence has answered, and those that the complaint has: they
// are not asked again, though they may still be answered.
func answered(a *belief.Reasoner, j *belief.Job) (done, told map[string]bool) {
	done, told = map[string]bool{}, map[string]bool{}
	for i := range j.Evidence {
		if e := &j.Evidence[i]; !e.Struck {
			done[AskKey(a, e)] = true
		}
	}
	for _, x := range a.Understood(j) {
		if x.Trust >= a.Assumed.Prior.ComplaintTrust {
			told[AskKey(a, &casefile.Evidence{Observe: x.O.ID, State: a.C.States[x.State].ID})] = true
		}
	}
	return done, told
}

// strain returns the price, in minutes, of energising a motor once more that may be held.
func strain(a *belief.Reasoner, j *belief.Job, views []View) func(e *casefile.Evidence) float64 {
	held, tries := 0.0, 0
	for i := range views {
		for _, f := range a.Diags[a.Cells[views[i].Sc.Cell].Diagnosis].Faults {
			if f.Mode == "seized" || f.Mode == "jammed" {
				held += views[i].W
				break
			}
		}
	}
	for i := range j.Evidence {
		if e := &j.Evidence[i]; !e.Struck && works(a, e) {
			tries++
		}
	}
	return func(e *casefile.Evidence) float64 {
		if held < a.Assumed.Choice.StallFrom || !works(a, e) {
			return 0
		}
		return math.Min(held, 1) * a.Assumed.Choice.Stall * float64(1+tries)
	}
}

// works reports whether a piece of evidence is taken with the machine asked to work.
func works(a *belief.Reasoner, e *casefile.Evidence) bool {
	st := a.C.State(e.State)
	return st != nil && (st.Commands || st.Supply == "feed")
}

// MeterAtHand picks the job's instrument for a measure, the ordinary one when
// it names none.
func MeterAtHand(a *belief.Reasoner, e *casefile.Evidence, j *belief.Job) meter.Instrument {
	in := meter.Default(e.Measure)
	for name, x := range j.Instruments {
		if x.For(e.Measure) != nil && (e.Instrument == "" || name < e.Instrument) {
			in, e.Instrument = x, name
		}
	}
	return in
}

// Worthwhile keeps, once a verdict stands, only readings that are still worth
// taking: those that make the verdict surer by more than they cost, where a
// wrong one costs the work on the station it names and the machine's return.
func Worthwhile(a *belief.Reasoner, in []Suggestion, station *string, probability float64, j *belief.Job) []Suggestion {
	wrong := a.Assumed.Choice.Wrong
	if station != nil {
		if act := a.C.Station(*station).Replace; act != nil {
			wrong += act.Minutes + act.Parts*60/hourRate(a, j)
		}
	}
	out := []Suggestion{}
	for _, s := range in {
		if station != nil && a.C.Station(*station).Kind == circuit.Fuse {
			probability = s.before // of what blew it, which is what is asked for now
		}
		if gain := s.right - probability; gain > a.Assumed.Choice.LeastGain && gain*wrong > s.price {
			out = append(out, s)
		}
	}
	return out
}

// hourRate is what the technician's hour costs.
func hourRate(a *belief.Reasoner, j *belief.Job) float64 {
	if j.HourRate > 0 {
		return j.HourRate
	}
	return a.Assumed.Choice.HourRate
}

// membership lists for each class of the views the stations in it, numbered from
// 1; nothing wrong is 0. A fuse that is surely blown is no place to look for any more, but where
// nothing else is wrong: what is looked for is what blew it.
func membership(a *belief.Reasoner, views []View, n int) (in [][]int, size int) {
	blown := map[string]float64{}
	for i := range views {
		for _, f := range views[i].faults(a) {
			if f.Mode == "open" && a.C.Station(f.Station).Kind == circuit.Fuse {
				blown[f.Station] += views[i].W
			}
		}
	}
	in, number := make([][]int, n), map[string]int{}
	for i := range views {
		c := views[i].class
		if in[c] != nil {
			continue
		}
		fs := views[i].faults(a)
		if len(fs) == 0 {
			in[c] = []int{0}
		}
		for _, f := range fs {
			if len(fs) > 1 && blown[f.Station] >= belief.Sure {
				continue
			}
			if _, ok := number[f.Station]; !ok {
				number[f.Station] = len(number) + 1
			}
			in[c] = append(in[c], number[f.Station])
		}
	}
	return in, len(number) + 1
}

// faults are those of the view's cell.
func (v *View) faults(a *belief.Reasoner) []fault.Fault {
	return a.Diags[a.Cells[v.Sc.Cell].Diagnosis].Faults
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
func rate(a *belief.Reasoner, s *Suggestion) float64 {
	return s.Bits / (s.price + a.Assumed.Choice.Overhead)
}

// lean is how the technician's leaning moves a suggestion in the order: quick
// tricks are what is answered by a word.
func lean(a *belief.Reasoner, s *Suggestion, leaning float64) float64 {
	if s.Observe == "" {
		leaning = -leaning
	}
	return math.Pow(a.Assumed.Choice.Leaning, leaning)
}

// outOfSocket reports whether a reading is across a coil whose contact a state has taken
// out: a relay that is not in its socket.
func outOfSocket(a *belief.Reasoner, e *casefile.Evidence) bool {
	for _, id := range a.C.State(e.State).Absent {
		coil := a.C.Station(a.C.Station(id).ClosedBy)
		if coil != nil && (e.From == coil.From && e.To == coil.To || e.From == coil.To && e.To == coil.From || e.Through == coil.ID) {
			return true
		}
	}
	return false
}

// AskKey names a question: the same look in another state is the same question where no
// state decides it.
func AskKey(a *belief.Reasoner, e *casefile.Evidence) string {
	if o := a.C.Observation(e.Observe); o != nil && o.Model == "rates" {
		return e.Observe + "|" + e.Through
	}
	from, to := e.From, e.To
	if from > to {
		from, to = to, from
	}
	return strings.Join([]string{string(e.Measure), e.Observe, e.State, from, to, e.Through}, "|")
}

// Unreachable reports whether a reading needs something the technician cannot
// get at: a node, a station, an observation, a state, or an access group.
func Unreachable(a *belief.Reasoner, e *casefile.Evidence, ids []string) bool {
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

// Views collects the cells that carry the posterior, and the class weights.
func Views(a *belief.Reasoner, p *belief.Posterior) ([]View, []float64) {
	// What is left out weighs less than half a per cent together.
	const most, least, carry = 70, 12, 0.995
	var out []View
	tot, idx := 0.0, map[int]int{}
	var classes []float64
	for i := range p.Cells {
		if i >= most || i >= least && tot >= carry {
			break
		}
		sc := &p.Cells[i]
		cl := a.Diags[a.Cells[sc.Cell].Diagnosis].Class
		k, ok := idx[cl]
		if !ok {
			k = len(classes)
			idx[cl] = k
			classes = append(classes, 0)
		}
		classes[k] += sc.Weight
		tot += sc.Weight
		out = append(out, View{Sc: sc, class: k, W: sc.Weight, Lin: make([]*cells.Solved, len(a.C.States))})
	}
	for i := range out {
		out[i].W /= tot
	}
	for k := range classes {
		classes[k] /= tot
	}
	return out, classes
}

// ViewAt is a view solved in a state; what was solved for its cell already is taken from there.
func ViewAt(a *belief.Reasoner, v *View, state int, s *cells.Solver) *cells.Solved {
	if v.Lin[state] != nil {
		return v.Lin[state]
	}
	// A state that was solved for this cell already, at the same values, is taken
	// from there.
	if v.Sc.Theta == nil {
		v.Lin[state] = a.Bank(state).At(s, v.Sc.Cell)
		return v.Lin[state]
	} else if l := v.Sc.Lins[state]; l != nil {
		v.Lin[state] = l
		return l
	}
	l := &cells.Solved{}
	s.Linearize(l, state, v.Sc.At(a.Space))
	v.Lin[state] = l
	return l
}

// valueWord works out what a check tells; at is room for one chance a place.
func (k *asking) valueWord(q *question, at []float64) {
	o := k.a.C.Observation(q.sg.Observe)
	joint := make([][]float64, len(o.Outcomes))
	for i := range joint {
		joint[i] = make([]float64, len(k.classes))
	}
	for i := range k.views {
		for n, x := range q.words[i] {
			joint[n][k.views[i].class] += k.views[i].W * x
		}
	}
	best := map[int]int{}
	for n := range joint {
		t := gauss.Sum(joint[n])
		if t <= 0 {
			continue
		}
		post := make([]float64, len(k.classes))
		for c := range post {
			post[c] = joint[n][c] / t
			if joint[n][c] > joint[best[c]][c] {
				best[c] = n
			}
		}
		q.sg.Bits += t * gauss.Divergence(post, k.classes)
		q.sg.right += t * likeliest(post, k.in, at)
	}
	for _, c := range top(k.classes, 3) {
		q.sg.Expects = append(q.sg.Expects, Expect{Station: classStation(k.a, k.views, c), Probability: gauss.Round(k.classes[c]),
			Outcome: o.Outcomes[best[c]].ID})
	}
}

// classStation names the parts in a class of the views, as in [cells.Space.Classes].
func classStation(a *belief.Reasoner, views []View, c int) string {
	for i := range views {
		if views[i].class == c {
			return a.Classes[a.Diags[a.Cells[views[i].Sc.Cell].Diagnosis].Class]
		}
	}
	return ""
}

// top lists the n greatest of some weights by their index, the greatest first.
func top(weights []float64, n int) []int {
	idx := make([]int, len(weights))
	for i := range idx {
		idx[i] = i
	}
	sort.SliceStable(idx, func(x, y int) bool { return weights[idx[x]] > weights[idx[y]] })
	return idx[:min(n, len(idx))]
}

// Forecast is what a surviving cell expects of a reading, on the scale on which the meter's
// uncertainty is one.
type Forecast struct {
	Mean, SD float64
	Open     bool // OL
}

// Foresee says what a surviving cell expects of a reading, on its warped scale.
func Foresee(a *belief.Reasoner, r *readings.Reading, v *View, s *cells.Solver, pr *readings.Predicted) Forecast {
	var l *cells.Solved
	if a.C.States[r.State].Powered() {
		l = ViewAt(a, v, r.State, s)
	}
	readings.Predict(s, pr, r, l, v.Sc.At(a.Space))
	if pr.Open || r.Measure == unit.Resistance && pr.Mean > meter.OhmsOverLimit {
		return Forecast{Open: true, SD: 1}
	}
	m, va := v.Sc.Project(pr.Slopes)
	for k, z := range v.Sc.Z0 {
		m -= pr.Slopes[k] * z // so far it has been moved already
	}
	sl := r.SlopeAt(pr.Mean)
	return Forecast{Mean: r.Warp(pr.Mean + m), SD: math.Sqrt((va+pr.Extra*pr.Extra)*sl*sl + 1 + r.Noise*r.Noise)}
}

// What a drawn reading is worth to a cell that predicts otherwise: the one says OL and the other
// ohms, and the least of all.
const (
	likelyNotOL = 0.003
	likelyLeast = 1e-6
)

// valueReading works out what a reading tells by samples of it; at is room for one chance a place.
func (k *asking) valueReading(q *question, at []float64) {
	// Systematic samples through the mixture: each at a quantile of one cell.
	cum, next, taken := 0.0, 0.5/samples, 0
	post := make([]float64, len(k.classes))
	for i := range k.views {
		lo := cum
		cum += k.views[i].W
		for next <= cum && taken < samples {
			// Spread the draws of one cell over its quantiles.
			share := (next - lo) / k.views[i].W
			k.posterior(post, q.casts, i, math.Min(math.Max(share, 0.02), 0.98))
			q.sg.Bits += gauss.Divergence(post, k.classes) / samples
			q.sg.right += likeliest(post, k.in, at) / samples
			taken++
			next += 1.0 / samples
		}
	}
	if taken < samples { // rounding
		more := float64(samples) / float64(max(taken, 1))
		q.sg.Bits, q.sg.right = q.sg.Bits*more, q.sg.right*more
	}
}

// posterior fills in what the classes come to once a reading shows what view i expects, at a
// quantile of it.
func (k *asking) posterior(post []float64, casts []Forecast, i int, quantile float64) {
	clear(post)
	y := 0.0
	if !casts[i].Open {
		y = casts[i].Mean + casts[i].SD*gauss.NormQuantile(quantile)
	}
	for n := range k.views {
		like := 1.0
		switch at := &casts[n]; {
		case casts[i].Open && at.Open:
		case casts[i].Open:
			like = likelyNotOL
		case at.Open:
			like = likelyLeast
		default:
			z := (y - at.Mean) / at.SD
			like = math.Exp(-0.5*z*z)/at.SD/math.Sqrt(2*math.Pi) + likelyLeast
		}
		post[k.views[n].class] += k.views[n].W * like
	}
	t := gauss.Sum(post)
	for c := range post {
		post[c] /= t
	}
}

// expectations notes what the suspects predict of a reading: the likeliest, and those that would
// read differently.
func (k *asking) expectations(q *question) {
	mid := 0.0
	for i := range k.views {
		mid += k.views[i].W * q.casts[i].Mean
	}
	tell := make([]float64, len(k.classes))
	for i := range k.views {
		d := math.Abs(q.casts[i].Mean-mid) / q.casts[i].SD
		if q.casts[i].Open {
			d = 3
		}
		tell[k.views[i].class] += k.views[i].W * math.Min(d, 5)
	}
	named := top(k.classes, 2)
	order := top(tell, len(k.classes))
	for _, c := range order[:min(4, len(order))] {
		if !slices.Contains(named, c) {
			named = append(named, c)
		}
	}
	sg := &q.sg
	for _, c := range named {
		sg.Expects = append(sg.Expects, k.expectOf(c, q))
	}
	// A reason needs one that reads otherwise: the likeliest such, where none of these does.
	for _, c := range order {
		if slices.ContainsFunc(sg.Expects, func(x Expect) bool { return sg.Expects[0].parts(x) }) {
			break
		}
		if x := k.expectOf(c, q); !slices.Contains(named, c) && sg.Expects[0].parts(x) {
			sg.Expects = append(sg.Expects, x)
		}
	}
}

// expectOf is what one suspect predicts of a reading.
func (k *asking) expectOf(c int, q *question) Expect {
	views, fc := k.views, q.casts
	x := Expect{Station: classStation(k.a, views, c), Probability: gauss.Round(k.classes[c])}
	var own []Forecast
	var ws []float64
	t, openW := 0.0, 0.0
	for i := range views {
		switch {
		case views[i].class != c:
		case fc[i].Open:
			openW += views[i].W
		default:
			t += views[i].W
			own, ws = append(own, fc[i]), append(ws, views[i].W)
		}
	}
	if openW > t {
		x.OL = true
	} else if t > 0 {
		lo, hi := band(own, ws, t)
		b := readings.Possible(k.a.Space, q.r.Measure, q.r.Unwarp(lo), q.r.Unwarp(hi), 0)
		x.Low, x.High = b.Low, b.High
	}
	return x
}

// band is where nine readings in ten of a mixture lie: from the lower bound of the cell at a
// twentieth of the weight to the upper bound of the one at nineteen. It does not reach beyond what
// some cell predicts, as mean and deviation of the whole would.
func band(fc []Forecast, w []float64, total float64) (lo, hi float64) {
	at := make([]int, len(fc))
	for i := range at {
		at[i] = i
	}
	edge := func(sign float64) float64 {
		x := func(i int) float64 { return fc[i].Mean + sign*1.645*fc[i].SD }
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

// because says in one line what a suggestion would settle.
func because(a *belief.Reasoner, s *Suggestion) {
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
			s.Because = fmt.Sprintf("“%s” points to %s, “%s” to %s", phrase.Upper(word(s.Expects[0].Outcome)),
				name(s.Expects[0].Station), word(s.Expects[1].Outcome), name(s.Expects[1].Station))
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
func Minutes(a *belief.Reasoner, j *belief.Job, e *casefile.Evidence) (minutes float64, people int) {
	open, state := Opened(a, j)
	return cost(a, e, open, state)
}
