package readings_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/diagnose/assume"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/readings"
)

func TestCondense(t *testing.T) {
	assumed, err := assume.Standard()
	require.NoError(t, err)
	space := &cells.Space{Assumed: assumed}
	condense := func(in []readings.Reading) []readings.Reading { return readings.Condense(space, in) }
	r := func(group string, v float64) readings.Reading {
		return readings.Reading{Group: group, Value: v, Floor: 0.01, U: v / 0.01, Noise: 0.2, Times: 1}
	}
	// Two tries at a burnt contact are one answer, as wide as they lie apart.
	got := condense([]readings.Reading{r("a", 5.7), r("a", 6.4)})
	assert.Len(t, got, 1)
	assert.InDelta(t, 6.05, got[0].Value, 1e-9)
	assert.Equal(t, 2, got[0].Times)
	assert.InDelta(t, 17.5, got[0].Noise, 0.1)
	// Of three the middle one stands: a slip among them moves nothing.
	got = condense([]readings.Reading{r("a", 6), r("a", 6.1), r("a", 6.2)})
	assert.InDelta(t, 6.1, got[0].Value, 1e-9)
	// Too far apart for two tries, or in another place: two answers.
	assert.Len(t, condense([]readings.Reading{r("a", 0.15), r("a", 2.6)}), 2)
	assert.Len(t, condense([]readings.Reading{r("a", 6), r("b", 6)}), 2)
}
