package wear

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Half worn after 600 hours of a linear wear leaves 600, and the interval holds it.
func TestBrush(t *testing.T) {
	l, err := Brush{New: 0.016, Now: 0.011, Min: 0.006, Hours: 600, U: 0.00003}.Left()
	require.NoError(t, err)
	assert.InDelta(t, 0.5, l.Share, 1e-9)
	assert.InDelta(t, 600, l.Hours, 1e-9)
	assert.Less(t, l.LowHours, 450.0)
	assert.Greater(t, l.HiHour, 800.0)
	// Too little gone to tell a rate.
	l, err = Brush{New: 0.016, Now: 0.01598, Min: 0.006, Hours: 10, U: 0.00003}.Left()
	require.NoError(t, err)
	assert.False(t, l.Known)
	l, err = Brush{New: 0.016, Now: 0.005, Min: 0.006}.Left()
	require.NoError(t, err)
	assert.True(t, l.Worn)
	assert.Zero(t, l.Share)
	_, err = Brush{New: 0.010, Now: 0.016, Min: 0.006}.Left()
	assert.ErrorContains(t, err, "longer than a new one")
	_, err = Brush{New: 0.010, Now: 0.009, Min: 0.016}.Left()
	assert.ErrorContains(t, err, "minimum")
}

// Boundary dimensions by ISO 15: series 02 with a bore of 20 mm is 47 by 14.
func TestBearings(t *testing.T) {
	for _, c := range []struct {
		bore, od, w float64
		want        string
	}{{20, 47, 14, "6204"}, {8, 22, 7, "608"}, {12, 32, 10, "6201"}, {17, 40, 12, "6203"}, {15, 42, 13, "6302"},
		{10, 19, 5, "6800"}, {17.03, 40.04, 11.96, "6203"}} {
		m, err := Identify(c.bore/1000, c.od/1000, c.w/1000, 0.00003)
		require.NoError(t, err)
		require.NotEmpty(t, m, c.want)
		assert.Equal(t, c.want, m[0].Designation)
	}
	m, err := Identify(0.020, 0.0485, 0.014, 0.00003)
	require.NoError(t, err)
	assert.Empty(t, m, "no standard size")
	_, err = Identify(0.047, 0.020, 0.014, 0.00003)
	assert.ErrorContains(t, err, "larger than the bore")
	// No size stands twice, and every one is a ring.
	seen := map[[3]float64]bool{}
	for _, b := range bearings {
		k := [3]float64{b.Bore, b.Outside, b.Width}
		assert.False(t, seen[k], b.Designation)
		seen[k] = true
		assert.Greater(t, b.Outside, b.Bore+2*0.2*b.Width, b.Designation)
	}
}

func TestFindingsOfACommutator(t *testing.T) {
	for _, f := range Commutator() {
		assert.NotEmpty(t, f.Means)
		assert.NotEmpty(t, f.Do)
		assert.NotEmpty(t, f.Word)
	}
}
