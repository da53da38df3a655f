package assume

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every number has a value and a source, and none is there twice.
func TestEveryNumberHasItsSource(t *testing.T) {
	table, err := Standard()
	require.NoError(t, err)
	seen := map[string]bool{}
	for _, e := range table.Entries() {
		assert.False(t, seen[e.Name], "%s stands twice", e.Name)
		seen[e.Name] = true
		assert.Contains(t, []string{"memory", "common practice", "ISO 8820-3, from memory"}, e.From, e.Name)
		assert.False(t, math.IsNaN(e.Value) || math.IsInf(e.Value, 0), e.Name)
		if e.Value == 0 {
			assert.True(t, strings.HasSuffix(e.Name, ".Base"), "%s is nothing at all", e.Name)
		}
	}
	assert.Greater(t, len(seen), 250)
}

func TestACopyIsChanged(t *testing.T) {
	table, err := Standard()
	require.NoError(t, err)
	for _, name := range []string{"Word.Lapse", "Word.Senses.Runs.At", "Circumstances.wet.joint"} {
		other, err := table.With(name, 0.5)
		require.NoError(t, err)
		for i, e := range table.Entries() {
			x := other.Entries()[i]
			if e.Name == name {
				assert.NotEqual(t, 0.5, e.Value, "the shared table was changed")
				assert.Equal(t, 0.5, x.Value)
			} else {
				assert.Equal(t, e.Value, x.Value, e.Name)
			}
		}
	}
	_, err = table.With("Word.Nonsense", 1)
	assert.EqualError(t, err, `nothing called "Word.Nonsense" is assumed`)
}

func TestCurve(t *testing.T) {
	rises, falls := Curve{0.1, 0.8, 2, 0.5}, Curve{0.1, 0.8, 2, -0.5}
	assert.InDelta(t, 0.5, rises.Of(2), 1e-12, "half way at its middle")
	assert.InDelta(t, 0.1, rises.Of(-50), 1e-9)
	assert.InDelta(t, 0.9, rises.Of(50), 1e-9)
	assert.InDelta(t, rises.Of(3), falls.Of(1), 1e-12, "mirrored")
	assert.InDelta(t, rises.Of(2), rises.OfLog(2), 1e-6, "the middle stays the middle on the logarithm")
	assert.Less(t, rises.Blurred(3, 2), rises.Of(3), "what is uncertain is less sure")
	assert.Less(t, falls.Blurred(1, 2), falls.Of(1))
	assert.Equal(t, rises.Of(3), rises.Blurred(3, 0))
	// A logistic of scale 1 blurred by a Gaussian is near one of the root of the squares (D. J. C.
	// MacKay, The evidence framework applied to classification networks, 1992, has sqrt(1 + pi s²/8)
	// for the same integral: within three hundredths here).
	unit := Curve{0, 1, 0, 1}
	for _, s := range []float64{0.5, 1, 2, 4} {
		for _, x := range []float64{-3, -1, 0.5, 2} {
			assert.InDelta(t, Logistic(x/math.Sqrt(1+math.Pi*s*s/8)), unit.Blurred(x, s), 0.03, "%g at %g", s, x)
		}
	}
}
