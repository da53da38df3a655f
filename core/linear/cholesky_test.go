package linear_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/mat"
	"pgregory.net/rapid"

	"corriente/core/linear"
)

// Two resistors in series on a source, as conductances: 1 S to ground, 1 S between, 2 A into the second node.
func ExampleCholesky_Solve() {
	c, ok := linear.Factor([]float64{2, -1, -1, 1}, 2)
	volts := []float64{0, 2}
	c.Solve(volts)
	fmt.Printf("%.0f %v\n", volts, ok)
	// Output:
	// [2 4] true
}

// What is not positive definite has no factor.
func ExampleFactor() {
	_, ok := linear.Factor([]float64{1, 2, 2, 1}, 2)
	fmt.Println(ok)
	// Output:
	// false
}

// drawn is a well-behaved positive definite matrix.
func drawn(rng *rand.Rand, n int) []float64 {
	b := make([]float64, n*n)
	for i := range b {
		b[i] = rng.NormFloat64()
	}
	a := make([]float64, n*n)
	for i := range n {
		for j := range n {
			for k := range n {
				a[i*n+j] += b[i*n+k] * b[j*n+k]
			}
		}
		a[i*n+i] += 0.1
	}
	return a
}

// Against gonum, which calls LAPACK's algorithm.
func TestAgainstGonum(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 24).Draw(t, "n")
		rng := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 1))
		a, b := drawn(rng, n), make([]float64, n)
		for i := range b {
			b[i] = rng.NormFloat64()
		}
		var theirs mat.Cholesky
		require.True(t, theirs.Factorize(mat.NewSymDense(n, slices.Clone(a))))
		var want mat.VecDense
		require.NoError(t, theirs.SolveVecTo(&want, mat.NewVecDense(n, b)))
		c, ok := linear.Factor(slices.Clone(a), n)
		require.True(t, ok)
		got := slices.Clone(b)
		c.Solve(got)
		size := mat.Norm(&want, math.Inf(1))
		for i := range got {
			assert.InDelta(t, want.AtVec(i), got[i], 1e-9*(1+size)*theirs.Cond())
		}
		assert.InDelta(t, theirs.LogDet(), c.LogDet(), 1e-9*float64(n)*theirs.Cond())
		// A right side that is zero at first needs no work there.
		from := rng.IntN(n)
		whole := make([]float64, n)
		copy(whole[from:], b[from:])
		short := slices.Clone(whole)
		c.Forward(whole, 0)
		c.Forward(short, from)
		assert.Equal(t, whole, short)
	})
}

// A pivot that rounding has made negative is held up, one of its own size is not.
func TestAPivotIsHeldUp(t *testing.T) {
	c := linear.FactorAbove([]float64{4, 0, 0, -1e-20}, 2, 1e-12)
	b := []float64{4, 1e-6}
	c.Solve(b)
	assert.InDelta(t, 1, b[0], 1e-12)
	assert.InDelta(t, 1e6, b[1], 1e-3)
}
