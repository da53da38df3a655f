package record

import (
	"cmp"
	"slices"
	"strings"

	"corriente/core/casefile"
	"corriente/core/diagnose"
)

// SuspicionView is how suspicion went from before the first reading to the last one.
type SuspicionView struct {
	Steps []SuspicionStep `json:"steps" doc:"the first is before anything was read"`
	Lines []SuspicionLine `json:"lines" doc:"what was ever among the likeliest, the likeliest in the end first, and last all the rest together"`
}

// SuspicionStep is the job as it stood after so many pieces of evidence.
type SuspicionStep struct {
	After int    `json:"after" doc:"how many pieces of evidence had been entered"`
	Says  string `json:"says" doc:"what was entered last; empty before the first"`
}

// SuspicionLine is one explanation through all steps.
type SuspicionLine struct {
	Label  string    `json:"label"`
	Shares []float64 `json:"shares" doc:"its probability at each step, 0 to 1; those of a step add up to 1"`
}

// How many steps are weighed anew, and how many explanations get a line of their own.
const (
	mostSteps = 24
	mostLines = 6
	// leastShare is what an explanation must once have had for a line of its own.
	leastShare = 0.03
)

// Suspicion weighs a job anew as it stood after each piece of evidence that counts; where there
// are many, a bounded number of them, evenly spread, the last among them.
func (r *Record) Suspicion(weigh func(*casefile.Case) (*diagnose.Opinion, error)) (*SuspicionView, error) {
	v := &SuspicionView{Steps: []SuspicionStep{{}}, Lines: []SuspicionLine{}}
	for i := range r.Evidence {
		if e := &r.Evidence[i]; !e.Struck {
			v.Steps = append(v.Steps, SuspicionStep{i + 1, EvidenceWords(r.Circuit, e) + ": " + Said(r.Circuit, e)})
		}
	}
	v.Steps = thinned(v.Steps, mostSteps)
	shares := map[string][]float64{}
	labels := map[string]string{}
	for k := range v.Steps {
		op, err := weigh(r.UpTo(v.Steps[k].After))
		if err != nil {
			return nil, err
		}
		for _, x := range op.Rivals(2 * mostLines) {
			if x.Rest {
				continue
			}
			key := strings.Join(x.Stations, "+")
			if shares[key] == nil {
				shares[key] = make([]float64, len(v.Steps))
			}
			shares[key][k] = x.Probability
			labels[key] = x.Label // the fault that is likeliest there in the end
		}
	}
	for key, s := range shares {
		if l := (SuspicionLine{labels[key], s}); l.most() >= leastShare {
			v.Lines = append(v.Lines, l)
		}
	}
	// Who was once suspected much is worth a line, also where a reading cleared it since.
	slices.SortFunc(v.Lines, func(a, b SuspicionLine) int {
		return cmp.Or(cmp.Compare(b.most(), a.most()), strings.Compare(a.Label, b.Label))
	})
	v.Lines = v.Lines[:min(len(v.Lines), mostLines)]
	last := len(v.Steps) - 1
	slices.SortStableFunc(v.Lines, func(a, b SuspicionLine) int { return cmp.Compare(b.Shares[last], a.Shares[last]) })
	rest := SuspicionLine{"Anything else", make([]float64, len(v.Steps))}
	for k := range v.Steps {
		rest.Shares[k] = 1
		for i := range v.Lines {
			rest.Shares[k] -= v.Lines[i].Shares[k]
		}
		rest.Shares[k] = max(0, rest.Shares[k])
	}
	v.Lines = append(v.Lines, rest)
	return v, nil
}

// most is the largest share it ever had.
func (l *SuspicionLine) most() float64 { return slices.Max(l.Shares) }

// UpTo is the case as it stood after its first pieces of evidence.
func (r *Record) UpTo(n int) *casefile.Case {
	c := *r.Case
	c.Evidence, c.Repairs = r.Evidence[:n:n], nil
	for _, x := range r.Case.Repairs {
		if x.After <= n {
			c.Repairs = append(c.Repairs, x)
		}
	}
	return &c
}

// thinned leaves so many of a list: the first, the last, and between them evenly.
func thinned[T any](xs []T, most int) []T {
	if len(xs) <= most {
		return xs
	}
	out := make([]T, most)
	for i := range out {
		out[i] = xs[i*(len(xs)-1)/(most-1)]
	}
	return out
}
