package trace

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Two runs of one motor at different speeds, each drifting its own way, begun at
// different places of the turn: laid over each other in step, the weak bar's dips
// coincide to the last revolution; laid as they came, they do not.
func TestTracesAreLaidOverEachOtherInStep(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 11))
	m := Motor{MeanA: 12, RPM: 2400, Bars: 12, Brushes: 2, Ripple: 0.08, Weak: map[int]float64{3: 0.8}, Drift: 0.1}
	s := Scope{Rate: 25000, N: 25000, Noise: 0.05}
	a, err := Captured(m.Trace(s, rng), 1/s.Rate, Options{Bars: 12, Brushes: 2})
	require.NoError(t, err)
	m.RPM, m.Drift, m.Weak = 2000, -0.08, map[int]float64{8: 0.8}
	b, err := Captured(m.Trace(s, rng), 1/s.Rate, Options{Bars: 12, Brushes: 2})
	require.NoError(t, err)
	cmp := Compare(a.Result, b.Result)
	require.NotNil(t, cmp.Shift)
	z, err := a.Between(0.1, 0.7, 6000)
	require.NoError(t, err)
	near := func(points []Point) float64 { // how far apart both are on the mean, A
		at, n, sum := 0, 0, 0.0
		for _, p := range points {
			for at < len(z.Points)-1 && z.Points[at].T < p.T {
				at++
			}
			d := float64(z.Points[at].Low - p.Low)
			sum, n = sum+d*d, n+1
		}
		require.Greater(t, n, 3000)
		return sum / float64(n)
	}
	in, err := a.Alongside(b, *cmp.Shift, 0.1, 0.7, 6000)
	require.NoError(t, err)
	out, err := a.Alongside(b, *cmp.Shift+6, 0.1, 0.7, 6000) // half a turn out
	require.NoError(t, err)
	assert.Less(t, near(in), 0.3*near(out))
	plain, err := b.Between(0.1, 0.7, 6000)
	require.NoError(t, err)
	assert.Less(t, near(in), 0.3*near(plain.Points))
}

// A traced position and its place are each other's inverse, beyond the ends too.
func TestPlacesAndPositionsAgree(t *testing.T) {
	marks := []float64{10, 22, 33, 47, 58}
	for _, x := range []float64{-40, 9, 10, 16.5, 33, 57, 58, 140} {
		assert.InDelta(t, x, place(marks, position(marks, x)), 1e-9)
	}
	assert.InDelta(t, 1.5, position(marks, 27.5), 1e-12)
}

func TestAlongsideNeedsTwoTraces(t *testing.T) {
	var v *View
	_, err := v.Alongside(nil, 0, 0, 1, 100)
	assert.ErrorContains(t, err, "both traces")
}
