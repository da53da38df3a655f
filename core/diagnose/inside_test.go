package diagnose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"corriente/core/diagnose"
)

// Volts across a window's motor, no amperes, OL through it: the motor comes off, whether its winding or the cut-out
// built into it is open, and that is said.
func TestWhatSitsInsideTheNamedPartIsSaidToComeOffWithIt(t *testing.T) {
	a := adviserOf(t, "window")
	op := weigh(t, a, ev(t, a, "see glass_moves none up", "V up motor_a motor_b 12.2", "A up feed_wire 0.0", "R motor_a motor_b OL"))
	assert.Equal(t, diagnose.Isolated, op.Verdict.Status)
	assert.Equal(t, "motor", *op.Verdict.Station)
	assert.Contains(t, op.Verdict.Overturn, "it sits inside the window motor, which comes off either way")
}
