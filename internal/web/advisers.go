package web

import (
	"container/list"
	"context"
	"crypto/sha256"
	"encoding/json"
	"sync"

	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/internal/store"
)

// keepAdvisers is how many prepared circuits are kept: jobs whose circuits
// agree in every value share one.
const keepAdvisers = 24

// advisers is a cache of prepared circuits, the longest unused one out first.
type advisers struct {
	mu    sync.Mutex
	order *list.List // of *entry, latest first
	byKey map[[32]byte]*list.Element
}

type entry struct {
	key  [32]byte
	once sync.Once
	a    *diagnose.Adviser
	err  error
}

func newAdvisers() *advisers {
	return &advisers{order: list.New(), byKey: map[[32]byte]*list.Element{}}
}

func (c *advisers) get(ci *circuit.Circuit) (*diagnose.Adviser, error) {
	b, err := json.Marshal(ci)
	if err != nil {
		return nil, err
	}
	key := sha256.Sum256(b)
	c.mu.Lock()
	el, ok := c.byKey[key]
	if ok {
		c.order.MoveToFront(el)
	} else {
		el = c.order.PushFront(&entry{key: key})
		c.byKey[key] = el
		for c.order.Len() > keepAdvisers {
			last := c.order.Back()
			delete(c.byKey, last.Value.(*entry).key)
			c.order.Remove(last)
		}
	}
	e := el.Value.(*entry)
	c.mu.Unlock()
	e.once.Do(func() { e.a, e.err = diagnose.NewAdviser(ci) })
	return e.a, e.err
}

// weigh reasons about a job as it is stored.
func (c *advisers) weigh(ctx context.Context, j *store.Job) (*diagnose.Opinion, error) {
	a, err := c.get(j.Case.Circuit)
	if err != nil {
		return nil, err
	}
	dj := diagnose.JobOf(j.Case)
	dj.Unreachable = j.Unreachable
	return a.Weigh(ctx, dj)
}

// Warm prepares a circuit so that the first job on it does not wait.
func (s *Server) Warm(ctx context.Context, id string) error {
	c, err := circuit.Family(id)
	if err != nil {
		return err
	}
	a, err := s.adv.get(c.Clone())
	if err != nil {
		return err
	}
	_, err = a.Weigh(ctx, &diagnose.Job{})
	return err
}
