package web_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/trace"
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
		require.Equal(t, 200, c.do("PUT", "/api/jobs/"+j.ID+"/traces", map[string]any{"id": "5f0c4a52-3a43-4f8e-9d0a-6c6f0d1b2e11", "name": "pump.csv", "result": r, "points": []trace.Point{}}, &kept))
	}
	require.Len(t, kept, 1)
	assert.Nil(t, kept[0].Result.WeakBars)
	assert.Equal(t, "alike", kept[0].Result.CannotTell.Code)
}
