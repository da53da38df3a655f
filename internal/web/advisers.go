package web

import (
	"container/list"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"sync"

	"github.com/google/uuid"
	"golang.org/x/sync/singleflight"

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

	opinions map[uuid.UUID]opinion
	thinking singleflight.Group
}

type entry struct {
	key  [32]byte
	once sync.Once
	a    *diagnose.Adviser
	err  error
}

func newAdvisers() *advisers {
	return &advisers{order: list.New(), byKey: map[[32]byte]*list.Element{}, opinions: map[uuid.UUID]opinion{}}
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

// keepOpinions is how many jobs' latest opinions are kept: looking at another
// state or typing a reading weighs nothing anew.
const keepOpinions = 64

type opinion struct {
	revision int
	op       *diagnose.Opinion
	stored   bool // its verdict is in the database
}

// stored reports whether the verdict on a job as it stands was put into the database
// already.
func (c *advisers) stored(j *store.Job) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	o, ok := c.opinions[j.ID]
	return ok && o.revision == j.Revision && o.stored
}

func (c *advisers) setStored(j *store.Job) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if o, ok := c.opinions[j.ID]; ok && o.revision == j.Revision {
		o.stored = true
		c.opinions[j.ID] = o
	}
}

// weigh reasons about a job as it is stored, what to do next included. Two who
// ask at once share one answer.
func (c *advisers) weigh(ctx context.Context, j *store.Job) (*diagnose.Opinion, error) {
	op, err := c.glance(ctx, j)
	if err != nil || op.Thought {
		return op, err
	}
	v, err, _ := c.thinking.Do(fmt.Sprint(j.ID, j.Revision), func() (any, error) {
		// The one who asked first may leave; the others still want it.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), requestTimeout)
		defer cancel()
		return op.Think(ctx)
	})
	if err != nil {
		return nil, err
	}
	full := v.(*diagnose.Opinion)
	c.keep(j, full)
	return full, nil
}

func (c *advisers) keep(j *store.Job, op *diagnose.Opinion) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if o, ok := c.opinions[j.ID]; ok && o.revision == j.Revision && o.op.Thought {
		return
	}
	if len(c.opinions) >= keepOpinions {
		clear(c.opinions)
	}
	o, ok := c.opinions[j.ID]
	c.opinions[j.ID] = opinion{j.Revision, op, ok && o.revision == j.Revision && o.stored}
}

// glance is weigh without what to do next. A revision never changes, so its
// opinion may be kept.
func (c *advisers) glance(ctx context.Context, j *store.Job) (*diagnose.Opinion, error) {
	c.mu.Lock()
	o, ok := c.opinions[j.ID]
	c.mu.Unlock()
	if ok && o.revision == j.Revision {
		return o.op, nil
	}
	a, err := c.get(j.Case.Circuit)
	if err != nil {
		return nil, err
	}
	dj := diagnose.JobOf(j.Case)
	dj.Known.Unreachable = j.Unreachable
	op, err := a.Glance(ctx, dj)
	if err != nil {
		return nil, err
	}
	c.keep(j, op)
	return op, nil
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
