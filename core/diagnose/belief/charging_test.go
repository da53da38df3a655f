package belief_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/proof"
	"corriente/core/unit"
)

// 13.8 V with the engine on is a charging system (facts of the trade): the battery is not
// accused, it is said what the reading is, and what is read in that state is judged at
// those volts.
func TestARunningEngineIsNoBadBattery(t *testing.T) {
	for _, x := range []struct{ family, state, plus, minus string }{{"starter", "rest", "", ""},
		{"window", "up", "motor_a", "motor_b"}, {"two_wire_motor", "run", "motor_plus", "motor_minus"},
		{"blower_module", "speed_high", "motor_plus", "motor_minus"}} {
		f, err := circuit.Family(x.family)
		require.NoError(t, err)
		a, err := belief.New(f)
		require.NoError(t, err)
		b := &f.Stations[a.Net.BatteryStation()]
		from, to := "bat_pos", proof.Other(b, "bat_pos")
		weigh := func(es ...casefile.Evidence) *explain.Opinion {
			for i := range es {
				require.Nil(t, es[i].Check(f, nil))
			}
			op, err := explain.Glance(t.Context(), a, &belief.Job{Evidence: es})
			require.NoError(t, err)
			return op
		}
		before := weigh()
		after := weigh(casefile.Evidence{Measure: unit.Voltage, State: x.state, From: from, To: to, Value: "13.9"})
		accused := func(op *explain.Opinion) float64 {
			for _, s := range op.Stations {
				if s.Station == "battery" {
					return s.Probability
				}
			}
			return 0
		}
		assert.LessOrEqual(t, accused(after), accused(before)+0.02, x.family)
		require.NotEmpty(t, after.Warnings, x.family)
		assert.Contains(t, after.Warnings[0].Says, "something charges the battery")
		assert.NotEqual(t, explain.Contradiction, after.Verdict.Status)
		if x.plus == "" {
			continue
		}
		// The motor has all of it: nothing is lost on the way.
		all := weigh(casefile.Evidence{Measure: unit.Voltage, State: x.state, From: from, To: to, Value: "13.9"},
			casefile.Evidence{Measure: unit.Voltage, State: x.state, From: x.plus, To: x.minus, Value: "13.4"})
		assert.NotEqual(t, explain.Contradiction, all.Verdict.Status, "%s: %s", x.family, all.Verdict.Says)
		assert.LessOrEqual(t, accused(all), accused(before)+0.02, x.family)
	}
	// A battery that rests at 12.9 V has its surface charge, and no more.
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	a, err := belief.New(f)
	require.NoError(t, err)
	e := casefile.Evidence{Measure: unit.Voltage, State: "rest", From: "bat_pos", To: "bat_neg", Value: "12.9"}
	require.Nil(t, e.Check(f, nil))
	op, err := explain.Glance(t.Context(), a, &belief.Job{Evidence: []casefile.Evidence{e}})
	require.NoError(t, err)
	assert.Empty(t, op.Warnings)
}
