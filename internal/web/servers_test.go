package web_test

import (
	"context"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"slices"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/demo"
	"corriente/internal/password"
	"corriente/internal/patience"
	"corriente/internal/store"
	"corriente/internal/testdb"
	"corriente/internal/web"
)

// over serves a database that other servers may work over as well, and looks after its hosts.
func over(t testing.TB, dsn string) *client {
	t.Helper()
	st, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	log := slog.New(slog.DiscardHandler)
	ctx, stop := context.WithCancel(context.Background())
	var watching sync.WaitGroup
	watching.Go(func() { st.Watch(ctx, log) })
	s := web.New(st, web.Options{Log: log, Timeout: patience.Limit(), Shared: true})
	srv := httptest.NewServer(s)
	t.Cleanup(func() {
		srv.Close()
		s.Close()
		stop()
		watching.Wait()
		st.Close()
	})
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &client{t, srv.URL, &http.Client{Jar: jar}, s}
}

// started starts a job on a machine of its own and returns its id.
func (c *client) started() string {
	c.t.Helper()
	id := store.NewID().String()
	require.Equal(c.t, 200, c.do("POST", "/api/jobs",
		map[string]any{"id": id, "machine_id": store.NewID(), "new_machine": "Sprayer", "kind": "cart",
			"circuit": "starter", "complaint": "slow"}, nil))
	return id
}

func withOwner(t testing.TB, dsn string) {
	t.Helper()
	st, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	defer st.Close()
	hash, err := password.Hash(demo.Password)
	require.NoError(t, err)
	require.NoError(t, st.PutUser(t.Context(), store.User{ID: store.NewID(), Login: "ida", Name: "Ida", Role: "owner", Hash: hash}))
}

// What is changed at one server is seen at the other, and whoever is signed out at one listens at none.
func TestTwoServersOverOneDatabase(t *testing.T) {
	dsn := testdb.DSN(t)
	withOwner(t, dsn)
	a, b := over(t, dsn), over(t, dsn)
	a.signIn("ida")
	b.http.Jar = a.http.Jar // one person: the session counts at both
	job := a.started()
	ch := b.listen("/api/events")
	wait(t, ch, "hello", any_)
	e := web.Evidence{ID: store.NewID().String(), Measure: "voltage", State: "rest", From: "bat_pos", To: "bat_neg", Value: "12.5"}
	// A server that came this moment takes what was said before it for past: the word may have to be said again.
	patience.Until(t, "the other server's word", func() bool {
		e.ID = store.NewID().String()
		require.Equal(t, 200, a.do("POST", "/api/jobs/"+job+"/evidence", map[string]any{"evidence": []web.Evidence{e}}, nil))
		for {
			select {
			case ev := <-ch:
				if ev[0] == "job" {
					return assert.Contains(t, ev[1], job)
				}
			case <-time.After(patience.Limit() / 60):
				return false
			}
		}
	})
	var seen web.JobView
	require.Equal(t, 200, b.do("GET", "/api/jobs/"+job, nil, &seen))
	assert.True(t, slices.ContainsFunc(seen.Evidence, func(x web.Evidence) bool { return x.ID == e.ID }))
	require.Less(t, a.do("DELETE", "/api/session", nil, nil), 300)
	patience.Until(t, "the stream at the other server to end", func() bool {
		select {
		case _, open := <-ch:
			return !open
		default:
			return false
		}
	})
}

// Many servers that start over one new database make its tables once.
func TestServersThatStartAtOnce(t *testing.T) {
	dsn := testdb.DSN(t)
	errs := make([]error, 20)
	var wg sync.WaitGroup
	for i := range errs {
		wg.Go(func() {
			st, err := store.Open(t.Context(), dsn)
			if err == nil {
				st.Close()
			}
			errs[i] = err
		})
	}
	wg.Wait()
	for i, err := range errs {
		assert.NoError(t, err, "server %d", i)
	}
}

// Two servers over a cluster of three nodes, and six people at one job: the node of the first server is
// killed under their writes. What was answered for is there, once; with one node left of three nothing
// is taken any more, and that is said.
func TestANodeIsKilledUnderWrites(t *testing.T) {
	if testing.Short() {
		t.Skip("starts four databases")
	}
	nodes, dsn := testdb.Cluster(t, 3)
	withOwner(t, dsn)
	a, b := over(t, dsn), over(t, dsn)
	a.signIn("ida")
	b.http.Jar = a.http.Jar
	job := a.started()

	const people = 6
	w := &writers{t: t, job: job, stored: map[string]bool{}, ready: make(chan struct{}, people)}
	var wg sync.WaitGroup
	for p := range people {
		c := a
		if p%2 == 1 {
			c = b
		}
		wg.Go(func() { w.write(c, c == a) })
	}
	for range people {
		<-w.ready
	}
	w.killed.Store(time.Now().UnixNano())
	nodes[0].Kill()
	wg.Wait()
	t.Logf("%d writes answered for, %d refused and sent again; %.1f s from the kill to the next at its server",
		len(w.stored), w.refused.Load(), float64(w.next.Load()-w.killed.Load())/1e9)

	for _, c := range []*client{a, b} {
		var seen web.JobView
		patience.Until(t, "the job", func() bool { return c.do("GET", "/api/jobs/"+job, nil, &seen) == 200 })
		times := map[string]int{}
		for _, e := range seen.Evidence {
			times[e.ID]++
		}
		assert.Len(t, times, len(w.stored))
		for id := range w.stored {
			assert.Equal(t, 1, times[id], "reading %s", id)
		}
		assert.Equal(t, 200, c.do("GET", "/readyz", nil, nil))
	}

	nodes[1].Kill()
	for _, c := range []*client{a, b} {
		patience.Until(t, "the lost quorum to be said", func() bool { return c.do("GET", "/readyz", nil, nil) == 503 })
		e := web.Evidence{ID: store.NewID().String(), Measure: "voltage", State: "rest", From: "bat_pos", To: "bat_neg", Value: "12.5"}
		assert.Equal(t, 503, c.do("POST", "/api/jobs/"+job+"/evidence", map[string]any{"evidence": []web.Evidence{e}}, nil))
	}
}

// writers are people who write to one job while a node of the database is killed.
type writers struct {
	t       *testing.T
	job     string
	ready   chan struct{} // somebody has written what was to be written before
	killed  atomic.Int64  // the moment of the kill
	next    atomic.Int64  // and of the first answer after it that stood for a write
	refused atomic.Int64

	mu     sync.Mutex
	stored map[string]bool
}

// write stores six readings, says so, and stores six more that are begun after the kill.
func (w *writers) write(c *client, first bool) {
	const before, after = 6, 6
	for n, left := 1, after; left > 0; n++ {
		if n == before {
			w.ready <- struct{}{}
		}
		since := w.killed.Load() > 0
		e := web.Evidence{ID: store.NewID().String(), Measure: "voltage", State: "rest", From: "bat_pos",
			To: "bat_neg", Value: "12.5"}
		// As a browser does: the same again, until it is answered for.
		patience.Until(w.t, "a reading to be stored", func() bool {
			status := c.do("POST", "/api/jobs/"+w.job+"/evidence", map[string]any{"evidence": []web.Evidence{e}}, nil)
			if status != 200 {
				w.refused.Add(1)
				assert.Equal(w.t, 503, status, "away for a moment, which a browser waits for; people at one "+
					"job do not get in one another's way")
			}
			return status == 200
		})
		w.mu.Lock()
		w.stored[e.ID] = true
		w.mu.Unlock()
		if since {
			left--
			if first {
				w.next.CompareAndSwap(0, time.Now().UnixNano())
			}
		}
	}
}
