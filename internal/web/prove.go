package web

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/prove"
	"corriente/core/strip"
	"corriente/core/unit"
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

// ProofTick is one thing to be ticked.
type ProofTick struct {
	prove.Tick
	Value string `json:"value"`
}

// ProofRecord is a proof that was signed.
type ProofRecord struct {
	Result  string    `json:"result"`
	Remark  string    `json:"remark"`
	Signed  string    `json:"signed"`
	Counter string    `json:"counter"`
	At      time.Time `json:"at"`
	By      string    `json:"by"`
}

// ProveView is the proof of a job as it stands.
type ProveView struct {
	Station  string        `json:"station" doc:"what was worked on; empty while nothing is decided or repaired"`
	Repaired bool          `json:"repaired" doc:"the work is recorded: readings from now on are after it"`
	Checks   []ProofCheck  `json:"checks"`
	Ticks    []ProofTick   `json:"ticks"`
	Left     int           `json:"left" doc:"things of the strip-down neither back nor explained"`
	Missing  []string      `json:"missing" doc:"what still stands in the way"`
	Remarks  []string      `json:"remarks" doc:"what would make it a pass with a remark"`
	Failed   bool          `json:"failed" doc:"a check is out of its band"`
	Faults   []FaultChoice `json:"faults" doc:"what it may have been, the likeliest first"`
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

// FaultChoice is one fault by name.
type FaultChoice struct {
	ID          string  `json:"id"`
	Label       string  `json:"label"`
	Probability float64 `json:"probability"`
}

// repaired finds what was worked on in a job: the last repair recorded, else the last
// decision.
func repaired(j *store.Job) (station string, r *casefile.Repair) {
	if n := len(j.Case.Repairs); n > 0 {
		r = &j.Case.Repairs[n-1]
		return r.Station, r
	}
	if n := len(j.Decisions); n > 0 {
		return j.Decisions[n-1].Station, nil
	}
	return "", nil
}

// before is a job as its evidence stood before a repair.
func (s *Server) before(ctx context.Context, j *store.Job, r *casefile.Repair) (*diagnose.Opinion, error) {
	if r == nil {
		return s.adv.weigh(ctx, j)
	}
	c := *j.Case
	c.Evidence = c.Evidence[:min(r.After, len(c.Evidence))]
	c.Repairs = slices.DeleteFunc(slices.Clone(c.Repairs), func(x casefile.Repair) bool { return x.ID == r.ID || x.After > r.After })
	a, err := s.adv.get(c.Circuit)
	if err != nil {
		return nil, err
	}
	dj := diagnose.JobOf(&c)
	dj.Known.Unreachable = j.Unreachable
	return a.Glance(ctx, dj)
}

func (s *Server) proof(ctx context.Context, j *store.Job) (*ProveView, *diagnose.Opinion, error) {
	c := j.Case.Circuit
	v := &ProveView{Checks: []ProofCheck{}, Ticks: []ProofTick{}, Missing: []string{}, Remarks: []string{}, Faults: []FaultChoice{}, Records: []ProofRecord{}, Traces: []ProofTrace{}}
	ps, err := s.st.Proofs(ctx, j.ID)
	if err != nil {
		return nil, nil, s.fail("proofs", err)
	}
	for _, p := range ps {
		v.Records = append(v.Records, ProofRecord{p.Result, p.Remark, p.Signed, p.Counter, p.At, p.By})
	}
	station, rep := repaired(j)
	op, err := s.before(ctx, j, rep)
	if err != nil {
		return nil, nil, s.fail("proof", err)
	}
	if station == "" {
		return v, op, nil
	}
	v.Station, v.Repaired = station, rep != nil
	if o, err := s.st.Outcome(ctx, j.ID); err != nil {
		return nil, nil, s.fail("proof", err)
	} else if o != nil {
		v.Excluded = &o.Excluded
	}
	traces, err := s.st.Traces(ctx, j.ID)
	if err != nil {
		return nil, nil, s.fail("proof", err)
	}
	for i := range traces {
		x := &traces[i]
		after := false
		if rep != nil {
			if t, err := time.Parse(time.RFC3339Nano, rep.At); err == nil {
				after = x.At.After(t)
			}
		}
		v.Traces = append(v.Traces, ProofTrace{x.Name, x.Result.Verdict, x.Result.MeanA, after, x.At})
	}
	var after []casefile.Evidence
	from := len(j.Case.Evidence)
	if rep != nil {
		from = min(rep.After, from)
		after = j.Case.Evidence[from:]
	}
	for _, k := range op.Proof(station, after) {
		x := ProofCheck{Check: k, Label: checkWords(c, &k)}
		if k.Before != nil {
			x.BeforeSays = said(c, &j.Case.Evidence[*k.Before])
		}
		if k.After != nil {
			n := *k.After + from
			x.AfterSays, x.After = said(c, &j.Case.Evidence[n]), &n
		}
		x.GoodSays = goodWords(c, &k)
		v.Checks = append(v.Checks, x)
		switch {
		case k.Passed == nil:
			v.Missing = append(v.Missing, x.Label)
		case !*k.Passed:
			v.Failed = true
			v.Remarks = append(v.Remarks, fmt.Sprintf("%s: %s, good is %s", x.Label, x.AfterSays, x.GoodSays))
		}
	}
	lines, err := s.st.Strip(ctx, j.ID)
	if err != nil {
		return nil, nil, s.fail("proof", err)
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
	if n := len(j.Decisions); n > 0 {
		f.Temporary = j.Decisions[n-1].Option == "temporary"
	}
	ticked, err := s.st.Ticks(ctx, j.ID)
	if err != nil {
		return nil, nil, s.fail("proof", err)
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
	if !v.Repaired {
		v.Missing = append([]string{"the work itself is not recorded yet"}, v.Missing...)
	}
	sum := map[string]float64{}
	for _, d := range op.Diagnoses {
		for _, x := range d.Faults {
			if strings.HasPrefix(x, station+".") {
				sum[x] += d.Probability
			}
		}
	}
	if st := c.Station(station); st != nil {
		for mode := range st.Faults {
			id := station + "." + mode
			v.Faults = append(v.Faults, FaultChoice{id, st.Label + ": " + fault.Label(mode), sum[id]})
		}
	}
	slices.SortFunc(v.Faults, func(a, b FaultChoice) int {
		if a.Probability != b.Probability {
			if a.Probability > b.Probability {
				return -1
			}
			return 1
		}
		return strings.Compare(a.ID, b.ID)
	})
	return v, op, nil
}

// said is a piece of evidence as a person would say it.
func said(c *circuit.Circuit, e *casefile.Evidence) string {
	if e.Observe == "" {
		return e.Reading.String(e.Measure)
	}
	if o := c.Observation(e.Observe); o != nil {
		for _, x := range o.Outcomes {
			if x.ID == e.Outcome {
				return x.Label
			}
		}
	}
	return strings.ReplaceAll(e.Outcome, "_", " ")
}

func (s *Server) proveRoutes(get, put, post opFunc) {
	view := func(ctx context.Context, id string) (*out[ProveView], error) {
		j, err := s.load(ctx, id)
		if err != nil {
			return nil, err
		}
		v, _, err := s.proof(ctx, j)
		if err != nil {
			return nil, err
		}
		return body(*v), nil
	}
	huma.Register(s.api, get("proof", "/api/jobs/{id}/proof", "What would show the repair to be good, and how far that is"), func(ctx context.Context, in *JobIn) (*out[ProveView], error) {
		return view(ctx, in.ID)
	})
	huma.Register(s.api, put("tick", "/api/jobs/{id}/proof/ticks/{tick}", "Tick something towards the proof; an empty value takes it away"), func(ctx context.Context, in *struct {
		JobIn
		Tick string `path:"tick" maxLength:"64"`
		Body struct {
			Value string `json:"value" maxLength:"200"`
		}
	}) (*out[ProveView], error) {
		if _, err := s.mayWrite(ctx); err != nil {
			return nil, err
		}
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		if err := s.st.PutTick(ctx, j.ID, in.Tick, strings.TrimSpace(in.Body.Value)); err != nil {
			return nil, s.fail("tick", err)
		}
		return view(ctx, in.ID)
	})
	huma.Register(s.api, post("prove", "/api/jobs/{id}/proof", "Sign the proof: passed, passed with a remark, or failed"), func(ctx context.Context, in *struct {
		JobIn
		Body struct {
			ID      string `json:"id" format:"uuid"`
			Result  string `json:"result" enum:"passed,remark,failed"`
			Remark  string `json:"remark,omitempty" maxLength:"400"`
			Signed  string `json:"signed" minLength:"2" maxLength:"120" doc:"name of who signs"`
			Counter string `json:"counter,omitempty" maxLength:"40" doc:"hours or mileage, as read"`
			Fault   string `json:"fault,omitempty" maxLength:"128" doc:"what it was: station.mode; none for nothing wrong"`
		}
	}) (*out[ProveView], error) {
		u, err := s.mayWrite(ctx)
		if err != nil {
			return nil, err
		}
		_, pid, err := twoIDs(in.ID, in.Body.ID)
		if err != nil {
			return nil, err
		}
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		v, op, err := s.proof(ctx, j)
		if err != nil {
			return nil, err
		}
		b := in.Body
		remark := strings.TrimSpace(b.Remark)
		switch {
		case b.Result == "passed" && v.Failed:
			return nil, huma.Error422UnprocessableEntity("A check is out of its band: take it again, or pass it with a remark that says why it may be so.")
		case b.Result == "passed" && len(v.Missing) > 0, b.Result == "remark" && (v.Left > 0 || !v.Repaired):
			return nil, huma.Error422UnprocessableEntity(sentence("Not proved yet: " + strings.Join(v.Missing[:min(len(v.Missing), 3)], "; ")))
		case b.Result != "passed" && remark == "":
			return nil, huma.Error422UnprocessableEntity("Say in a line what the remark is, or why it failed.")
		}
		var o *store.Outcome
		if b.Result != "failed" {
			o = outcome(j, op, v.Station, b.Fault)
			if o == nil {
				return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("This circuit has no fault %q.", b.Fault))
			}
		}
		plan, err1 := json.Marshal(v.Checks)
		ticks, err2 := json.Marshal(v.Ticks)
		if err1 != nil || err2 != nil {
			return nil, s.fail("proof", err1)
		}
		if err := s.st.Prove(ctx, j.ID, store.Proof{ID: pid, Result: b.Result, Remark: remark, Signed: strings.TrimSpace(b.Signed), Counter: strings.TrimSpace(b.Counter), Checks: ticks, Plan: plan}, o, u.ID); err != nil {
			return nil, s.fail("proof", err)
		}
		return view(ctx, in.ID)
	})
}

// outcome is what a job turned out to be, against what the verdict before the repair
// said; nil where the fault is none of the circuit's.
func outcome(j *store.Job, op *diagnose.Opinion, station, f string) *store.Outcome {
	o := &store.Outcome{Station: station, Fault: f}
	if f == "none" {
		o.Station, o.Fault = "", ""
	} else if f != "" {
		st, mode, _ := strings.Cut(f, ".")
		s := j.Case.Circuit.Station(st)
		if s == nil || !slices.Contains(circuit.KindModes(s.Kind), mode) {
			return nil
		}
		o.Station = st
	}
	if n := len(j.Decisions); n > 0 {
		o.Option = j.Decisions[n-1].Option
	}
	v := op.Verdict
	if v.Status == diagnose.Isolated || v.Status == diagnose.NothingWrong {
		p := v.Probability
		o.P = &p
		if v.Station != nil {
			o.Said = *v.Station
		}
		o.Right = o.Said == o.Station || slices.Contains(v.Also, o.Station)
	}
	for i := range j.Case.Evidence {
		if e := &j.Case.Evidence[i]; !e.Struck {
			o.Readings++
		}
	}
	if n := len(j.Case.Evidence); n > 1 { // from the first reading to the last, breaks left out
		spent := 0.0
		for i := 1; i < n; i++ {
			a, err1 := time.Parse(time.RFC3339Nano, j.Case.Evidence[i-1].TakenAt)
			b, err2 := time.Parse(time.RFC3339Nano, j.Case.Evidence[i].TakenAt)
			if err1 == nil && err2 == nil {
				spent += min(max(b.Sub(a).Minutes(), 0), 20)
			}
		}
		o.Minutes = &spent
	}
	return o
}

// checkWords says a check in one line, and goodWords its band.
func checkWords(c *circuit.Circuit, k *diagnose.Check) string {
	st := ""
	if x := c.State(k.State); x != nil {
		st = x.Label
	}
	if o := c.Observation(k.Observe); o != nil {
		return o.Label + ", " + strings.ToLower(st)
	}
	n := diagnose.Suggestion{Measure: k.Measure, From: k.From, To: k.To, Through: k.Through}
	w := words(c, &n)
	return strings.ToUpper(w[:1]) + w[1:] + ", " + strings.ToLower(st)
}

func goodWords(c *circuit.Circuit, k *diagnose.Check) string {
	switch {
	case k.GoodOL:
		return "OL"
	case k.Good != nil:
		lo, hi := unit.Format(k.Good.Low, unit.Measure(k.Measure)), unit.Format(k.Good.High, unit.Measure(k.Measure))
		return lo + " to " + hi
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
