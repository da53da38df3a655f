package cells

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// What is packed comes out again within a 32,767th of the largest slope by the same value, whatever stands in
// the other columns; what is not finite comes out as none.
func TestPackedSlopesComeOutAsTheyWentIn(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 8))
	const nodes, stations, values = 9, 7, 300
	for range 50 {
		g := newTable(nodes, stations, values)
		var most [2][values]float64
		for r := range nodes + stations {
			for u := range values {
				x := float32(rng.NormFloat64() * math.Pow(10, 8*rng.Float64()-6))
				switch {
				case u%3 == 0:
					x = 0
				case rng.IntN(200) == 0:
					x = float32(math.Inf(1 - 2*rng.IntN(2)))
				case rng.IntN(200) == 0:
					x = float32(math.NaN())
				}
				g.all[r*values+u] = x
				k := 0
				if r >= nodes {
					k = 1
				}
				if y := math.Abs(float64(x)); !math.IsInf(y, 0) && y > most[k][u] {
					most[k][u] = y
				}
			}
		}
		l := &Solved{slopes: g.pack()}
		out := make([]float64, values)
		finite := func(x float32) float64 {
			if y := float64(x); !math.IsNaN(y) && !math.IsInf(y, 0) {
				return y
			}
			return 0
		}
		from, to, st := rng.IntN(nodes), rng.IntN(nodes), rng.IntN(stations)
		l.VoltSlopes(out, from, to)
		for u := range values {
			assert.InDelta(t, finite(*g.v(from, u))-finite(*g.v(to, u)), out[u], 1.01*most[0][u]/finest+1e-30)
		}
		l.VoltSlopes(out, from, -1)
		for u := range values {
			assert.InDelta(t, finite(*g.v(from, u)), out[u], 0.51*most[0][u]/finest+1e-30)
		}
		l.AmpSlopes(out, st)
		for u := range values {
			assert.InDelta(t, finite(*g.i(st, u)), out[u], 0.51*most[1][u]/finest+1e-30)
		}
		assert.Len(t, l.slopes.cols, values-values/3, "columns of nothing but zeros are left out")
	}
	out := []float64{1, 2}
	(&Solved{}).VoltSlopes(out, 0, 1)
	assert.Equal(t, []float64{0, 0}, out, "a cell solved without its slopes has none")
}
