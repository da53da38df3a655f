package diagnose_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
)

// Of a motor that turns slowly, the trace parts brushes and commutator from what
// drags (common practice: ripple shows the commutator, dropouts the brushes).
func TestACurrentTraceIsEvidence(t *testing.T) {
	c, err := circuit.Family("blower_module")
	require.NoError(t, err)
	a, err := diagnose.NewAdviser(c)
	require.NoError(t, err)
	state := c.RunState
	share := func(outcome, fault string) float64 {
		j := &diagnose.Job{}
		for _, e := range []casefile.Evidence{{Observe: "turning", State: state, Outcome: "slow"},
			{Observe: circuit.CurrentTrace, State: state, Outcome: outcome}} {
			if o := c.Observation(e.Observe); o == nil || !slices.Contains(o.States, state) {
				continue
			}
			require.Nil(t, e.Check(c, nil))
			j.Evidence = append(j.Evidence, e)
		}
		op, err := a.Weigh(t.Context(), j)
		require.NoError(t, err)
		for _, d := range op.Diagnoses {
			if len(d.Faults) == 1 && d.Faults[0] == fault {
				return d.Probability
			}
		}
		return 0
	}
	assert.Greater(t, share("weak_bar", "motor.commutator_damaged"), 5*share("even", "motor.commutator_damaged"))
	assert.Greater(t, share("dropouts", "motor.brushes_worn"), 3*share("even", "motor.brushes_worn"))
	assert.Greater(t, share("drags", "motor.bearing_drag"), 2*share("even", "motor.bearing_drag"))
	assert.Less(t, share("dropouts", "motor.bearing_drag"), 0.05)

	bad := casefile.Evidence{Observe: circuit.CurrentTrace, State: state, Outcome: "wavy"}
	assert.NotNil(t, bad.Check(c, nil), "a word that is none is refused")
	s, err := circuit.Family("stator")
	require.NoError(t, err)
	assert.Nil(t, s.Observation(circuit.CurrentTrace), "a stator has no commutator")
}
