package train

import (
	"cmp"
	"context"
	"slices"

	"corriente/core/casefile"
	"corriente/core/diagnose"
)

// Hindsight is the shortest way to a right verdict that was found for one machine by who
// knows what is hidden: nobody can be quicker by much, and nobody has to be.
type Hindsight struct {
	Minutes float64  `json:"minutes"`
	Moves   []string `json:"moves"`
}

// How wide and how far the search goes: so many ways are kept at each length, and each is
// followed by so many readings. Every way is weighed once.
const (
	hindsightKept   = 4
	hindsightNext   = 16
	hindsightLength = 3
)

// WithHindsight searches the readings of an exercise's machine for the fewest minutes after
// which the verdict names the part at fault. It is a beam search over the readings that
// raise the true part's probability most a minute: what it finds is an upper bound of the
// best possible, nil where nothing is hidden or no short way was found.
func WithHindsight(ctx context.Context, a *diagnose.Adviser, ex Exercise) (*Hindsight, error) {
	t, err := Start(a, ex)
	if err != nil {
		return nil, err
	}
	truth := map[string]bool{}
	for _, f := range t.Truth() {
		truth[f.Station] = true
	}
	if len(truth) == 0 {
		return nil, nil
	}
	type way struct {
		es      []casefile.Evidence
		minutes float64
		p       float64 // of the true part
	}
	// weigh follows a way by one more reading.
	weigh := func(w *way, e casefile.Evidence) (next way, done bool, err error) {
		j := diagnose.Job{Evidence: w.es, Brief: true}
		m, _ := a.Minutes(&j, &e)
		next = way{append(slices.Clone(w.es), e), w.minutes + m, 0}
		j.Evidence = next.es
		op, err := a.Glance(ctx, &j)
		if err != nil {
			return next, false, err
		}
		for _, s := range op.Stations {
			if truth[s.Station] {
				next.p = max(next.p, s.Probability)
			}
		}
		v := op.Verdict
		return next, v.Status == diagnose.Isolated && truth[*v.Station], nil
	}
	var all []casefile.Evidence
	for _, e := range a.Candidates() {
		if t.take(&e) == nil {
			all = append(all, e)
		}
	}
	var best *way
	start := way{}
	ways := []way{start}
	for length := 1; length <= hindsightLength && len(ways) > 0; length++ {
		var longer []way
		for i := range ways {
			for _, e := range all {
				if slices.ContainsFunc(ways[i].es, func(x casefile.Evidence) bool { return same(&x, &e) }) {
					continue
				}
				j := diagnose.Job{Evidence: ways[i].es}
				if m, _ := a.Minutes(&j, &e); best != nil && ways[i].minutes+m >= best.minutes {
					continue
				}
				next, done, err := weigh(&ways[i], e)
				if err != nil {
					return nil, err
				}
				if done && (best == nil || next.minutes < best.minutes) {
					best = &next
				}
				longer = append(longer, next)
			}
		}
		by := func(x, y way) int { return cmp.Compare(y.p/(y.minutes+1), x.p/(x.minutes+1)) }
		slices.SortStableFunc(longer, by)
		if length == 1 {
			// What told most alone is what is worth adding.
			all = all[:0]
			for i := range longer[:min(len(longer), hindsightNext)] {
				all = append(all, longer[i].es[0])
			}
		}
		ways = longer[:min(len(longer), hindsightKept)]
	}
	if best == nil {
		return nil, nil
	}
	h := &Hindsight{Minutes: best.minutes}
	for i := range best.es {
		e := &best.es[i]
		h.Moves = append(h.Moves, Words(a.C,
			&diagnose.Suggestion{Measure: string(e.Measure), Observe: e.Observe, State: e.State, From: e.From,
				To: e.To, Through: e.Through}))
	}
	return h, nil
}

// same reports whether two pieces of evidence ask the same thing of the machine.
func same(a, b *casefile.Evidence) bool {
	if a.Observe != "" || b.Observe != "" {
		return a.Observe == b.Observe && a.Through == b.Through
	}
	return a.Measure == b.Measure && a.State == b.State && a.From == b.From && a.To == b.To && a.Through == b.Through
}
