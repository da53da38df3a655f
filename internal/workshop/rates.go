package workshop

import (
	"context"
	"maps"
	"math"
	"slices"
	"time"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/learn"
	"corriente/internal/store"
)

// Since is the time from which on jobs are learned from.
func (s *Service) Since(ctx context.Context) (time.Time, error) {
	at, err := s.Store.Setting(ctx, "learning_since")
	if err != nil {
		return time.Time{}, err
	}
	if t, err := time.Parse(time.RFC3339, at); err == nil {
		return t, nil
	}
	return time.Unix(0, 0), nil
}

// TakeLearned begins a job with what the workshop's own jobs say of a circuit's faults and
// of how long getting at things takes.
func (s *Service) TakeLearned(ctx context.Context, c *casefile.Case, m *store.Machine) error {
	rs, err := s.Rates(ctx, c.Circuit, m.Kind, m.Age(time.Now()))
	if err != nil {
		return err
	}
	factors := learn.Factors(rs)
	for _, r := range rs {
		if f, ok := factors[r.Fault]; ok {
			if c.Known.Rates == nil {
				c.Known.Rates = map[string]casefile.Learned{}
			}
			c.Known.Rates[r.Fault] = casefile.Learned{Factor: f, N: r.N, Of: r.Of}
		}
	}
	ways, err := s.Ways(ctx, c.Circuit, m.Kind)
	if err != nil {
		return err
	}
	for _, w := range ways {
		if c.Known.Access == nil {
			c.Known.Access, c.AccessMinutes = map[string]casefile.LearnedMinutes{}, map[string]float64{}
		}
		c.Known.Access[w.Access] = casefile.LearnedMinutes{Minutes: w.Here, N: w.N}
		c.AccessMinutes[w.Access] = w.Here
	}
	return nil
}

// Rates are a circuit's fault rates as learned here: on machines of one kind and age,
// shrunk towards those of the kind, these towards all others, and these towards what ships.
func (s *Service) Rates(ctx context.Context, c *circuit.Circuit, kind string, age int) ([]learn.Rate, error) {
	since, err := s.Since(ctx)
	if err != nil {
		return nil, err
	}
	shipped := map[string]float64{}
	for i := range c.Stations {
		for mode, r := range c.Stations[i].Faults {
			if r > 0 {
				shipped[c.Stations[i].ID+"."+mode] = r
			}
		}
	}
	groups, err := s.Store.Counts(ctx, c.ID, kind, age, since)
	if err != nil {
		return nil, err
	}
	return learn.Nested(shipped, groups[:]...), nil
}

// LearnWay is how long getting at something takes as learned here.
type LearnWay struct {
	Access  string  `json:"access"`
	Label   string  `json:"label"`
	Shipped float64 `json:"shipped" doc:"minutes as it ships"`
	Here    float64 `json:"here" doc:"minutes as it is taken here"`
	N       int     `json:"n" doc:"jobs that said so"`
}

// Ways are the access groups of a circuit whose minutes were said here.
func (s *Service) Ways(ctx context.Context, c *circuit.Circuit, kind string) ([]LearnWay, error) {
	since, err := s.Since(ctx)
	if err != nil {
		return nil, err
	}
	others, own, err := s.Store.AccessTimes(ctx, c.ID, kind, since)
	if err != nil {
		return nil, err
	}
	out := []LearnWay{}
	for _, g := range slices.Sorted(maps.Keys(c.AccessMinutes)) {
		n := len(others[g]) + len(own[g])
		if n == 0 {
			continue
		}
		w := LearnWay{Access: g, Label: c.AccessLabels[g], Shipped: c.AccessMinutes[g], N: n}
		w.Here = math.Round(2*learn.Minutes(w.Shipped, others[g], own[g])) / 2
		out = append(out, w)
	}
	return out, nil
}
