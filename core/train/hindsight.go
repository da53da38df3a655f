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
	s := &search{a: a, truth: map[string]bool{}}
	for _, f := range t.Truth() {
		s.truth[f.Station] = true
	}
	if len(s.truth) == 0 {
		return nil, nil
	}
	for _, e := range a.Candidates() {
		if t.take(&e) == nil {
			s.all = append(s.all, e)
		}
	}
	ways := []way{{}}
	for length := 1; length <= hindsightLength && len(ways) > 0; length++ {
		longer, err := s.lengthen(ctx, ways)
		if err != nil {
			return nil, err
		}
		if length == 1 {
			// What told most alone is what is worth adding.
			s.all = s.all[:0]
			for i := range longer[:min(len(longer), hindsightNext)] {
				s.all = append(s.all, longer[i].es[0])
			}
		}
		ways = longer[:min(len(longer), hindsightKept)]
	}
	if s.best == nil {
		return nil, nil
	}
	h := &Hindsight{Minutes: s.best.minutes}
	for i := range s.best.es {
		e := &s.best.es[i]
		h.Moves = append(h.Moves, Words(a.C,
			&diagnose.Suggestion{Measure: string(e.Measure), Observe: e.Observe, State: e.State, From: e.From,
				To: e.To, Through: e.Through}))
	}
	return h, nil
}

// way is readings one after the other.
type way struct {
	es      []casefile.Evidence
	minutes float64
	p       float64 // of the true part
}

// search is a search for the shortest way.
type search struct {
	a     *diagnose.Adviser
	truth map[string]bool     // stations at fault
	all   []casefile.Evidence // readings that may be added
	best  *way                // the shortest that names the part at fault; nil so far
}

// lengthen follows each way by every reading that it does not have and that cannot make it longer than the best; the
// ways that raised the true part's probability most a minute come first.
func (s *search) lengthen(ctx context.Context, ways []way) (longer []way, err error) {
	for i := range ways {
		w := &ways[i]
		for _, e := range s.all {
			if slices.ContainsFunc(w.es, func(x casefile.Evidence) bool { return same(&x, &e) }) {
				continue
			}
			minutes, _ := s.a.Minutes(&diagnose.Job{Evidence: w.es, Brief: true}, &e)
			minutes += w.minutes
			if s.best != nil && minutes >= s.best.minutes {
				continue
			}
			next := way{append(slices.Clone(w.es), e), minutes, 0}
			done, err := s.weigh(ctx, &next)
			if err != nil {
				return nil, err
			}
			if done && (s.best == nil || next.minutes < s.best.minutes) {
				s.best = &next
			}
			longer = append(longer, next)
		}
	}
	slices.SortStableFunc(longer, func(x, y way) int { return cmp.Compare(y.p/(y.minutes+1), x.p/(x.minutes+1)) })
	return longer, nil
}

// weigh finds how probable a way makes the true part, and whether the verdict names it.
func (s *search) weigh(ctx context.Context, w *way) (done bool, err error) {
	op, err := s.a.Glance(ctx, &diagnose.Job{Evidence: w.es, Brief: true})
	if err != nil {
		return false, err
	}
	for _, x := range op.Stations {
		if s.truth[x.Station] {
			w.p = max(w.p, x.Probability)
		}
	}
	v := op.Verdict
	return v.Status == diagnose.Isolated && s.truth[*v.Station], nil
}

// same reports whether two pieces of evidence ask the same thing of the machine.
func same(a, b *casefile.Evidence) bool {
	if a.Observe != "" || b.Observe != "" {
		return a.Observe == b.Observe && a.Through == b.Through
	}
	return a.Measure == b.Measure && a.State == b.State && a.From == b.From && a.To == b.To && a.Through == b.Through
}
