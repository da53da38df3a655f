package diagnose

import (
	"context"
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"sort"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/meter"
	"corriente/core/phrase"
	"corriente/core/unit"
)

// Format names the result's format.
const Format = "corriente-diagnosis/1"

// Job is what is known about one machine: its evidence, in the order it was
// taken, and what the technician has at hand.
type Job struct {
	Evidence     []casefile.Evidence
	Instruments  map[string]meter.Instrument
	Intermittent bool
	Codes        map[int][]string // the blink-code table that holds here, code: faults
	Known        casefile.Known   // shifts the priors and the order of the readings
	When         []string         // cold, hot, wet, after_knock: when the complaint shows
	Complaint    string           // in the customer's words
	Given        []string         // values that were given, station.parameter
	Repairs      []casefile.Repair
	HourRate     float64 // money an hour of work costs, > 0; 0: the families' own
	Brief        bool    // leave out the explanation of each reading
}

// JobOf takes what a case file says.
func JobOf(c *casefile.Case) *Job {
	j := &Job{Evidence: c.Evidence, Instruments: c.Instruments, Intermittent: c.Intermittent, Codes: c.Codes, Known: c.Known, Repairs: c.Repairs}
	for _, g := range c.Parameters {
		j.Given = append(j.Given, g.Name)
	}
	if c.Job != nil {
		j.When, j.Complaint = c.Job.When, c.Job.Complaint
	}
	return j
}

// Verdict statuses.
const (
	Isolated      = "isolated"      // one station holds at least 0.95
	FaultFound    = "fault_found"   // nothing wrong is below 0.05, the station still open
	NothingWrong  = "nothing_wrong" // nothing wrong holds at least 0.95
	Undecided     = "undecided"
	Contradiction = "contradiction" // nothing explains the readings
)

// Sure is the probability at which a verdict stands.
const Sure = 0.95

// Verdict is what the evidence amounts to.
type Verdict struct {
	Status            string   `json:"status"`
	Station           *string  `json:"station"`
	Probability       float64  `json:"probability"`
	Faults            []string `json:"faults"`
	FaultsProbability float64  `json:"faults_probability"`
	Also              []string `json:"also"`
	Says              string   `json:"says"`
	Plain             string   `json:"plain"` // the same without a figure, for papers: what is reckoned is not printed as if it were read
	Overturn          string   `json:"overturn,omitempty"`
	Then              string   `json:"then,omitempty"`   // what is done next, where the part is not the end of it
	Clash             []int    `json:"clash,omitempty"`  // evidence that does not fit, 1-based
	Slip              string   `json:"slip,omitempty"`   // the slip that would resolve a contradiction
	Repair            string   `json:"repair,omitempty"` // the one repair that every likely diagnosis leads to
}

// StationShare is one station's marginal probability of being at fault.
type StationShare struct {
	Station     string  `json:"station"`
	Probability float64 `json:"probability"`
}

// Estimate is how bad a fault is, with a 5 to 95 % range.
type Estimate struct {
	Estimate float64 `json:"estimate"`
	Low      float64 `json:"low"`
	High     float64 `json:"high"`
	Unit     string  `json:"unit"`
}

// Ranked is one diagnosis.
type Ranked struct {
	Faults      []string            `json:"faults"`
	Probability float64             `json:"probability"`
	Severity    map[string]Estimate `json:"severity,omitempty"`
	Label       string              `json:"label"`
}

// Range is a band of values, SI.
type Range struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Weighed is one piece of evidence explained.
type Weighed struct {
	Index          int                `json:"index"` // 1-based
	Reading        *float64           `json:"reading,omitempty"`
	Over           bool               `json:"over,omitempty"`
	Low            *float64           `json:"low,omitempty"`
	High           *float64           `json:"high,omitempty"`
	Outcome        string             `json:"outcome,omitempty"`
	ExpectedIfGood *Range             `json:"expected_if_good,omitempty"`
	OpenIfGood     bool               `json:"open_if_good,omitempty"` // a good circuit shows OL here
	Bits           map[string]float64 `json:"bits"`
	Says           string             `json:"says"`
}

// Warning says what a reading cannot tell, or what looks wrong with it.
type Warning struct {
	Index int    `json:"index,omitempty"`
	Code  string `json:"code"`
	Says  string `json:"says"`
}

// Result is a whole diagnosis, as the command line prints it.
type Result struct {
	Format    string         `json:"format"`
	Circuit   string         `json:"circuit"`
	Reasoning string         `json:"reasoning"`
	Verdict   Verdict        `json:"verdict"`
	Stations  []StationShare `json:"stations"`
	Diagnoses []Ranked       `json:"diagnoses"`
	Evidence  []Weighed      `json:"evidence"`
	Next      []Suggestion   `json:"next"`
	Warnings  []Warning      `json:"warnings"`
	Shifts    []Shift        `json:"shifts,omitempty"`    // priors that what is known has moved
	Complaint []string       `json:"complaint,omitempty"` // what the complaint was understood to say, while nobody has looked
}

// Opinion is a result that can still be asked for pictures.
type Opinion struct {
	Result
	Looks []Suggestion // every look still open, the most telling for its minutes first
	// Thought says that what to do next has been worked out.
	Thought bool
	a       *Adviser
	post    *posterior
	job     *Job
}

// refined is how many cells are linearised again where the evidence has moved
// them. The steps of the explanation use the same number, so that a job weighed
// as it grows and a case weighed at once say the same.
const refined = 40

// Weigh reasons about a job: what its evidence amounts to, and what to do next.
// It changes nothing and may be called concurrently.
func (a *Adviser) Weigh(ctx context.Context, j *Job) (*Opinion, error) {
	op, err := a.Glance(ctx, j)
	if err != nil {
		return nil, err
	}
	return op.Think(ctx)
}

// Glance is [Adviser.Weigh] without the next reading: enough for the picture, the
// suspects and the verdict.
func (a *Adviser) Glance(ctx context.Context, j *Job) (*Opinion, error) {
	eps, err := a.epochs(ctx, j)
	if err != nil {
		return nil, err
	}
	last := eps[len(eps)-1]
	es := a.collect(j, last.from, len(j.Evidence))
	full, err := a.weigh(ctx, es, last.prior, last.key, refined)
	if err != nil {
		return nil, err
	}
	a.remember(last.key+stepKey(&es), full.diag) // the next reading's explanation starts here
	op := &Opinion{a: a, post: full, job: j}
	op.Format, op.Circuit, op.Reasoning = Format, a.C.ID, Version
	op.Verdict = a.verdict(full, j)
	op.Verdict.plain()
	a.then(&op.Verdict)
	op.Shifts = a.Shifts(j)
	for _, x := range a.understood(j) {
		if !slices.Contains(op.Complaint, x.says) {
			op.Complaint = append(op.Complaint, x.says)
		}
	}
	if op.Verdict.Status == Contradiction {
		a.proposeSlip(ctx, &op.Verdict, j, last, full)
	}
	st, _ := full.stations()
	for id, p := range st {
		op.Stations = append(op.Stations, StationShare{id, round(p)})
	}
	sort.Slice(op.Stations, func(i, k int) bool {
		x, y := op.Stations[i], op.Stations[k]
		return x.Probability > y.Probability || x.Probability == y.Probability && x.Station < y.Station
	})
	op.Diagnoses = a.ranked(full)
	op.Warnings = append([]Warning{}, slices.Concat(full.namedSlips(j), full.namedGiven(), a.loops(j.Evidence, j.Instruments, last.from), a.chargingSays(j, last.from))...)
	if j.Brief {
		op.Evidence = []Weighed{}
	} else if op.Evidence, err = a.explain(ctx, j, eps, full, &op.Warnings); err != nil {
		return nil, err
	}
	if s := op.Verdict.Status; s == Undecided || s == FaultFound {
		if r := a.oneRepair(full); r != "" {
			op.Verdict.Repair = r
			op.Verdict.Says = "Good enough to decide: whatever of the likely faults it is, the repair is the same: " + phrase.Lower(r) + "."
			op.Verdict.plain()
		}
	}
	op.Next, op.Looks = []Suggestion{}, []Suggestion{}
	return op, nil
}

// For returns the opinion for a job that says the same, word for word and in the same
// order, though its evidence may have other ids and times.
func (op *Opinion) For(j *Job) *Opinion {
	out := *op
	out.job = j
	return &out
}

// Think returns the opinion with what to do next. The receiver stays as it is.
func (op *Opinion) Think(ctx context.Context) (*Opinion, error) {
	if op.Thought {
		return op, nil
	}
	full := *op
	var err error
	if full.Next, full.Looks, err = op.a.next(ctx, op.job, op.post); err != nil {
		return nil, err
	}
	switch s := full.Verdict.Status; {
	case s == NothingWrong, s == Isolated:
		full.Next = op.a.worthwhile(full.Next, full.Verdict.Station, full.Verdict.Probability, op.job)
	case full.Verdict.Repair != "":
		full.Next = []Suggestion{} // no reading could change what is done
	}
	full.Thought = true
	return &full, nil
}

// oneRepair names the one repair that cures every diagnosis that is still likely,
// "" where there is none.
func (a *Adviser) oneRepair(p *posterior) string {
	by := map[string]float64{}
	for d, w := range p.diag {
		var labels []string
		for i, f := range a.diags[d].faults {
			s := a.C.Station(f.Station)
			var mine []string
			for _, act := range []*circuit.Action{s.Replace, s.Repair} {
				if act != nil && slices.Contains(act.Cures, f.Mode) && !slices.Contains(mine, act.Label) {
					mine = append(mine, act.Label)
				}
			}
			if i == 0 {
				labels = mine
			} else {
				labels = slices.DeleteFunc(labels, func(l string) bool { return !slices.Contains(mine, l) })
			}
		}
		for _, l := range labels {
			by[l] += w
		}
	}
	best, most := "", 0.0
	for _, l := range slices.Sorted(maps.Keys(by)) { // of two that cure the same, always the same one
		if by[l] >= Sure && by[l] > most+1e-9 {
			best, most = l, by[l]
		}
	}
	return best
}

// epochs cuts a job at its repairs.
func (a *Adviser) epochs(ctx context.Context, j *Job) ([]epoch, error) {
	prior, key := a.prior(j)
	out := []epoch{{0, prior, key}}
	for _, r := range j.Repairs {
		last := &out[len(out)-1]
		es := a.collect(j, last.from, min(r.After, len(j.Evidence)))
		p, err := a.weigh(ctx, es, last.prior, last.key, refined)
		if err != nil {
			return nil, err
		}
		// What is likely after a repair follows from the evidence before it.
		out = append(out, a.nextEpoch(p, r, last.key+fmt.Sprint(last.from, ";")+stepKey(&es)))
	}
	return out, nil
}

func round(p float64) float64 { return math.Round(p*1e6) / 1e6 }

func (a *Adviser) ranked(p *posterior) []Ranked {
	idx := make([]int, 0, len(p.diag))
	for d, w := range p.diag {
		if w >= 0.0005 {
			idx = append(idx, d)
		}
	}
	sort.SliceStable(idx, func(i, k int) bool { return p.diag[idx[i]] > p.diag[idx[k]] })
	if len(idx) > 25 {
		idx = idx[:25]
	}
	out := []Ranked{}
	for _, d := range idx {
		r := Ranked{Faults: []string{}, Probability: round(p.diag[d]), Label: a.label(a.diags[d].faults)}
		for k, f := range a.diags[d].faults {
			r.Faults = append(r.Faults, f.String())
			if sc := a.Model.ScaleOf(f); sc != nil {
				if e, ok := p.severity(d, k); ok {
					if r.Severity == nil {
						r.Severity = map[string]Estimate{}
					}
					e.Unit = sc.Unit
					r.Severity[sc.Key] = e
				}
			}
		}
		out = append(out, r)
	}
	return out
}

// severity gives the posterior of fault k of diagnosis d: the mixture of its
// cells, 5, 50 and 95 %.
func (p *posterior) severity(d, k int) (Estimate, bool) {
	type part struct{ w, mid, sd float64 }
	var parts []part
	sc := p.a.Model.ScaleOf(p.a.diags[d].faults[k])
	tot := 0.0
	for i := range p.cells {
		c := &p.cells[i]
		cl := &p.a.cells[c.cell]
		if cl.diag != d || cl.sev[k] >= fault.Open {
			continue
		}
		m := cl.sev[k]
		if sc.Log {
			m = math.Log(m)
		}
		u := len(p.a.unc) + k
		z, v := 0.0, 1.0
		if c.z != nil {
			z = c.z[u]
			v = c.variance(u)
		}
		parts = append(parts, part{c.weight, m + z*cl.width[k], math.Max(math.Sqrt(v)*cl.width[k], 1e-6)})
		tot += c.weight
	}
	if tot <= 0 {
		return Estimate{}, false
	}
	quantile := func(q float64) float64 {
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, x := range parts {
			lo, hi = math.Min(lo, x.mid-5*x.sd), math.Max(hi, x.mid+5*x.sd)
		}
		for range 60 {
			m := (lo + hi) / 2
			s := 0.0
			for _, x := range parts {
				s += x.w * normCDF((m-x.mid)/x.sd)
			}
			if s < q*tot {
				lo = m
			} else {
				hi = m
			}
		}
		// Beyond what is worth considering slopes say nothing any more.
		least, most := sc.Lo/beyondScale, sc.Hi*beyondScale
		if !sc.Log {
			least, most = sc.Lo-(sc.Hi-sc.Lo)/2, sc.Hi+(sc.Hi-sc.Lo)/2
			if sc.Unit == "share" {
				least, most = 0, 1
			}
		} else {
			lo = math.Exp(lo)
		}
		return math.Min(math.Max(lo, least), most)
	}
	return Estimate{Estimate: sig(quantile(0.5)), Low: sig(quantile(0.05)), High: sig(quantile(0.95))}, true
}

// beyondScale is how far beyond its usual range a severity is told.
const beyondScale = 5

// sig keeps four significant digits.
func sig(x float64) float64 {
	if x == 0 || math.IsInf(x, 0) {
		return x
	}
	m := math.Pow(10, 3-math.Floor(math.Log10(math.Abs(x))))
	return math.Round(x*m) / m
}

// variance is the posterior variance of one standardised parameter.
func (c *scored) variance(u int) float64 {
	if c.up == nil {
		return 1
	}
	col := make([]float64, len(c.z))
	col[u] = 1
	return math.Max(c.up.variance(col), 1e-9)
}

func (a *Adviser) verdict(p *posterior, j *Job) Verdict {
	st, none := p.stations()
	v := Verdict{Status: Undecided, Faults: []string{}, Also: []string{}}
	top := 0
	for d := range p.diag {
		if p.diag[d] > p.diag[top] {
			top = d
		}
	}
	// Of two that stand alike, the cause comes before the fuse it blew.
	fuse := func(id string) bool { return a.C.Station(id).Kind == circuit.Fuse }
	best, bp := "", -1.0
	for id, w := range st {
		if near := math.Abs(w-bp) < 0.02; best == "" || !near && w > bp || near && (fuse(best) && !fuse(id) || fuse(best) == fuse(id) && (w > bp || w == bp && id < best)) {
			best, bp = id, w
		}
	}
	one := p.within(best)
	for _, f := range a.diags[top].faults {
		v.Faults = append(v.Faults, f.String())
	}
	v.FaultsProbability = round(p.diag[top])
	setStation := func() {
		v.Station, v.Probability = &best, round(one)
		for id, w := range st {
			if id != best && w >= 0.5 {
				v.Also = append(v.Also, id)
			}
		}
		slices.Sort(v.Also)
	}
	seen := !j.Intermittent
	if j.Intermittent {
		for i := range j.Evidence {
			if j.Evidence[i].Symptom == "present" && !j.Evidence[i].Struck {
				seen = true
			}
		}
	}
	switch {
	case p.outlier > a.assumed.Slip.Contradiction:
		v.Status = Contradiction
		worst := -1
		for i, b := range p.blame {
			if b > a.assumed.Slip.Blamed {
				v.Clash = append(v.Clash, i+1)
			}
			if worst < 0 || b > p.blame[worst] {
				worst = i
			}
		}
		v.Station, v.Probability = nil, 0
		v.Faults, v.FaultsProbability = []string{}, 0
		v.Says = fmt.Sprintf("These readings cannot all be true of one circuit. Reading %d fits the others least: take it again, and check range, leads and state.", worst+1)
		if a.guessed() {
			v.Says = "These readings do not fit one circuit with the usual values. Enter this vehicle's own values if you have them; else take reading " + fmt.Sprint(worst+1) + " again, which fits the others least."
		}
		return v
	case none >= Sure && seen:
		v.Status = NothingWrong
		v.Probability = round(none)
		v.Faults = []string{}
		v.Says = "Nothing wrong here: every reading is what a good circuit shows."
	case none >= Sure:
		v.Probability = round(none)
		v.Faults = []string{}
		v.FaultsProbability = round(none)
		v.Says = "Nothing wrong was read, but the fault was away: read again while it shows."
	case one >= Sure:
		v.Status = Isolated
		setStation()
		v.Says = a.sentence(p, v, best, top)
	case none < 0.05:
		v.Status = FaultFound
		setStation()
		v.Says = "Something is wrong; the likeliest place is the " + phrase.Lower(a.C.Station(best).Label) + ", not yet sure."
	default:
		if bp > none {
			setStation()
		} else {
			v.Probability = round(none)
			v.Faults = []string{}
		}
		v.Says = "Not decided yet."
	}
	if v.Status == Isolated || v.Status == NothingWrong {
		v.Overturn = a.overturn(p, top)
	}
	return v
}

// figures are what a verdict's sentence says of how bad a fault is, and what it costs.
var figures = regexp.MustCompile(`, about [^,]*? too many( \([^)]*\))?`)

// plain says the verdict without a figure.
func (v *Verdict) plain() {
	v.Plain = figures.ReplaceAllString(v.Says, "")
	if v.Status == Contradiction {
		v.Plain = "The readings do not agree with each other yet: they are taken again."
	}
}

// then says what comes next where the part is not the end of it.
func (a *Adviser) then(v *Verdict) {
	if v.Status == Isolated && a.C.Station(*v.Station).Kind == circuit.Fuse && slices.Contains(v.Faults, *v.Station+".open") {
		v.Then = "A fuse blows for a reason. Find it before a new one goes in: turn the motor by hand, ohms to ground behind the fuse, then amperes at work."
	}
}

// within is the probability that a station, or one built into the same part, is
// at fault: no probe parts them, and one repair cures both.
func (p *posterior) within(station string) float64 {
	part := func(id string) string {
		if s := p.a.C.Station(id); s != nil && s.Within != "" {
			return s.Within
		}
		return id
	}
	sum := 0.0
	for d, w := range p.diag {
		if slices.ContainsFunc(p.a.diags[d].faults, func(f fault.Fault) bool { return part(f.Station) == part(station) }) {
			sum += w
		}
	}
	return math.Min(sum, 1)
}

// guessed reports whether any nominal value is still a family default.
func (a *Adviser) guessed() bool {
	for _, s := range a.scale {
		if s > 0.15 {
			return true
		}
	}
	return false
}

// sentence says a verdict as one would to a customer.
func (a *Adviser) sentence(p *posterior, v Verdict, station string, top int) string {
	s := a.C.Station(station)
	where := "The " + phrase.Lower(s.Label) + " is at fault"
	fs := a.diags[top].faults
	if len(fs) == 0 || v.FaultsProbability < 0.5 {
		modes := map[string]float64{}
		for d, w := range p.diag {
			for _, f := range a.diags[d].faults {
				if f.Station == station {
					modes[f.Mode] += w
				}
			}
		}
		var names []string
		for m, w := range modes {
			if w > 0.1 {
				names = append(names, m)
			}
		}
		sort.Slice(names, func(i, j int) bool { return modes[names[i]] > modes[names[j]] })
		for i, m := range names {
			names[i] = fault.Label(m)
		}
		if len(names) > 1 {
			return where + "; whether " + strings.Join(names, " or ") + " is still open, and the same part comes off either way."
		}
		return where + "."
	}
	out := where + ": "
	for i, f := range fs {
		if i > 0 {
			out = "Two things are wrong: the " + phrase.Lower(a.C.Station(fs[0].Station).Label) + " (" + fault.Label(fs[0].Mode) + ") and the " +
				phrase.Lower(a.C.Station(f.Station).Label) + " (" + fault.Label(f.Mode) + ")"
			break
		}
		out += fault.Label(f.Mode)
		if sc := a.Model.ScaleOf(f); sc != nil && sc.Unit == "ohm" && f.Mode == "high_resistance" {
			if e, ok := p.severity(top, 0); ok {
				k := a.C.StationIndex(f.Station)
				out += fmt.Sprintf(", about %s too many", unit.Format(e.Estimate, unit.Resistance))
				// What it costs, at the current that flows in the run state.
				for i := range p.cells {
					if a.cells[p.cells[i].cell].diag == top {
						sv := a.newSolver()
						var l linear
						c := &p.cells[i]
						th := c.theta
						if th == nil {
							th = a.nominal(&a.cells[c.cell])
						}
						sv.linearize(&l, a.run, &a.cells[c.cell], th, c.sev, false)
						amps := math.Abs(float64(l.i[k]))
						if amps > 1 {
							out += fmt.Sprintf(" (%.1f V and %.0f W lost in it at %s)", amps*e.Estimate, amps*amps*e.Estimate, unit.Format(amps, unit.Current))
						}
						break
					}
				}
			}
		}
	}
	return out + "."
}

// overturn names the best rival: what would have to be true instead.
func (a *Adviser) overturn(p *posterior, top int) string {
	best, bw := -1, 0.0
	for d, w := range p.diag {
		if a.diags[d].class != a.diags[top].class && w > bw && !contains(a.diags[d].faults, a.diags[top].faults) {
			best, bw = d, w
		}
	}
	if best < 0 || bw < 0.002 {
		return "Only a mistaken reading would overturn this."
	}
	return fmt.Sprintf("Not ruled out: %s (%.1f %%).", phrase.Lower(a.label(a.diags[best].faults)), 100*bw)
}

func contains(fs, part []fault.Fault) bool {
	if len(part) == 0 {
		return false
	}
	for _, f := range part {
		if !slices.Contains(fs, f) {
			return false
		}
	}
	return true
}

// step is the posterior over diagnoses after the first readings of a job.
type step struct {
	a    *Adviser
	diag []float64
}

func (s *step) stations() (map[string]float64, float64) {
	return (&posterior{a: s.a, diag: s.diag}).stations()
}

// maxSteps bounds how many steps an adviser remembers.
const maxSteps = 2000

// step weighs the first readings of a job. A job grows by one reading at a
// time, so all but the last step were computed before and are remembered.
func (a *Adviser) step(ctx context.Context, es evidenceSet, ep *epoch) (*step, error) {
	k := ep.key + stepKey(&es)
	a.stepsMu.Lock()
	d, ok := a.steps[k]
	a.stepsMu.Unlock()
	if !ok {
		p, err := a.weigh(ctx, es, ep.prior, ep.key, refined)
		if err != nil {
			return nil, err
		}
		d = p.diag
		a.remember(k, d)
	}
	return &step{a: a, diag: d}, nil
}

func (a *Adviser) remember(key string, diag []float64) {
	a.stepsMu.Lock()
	defer a.stepsMu.Unlock()
	if len(a.steps) >= maxSteps {
		clear(a.steps)
	}
	a.steps[key] = diag
}

func stepKey(es *evidenceSet) string { return strings.Join(es.keys(), "") }

// keys name the pieces of an evidence set, in canonical order, by all that their weight
// depends on.
func (es *evidenceSet) keys() []string {
	out := make([]string, 0, len(es.num)+len(es.words)+1)
	for i := range es.num {
		r := &es.num[i]
		out = append(out, fmt.Sprintf("%s=%g,%v,%v,%g,%g,%g,%g;", r.group, r.value, r.over, r.when, r.wa, r.wb, r.leads, r.charged))
	}
	for i := range es.words {
		w := &es.words[i]
		out = append(out, fmt.Sprintf("%s@%d=%d,%s,%v,%g;", w.obs.ID, w.state, w.outcome, w.through, w.when, w.doubt))
	}
	if es.codes != nil {
		out = append(out, fmt.Sprint(es.codes, es.trust)) // maps print in the order of their keys
	}
	if len(es.given) > 0 {
		out = append(out, fmt.Sprint("given", es.given))
	}
	return out
}

// explain says for each piece of evidence what it was worth.
func (a *Adviser) explain(ctx context.Context, j *Job, eps []epoch, full *posterior, warn *[]Warning) ([]Weighed, error) {
	out := []Weighed{}
	ep := 0
	prev, err := a.step(ctx, evidenceSet{}, &eps[0])
	if err != nil {
		return nil, err
	}
	good := a.healthyView(full)
	seen := map[string]int{}
	for i := range j.Evidence {
		e := &j.Evidence[i]
		w := Weighed{Index: i + 1, Bits: map[string]float64{}}
		for ep+1 < len(eps) && eps[ep+1].from <= i {
			ep++
			if prev, err = a.step(ctx, evidenceSet{}, &eps[ep]); err != nil {
				return nil, err
			}
		}
		if e.Struck {
			w.Says = "struck out"
			out = append(out, w)
			continue
		}
		if old := len(j.Evidence) - stepped; i < old {
			a.explainOld(&w, e, j, good)
			a.warnings(warn, &w, e, j, i, 1, seen)
			out = append(out, w)
			if i == old-1 {
				if prev, err = a.step(ctx, a.collect(j, eps[ep].from, i+1), &eps[ep]); err != nil {
					return nil, err
				}
			}
			continue
		}
		now := &step{a: a, diag: full.diag}
		if i < len(j.Evidence)-1 {
			if now, err = a.step(ctx, a.collect(j, eps[ep].from, i+1), &eps[ep]); err != nil {
				return nil, err
			}
		}
		top := 0.0
		for d := range now.diag {
			if now.diag[d] < 0.02 && prev.diag[d] < 0.02 && full.diag[d] < 0.02 {
				continue
			}
			b := math.Log2(math.Max(now.diag[d], 1e-9) / math.Max(prev.diag[d], 1e-9))
			key := "none"
			if fs := a.diags[d].faults; len(fs) > 0 {
				names := make([]string, len(fs))
				for k, f := range fs {
					names[k] = f.String()
				}
				key = strings.Join(names, "+")
			}
			w.Bits[key] = math.Round(b*100) / 100
			top = math.Max(top, math.Abs(b))
		}
		if e.Observe != "" {
			w.Outcome = e.Outcome
		} else {
			a.explainReading(&w, e, j, good)
		}
		w.Says = a.says(&w, e, prev, now)
		a.warnings(warn, &w, e, j, i, top, seen)
		out = append(out, w)
		prev = now
	}
	return out, nil
}

// healthyView is the circuit without its faults, with the values the evidence
// points to: the ghost behind the picture, and "expected if good".
type healthyView struct {
	a     *Adviser
	theta []float64
	src   *scored
	lin   map[int]*linear
	s     *solver
}

func (a *Adviser) healthyView(p *posterior) *healthyView {
	h := &healthyView{a: a, theta: a.theta, lin: map[int]*linear{}, s: a.newSolver()}
	if len(p.cells) > 0 {
		h.src = &p.cells[0]
		h.theta = a.nominal(&a.cells[h.src.cell])
		if h.src.theta != nil {
			h.theta = h.src.theta
		}
	}
	return h
}

func (h *healthyView) at(state int) *linear {
	if l, ok := h.lin[state]; ok {
		return l
	}
	l := &linear{}
	h.s.linearize(l, state, &h.a.cells[0], h.theta, [2]float64{}, true)
	h.lin[state] = l
	return l
}

// expect returns the mean and standard deviation of a reading in the good
// circuit, SI, meter error included, and whether a good circuit shows OL.
func (h *healthyView) expect(r *reading) (mean, sd float64, open bool) {
	p := predicted{j: make([]float64, h.a.q)}
	var l *linear
	if h.a.C.States[r.state].Powered() {
		l = h.at(r.state)
	}
	h.a.predict(&p, r, l, &h.a.cells[0], h.theta, [2]float64{}, h.s)
	if p.open {
		return 0, 0, true
	}
	// Only the nominal values are shared with the fault's cell; its severity is not.
	for k := len(h.a.unc); k < h.a.q; k++ {
		p.j[k] = 0
	}
	mean, v := p.mean, 0.0
	if h.src != nil {
		m, pv := h.src.project(p.j)
		if h.src.theta == nil {
			mean += m
		}
		v = pv
	} else {
		for _, x := range p.j {
			v += x * x
		}
	}
	return mean, math.Sqrt(v + p.extra*p.extra + 1/(r.slope(mean)*r.slope(mean))), false
}

// stepped is how many of the latest pieces of evidence are explained by what each changed:
// that takes a weighing each. Of older ones it is said how they lie to a good circuit.
const stepped = 60

// explainOld says of an old piece of evidence what can be said without weighing anew.
func (a *Adviser) explainOld(w *Weighed, e *casefile.Evidence, j *Job, good *healthyView) {
	if e.Observe != "" {
		w.Outcome = e.Outcome
	} else {
		a.explainReading(w, e, j, good)
	}
	if w.Says = w.toGood(); w.Says == "" {
		w.Says = "weighed with the others"
	}
}

// toGood says how a reading lies to what a good circuit shows, "" of a word.
func (w *Weighed) toGood() string {
	switch {
	case w.Outcome != "":
	case w.Over && w.OpenIfGood:
		return "open, as in a good circuit"
	case w.OpenIfGood:
		return "a path where a good circuit has none"
	case w.Over:
		return "open line where a good circuit has a path"
	case w.ExpectedIfGood != nil && w.Low != nil:
		switch {
		case *w.High < w.ExpectedIfGood.Low:
			return "lower than a good circuit shows"
		case *w.Low > w.ExpectedIfGood.High:
			return "higher than a good circuit shows"
		}
		return "within what a good circuit shows"
	}
	return ""
}

// project returns the posterior mean and variance of jᵀz.
func (c *scored) project(j []float64) (mean, v float64) {
	if c.z != nil {
		mean = dot(j, c.z)
	}
	return mean, c.up.variance(j)
}

func (a *Adviser) explainReading(w *Weighed, e *casefile.Evidence, j *Job, good *healthyView) {
	r := a.prepare(e, casefile.MeterFor(e, j.Instruments), 0)
	w.Over = r.over
	if !r.over {
		v, lim := r.value, r.acc.Limit(r.value)+2*r.leads
		lo, hi := v-lim, v+lim
		if e.Measure == unit.Resistance {
			lo = math.Max(lo, 0)
		}
		w.Reading, w.Low, w.High = new(sig(v)), new(sig(lo)), new(sig(hi))
	}
	m, sd, open := good.expect(&r)
	if open {
		w.OpenIfGood = true
		return
	}
	w.ExpectedIfGood = new(a.possible(e.Measure, m-1.645*sd, m+1.645*sd, direction(e.Measure, m)))
}

// between names the stations that lie between two nodes on one path of a state,
// for words.
func (a *Space) between(state, from, to string) []string {
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

// inPathOf reports whether two stations lie on one path of a state.
func (a *Space) inPathOf(state, one, other string) bool {
	return slices.ContainsFunc(a.C.Paths, func(p circuit.Path) bool {
		return p.In(state) && slices.Contains(p.Stations, one) && slices.Contains(p.Stations, other)
	})
}

func (a *Adviser) says(w *Weighed, e *casefile.Evidence, prev, now *step) string {
	ps, pn := prev.stations()
	ns, nn := now.stations()
	var cleared, raised []string
	for k := range a.C.Stations {
		id := a.C.Stations[k].ID
		if ps[id] > 0.02 && ns[id] < ps[id]*0.25 {
			cleared = append(cleared, id)
		}
		if ns[id] > 0.05 && ns[id] > ps[id]*1.7 {
			raised = append(raised, id)
		}
	}
	sort.SliceStable(cleared, func(i, j int) bool { return ps[cleared[i]] > ps[cleared[j]] })
	sort.SliceStable(raised, func(i, j int) bool { return ns[raised[i]] > ns[raised[j]] })
	names := func(ids []string) string {
		if len(ids) > 3 {
			ids = ids[:3]
		}
		out := make([]string, len(ids))
		for i, id := range ids {
			out[i] = phrase.Lower(a.C.Station(id).Label)
		}
		return strings.Join(out, ", ")
	}
	if w.Outcome == circuit.NotSure {
		return "nobody could say: not counted"
	}
	head := w.toGood()
	tail := ""
	switch {
	case len(raised) > 0 && len(cleared) > 0:
		tail = "points to " + names(raised) + "; clears " + names(cleared)
	case len(raised) > 0:
		tail = "points to " + names(raised)
	case len(cleared) > 0:
		tail = "clears " + names(cleared)
	case nn > pn*1.3 && nn > 0.05:
		tail = "fits a good circuit"
	default:
		tail = "changes little"
	}
	if head == "" {
		return tail
	}
	return head + ": " + tail
}

func (a *Adviser) warnings(out *[]Warning, w *Weighed, e *casefile.Evidence, j *Job, i int, topBits float64, seen map[string]int) {
	add := func(code, format string, args ...any) {
		*out = append(*out, Warning{Index: i + 1, Code: code, Says: fmt.Sprintf(format, args...)})
	}
	key := strings.Join([]string{string(e.Measure), e.Observe, e.State, e.From, e.To, e.Through, e.Instrument, e.Condition, e.Symptom}, "|")
	if first, ok := seen[key]; ok {
		add("repeat", "the same as %d again: what the two share is counted once", first)
	} else {
		seen[key] = i + 1
	}
	if e.Observe != "" {
		return
	}
	acc := casefile.MeterFor(e, j.Instruments).For(e.Measure)
	if e.Measure == unit.Resistance && !e.Reading.Over {
		if acc.CannotTell(e.Reading.Value) {
			add("below_meter_resolution", "%s is under three counts of this meter (%s each): it cannot tell a good part from a short or a joint from a cable; volts under load or a four-wire test can",
				unit.Format(e.Reading.Value, unit.Resistance), unit.Format(acc.Count(e.Reading.Value), unit.Resistance))
			if e.Reading.Value == 0 && w.OpenIfGood {
				add("zero_or_ol", "did the display show 0 or OL? Here a good circuit shows OL")
			}
		}
	}
	if e.Measure == unit.Voltage && topBits < 0.1 {
		add("decides_nothing", "%s", a.whyNothing(e))
	}
}

// whyNothing says why a voltage told nothing: mostly that no current flows.
func (a *Adviser) whyNothing(e *casefile.Evidence) string {
	st := a.Net.StatePos(e.State)
	if sup := a.C.States[st].Supply; sup != "battery" && sup != "feed" {
		return "every diagnosis still in play expects this reading"
	}
	w := a.Net.NewWork()
	w.Solve(st, a.theta, a.Net.SoundAll())
	most := 0.0
	for _, id := range a.between(e.State, e.From, e.To) {
		most = math.Max(most, math.Abs(w.I[a.C.StationIndex(id)]))
	}
	if most < 0.01*math.Max(a.Model.Normal[max(a.Net.MotorStation(), 0)], 1) {
		return "no current flows there in this state, so these volts prove nothing: even a single strand shows them"
	}
	return "every diagnosis still in play expects this reading"
}

// Station returns the circuit's station, for callers that print labels.
func (op *Opinion) Station(id string) *circuit.Station { return op.a.C.Station(id) }

// Opened returns the minutes of access to a station that the evidence shows to
// have been spent already.
func (op *Opinion) Opened(station string) float64 {
	s := op.a.C.Station(station)
	if s == nil {
		return 0
	}
	open, _ := op.a.opened(op.job)
	if open[s.Access] {
		return op.a.C.AccessMinutes[s.Access]
	}
	return 0
}
