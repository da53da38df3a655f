package workshop

import (
	"context"
	"slices"
	"sync"

	"github.com/google/uuid"
)

// urgency is who waits for a piece of reasoning.
type urgency int

const (
	answer urgency = iota // somebody, for what their reading amounts to
	next                  // somebody, for what to do next
	ahead                 // nobody yet: it is worked out before it is asked for
)

// queue lets so many reason at a time: more at once on the same cores would only make everybody wait for all
// the others. Answers go before what is next, and both before what nobody waits for, which leaves one place
// free besides. Within that whoever came first goes first; a job has one place at most, so that one with
// hundreds of readings does not stop the others. It is safe for concurrent use.
type queue struct {
	mu      sync.Mutex
	places  int
	free    int
	busy    map[uuid.UUID]bool // jobs somebody waits for and that have a place
	waiting [ahead + 1][]*turn
}

type turn struct {
	job uuid.UUID
	got chan struct{} // closed when it has a place
}

func newQueue(places int) *queue {
	return &queue{places: places, free: places, busy: map[uuid.UUID]bool{}}
}

// enter waits for a place; leave gives it back and is to be called once. The error is the context's.
func (q *queue) enter(ctx context.Context, job uuid.UUID, u urgency) (leave func(), err error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	t := &turn{job, make(chan struct{})}
	q.mu.Lock()
	q.waiting[u] = append(q.waiting[u], t)
	q.seat()
	q.mu.Unlock()
	leave = func() {
		q.mu.Lock()
		defer q.mu.Unlock()
		if q.free++; u != ahead {
			delete(q.busy, job)
		}
		q.seat()
	}
	select {
	case <-t.got:
		return leave, nil
	case <-ctx.Done():
	}
	q.mu.Lock()
	i := slices.Index(q.waiting[u], t)
	if i >= 0 {
		q.waiting[u] = slices.Delete(q.waiting[u], i, i+1)
	}
	q.mu.Unlock()
	if i < 0 { // it came at the same moment
		leave()
	}
	return nil, ctx.Err()
}

// seat gives the free places to whoever is next; the caller holds the lock.
func (q *queue) seat() {
	for u := range q.waiting {
		for i := 0; i < len(q.waiting[u]) && q.free > 0; {
			t := q.waiting[u][i]
			switch {
			case urgency(u) == ahead && q.free < min(2, q.places):
				return
			case urgency(u) != ahead && q.busy[t.job]:
				i++
				continue
			case urgency(u) != ahead:
				q.busy[t.job] = true
			}
			q.free--
			q.waiting[u] = slices.Delete(q.waiting[u], i, i+1)
			close(t.got)
		}
	}
}
