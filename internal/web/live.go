package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/google/uuid"
)

// hub tells everybody who looks that a job was changed. It holds no history: who
// was away reads the job anew.
type hub struct {
	mu        sync.Mutex
	out       map[chan string]struct{}
	following map[*follower]struct{}
}

func newHub() *hub {
	return &hub{out: map[chan string]struct{}{}, following: map[*follower]struct{}{}}
}

// listeners is how many streams are open.
func (h *hub) listeners() int {
	h.mu.Lock()
	defer h.mu.Unlock()
	return len(h.out)
}

// follower is a stream that ends when whoever listens is signed out.
type follower struct {
	left chan struct{} // somebody was signed out: look whether it was this one
}

func (h *hub) follow() *follower {
	f := &follower{make(chan struct{}, 1)}
	h.mu.Lock()
	h.following[f] = struct{}{}
	h.mu.Unlock()
	return f
}

func (h *hub) unfollow(f *follower) {
	h.mu.Lock()
	delete(h.following, f)
	h.mu.Unlock()
}

// someoneLeft makes every stream look whether its listener is still signed in.
func (h *hub) someoneLeft() {
	h.mu.Lock()
	defer h.mu.Unlock()
	for f := range h.following {
		select {
		case f.left <- struct{}{}:
		default:
		}
	}
}

func (h *hub) join() chan string {
	ch := make(chan string, 32)
	h.mu.Lock()
	h.out[ch] = struct{}{}
	h.mu.Unlock()
	return ch
}

func (h *hub) leave(ch chan string) {
	h.mu.Lock()
	delete(h.out, ch)
	h.mu.Unlock()
}

// tell never waits: who does not keep up misses a word and catches the next.
func (h *hub) tell(job uuid.UUID) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for ch := range h.out {
		select {
		case ch <- job.String():
		default:
		}
	}
}

// beat is how often a silent stream says that it is alive.
const beat = 15 * time.Second

// stream is an open answer of server-sent events (HTML Living Standard, 9.2).
type stream struct {
	w  http.ResponseWriter
	rc *http.ResponseController
}

func openStream(w http.ResponseWriter) *stream {
	h := w.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("Cache-Control", "no-store")
	h.Set("X-Accel-Buffering", "no")
	w.WriteHeader(http.StatusOK)
	return &stream{w, http.NewResponseController(w)}
}

// send writes one event; an error means that nobody listens any more.
func (s *stream) send(event string, data any) error {
	b, err := json.Marshal(data)
	if err != nil {
		return err
	}
	_ = s.rc.SetWriteDeadline(time.Now().Add(10 * time.Second))
	if _, err := fmt.Fprintf(s.w, "event: %s\ndata: %s\n\n", event, b); err != nil {
		return err
	}
	return s.rc.Flush()
}

// events streams which jobs were changed.
func (s *Server) events(w http.ResponseWriter, r *http.Request) {
	ctx, stop := s.whileSignedIn(r.Context())
	defer stop()
	ch := s.hub.join()
	defer s.hub.leave(ch)
	out := openStream(w)
	if out.send("hello", struct{}{}) != nil {
		return
	}
	t := time.NewTicker(beat)
	defer t.Stop()
	for {
		var err error
		select {
		case <-ctx.Done():
			return
		case <-s.closing:
			return
		case <-t.C:
			err = out.send("beat", struct{}{})
		case id := <-ch:
			err = out.send("job", map[string]string{"id": id})
		}
		if err != nil {
			return
		}
	}
}
