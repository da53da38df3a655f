package casefile_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/unit"
)

// A reading without a state takes the only one it can be taken in; where there are
// several, all are named. not_sure answers every look, nothing else unknown does.
func TestStatesLeftOutAndNotSure(t *testing.T) {
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	ohms := casefile.Evidence{Measure: unit.Resistance, From: "sol_s", To: "case", Value: "1.1"}
	require.Nil(t, ohms.Check(c, nil))
	assert.Equal(t, "isolated", ohms.State)
	volts := casefile.Evidence{Measure: unit.Voltage, From: "bat_pos", To: "bat_neg", Value: "12.6"}
	p := volts.Check(c, nil)
	require.NotNil(t, p)
	assert.Equal(t, "/state", p.Pointer)
	for _, st := range []string{"rest", "crank", "direct_feed", "bench"} {
		assert.Contains(t, p.What, st)
	}
	for _, o := range c.Observations {
		e := casefile.Evidence{Observe: o.ID, State: o.States[0], Outcome: circuit.NotSure}
		assert.Nil(t, e.Check(c, nil), o.ID)
		e.Outcome = strings.ToUpper(circuit.NotSure)
		assert.NotNil(t, e.Check(c, nil), o.ID)
	}
}
