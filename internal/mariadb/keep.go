package mariadb

import (
	"context"
	"log/slog"
	"net"
	"strconv"
	"sync"
	"time"
)

// Kept is a server that is started again when it ends by itself: somebody killed it, or the
// machine ran out of memory. It comes back on the same port, so that who asks it asks on.
type Kept struct {
	mu   sync.Mutex
	now  *Server
	stop context.CancelFunc
	done chan struct{}
	port int
}

// How long it is waited before a server is started again: longer with each that did not last.
const (
	firstPause = 200 * time.Millisecond
	mostPause  = 5 * time.Second
	lasted     = time.Minute // a server that ran so long was well
)

// Keep starts a server and keeps it running until it is stopped.
func Keep(ctx context.Context, dir string, port int, log *slog.Logger) (*Kept, error) {
	s, err := Start(ctx, dir, port)
	if err != nil {
		return nil, err
	}
	bg, stop := context.WithCancel(context.WithoutCancel(ctx))
	k := &Kept{now: s, stop: stop, done: make(chan struct{})}
	_, at, err := net.SplitHostPort(s.cfg.Addr)
	if err == nil {
		k.port, err = strconv.Atoi(at)
	}
	if err != nil {
		stop()
		s.Stop()
		return nil, err
	}
	go k.watch(bg, dir, log)
	return k, nil
}

// DSN is how the server is reached, before and after it was started again.
func (k *Kept) DSN() string {
	k.mu.Lock()
	defer k.mu.Unlock()
	return k.now.DSN()
}

// Stop stops the server cleanly and waits for it.
func (k *Kept) Stop() {
	k.stop()
	<-k.done
	k.now.Stop()
}

func (k *Kept) watch(ctx context.Context, dir string, log *slog.Logger) {
	defer close(k.done)
	pause := firstPause
	for {
		began := time.Now()
		select {
		case <-ctx.Done():
			return
		case <-k.now.Exited():
		}
		if time.Since(began) > lasted {
			pause = firstPause
		}
		for {
			log.Error("the database ended and is started again", "log", k.now.logTo, "in", pause)
			select {
			case <-ctx.Done():
				return
			case <-time.After(pause):
			}
			pause = min(2*pause, mostPause)
			s, err := Start(ctx, dir, k.port)
			if err == nil {
				k.mu.Lock()
				k.now = s
				k.mu.Unlock()
				break
			}
			log.Error("the database does not start", "err", err)
		}
		log.Info("the database runs again")
	}
}
