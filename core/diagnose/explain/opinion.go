package explain

import (
	"context"
	"slices"
	"sort"

	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/choice"
	"corriente/core/diagnose/gauss"
	"corriente/core/diagnose/readings"
	"corriente/core/phrase"
)

// Version names the reasoning, and is stored with every verdict it gives.
const Version = "cells-7"

// Format names the result's format.
const Format = "corriente-diagnosis/1"

// StationShare is one station's marginal probability of being at fault.
type StationShare struct {
	Station     string  `json:"station"`
	Probability float64 `json:"probability"`
}

// Ranked is one diagnosis.
type Ranked struct {
	Faults      []string                   `json:"faults"`
	Probability float64                    `json:"probability"`
	Severity    map[string]belief.Estimate `json:"severity,omitempty"`
	Label       string                     `json:"label"`
}

// Result is a whole diagnosis, as the command line prints it.
type Result struct {
	Format    string              `json:"format"`
	Circuit   string              `json:"circuit"`
	Reasoning string              `json:"reasoning"`
	Verdict   Verdict             `json:"verdict"`
	Stations  []StationShare      `json:"stations"`
	Diagnoses []Ranked            `json:"diagnoses"`
	Evidence  []Weighed           `json:"evidence"`
	Next      []choice.Suggestion `json:"next"`
	Warnings  []readings.Warning  `json:"warnings"`
	Shifts    []belief.Shift      `json:"shifts,omitempty"`    // priors that what is known has moved
	Complaint []string            `json:"complaint,omitempty"` // what the complaint was understood to say, while nobody has looked
}

// Opinion is a result that can still be asked for pictures.
type Opinion struct {
	Result
	Looks []choice.Suggestion // every look still open, the most telling for its minutes first
	// Thought says that what to do next has been worked out.
	Thought   bool
	Reasoner  *belief.Reasoner
	Posterior *belief.Posterior
	Job       *belief.Job
}

// Weigh reasons about a job: what its evidence amounts to, and what to do next.
// It changes nothing and may be called concurrently.
func Weigh(ctx context.Context, a *belief.Reasoner, j *belief.Job) (*Opinion, error) {
	op, err := Glance(ctx, a, j)
	if err != nil {
		return nil, err
	}
	return op.Think(ctx)
}

// Glance is [Weigh] without the next reading: enough for the picture, the
// suspects and the verdict.
func Glance(ctx context.Context, a *belief.Reasoner, j *belief.Job) (*Opinion, error) {
	eps, err := a.Epochs(ctx, j)
	if err != nil {
		return nil, err
	}
	last := eps[len(eps)-1]
	es := a.Collect(j, last.From, len(j.Evidence))
	full, err := a.Weigh(ctx, es, last.Prior, last.Key, belief.Refined)
	if err != nil {
		return nil, err
	}
	a.Remember(last.Key+belief.StepKey(&es), full.Diag) // the next reading's explanation starts here
	op := &Opinion{Reasoner: a, Posterior: full, Job: j}
	op.Format, op.Circuit, op.Reasoning = Format, a.C.ID, Version
	op.Verdict = verdict(a, full, j)
	op.Verdict.plain()
	then(a, &op.Verdict)
	op.Shifts = a.Shifts(j)
	for _, x := range a.Understood(j) {
		if !slices.Contains(op.Complaint, x.Says) {
			op.Complaint = append(op.Complaint, x.Says)
		}
	}
	if op.Verdict.Status == Contradiction {
		if ws := full.NamedSlips(j); len(ws) > 0 {
			op.Verdict.Slip = ws[0].Says // the likeliest of those weighed already
		} else {
			proposeSlip(ctx, a, &op.Verdict, j, last)
		}
	}
	st, _ := full.Stations()
	for id, p := range st {
		op.Stations = append(op.Stations, StationShare{id, gauss.Round(p)})
	}
	sort.Slice(op.Stations, func(i, k int) bool {
		x, y := op.Stations[i], op.Stations[k]
		return x.Probability > y.Probability || x.Probability == y.Probability && x.Station < y.Station
	})
	op.Diagnoses = ranked(a, full)
	op.Warnings = append([]readings.Warning{},
		slices.Concat(full.NamedSlips(j), full.NamedGiven(),
			readings.Loops(a.Space, j.Evidence, j.Instruments, last.From), a.ChargingSays(j, last.From))...)
	if j.Brief {
		op.Evidence = []Weighed{}
	} else {
		x, ws, err := explain(ctx, a, j, eps, full)
		if err != nil {
			return nil, err
		}
		op.Evidence = ws
		op.Warnings = append(op.Warnings, x.warnings...)
	}
	if s := op.Verdict.Status; s == Undecided || s == FaultFound {
		if r := oneRepair(a, full); r != "" {
			op.Verdict.Repair = r
			op.Verdict.Says = "Good enough to decide: whatever of the likely faults it is, the repair is the same: " + phrase.Lower(r) + "."
			op.Verdict.plain()
		}
	}
	op.Next, op.Looks = []choice.Suggestion{}, []choice.Suggestion{}
	return op, nil
}

// For returns the opinion for a job that says the same, word for word and in the same
// order, though its evidence may have other ids and times.
func (op *Opinion) For(j *belief.Job) *Opinion {
	out := *op
	out.Job = j
	return &out
}

// Think returns the opinion with what to do next. The receiver stays as it is.
func (op *Opinion) Think(ctx context.Context) (*Opinion, error) {
	if op.Thought {
		return op, nil
	}
	full := *op
	var err error
	if full.Next, full.Looks, err = choice.Next(ctx, op.Reasoner, op.Job, op.Posterior); err != nil {
		return nil, err
	}
	switch s := full.Verdict.Status; {
	case s == NothingWrong, s == Isolated:
		full.Next = choice.Worthwhile(op.Reasoner, full.Next, full.Verdict.Station, full.Verdict.Probability, op.Job)
	case full.Verdict.Repair != "":
		full.Next = []choice.Suggestion{} // no reading could change what is done
	}
	full.Thought = true
	return &full, nil
}

func ranked(a *belief.Reasoner, p *belief.Posterior) []Ranked {
	idx := make([]int, 0, len(p.Diag))
	for d, w := range p.Diag {
		if w >= 0.0005 {
			idx = append(idx, d)
		}
	}
	sort.SliceStable(idx, func(i, k int) bool { return p.Diag[idx[i]] > p.Diag[idx[k]] })
	if len(idx) > 25 {
		idx = idx[:25]
	}
	out := []Ranked{}
	for _, d := range idx {
		r := Ranked{Faults: []string{}, Probability: gauss.Round(p.Diag[d]), Label: a.Label(a.Diags[d].Faults)}
		for k, f := range a.Diags[d].Faults {
			r.Faults = append(r.Faults, f.String())
			if sc := a.Model.ScaleOf(f); sc != nil {
				if e, ok := p.Severity(d, k); ok {
					if r.Severity == nil {
						r.Severity = map[string]belief.Estimate{}
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

// Station returns the circuit's station, for callers that print labels.
func (op *Opinion) Station(id string) *circuit.Station { return op.Reasoner.C.Station(id) }

// Opened returns the minutes of access to a station that the evidence shows to
// have been spent already.
func (op *Opinion) Opened(station string) float64 {
	s := op.Reasoner.C.Station(station)
	if s == nil {
		return 0
	}
	open, _ := choice.Opened(op.Reasoner, op.Job)
	if open[s.Access] {
		return op.Reasoner.C.AccessMinutes[s.Access]
	}
	return 0
}
