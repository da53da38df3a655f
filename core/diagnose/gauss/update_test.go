package gauss_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/mat"

	"corriente/core/diagnose/gauss"
)

// Both ways give what the plain inverse of S = D + J Jᵀ gives (computed by gonum), whether
// there are fewer readings than values or more.
func TestUpdateAgainstThePlainInverse(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 8))
	for _, size := range [][2]int{{1, 4}, {4, 4}, {5, 4}, {30, 6}, {6, 30}, {80, 12}} {
		n, q := size[0], size[1]
		rows, noise, res, j := make([][]float64, n), make([]float64, n), make([]float64, n), make([]float64, q)
		s := mat.NewSymDense(n, nil)
		for i := range rows {
			rows[i] = make([]float64, q)
			for k := range rows[i] {
				rows[i][k] = 20 * rng.NormFloat64()
			}
			noise[i], res[i] = 0.5+3*rng.Float64(), 30*rng.NormFloat64()
		}
		for k := range j {
			j[k] = rng.NormFloat64()
		}
		for i := range n {
			for k := 0; k <= i; k++ {
				x := gauss.Dot(rows[i], rows[k])
				if i == k {
					x += noise[i]
				}
				s.SetSym(i, k, x)
			}
		}
		u, got, ok := gauss.NewUpdate(rows, noise, res, q)
		require.True(t, ok)
		assert.Equal(t, n > q, u.ByValue)
		var ch mat.Cholesky
		require.True(t, ch.Factorize(s))
		var y mat.VecDense
		require.NoError(t, ch.SolveVecTo(&y, mat.NewVecDense(n, res)))
		var inv mat.SymDense
		require.NoError(t, ch.InverseTo(&inv))
		quad, jy := 0.0, mat.NewVecDense(n, nil)
		for i := range n {
			quad += res[i] * y.AtVec(i)
			assert.InDelta(t, y.AtVec(i), got.Y[i], 1e-6*(1+math.Abs(y.AtVec(i))))
			assert.InEpsilon(t, inv.At(i, i), got.Inv[i], 1e-6)
			jy.SetVec(i, gauss.Dot(rows[i], j))
		}
		assert.InEpsilon(t, quad, got.Quad, 1e-6)
		assert.InDelta(t, ch.LogDet(), got.Logdet, 1e-6)
		var sj mat.VecDense
		require.NoError(t, ch.SolveVecTo(&sj, jy))
		assert.InDelta(t, gauss.Dot(j, j)-mat.Dot(jy, &sj), u.Variance(j), 1e-6)
	}
}
