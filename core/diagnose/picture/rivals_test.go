package picture_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/picture"
	"corriente/core/unit"
)

// The suspects add up to a hundred, with pairs said as pairs.
func TestSuspectsAddUp(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	a, err := belief.New(f)
	require.NoError(t, err)
	for _, es := range [][]casefile.Evidence{nil,
		{{Observe: "turning", State: "crank", Outcome: "slow"}},
		{{Observe: "turning", State: "crank", Outcome: "slow"},
			{Measure: unit.Voltage, State: "crank", From: "sol_b", To: "sol_m", Value: "1.9"},
			{Measure: unit.Voltage, State: "crank", From: "block", To: "gnd_cable_end", Value: "1.4"}}} {
		for i := range es {
			require.Nil(t, es[i].Check(f, nil))
		}
		op, err := explain.Glance(t.Context(), a, &belief.Job{Evidence: es})
		require.NoError(t, err)
		for _, n := range []int{3, 6, 1000} {
			sum := 0.0
			rs := picture.Rivals(op, n)
			for i, r := range rs {
				sum += r.Probability
				assert.True(t, r.Rest || i == 0 || r.Probability <= rs[i-1].Probability)
				assert.NotEmpty(t, r.Fault)
				assert.True(t, r.Total == 0 || r.Total > r.Probability)
			}
			assert.InDelta(t, 1, sum, 2e-5*math.Sqrt(float64(len(rs)))+1e-4)
		}
		if len(es) == 3 {
			assert.Len(t, picture.Rivals(op, 1)[0].Stations, 2, "a contact and a cable together")
			assert.Contains(t, picture.Rivals(op, 1)[0].Fault, ", and the ")
		}
	}
}
