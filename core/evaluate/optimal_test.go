package evaluate

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/core/diagnose"
)

// tree is a fixed strategy: a test, and a strategy for each outcome.
type tree struct {
	test int
	next []*tree
}

// strategies lists every strategy there is, for a brute-force search.
func strategies(f *Finite, left []int) []*tree {
	out := []*tree{nil}
	for _, i := range left {
		var rest []int
		for _, k := range left {
			if k != i {
				rest = append(rest, k)
			}
		}
		combos := [][]*tree{{}}
		for range f.Tests[i].P[0] {
			var more [][]*tree
			for _, c := range combos {
				for _, s := range strategies(f, rest) {
					more = append(more, append(append([]*tree{}, c...), s))
				}
			}
			combos = more
		}
		for _, c := range combos {
			out = append(out, &tree{i, c})
		}
	}
	return out
}

// price is what a strategy costs; +Inf when it stops too soon.
func price(f *Finite, t *tree, post []float64, left int) float64 {
	if f.done(post) || left == 0 {
		return 0
	}
	if t == nil {
		return math.Inf(1)
	}
	c := f.Tests[t.test].Minutes
	for o := range f.Tests[t.test].P[0] {
		n, p := f.update(post, &f.Tests[t.test], o)
		if p > 1e-12 {
			c += p * price(f, t.next[o], n, left-1)
		}
	}
	return c
}

func randomProblem(rng *rand.Rand, hyps, tests int) *Finite {
	f := &Finite{Sure: 0.9}
	sum := 0.0
	for h := range hyps {
		p := rng.Float64()
		f.Prior, f.Class = append(f.Prior, p), append(f.Class, h)
		sum += p
	}
	for h := range f.Prior {
		f.Prior[h] /= sum
	}
	for range tests {
		t := FiniteTest{Minutes: 0.5 + 5*rng.Float64()}
		for range hyps {
			p := 0.02 + 0.96*math.Round(rng.Float64())
			t.P = append(t.P, []float64{p, 1 - p})
		}
		f.Tests = append(f.Tests, t)
	}
	return f
}

// The dynamic programme, against every strategy that can be written down.
func TestOptimumAgainstBruteForce(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 4))
	for range 20 {
		f := randomProblem(rng, 4, 3)
		best := math.Inf(1)
		for _, s := range strategies(f, f.all()) {
			best = math.Min(best, price(f, s, f.Prior, len(f.Tests)))
		}
		assert.InDelta(t, best, f.Optimum(), 1e-9)
	}
}

// No policy beats the optimum, and on circuits cut down to eight hypotheses and
// six tests the adviser's rule comes close to it.
func TestPoliciesAgainstTheOptimum(t *testing.T) {
	for _, id := range []string{"starter", "blower_module", "two_wire_motor", "traction"} {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		a, err := diagnose.NewAdviser(c)
		require.NoError(t, err)
		f := Reduce(a, 8, 6)
		require.Len(t, f.Tests, 6)
		best := f.Optimum()
		greedy, roll, order := f.Cost(Greedy), f.Cost(Rollout), f.Cost(InOrder)
		t.Logf("%s: optimum %.2f min, bits a minute %.3f x, with a look ahead %.3f x, in order %.3f x", id, best,
			greedy/best, roll/best, order/best)
		require.Greater(t, best, 0.0)
		assert.GreaterOrEqual(t, greedy, best-1e-9)
		assert.GreaterOrEqual(t, roll, best-1e-9)
		assert.LessOrEqual(t, roll/best, 1.05)
	}
}
