package workshop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/prove"
	"corriente/core/strip"
	"corriente/core/unit"
	"corriente/core/work"
	"corriente/internal/store"
)

// ProofCheck is one check of a proof, before and after side by side.
type ProofCheck struct {
	diagnose.Check
	Label      string `json:"label"`       // what is read or seen, in words
	BeforeSays string `json:"before_says"` // as it was, empty where it was not taken
	AfterSays  string `json:"after_says"`
	GoodSays   string `json:"good_says"`
}

// Verdict is what came of a check, in a word; empty while it was not taken.
func (c *ProofCheck) Verdict() string {
	switch {
	case c.Passed == nil:
		return ""
	case *c.Passed:
		return "good"
	}
	return "not good"
}

// ProofTick is one thing to be ticked.
type ProofTick struct {
	prove.Tick
	Value string `json:"value"`
}

// Words is what was ticked, with what was read where a tick carries readings.
func (t *ProofTick) Words() string {
	if t.ID == "genset" {
		return t.Label + ": " + t.Value
	}
	return t.Label
}

// ProofRecord is a proof that was signed.
type ProofRecord struct {
	Result  string       `json:"result"`
	Remark  string       `json:"remark"`
	Signed  string       `json:"signed"`
	Counter string       `json:"counter"`
	At      time.Time    `json:"at"`
	By      string       `json:"by"`
	Says    string       `json:"says" doc:"how it went, in words"`
	Checks  []ProofCheck `json:"checks" doc:"as it was signed"`
	Ticks   []ProofTick  `json:"ticks" doc:"what was ticked besides"`
}

// FaultChoice is one fault by name.
type FaultChoice struct {
	ID          string  `json:"id"`
	Label       string  `json:"label"`
	Probability float64 `json:"probability"`
}

// Proving is one repair under proof, with what it may have been for.
type Proving struct {
	RepairView
	Faults []FaultChoice `json:"faults" doc:"what it may have been, the likeliest first"`
}

// ProveView is the proof of a job as it stands.
type ProveView struct {
	Repairs  []Proving     `json:"repairs" doc:"what is to be proved, or what was when all is"`
	Todo     *RepairView   `json:"todo,omitempty" doc:"what is chosen and not done"`
	Open     bool          `json:"open" doc:"there is something to prove"`
	Checks   []ProofCheck  `json:"checks"`
	Ticks    []ProofTick   `json:"ticks"`
	Left     int           `json:"left" doc:"things of the strip-down neither back nor explained"`
	Missing  []string      `json:"missing" doc:"what still stands in the way"`
	Remarks  []string      `json:"remarks" doc:"what would make it a pass with a remark"`
	Failed   bool          `json:"failed" doc:"a check is out of its band"`
	Records  []ProofRecord `json:"records"`
	Excluded *bool         `json:"excluded,omitempty" doc:"kept out of learning; absent while nothing was confirmed"`
	Traces   []ProofTrace  `json:"traces" doc:"current traces kept with the job, oldest first"`
}

// ProofTrace is a kept current trace, before the work or after it.
type ProofTrace struct {
	Name  string    `json:"name"`
	Says  string    `json:"says"`
	MeanA float64   `json:"mean_a"`
	After bool      `json:"after"`
	At    time.Time `json:"at"`
}

// proving is a proof as it is worked out, with what was found before each repair.
type proving struct {
	view     ProveView
	rs       []work.Repair
	of       []int // the repairs under proof
	opinions map[int]*diagnose.Opinion
	zone     *time.Location
}

// Proof works out what would prove a job's repairs, and how far that is.
func (s *Service) Proof(ctx context.Context, j *store.Job) (*ProveView, error) {
	p, err := s.proof(ctx, j)
	if err != nil {
		return nil, err
	}
	return &p.view, nil
}

func (s *Service) proof(ctx context.Context, j *store.Job) (*proving, error) {
	c := j.Case.Circuit
	p := &proving{view: ProveView{Repairs: []Proving{}, Checks: []ProofCheck{}, Ticks: []ProofTick{}, Missing: []string{}, Remarks: []string{}, Records: []ProofRecord{}, Traces: []ProofTrace{}}, opinions: map[int]*diagnose.Opinion{}}
	v := &p.view
	set, err := s.Settings(ctx)
	if err != nil {
		return nil, err
	}
	p.zone = set.Zone()
	p.rs = j.Repairs()
	from := 0
	if p.of, from = j.ToProve(); len(p.of) > 0 {
		v.Open = true
	}
	if i := work.ToDo(p.rs); i >= 0 {
		x := repairOf(j, c, &p.rs[i], p.zone)
		v.Todo = &x
	}
	if err := s.records(ctx, j, p); err != nil {
		return nil, err
	}
	if !v.Open { // what is proved is shown as it was signed
		for i := range p.rs {
			if x := repairOf(j, c, &p.rs[i], p.zone); len(p.rs[i].Done) > 0 {
				v.Repairs = append(v.Repairs, Proving{RepairView: x, Faults: []FaultChoice{}})
			}
		}
		if n := len(v.Records); n > 0 {
			v.Checks = v.Records[n-1].Checks
		}
		return p, nil
	}
	if err := s.checks(ctx, j, p, from); err != nil {
		return nil, err
	}
	return p, s.besides(ctx, j, p)
}

// records are the proofs that were signed, and what the job's traces say.
func (s *Service) records(ctx context.Context, j *store.Job, into *proving) error {
	v := &into.view
	plans, err := s.Store.Plans(ctx, j.ID)
	if err != nil {
		return err
	}
	for i := range j.Proofs {
		p := &j.Proofs[i]
		r := ProofRecord{Result: p.Result, Remark: p.Remark, Signed: p.Signed, Counter: p.Counter, At: p.At, By: p.By, Says: proofWords(p, into.zone), Checks: []ProofCheck{}, Ticks: []ProofTick{}}
		if b := plans[p.ID].Plan; len(b) > 0 {
			if err := json.Unmarshal(b, &r.Checks); err != nil {
				return fmt.Errorf("proof %s as stored cannot be read: %w", p.ID, err)
			}
		}
		if b := plans[p.ID].Ticks; len(b) > 0 && b[0] == '[' { // proofs of before ticks were kept by name have another shape
			if err := json.Unmarshal(b, &r.Ticks); err != nil {
				return fmt.Errorf("ticks of proof %s as stored cannot be read: %w", p.ID, err)
			}
			r.Ticks = slices.DeleteFunc(r.Ticks, func(t ProofTick) bool { return t.Value == "" })
		}
		v.Records = append(v.Records, r)
	}
	os, err := s.Store.Outcomes(ctx, j.ID)
	if err != nil {
		return err
	}
	for _, o := range os {
		out := o.Excluded
		v.Excluded = &out
	}
	traces, err := s.Store.Traces(ctx, j.ID)
	if err != nil {
		return err
	}
	var done time.Time
	if ws := j.WorkDone(); len(ws) > 0 {
		done = ws[len(ws)-1].At
	}
	for i := range traces {
		x := &traces[i]
		v.Traces = append(v.Traces, ProofTrace{x.Name, x.Result.Verdict, x.Result.MeanA, !done.IsZero() && x.At.After(done), x.At})
	}
	return nil
}

// checks are the readings and looks that would prove the repairs, each asked for once.
// What counts was taken from the given piece of evidence on.
func (s *Service) checks(ctx context.Context, j *store.Job, p *proving, from int) error {
	c, v := j.Case.Circuit, &p.view
	have := map[string]bool{}
	for _, k := range p.of {
		op, err := s.before(ctx, j, p.rs, k)
		if err != nil {
			return err
		}
		p.opinions[k] = op
		v.Repairs = append(v.Repairs, Proving{RepairView: repairOf(j, c, &p.rs[k], p.zone), Faults: faultChoices(c, op, p.rs[k].Stations)})
		for _, x := range op.Proof(p.rs[k].Stations, j.Case.Evidence[min(from, len(j.Case.Evidence)):]) {
			key := strings.Join([]string{x.Measure, x.Observe, x.State, min(x.From, x.To), max(x.From, x.To), x.Through}, "|")
			if have[key] {
				continue
			}
			have[key] = true
			v.Checks = append(v.Checks, proofCheck(j, c, x, from))
		}
	}
	for i := range v.Checks {
		x := &v.Checks[i]
		switch {
		case x.Passed == nil:
			v.Missing = append(v.Missing, x.Label)
		case !*x.Passed:
			v.Failed = true
			v.Remarks = append(v.Remarks, fmt.Sprintf("%s: %s, good is %s", x.Label, x.AfterSays, x.GoodSays))
		}
	}
	return nil
}

func proofCheck(j *store.Job, c *circuit.Circuit, k diagnose.Check, from int) ProofCheck {
	x := ProofCheck{Check: k, Label: checkWords(c, &k), GoodSays: goodWords(c, &k)}
	if k.Before != nil {
		x.BeforeSays = said(c, &j.Case.Evidence[*k.Before])
	}
	if k.After != nil {
		n := *k.After + from
		x.AfterSays, x.After = said(c, &j.Case.Evidence[n]), &n
	}
	return x
}

// besides is what belongs to a proof beside its readings.
func (s *Service) besides(ctx context.Context, j *store.Job, p *proving) error {
	c, v := j.Case.Circuit, &p.view
	lines, err := s.Store.Strip(ctx, j.ID)
	if err != nil {
		return err
	}
	items := store.Items(lines)
	v.Left = len(strip.LeftOver(items))
	if v.Left > 0 {
		v.Missing = append(v.Missing, fmt.Sprintf("%d things of the strip-down are neither back nor explained", v.Left))
	}
	f := prove.Facts{Stripped: len(items) > 0, Codes: len(j.Case.Codes) > 0 || c.Observation("blink_code") != nil,
		Generator: strings.Contains(strings.ToLower(j.Machine.Kind+" "+j.Machine.Name), "generator")}
	for _, it := range items {
		f.Unplugged = f.Unplugged || it.Act == strip.Unplugged
	}
	for _, k := range p.of {
		f.Temporary = f.Temporary || p.rs[k].Temporary
	}
	ticked, err := s.Store.Ticks(ctx, j.ID)
	if err != nil {
		return err
	}
	for _, t := range prove.Ticks(c, f) {
		v.Ticks = append(v.Ticks, ProofTick{t, ticked[t.ID]})
		switch {
		case ticked[t.ID] != "":
		case t.Must:
			v.Missing = append(v.Missing, t.Label)
		default:
			v.Remarks = append(v.Remarks, "not done: "+t.Label)
		}
	}
	return nil
}

// faultChoices lists what parts may have had, the likeliest first.
func faultChoices(c *circuit.Circuit, op *diagnose.Opinion, stations []string) []FaultChoice {
	sum := map[string]float64{}
	for _, d := range op.Diagnoses {
		for _, x := range d.Faults {
			sum[x] += d.Probability
		}
	}
	out := []FaultChoice{}
	for _, id := range stations {
		if st := c.Station(id); st != nil {
			for mode := range st.Faults {
				f := id + "." + mode
				out = append(out, FaultChoice{f, st.Label + ": " + fault.Label(mode), sum[f]})
			}
		}
	}
	slices.SortFunc(out, func(a, b FaultChoice) int {
		if a.Probability != b.Probability {
			if a.Probability > b.Probability {
				return -1
			}
			return 1
		}
		return strings.Compare(a.ID, b.ID)
	})
	return out
}

// Signature is what somebody signs.
type Signature struct {
	ID      uuid.UUID
	Result  string // passed, remark or failed
	Remark  string
	Signed  string
	Counter string
	Was     map[string]string // by repair: what it was, station.mode or none; the likeliest where nothing is said
}

// Sign takes a signature under what is to be proved. Passed is refused while a check is
// missing or out of its band; a remark must say what it is.
func (s *Service) Sign(ctx context.Context, j *store.Job, in Signature, by uuid.UUID) (*store.Job, error) {
	if slices.ContainsFunc(j.Proofs, func(p store.Proof) bool { return p.ID == in.ID }) {
		return j, nil // sent again
	}
	p, err := s.proof(ctx, j)
	if err != nil {
		return nil, err
	}
	v := &p.view
	switch {
	case !v.Open && v.Todo != nil:
		return nil, refuse("not proved yet: the work itself is not recorded")
	case !v.Open:
		return nil, refuse("there is nothing to prove: no repair is recorded, or all are signed")
	case in.Result == work.Passed && v.Failed:
		return nil, refuse("a check is out of its band: take it again, or accept it with a remark that says why it may be so")
	case in.Result == work.Passed && len(v.Missing) > 0, in.Result == work.Remark && v.Left > 0:
		return nil, refuse("not proved yet: %s", strings.Join(v.Missing[:min(len(v.Missing), 3)], "; "))
	case in.Result != work.Passed && in.Remark == "":
		return nil, refuse("say in a line what the remark is, or why it failed")
	}
	proof := store.Proof{ID: in.ID, Result: in.Result, Remark: in.Remark, Signed: in.Signed, Counter: in.Counter, After: len(j.Case.Evidence), Was: map[string]string{}}
	var os []store.Outcome
	for n, k := range p.of {
		r := &p.rs[k]
		proof.Of = append(proof.Of, r.ID)
		was := in.Was[r.ID]
		if was == "" && len(v.Repairs[n].Faults) > 0 {
			was = v.Repairs[n].Faults[0].ID
		}
		if !known(j.Case.Circuit, was) {
			return nil, refuse("this circuit has no fault %q", was)
		}
		if in.Result != work.Failed {
			proof.Was[r.ID] = was
			os = append(os, outcome(j, p, k, was))
		}
	}
	var err1, err2 error
	proof.Plan, err1 = json.Marshal(v.Checks)
	proof.Checks, err2 = json.Marshal(v.Ticks)
	if err := errors.Join(err1, err2); err != nil {
		return nil, err
	}
	return s.Store.Prove(ctx, j.ID, proof, os, by)
}

// known reports whether a fault is one of the circuit's, or none.
func known(c *circuit.Circuit, f string) bool {
	if f == "none" || f == "" {
		return true
	}
	station, mode, _ := strings.Cut(f, ".")
	s := c.Station(station)
	return s != nil && slices.Contains(circuit.KindModes(s.Kind), mode)
}

// outcome is what one repair turned out to be for, against what the verdict before it said.
func outcome(j *store.Job, p *proving, k int, was string) store.Outcome {
	r := &p.rs[k]
	o := store.Outcome{Item: k, Fault: was}
	if was == "none" {
		o.Fault = ""
	} else if was != "" {
		o.Station, _, _ = strings.Cut(was, ".")
	} else if len(r.Stations) > 0 {
		o.Station = r.Stations[0]
	}
	if r.Decision >= 0 {
		o.Option = j.Decisions[r.Decision].Option
	}
	v := p.opinions[k].Verdict
	if v.Status == diagnose.Isolated || v.Status == diagnose.NothingWrong {
		one := v.Probability
		o.P = &one
		if v.Station != nil {
			o.Said = *v.Station
		}
		o.Right = o.Said == o.Station || slices.Contains(v.Also, o.Station)
	}
	// From the repair before it up to this one, breaks left out.
	done, first := j.WorkDone(), 0
	for i := range p.rs {
		if at := p.rs[i].After(done); i != k && at >= 0 && at < r.After(done) {
			first = max(first, at)
		}
	}
	es := j.Case.Evidence[first:min(r.After(done), len(j.Case.Evidence))]
	spent := 0.0
	for i := range es {
		if !es[i].Struck {
			o.Readings++
		}
		if i > 0 {
			a, err1 := time.Parse(time.RFC3339Nano, es[i-1].TakenAt)
			b, err2 := time.Parse(time.RFC3339Nano, es[i].TakenAt)
			if err1 == nil && err2 == nil {
				spent += min(max(b.Sub(a).Minutes(), 0), 20)
			}
		}
	}
	if len(es) > 1 {
		o.Minutes = &spent
	}
	return o
}

// checkWords says a check in one line, and goodWords what a good machine shows.
func checkWords(c *circuit.Circuit, k *diagnose.Check) string {
	st := ""
	if x := c.State(k.State); x != nil {
		st = x.Label
	}
	if o := c.Observation(k.Observe); o != nil {
		return o.Label + ", " + lower(st)
	}
	return upper(Words(c, &diagnose.Suggestion{Measure: k.Measure, From: k.From, To: k.To, Through: k.Through})) + ", " + lower(st)
}

func goodWords(c *circuit.Circuit, k *diagnose.Check) string {
	alike := ""
	if k.Alike {
		alike = ", all three alike"
	}
	switch {
	case k.GoodOL:
		return "OL"
	case k.Good != nil:
		lo, hi := unit.Format(k.Good.Low, unit.Measure(k.Measure)), unit.Format(k.Good.High, unit.Measure(k.Measure))
		return lo + " to " + hi + alike
	}
	if o := c.Observation(k.Observe); o != nil {
		for _, x := range o.Outcomes {
			if x.ID == k.Want {
				return x.Label
			}
		}
	}
	return k.Want
}

// evidenceWords says a piece of evidence in one line.
func evidenceWords(c *circuit.Circuit, e *casefile.Evidence) string {
	if o := c.Observation(e.Observe); o != nil {
		return o.Label
	}
	return upper(Words(c, &diagnose.Suggestion{Measure: string(e.Measure), From: e.From, To: e.To, Through: e.Through}))
}
