package web

import (
	"context"
	"log/slog"
	"maps"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"

	"corriente/internal/store"
)

// How servers over one database tell one another. What is changed at one is seen at the others within
// listenEvery and what a query takes. lookBack allows for the clocks of the database's hosts to differ.
const (
	listenEvery = 400 * time.Millisecond
	lookBack    = time.Minute
	wordFor     = 5 * time.Second // a word may take so long
)

// servers tells the other servers what was changed here, and who listens here what was changed there.
type servers struct {
	me  uuid.UUID
	st  *store.Store
	hub *hub
	log *slog.Logger

	mu   sync.Mutex
	jobs map[uuid.UUID]struct{} // changed here, and not said yet
	left bool                   // somebody was signed out here, and it is not said yet
}

func newServers(st *store.Store, h *hub, log *slog.Logger) *servers {
	return &servers{me: store.NewID(), st: st, hub: h, log: log, jobs: map[uuid.UUID]struct{}{}}
}

// changed tells everybody that a job was changed.
func (s *Server) changed(job uuid.UUID) {
	s.hub.tell(job)
	if s.others != nil {
		s.others.mu.Lock()
		s.others.jobs[job] = struct{}{}
		s.others.mu.Unlock()
	}
}

// someoneLeft makes every stream look whether its listener is still signed in.
func (s *Server) someoneLeft() {
	s.hub.someoneLeft()
	if s.others != nil {
		s.others.mu.Lock()
		s.others.left = true
		s.others.mu.Unlock()
	}
}

// run tells and listens until closing is closed.
func (o *servers) run(closing <-chan struct{}) {
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	t := time.NewTicker(listenEvery)
	defer t.Stop()
	known := map[uuid.UUID]bool{}
	last, first, well := time.Now(), true, true
	for {
		select {
		case <-closing:
			if err := o.say(ctx); err != nil { // what was changed in the last moment
				o.log.Warn("other servers were not told", "err", err)
			}
			return
		case <-t.C:
		}
		now := time.Now()
		err := o.say(ctx)
		if err == nil {
			err = o.hear(ctx, known, lookBack+now.Sub(last), first)
		}
		if err == nil {
			last, first = now, false
		} else if well {
			o.log.Warn("other servers are not heard", "err", err)
		}
		well = err == nil
	}
}

// say tells the others what was changed since it was said last; what does not go out waits for the next time.
func (o *servers) say(ctx context.Context) error {
	o.mu.Lock()
	jobs, left := slices.Collect(maps.Keys(o.jobs)), o.left
	clear(o.jobs)
	o.left = false
	o.mu.Unlock()
	if len(jobs) == 0 && !left {
		return nil
	}
	ctx, cancel := context.WithTimeout(ctx, wordFor)
	defer cancel()
	err := o.st.Tell(ctx, o.me, jobs, left)
	if err != nil {
		o.mu.Lock()
		for _, j := range jobs {
			o.jobs[j] = struct{}{}
		}
		o.left = o.left || left
		o.mu.Unlock()
	}
	return err
}

// hear passes on what the others said and is not known yet. At first it only learns what is past.
func (o *servers) hear(ctx context.Context, known map[uuid.UUID]bool, past time.Duration, first bool) error {
	ctx, cancel := context.WithTimeout(ctx, wordFor)
	defer cancel()
	words, err := o.st.ToldSince(ctx, o.me, past)
	if err != nil {
		return err
	}
	for _, w := range words {
		if known[w.ID] || first {
			continue
		}
		if w.Job.Valid {
			o.hub.tell(w.Job.UUID)
		} else {
			o.hub.someoneLeft()
		}
	}
	clear(known) // what is out of the window comes no more
	for _, w := range words {
		known[w.ID] = true
	}
	return nil
}
