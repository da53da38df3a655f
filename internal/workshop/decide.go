package workshop

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"

	"corriente/core/circuit"
	"corriente/core/learn"
	"corriente/core/record"
	"corriente/core/repair"
	"corriente/internal/store"
)

// Compare computes the options of a job.
func (s *Service) Compare(ctx context.Context, j *store.Job, in record.Compare) (*record.OptionsView, error) {
	op, err := s.Advisers.Weigh(ctx, j)
	if err != nil {
		return nil, err
	}
	r := j.Record()
	lived, err := s.Lived(ctx, r.CircuitID, r.Asked(op, in))
	if err != nil {
		return nil, err
	}
	return r.Compare(op, in, lived, time.Now())
}

// Lived reads how long repairs of parts of a circuit lasted in this workshop.
func (s *Service) Lived(ctx context.Context, circuit string, stations []string) (record.Lived, error) {
	year := func(t time.Time) float64 { return float64(t.Unix()) / (365.25 * 86400) }
	out := record.Lived{}
	for _, station := range stations {
		done, err := s.Store.Lives(ctx, circuit, station)
		if err != nil {
			return nil, err
		}
		var es []learn.Event
		for _, d := range done {
			es = append(es, learn.Event{Machine: d.Machine.String(), Option: d.Option, At: year(d.At)})
		}
		out[station] = learn.Lifetimes(es, year(time.Now()))
	}
	return out, nil
}

// lasting is how long what is known of lives is good enough for a job that is carried along:
// they move with the years, and reading them anew is work that grows with the logbook.
const lasting = 10 * time.Minute

// lives remembers how long repairs of a circuit's parts lasted.
type lives struct {
	mu sync.Mutex
	of map[string]livesAt
}

type livesAt struct {
	lived record.Lived
	at    time.Time
}

// LivedOf is how long repairs of all parts of a circuit lasted in this workshop, as it was in
// the last minutes.
func (s *Service) LivedOf(ctx context.Context, c *circuit.Circuit) (record.Lived, error) {
	s.lives.mu.Lock()
	defer s.lives.mu.Unlock()
	if x, ok := s.lives.of[c.ID]; ok && time.Since(x.at) < lasting {
		return x.lived, nil
	}
	var parts []string
	for i := range c.Stations {
		if st := &c.Stations[i]; st.Repair != nil || st.Replace != nil {
			parts = append(parts, st.ID)
		}
	}
	lived, err := s.Lived(ctx, c.ID, parts)
	if err != nil {
		return nil, err
	}
	if s.lives.of == nil {
		s.lives.of = map[string]livesAt{}
	}
	s.lives.of[c.ID] = livesAt{lived, time.Now()}
	return lived, nil
}

// Decide records a choice, with what was found and what stood against it. A dangerous
// option is refused; one that should not be taken asks for a reason.
func (s *Service) Decide(ctx context.Context, j *store.Job, in record.Choice, by uuid.UUID) (*store.Job, error) {
	if slices.ContainsFunc(j.Decisions, func(d store.Decision) bool { return d.ID.String() == in.ID }) {
		return j, nil // sent again
	}
	op, err := s.Advisers.Weigh(ctx, j)
	if err != nil {
		return nil, err
	}
	r := j.Record()
	lived, err := s.Lived(ctx, r.CircuitID, r.Asked(op, in.Compare))
	if err != nil {
		return nil, err
	}
	d, expected, err := r.Choose(op, in, lived)
	if err != nil {
		return nil, err
	}
	kept := store.DecisionOf(&d)
	kept.Expected = &expected
	return s.Store.Decide(ctx, j.ID, kept, by)
}

// Done records work.
func (s *Service) Done(ctx context.Context, j *store.Job, in record.Work, by uuid.UUID) (*store.Job, error) {
	if in.At.IsZero() {
		in.At = time.Now()
	}
	list, err := j.Record().Do(in)
	if err != nil {
		return nil, err
	}
	return s.Store.Repair(ctx, j.ID, list, in.Late, by)
}

// Reword changes what is said to have been done, until it is signed.
func (s *Service) Reword(ctx context.Context, job uuid.UUID, repair, what string) (*store.Job, error) {
	j, err := s.Store.Reword(ctx, job, repair, what)
	if errors.Is(err, store.ErrSigned) {
		return nil, &record.Refusal{Says: err.Error()}
	}
	return j, err
}

// Terms reads what a job is decided by besides its evidence.
func (s *Service) Terms(ctx context.Context, job uuid.UUID) (record.JobTerms, error) {
	t := record.JobTerms{With: map[string]repair.Figures{}}
	w, f, err := s.Store.Terms(ctx, job)
	if err != nil || len(w) == 0 {
		return t, err
	}
	return t, errors.Join(json.Unmarshal(w, &t.Wishes), json.Unmarshal(f, &t.With))
}

// PutTerms keeps it. A day that is none, or that has passed, is refused.
func (s *Service) PutTerms(ctx context.Context, job uuid.UUID, t record.JobTerms) error {
	if err := t.Check(time.Now()); err != nil {
		return err
	}
	w, err1 := json.Marshal(t.Wishes)
	if t.With == nil {
		t.With = map[string]repair.Figures{}
	}
	f, err2 := json.Marshal(t.With)
	if err := errors.Join(err1, err2); err != nil {
		return err
	}
	return s.Store.PutTerms(ctx, job, w, f)
}
