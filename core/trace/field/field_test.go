package field

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The analysis on motors from other equations, by seeds and ranges that it was not tuned on. The
// bounds stand a little below what 500 of them show (docs/figures.md); "corriente evaluate
// traces" counts as many as are wanted.
func TestOnMotorsFromOtherEquations(t *testing.T) {
	if testing.Short() {
		t.Skip("many machines: nothing more for the race detector")
	}
	const n = 80
	r, err := Judge(Reporting(), 2027, n, nil)
	require.NoError(t, err)
	t.Log(r)
	assert.GreaterOrEqual(t, r.Honest()*100, 95*n, "%v", r.Wrong)
	assert.GreaterOrEqual(t, r.Told*100, 55*r.Tellable)
	assert.LessOrEqual(t, r.WrongSure, 1)
	assert.GreaterOrEqual(t, r.RightWeak*100, 94*r.Judged)
	assert.LessOrEqual(t, r.Accused, 1)
	assert.GreaterOrEqual(t, r.Given[0]*100, 75*r.Given[1])
}

// The judge knows alike sets of humps wherever a turn begins.
func TestAlike(t *testing.T) {
	assert.True(t, Alike([]int{3, 9}, []int{1, 7}, 12))
	assert.True(t, Alike([]int{11, 0}, []int{4, 5}, 12))
	assert.False(t, Alike([]int{3, 8}, []int{1, 7}, 12))
	assert.False(t, Alike([]int{3}, nil, 12))
	assert.True(t, Alike(nil, nil, 12))
}

// A sound armature's own figures are those of the textbook: two paths in parallel, and the
// resistance between brushes that follows.
func TestASoundArmature(t *testing.T) {
	for _, c := range []struct{ bars, brushes int }{{12, 2}, {21, 2}, {24, 4}} {
		a := newArmature(c.bars, c.brushes, 0.5, rand.New(rand.NewPCG(1, 1)))
		rev := a.revolution()
		e, r := 0.0, 0.0
		for _, s := range rev {
			e += s.emf / float64(len(rev))
			r += s.ohm / float64(len(rev))
		}
		assert.InDelta(t, 0.5, r, 0.16, "%+v", c)
		assert.Greater(t, math.Abs(e), 0.6, "%+v", c)
		assert.Less(t, math.Abs(e), 1.01, "%+v", c)
	}
}
