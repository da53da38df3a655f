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

	"corriente/core/diagnose"
	"corriente/core/record"
	"corriente/core/work"
	"corriente/internal/store"
)

// Proof works out what would prove a job's repairs, and how far that is.
func (s *Service) Proof(ctx context.Context, j *store.Job) (*record.ProveView, error) {
	p, _, err := s.proof(ctx, j)
	if err != nil {
		return nil, err
	}
	return &p.View, nil
}

func (s *Service) proof(ctx context.Context, j *store.Job) (*record.Proof, *record.Record, error) {
	set, err := s.Settings(ctx)
	if err != nil {
		return nil, nil, err
	}
	b, err := s.Beside(ctx, j)
	if err != nil {
		return nil, nil, err
	}
	r := j.Record()
	p, err := r.Proof(func(k int) (*diagnose.Opinion, error) { return s.before(ctx, j, r, k) }, b, set.Zone())
	return p, r, err
}

// before is what was found before a repair's work; of the job as it stands while that is not
// done.
func (s *Service) before(ctx context.Context, j *store.Job, r *record.Record, k int) (*diagnose.Opinion, error) {
	c := r.Before(k)
	if c == nil {
		return s.Advisers.Glance(ctx, j)
	}
	then := *j
	then.Case = c
	op, _, err := s.Advisers.reason(ctx, &then, answer)
	return op, err
}

// Beside reads what is kept beside a job's case and counts for its proof.
func (s *Service) Beside(ctx context.Context, j *store.Job) (*record.Beside, error) {
	b := &record.Beside{Signed: map[string]record.SignedOn{}, Traces: []record.ProofTrace{},
		Generator: strings.Contains(strings.ToLower(j.Machine.Kind+" "+j.Machine.Name), "generator")}
	plans, err := s.Store.Plans(ctx, j.ID)
	if err != nil {
		return nil, err
	}
	for id, plan := range plans {
		var on record.SignedOn
		if len(plan.Plan) > 0 {
			if err := json.Unmarshal(plan.Plan, &on.Checks); err != nil {
				return nil, fmt.Errorf("proof %s as stored cannot be read: %w", id, err)
			}
		}
		if t := plan.Ticks; len(t) > 0 && t[0] == '[' { // proofs of before ticks were kept by name have another shape
			if err := json.Unmarshal(t, &on.Ticks); err != nil {
				return nil, fmt.Errorf("ticks of proof %s as stored cannot be read: %w", id, err)
			}
		}
		b.Signed[id.String()] = on
	}
	os, err := s.Store.Outcomes(ctx, j.ID)
	if err != nil {
		return nil, err
	}
	for _, o := range os {
		out := o.Excluded
		b.Excluded = &out
	}
	traces, err := s.Store.Traces(ctx, j.ID)
	if err != nil {
		return nil, err
	}
	for i := range traces {
		x := &traces[i]
		b.Traces = append(b.Traces, record.ProofTrace{Name: x.Name, Says: x.Result.Verdict, MeanA: x.Result.MeanA, At: x.At})
	}
	if b.Lines, err = s.Store.Strip(ctx, j.ID); err != nil {
		return nil, err
	}
	b.Ticks, err = s.Store.Ticks(ctx, j.ID)
	return b, err
}

// Sign takes a signature under what is to be proved. Passed is refused while a check is
// missing or out of its band; a remark must say what it is.
func (s *Service) Sign(ctx context.Context, j *store.Job, in record.Signature, by uuid.UUID) (*store.Job, error) {
	if slices.ContainsFunc(j.Proofs, func(p store.Proof) bool { return p.ID.String() == in.ID }) {
		return j, nil // sent again
	}
	p, r, err := s.proof(ctx, j)
	if err != nil {
		return nil, err
	}
	signed, was, err := r.Sign(p, in)
	if err != nil {
		return nil, err
	}
	proof := store.ProofOf(&signed)
	var os []store.Outcome
	if in.Result != work.Failed {
		a, err := s.Advisers.Get(j.Case.Circuit)
		if err != nil {
			return nil, err
		}
		for n, k := range p.Of {
			os = append(os, proved{j, r, p, a}.outcome(k, was[n]))
		}
	}
	var err1, err2 error
	proof.Plan, err1 = json.Marshal(p.View.Checks)
	proof.Checks, err2 = json.Marshal(p.View.Ticks)
	if err := errors.Join(err1, err2); err != nil {
		return nil, err
	}
	return s.Store.Prove(ctx, j.ID, proof, os, by)
}

// proved is a job whose proof is signed.
type proved struct {
	job     *store.Job
	record  *record.Record
	proof   *record.Proof
	adviser *diagnose.Adviser
}

// outcome is what one repair turned out to be for, against what the verdict before it said.
func (x proved) outcome(k int, was string) store.Outcome {
	j, rec := x.job, x.record
	r := &rec.Repairs[k]
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
	v := x.proof.Opinions[k].Verdict
	if v.Status == diagnose.Isolated || v.Status == diagnose.NothingWrong {
		one := v.Probability
		o.P = &one
		if v.Station != nil {
			o.Said = *v.Station
		}
		o.Right = o.Said == o.Station || slices.Contains(v.Also, o.Station)
	}
	// From the repair before it up to this one, breaks left out.
	first := 0
	for i := range rec.Repairs {
		if at := rec.After(i); i != k && at >= 0 && at < rec.After(k) {
			first = max(first, at)
		}
	}
	es := j.Case.Evidence[first:min(rec.After(k), len(j.Case.Evidence))]
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
		advised := x.adviser.Spent(&diagnose.Job{Evidence: es})
		o.Minutes, o.Advised = &spent, &advised
	}
	return o
}
