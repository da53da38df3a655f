package record

import (
	"fmt"
	"slices"
	"time"

	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/phrase"
	"corriente/core/strip"
	"corriente/core/work"
)

// The stages of a job, in the order people work. Any of them may be entered at any time.
const (
	AtComplaint = "complaint"
	AtChecks    = "checks"
	AtMeasure   = "measure"
	AtTrace     = "trace"
	AtStrip     = "strip"
	AtDecide    = "decide"
	AtBack      = "back"
	AtProve     = "prove"
	AtReport    = "report"
)

// stages lists them.
var stages = []string{AtComplaint, AtChecks, AtMeasure, AtTrace, AtStrip, AtDecide, AtBack, AtProve, AtReport}

// How a stage stands.
const (
	StageDone    = "done"
	StageNext    = "next"
	StageSkipped = "skipped" // the job went past it, which is no fault
	StageOpen    = "open"    // the job has not come so far
)

// StageStep is one stage of a job and how it stands.
type StageStep struct {
	Stage string `json:"stage" enum:"complaint,checks,measure,trace,strip,decide,back,prove,report"`
	State string `json:"state" enum:"done,next,skipped,open"`
}

// PathView is a job's way through its stages, and the one thing to do next.
type PathView struct {
	Steps []StageStep `json:"steps" doc:"all nine, in their order"`
	Next  string      `json:"next" enum:"complaint,checks,measure,trace,strip,decide,back,prove,report" doc:"the stage where it goes on; report once the job is closed"`
	Says  string      `json:"says" doc:"what is to be done there, as one says it"`
}

// Path says how far a job has come: which stages are done, which were passed by, where it goes
// on and with what.
func (r *Record) Path(op *diagnose.Opinion, lines []StripLine, closed bool) *PathView {
	left := len(strip.LeftOver(Items(lines)))
	v := &PathView{}
	v.Next, v.Says = r.next(op, left, closed)
	done := map[string]bool{
		AtComplaint: r.Job.Complaint != "",
		AtChecks:    r.took(func(o *circuit.Observation) bool { return o != nil }),
		AtMeasure: settled(op.Verdict.Status) ||
			r.has(work.Chosen, work.Left, work.Worked, work.NotGood, work.Proved, work.Accepted, work.Succeeded),
		AtTrace:  r.took(func(o *circuit.Observation) bool { return o != nil && o.ID == "current_trace" }),
		AtStrip:  len(Items(lines)) > 0,
		AtDecide: r.has(work.Chosen, work.Left, work.Worked, work.NotGood, work.Proved, work.Accepted, work.Succeeded),
		AtBack:   len(strip.PutBack(Items(lines))) > 0 && left == 0,
		AtProve:  r.has(work.Proved, work.Accepted, work.Succeeded) && !r.has(work.Worked, work.NotGood),
		AtReport: closed,
	}
	far := slices.Index(stages, v.Next)
	for i, s := range stages {
		step := StageStep{Stage: s, State: StageOpen}
		switch {
		case s == v.Next && !closed:
			step.State = StageNext
		case done[s]:
			step.State = StageDone
		case i < far:
			step.State = StageSkipped
		}
		v.Steps = append(v.Steps, step)
	}
	return v
}

// next is the stage where a job goes on, and what is to be done there.
func (r *Record) next(op *diagnose.Opinion, left int, closed bool) (stage, says string) {
	verdict := &op.Verdict
	switch {
	case closed:
		return AtReport, "The job is closed."
	case r.has(work.NotGood):
		return AtMeasure, "The proof failed: measure on."
	case r.has(work.Chosen):
		return AtDecide, "Do the work, and say when it is done: " + phrase.Lower(r.View(r.last(work.Chosen), time.UTC).Label) + "."
	case r.has(work.Worked) && left == 1:
		return AtBack, "One thing is still to go back."
	case r.has(work.Worked) && left > 1:
		return AtBack, fmt.Sprintf("%d things are still to go back.", left)
	case r.has(work.Worked):
		return AtProve, "Prove the repair, on the readings that found the fault."
	case r.has(work.Left):
		return AtReport, "It stays as it is: give the customer the report."
	case r.has(work.Proved, work.Accepted, work.Succeeded):
		return AtReport, "Give the customer the report."
	case verdict.Status == diagnose.NothingWrong:
		return AtReport, "Nothing wrong was found: give the customer the report."
	case verdict.Status == diagnose.Contradiction:
		return AtMeasure, "Two readings clash: find which is wrong."
	case settled(verdict.Status) || verdict.Repair != "":
		return AtDecide, "Repair or replace: compare and choose."
	case len(r.Evidence) == 0:
		return AtMeasure, "Take the first reading."
	}
	return AtMeasure, "Take the next reading."
}

func settled(status string) bool {
	return status == diagnose.Isolated || status == diagnose.NothingWrong
}

// has says whether some repair stands so.
func (r *Record) has(status ...work.Status) bool { return r.last(status...) >= 0 }

// last is the latest repair that stands so, -1 where there is none.
func (r *Record) last(status ...work.Status) int {
	for k := len(r.Repairs) - 1; k >= 0; k-- {
		if slices.Contains(status, r.Repairs[k].Status) {
			return k
		}
	}
	return -1
}

// took says whether some look that counts was taken.
func (r *Record) took(is func(o *circuit.Observation) bool) bool {
	for i := range r.Evidence {
		if e := &r.Evidence[i]; !e.Struck && e.Observe != "" && is(r.Circuit.Observation(e.Observe)) {
			return true
		}
	}
	return false
}
