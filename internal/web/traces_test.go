package web_test

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/trace"
	"corriente/internal/store"
	"corriente/internal/web"
)

// A trace in which nothing marks a turn is kept like any other, with the reason.
func TestATraceThatCannotBeToldIsKept(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	m, s := trace.Motor{MeanA: 20, RPM: 2400, Bars: 16, Ripple: 0.08}, trace.Scope{Rate: 20_000, N: 20_000, Noise: 0.2, Bits: 8}
	r, err := trace.Analyse(m.Trace(s, rand.New(rand.NewPCG(1, 1))), 1/s.Rate, trace.Options{})
	require.NoError(t, err)
	require.Nil(t, r.WeakBars)
	require.NotNil(t, r.CannotTell)
	j := c.job("Orchard tractor 3")
	var kept []web.TraceView
	for range 2 { // sent again, it is there once
		require.Equal(t, 200, c.do("PUT", "/api/jobs/"+j.ID+"/traces",
			map[string]any{"id": "5f0c4a52-3a43-4f8e-9d0a-6c6f0d1b2e11", "name": "pump.csv", "result": r,
				"points": []trace.Point{}}, &kept))
	}
	require.Len(t, kept, 1)
	assert.Nil(t, kept[0].Result.WeakBars)
	assert.Equal(t, "alike", kept[0].Result.CannotTell.Code)
}

// The counter reads and prints: a trace of gigabytes is the workshop's own work.
func TestTheCounterOpensNoTraces(t *testing.T) {
	c, _ := serve(t)
	c.signIn("counter")
	res, err := c.http.Post(c.base+"/api/traces", "text/csv", strings.NewReader("0,1\n1,2\n"))
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Equal(t, 403, res.StatusCode)
}

// A device whose clock has lost its year loses no reading: it is kept at the time it arrives.
func TestAClockThatLostItsYear(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Frost fan east")
	for _, at := range []string{"0001-01-01T00:00:00Z", "9999-12-31T23:59:59Z"} {
		require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/evidence",
			map[string]any{"evidence": []any{map[string]any{"id": store.NewID(), "observe": "smell", "state": "rest",
				"outcome": "none", "taken_at": at}}}, &j))
		last := j.Evidence[len(j.Evidence)-1]
		when, err := time.Parse(time.RFC3339Nano, last.TakenAt)
		require.NoError(t, err)
		assert.WithinDuration(t, time.Now(), when, time.Minute)
	}
}
