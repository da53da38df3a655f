package trace

import (
	"math/rand/v2"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
)

// The likelihoods that the diagnosis uses are what the simulated motors show.
func TestLikelihoodsAreWhatTheSimulationShows(t *testing.T) {
	if testing.Short() {
		t.Skip("many machines, one goroutine: nothing for the race detector")
	}
	n, slack := 250, 0.1
	if os.Getenv("CORRIENTE_RATES") != "" {
		n, slack = 4000, 0.02
	}
	for mode, want := range Likelihoods {
		got := [4]float64{}
		told := 0.0
		for seed := range uint64(n) {
			said := Faulty(mode, rand.New(rand.NewPCG(seed, 77)))
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
