package evaluate

import (
	"context"
	"math"
	"runtime"
	"slices"
	"sync"

	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/diagnose/assume"
)

// Influence is how far one assumed number moves what is concluded, over many finished jobs, when
// it is a third less or a third more.
type Influence struct {
	Name   string  `json:"name"` // see [assume.Table.Entries]
	Value  float64 `json:"value"`
	From   string  `json:"from"`
	Moved  float64 `json:"moved"`  // greatest change of a part's probability, of all jobs
	Mean   float64 `json:"mean"`   // mean over the jobs of the greatest change in each
	Stood  int     `json:"stood"`  // verdicts that changed from standing to undecided or back
	Turned int     `json:"turned"` // sure verdicts that came to be sure of another part
	Next   int     `json:"next"`   // jobs in which another first reading was advised half way
	Jobs   int     `json:"jobs"`   // times two: less and more
}

// finished is a job that was worked to its end on a machine of other equations.
type finished struct {
	job, half *diagnose.Job
	verdict   diagnose.Verdict
	parts     map[string]float64
	next      diagnose.Suggestion // half way
}

// AssumptionOptions say on what [Assumptions] are tried.
type AssumptionOptions struct {
	Circuits []string
	Machines int                                                // of each circuit
	Seed     uint64                                             // of the machines
	Only     func(assume.Entry) bool                            // nil: every number
	Progress func(done, of int)                                 // may be nil
	Told     func(circuit string, e assume.Entry, in Influence) // of each number on each circuit; may be nil
}

// Assumptions changes every assumed number by a third, down and up, and reports how far the
// verdicts of finished jobs on machines of other equations move with it, the most moving first.
func Assumptions(ctx context.Context, o AssumptionOptions) ([]Influence, error) {
	standard, err := assume.Standard()
	if err != nil {
		return nil, err
	}
	var entries []assume.Entry
	for _, e := range standard.Entries() {
		if o.Only == nil || o.Only(e) {
			entries = append(entries, e)
		}
	}
	total := make([]Influence, len(entries))
	for i, e := range entries {
		total[i] = Influence{Name: e.Name, Value: e.Value, From: e.From}
	}
	done := 0
	for _, id := range o.Circuits {
		c, err := circuit.Family(id)
		if err != nil {
			return nil, err
		}
		jobs, err := finish(ctx, c, o)
		if err != nil {
			return nil, err
		}
		var mu sync.Mutex
		errs := make([]error, len(entries))
		var wg sync.WaitGroup
		workers := min(runtime.GOMAXPROCS(0), len(entries))
		for w := range workers {
			wg.Go(func() {
				for i := w; i < len(entries) && ctx.Err() == nil; i += workers {
					in, err := influence(ctx, c, standard, entries[i], jobs)
					mu.Lock()
					if errs[i] = err; err == nil {
						total[i].add(in)
						if o.Told != nil {
							o.Told(id, entries[i], in)
						}
					}
					if done++; o.Progress != nil {
						o.Progress(done, len(entries)*len(o.Circuits))
					}
					mu.Unlock()
				}
			})
		}
		wg.Wait()
		for _, err := range append(errs, ctx.Err()) {
			if err != nil {
				return nil, err
			}
		}
	}
	slices.SortStableFunc(total, func(x, y Influence) int {
		return compareFloats(y.Mean, x.Mean)
	})
	return total, nil
}

func compareFloats(x, y float64) int {
	switch {
	case x < y:
		return -1
	case x > y:
		return 1
	}
	return 0
}

// add joins what was found on another circuit.
func (in *Influence) add(x Influence) {
	if n := float64(in.Jobs + x.Jobs); n > 0 {
		in.Mean = (in.Mean*float64(in.Jobs) + x.Mean*float64(x.Jobs)) / n
	}
	in.Moved = math.Max(in.Moved, x.Moved)
	in.Stood, in.Turned, in.Next, in.Jobs = in.Stood+x.Stood, in.Turned+x.Turned, in.Next+x.Next, in.Jobs+x.Jobs
}

// finish works machines to their verdicts and weighs them as they then stand.
func finish(ctx context.Context, c *circuit.Circuit, o AssumptionOptions) ([]finished, error) {
	r, err := Run(ctx, Options{Circuit: c.ID, Faults: o.Machines, Seed: o.Seed, Machines: Tuning})
	if err != nil {
		return nil, err
	}
	a, err := diagnose.NewAdviser(c)
	if err != nil {
		return nil, err
	}
	out := make([]finished, len(r.Trials))
	for i := range r.Trials {
		t := &r.Trials[i]
		whole := diagnose.Job{Brief: true, Instruments: t.Instruments, Evidence: t.Case}
		half := whole
		half.Evidence = t.Case[:(len(t.Case)+1)/2]
		out[i] = finished{job: &whole, half: &half}
		if err := out[i].weigh(ctx, a); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// weigh notes what an adviser makes of the job.
func (f *finished) weigh(ctx context.Context, a *diagnose.Adviser) error {
	op, err := a.Glance(ctx, f.job)
	if err != nil {
		return err
	}
	f.verdict, f.parts = op.Verdict, map[string]float64{}
	for _, s := range op.Stations {
		f.parts[s.Station] = s.Probability
	}
	half, err := a.Weigh(ctx, f.half)
	if err != nil {
		return err
	}
	if f.next = (diagnose.Suggestion{}); len(half.Next) > 0 {
		f.next = half.Next[0]
	}
	return nil
}

// influence weighs all jobs with one number a third less and a third more.
func influence(ctx context.Context, c *circuit.Circuit, standard *assume.Table, e assume.Entry, jobs []finished) (Influence, error) {
	in := Influence{Jobs: 2 * len(jobs)}
	if e.Value == 0 { // the base of a curve that begins at nothing
		return Influence{}, nil
	}
	for _, by := range []float64{2. / 3, 4. / 3} {
		t, err := standard.With(e.Name, e.Value*by)
		if err != nil {
			return in, err
		}
		a, err := diagnose.NewAdviserWith(c, t)
		if err != nil {
			return in, err
		}
		for i := range jobs {
			was, now := &jobs[i], jobs[i]
			if err := now.weigh(ctx, a); err != nil {
				return in, err
			}
			most := 0.0
			for id, p := range now.parts {
				most = math.Max(most, math.Abs(p-was.parts[id]))
			}
			in.Moved, in.Mean = math.Max(in.Moved, most), in.Mean+most/float64(in.Jobs)
			if stands(&now.verdict) != stands(&was.verdict) {
				in.Stood++
			}
			if x, y := sureOf(&now.verdict), sureOf(&was.verdict); x != "" && y != "" && x != y {
				in.Turned++
			}
			x, y := &now.next, &was.next
			if x.Measure != y.Measure || x.Observe != y.Observe || x.State != y.State || x.From != y.From ||
				x.To != y.To || x.Through != y.Through {
				in.Next++
			}
		}
	}
	return in, nil
}

func stands(v *diagnose.Verdict) bool {
	return v.Status == diagnose.Isolated || v.Status == diagnose.NothingWrong
}

// sureOf is the part a verdict is sure of, "" for none.
func sureOf(v *diagnose.Verdict) string {
	if v.Status == diagnose.Isolated {
		return *v.Station
	}
	return ""
}
