package record

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/phrase"
	"corriente/core/prove"
	"corriente/core/strip"
	"corriente/core/unit"
	"corriente/core/work"
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

// Proof is a proof as it is worked out, with what was found before each repair.
type Proof struct {
	View     ProveView
	Of       []int // the repairs under proof
	Opinions map[int]*diagnose.Opinion
}

// SignedOn is what a proof was signed on.
type SignedOn struct {
	Checks []ProofCheck `json:"checks"`
	Ticks  []ProofTick  `json:"ticks"`
}

// Beside is what is kept beside a job's case and counts for its proof.
type Beside struct {
	Lines     []StripLine         `json:"lines" doc:"the strip-down, in order"`
	Ticks     map[string]string   `json:"ticks"`
	Signed    map[string]SignedOn `json:"signed" doc:"by proof"`
	Traces    []ProofTrace        `json:"traces"`
	Excluded  *bool               `json:"excluded,omitempty"`
	Generator bool                `json:"generator" doc:"the machine is a generator set"`
}

// Proof works out what would prove a job's repairs, and how far that is. before says what
// the evidence before a repair's work amounts to.
func (r *Record) Proof(before func(k int) (*diagnose.Opinion, error), b *Beside, zone *time.Location) (*Proof, error) {
	p := &Proof{View: ProveView{Repairs: []Proving{}, Checks: []ProofCheck{}, Ticks: []ProofTick{},
		Missing: []string{}, Remarks: []string{}, Records: []ProofRecord{}, Traces: []ProofTrace{}}, Opinions: map[int]*diagnose.Opinion{}}
	v := &p.View
	from := 0
	if p.Of, from = r.ToProve(); len(p.Of) > 0 {
		v.Open = true
	}
	if i := work.ToDo(r.Repairs); i >= 0 {
		x := r.View(i, zone)
		v.Todo = &x
	}
	r.records(v, b, zone)
	if !v.Open { // what is proved is shown as it was signed
		for i := range r.Repairs {
			if len(r.Repairs[i].Done) > 0 {
				v.Repairs = append(v.Repairs, Proving{RepairView: r.View(i, zone), Faults: []FaultChoice{}})
			}
		}
		if n := len(v.Records); n > 0 {
			v.Checks = v.Records[n-1].Checks
		}
		return p, nil
	}
	if err := r.checks(p, before, from, zone); err != nil {
		return nil, err
	}
	r.besides(p, b)
	return p, nil
}

// records are the proofs that were signed, and what the job's traces say.
func (r *Record) records(v *ProveView, b *Beside, zone *time.Location) {
	for i := range r.Job.Proofs {
		p := &r.Job.Proofs[i]
		x := ProofRecord{Result: p.Result, Remark: p.Remark, Signed: p.Signed, Counter: p.Counter, At: parse(p.At),
			By: p.By, Says: proofWords(p, zone), Checks: []ProofCheck{}, Ticks: []ProofTick{}}
		on := b.Signed[p.ID]
		x.Checks = append(x.Checks, on.Checks...)
		for _, t := range on.Ticks {
			if t.Value != "" {
				x.Ticks = append(x.Ticks, t)
			}
		}
		v.Records = append(v.Records, x)
	}
	v.Excluded = b.Excluded
	var done time.Time
	if n := len(r.done); n > 0 {
		done = r.done[n-1].At
	}
	for _, t := range b.Traces {
		t.After = !done.IsZero() && t.At.After(done)
		v.Traces = append(v.Traces, t)
	}
}

// checks are the readings and looks that would prove the repairs, each asked for once.
// What counts was taken from the given piece of evidence on.
func (r *Record) checks(p *Proof, before func(k int) (*diagnose.Opinion, error), from int, zone *time.Location) error {
	v := &p.View
	have := map[string]bool{}
	for _, k := range p.Of {
		op, err := before(k)
		if err != nil {
			return err
		}
		p.Opinions[k] = op
		v.Repairs = append(v.Repairs, Proving{RepairView: r.View(k, zone), Faults: faultChoices(r.Circuit, op, r.Repairs[k].Stations)})
		for _, x := range op.Proof(r.Repairs[k].Stations, r.Evidence[min(from, len(r.Evidence)):]) {
			key := strings.Join([]string{x.Measure, x.Observe, x.State, min(x.From, x.To), max(x.From, x.To), x.Through}, "|")
			if have[key] {
				continue
			}
			have[key] = true
			v.Checks = append(v.Checks, r.check(x, from))
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

func (r *Record) check(k diagnose.Check, from int) ProofCheck {
	x := ProofCheck{Check: k, Label: checkWords(r.Circuit, &k), GoodSays: goodWords(r.Circuit, &k)}
	if k.Before != nil {
		x.BeforeSays = Said(r.Circuit, &r.Evidence[*k.Before])
	}
	if k.After != nil {
		n := *k.After + from
		x.AfterSays, x.After = Said(r.Circuit, &r.Evidence[n]), &n
	}
	return x
}

// besides is what belongs to a proof beside its readings.
func (r *Record) besides(p *Proof, b *Beside) {
	c, v := r.Circuit, &p.View
	items := Items(b.Lines)
	v.Left = len(strip.LeftOver(items))
	if v.Left > 0 {
		v.Missing = append(v.Missing, fmt.Sprintf("%d things of the strip-down are neither back nor explained", v.Left))
	}
	f := prove.Facts{Stripped: len(items) > 0, Codes: len(r.Codes) > 0 || c.Observation("blink_code") != nil, Generator: b.Generator}
	for _, it := range items {
		f.Unplugged = f.Unplugged || it.Act == strip.Unplugged
	}
	for _, k := range p.Of {
		f.Temporary = f.Temporary || r.Repairs[k].Temporary
	}
	for _, t := range prove.Ticks(c, f) {
		v.Ticks = append(v.Ticks, ProofTick{t, b.Ticks[t.ID]})
		switch {
		case b.Ticks[t.ID] != "":
		case t.Must:
			v.Missing = append(v.Missing, t.Label)
		default:
			v.Remarks = append(v.Remarks, "not done: "+t.Label)
		}
	}
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
	ID      string
	Result  string // passed, remark or failed
	Remark  string
	Signed  string
	Counter string
	Was     map[string]string // by repair: what it was, station.mode or none; the likeliest where nothing is said
	At      time.Time
	By      string // name of who enters it
}

// Sign says what a signature under what is to be proved amounts to. Passed is refused while a
// check is missing or out of its band; a remark must say what it is. was is what each repair
// under proof turned out to be for, in their order.
func (r *Record) Sign(p *Proof, in Signature) (out casefile.Proof, was []string, err error) {
	v := &p.View
	switch {
	case !v.Open && v.Todo != nil:
		return out, nil, Refuse("not proved yet: the work itself is not recorded")
	case !v.Open:
		return out, nil, Refuse("there is nothing to prove: no repair is recorded, or all are signed")
	case in.Result == work.Passed && v.Failed:
		return out, nil, Refuse("a check is out of its band: take it again, or accept it with a remark that says why it may be so")
	case in.Result == work.Passed && len(v.Missing) > 0, in.Result == work.Remark && v.Left > 0:
		return out, nil, Refuse("not proved yet: %s", strings.Join(v.Missing[:min(len(v.Missing), 3)], "; "))
	case in.Result != work.Passed && in.Remark == "":
		return out, nil, Refuse("say in a line what the remark is, or why it failed")
	}
	out = casefile.Proof{ID: in.ID, Result: in.Result, Remark: in.Remark, Signed: in.Signed, Counter: in.Counter,
		After: len(r.Evidence), Was: map[string]string{}, At: in.At.UTC().Format(time.RFC3339Nano), By: in.By}
	for n, k := range p.Of {
		id := r.Repairs[k].ID
		out.Of = append(out.Of, id)
		x := in.Was[id]
		if x == "" && len(v.Repairs[n].Faults) > 0 {
			x = v.Repairs[n].Faults[0].ID
		}
		if !known(r.Circuit, x) {
			return out, nil, Refuse("this circuit has no fault %q", x)
		}
		was = append(was, x)
		if in.Result != work.Failed {
			out.Was[id] = x
		}
	}
	return out, was, nil
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

// checkWords says a check in one line, and goodWords what a good machine shows.
func checkWords(c *circuit.Circuit, k *diagnose.Check) string {
	st := ""
	if x := c.State(k.State); x != nil {
		st = x.Label
	}
	if o := c.Observation(k.Observe); o != nil {
		return o.Label + ", " + phrase.Lower(st)
	}
	return phrase.Upper(Words(c, &diagnose.Suggestion{Measure: k.Measure, From: k.From, To: k.To,
		Through: k.Through})) + ", " + phrase.Lower(st)
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
		low := k.Good.Low
		if low < 0 && -low < k.Good.High/2 { // the meter's own error: nothing is lost below nothing
			low = 0
		}
		lo, hi := unit.Format(low, unit.Measure(k.Measure)), unit.Format(k.Good.High, unit.Measure(k.Measure))
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
