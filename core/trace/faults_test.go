package trace

import (
	"math/rand/v2"
	"os"
	"runtime"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"
)

// The likelihoods that the diagnosis uses are what the simulated motors show.
func TestLikelihoodsAreWhatTheSimulationShows(t *testing.T) {
	if testing.Short() {
		t.Skip("many machines: nothing more for the race detector")
	}
	n, slack := 100, 0.1
	if os.Getenv("CORRIENTE_RATES") != "" {
		n, slack = 1000, 0.03
	}
	for mode, want := range Likelihoods {
		words := make([]string, n)
		var g errgroup.Group
		g.SetLimit(runtime.GOMAXPROCS(0))
		for seed := range words {
			g.Go(func() error {
				words[seed] = Faulty(mode, rand.New(rand.NewPCG(uint64(seed), 77)))
				return nil
			})
		}
		require.NoError(t, g.Wait())
		got := [4]float64{}
		told := 0.0
		for _, said := range words {
			for i, w := range []string{Even, WeakBar, Drops, Drags} {
				if said == w {
					got[i]++
					told++
				}
			}
		}
		for i := range got {
			got[i] /= told
			assert.InDelta(t, want[i], got[i], slack, "%s: %.3f", mode, got)
		}
		t.Logf("%q: {%.3f, %.3f, %.3f, %.3f} of %g", mode, got[0], got[1], got[2], got[3], told)
	}
}
