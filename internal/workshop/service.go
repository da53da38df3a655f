package workshop

import (
	"context"

	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/internal/store"
)

// Service does it. It may be used concurrently, and is not to be copied.
type Service struct {
	Store    *store.Store
	Advisers *Advisers

	lives lives
}

// Warm prepares a circuit so that the first job on it does not wait.
func (s *Service) Warm(ctx context.Context, id string) error {
	c, err := circuit.Family(id)
	if err != nil {
		return err
	}
	a, err := s.Advisers.Get(c.Clone())
	if err != nil {
		return err
	}
	_, err = a.Weigh(ctx, &diagnose.Job{})
	return err
}
