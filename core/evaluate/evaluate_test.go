package evaluate

import (
	"context"
	"fmt"
	"os"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Eighty hidden starters: a floor under what the full run in docs/ shows, low
// enough that chance alone does not fail it, high enough that a broken
// reasoning does.
func TestStarterHiddenFaults(t *testing.T) {
	n := 80
	if s := os.Getenv("EVALUATE_FAULTS"); s != "" {
		n, _ = strconv.Atoi(s)
	}
	r, err := Run(context.Background(), Options{Circuit: "starter", Faults: n, Seed: 7})
	require.NoError(t, err)
	t.Logf("reached %.3f healthy %.3f right %.3f single %.3f contra %d minutes %.1f readings %.1f", r.Reached,
		r.ReachedHealthy, r.Right, r.RightSingle, r.Contradictions, r.Minutes, r.Readings)
	for _, b := range r.Calibration {
		t.Logf("%.2f-%.2f n=%d claimed %.3f true %.3f", b.Low, b.High, b.N, b.Claimed, b.True)
	}
	if os.Getenv("EVALUATE_SHOW") != "" {
		for i, x := range r.Trials {
			if !x.Right {
				fmt.Printf("#%d truth %v verdict %s %s after %d, %.1f min\n", i, x.Truth, x.Verdict, x.Station, x.Readings, x.Minutes)
				for _, e := range x.Case {
					fmt.Printf("    %s%s %s %s%s%s = %s%s\n", e.Measure, e.Observe, e.State, e.From+" ", e.To,
						e.Through, e.Value, e.Outcome)
				}
			}
		}
	}
	assert.GreaterOrEqual(t, r.Right, 0.92)
	assert.GreaterOrEqual(t, r.Reached, 0.80)
}

func TestSameSeedSameMachines(t *testing.T) {
	a, err := Run(context.Background(), Options{Circuit: "starter", Faults: 6, Seed: 3})
	require.NoError(t, err)
	b, err := Run(context.Background(), Options{Circuit: "starter", Faults: 6, Seed: 3})
	require.NoError(t, err)
	for i := range a.Trials {
		assert.Equal(t, a.Trials[i].Truth, b.Trials[i].Truth)
		assert.Equal(t, a.Trials[i].Verdict, b.Trials[i].Verdict)
	}
}
