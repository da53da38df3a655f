package diagnose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/diagnose"
)

// Cases from the trade, with readings as they occur on machines of different
// sizes, not from this solver (common practice throughout: voltage drop under
// load, supply side at most 0.5 V, ground side at most 0.3 V, 9.6 V at the
// posts while cranking). The station must come out first and be believed.
func TestTradeCases(t *testing.T) {
	a := adviser(t)
	cases := []struct {
		name    string
		station string // "" is nothing wrong
		least   float64
		lines   []string
	}{
		// the battery
		{"flat: 11.6 at rest, sags to 7, slow", "battery", 0.8,
			[]string{"see turning slow", "V rest bat_pos bat_neg 11.6", "V crank bat_pos bat_neg 7.2"}},
		{"rests well, collapses under load, amperes low for the sag", "battery", 0.8,
			[]string{"see turning slow", "V rest bat_pos bat_neg 12.65", "V crank bat_pos bat_neg 7.9", "A crank pos_cable 95"}},
		{"a cell short: 10.5 at rest", "battery", 0.9,
			[]string{"see turning slow", "V rest bat_pos bat_neg 10.5", "V crank bat_pos bat_neg 8.6"}},
		{"chatters, lamps go out", "battery", 0.5,
			[]string{"see click chatter", "see lamps_dim yes", "V rest bat_pos bat_neg 11.2"}},
		// the clamps
		{"corroded plus clamp, small engine", "pos_clamp", 0.9,
			[]string{"see turning none", "V crank bat_pos bat_neg 12.3", "V crank bat_pos pos_cable_start 9.8"}},
		{"loose minus clamp", "neg_clamp", 0.9,
			[]string{"see turning slow", "V crank bat_pos bat_neg 12.1", "V crank gnd_cable_end bat_neg 2.4"}},
		{"minus clamp, found by the big drop first", "neg_clamp", 0.85,
			[]string{"see click single", "see turning none", "V crank case bat_neg 7.4", "V crank gnd_cable_end bat_neg 7.2"}},
		{"plus clamp open at rest too: nothing behind it", "pos_clamp", 0.5,
			[]string{"see click single", "see turning none", "V crank bat_pos bat_neg 12.6", "V crank pos_cable_start bat_neg 0.0", "V crank bat_pos pos_cable_start 12.6"}},
		// the cables
		{"plus cable half corroded through", "pos_cable", 0.9,
			[]string{"see turning slow", "V crank pos_cable_start sol_b 1.9", "V crank bat_pos bat_neg 11.8"}},
		{"ground cable, 1.4 V on the big van", "gnd_cable", 0.9,
			[]string{"see turning slow", "A crank pos_cable 190", "V crank block gnd_cable_end 1.4", "V crank bat_pos bat_neg 11.1"}},
		{"ground cable off: case rises to supply", "gnd_cable", 0.8,
			[]string{"see turning none", "V crank case bat_neg 12.1", "V crank block gnd_cable_end 12.0"}},
		{"paint under the starter: case to block", "mount", 0.75,
			[]string{"see turning slow", "V crank case block 1.8", "V crank block bat_neg 0.2"}},
		// the solenoid
		{"contact burnt, tractor", "main_contact", 0.9,
			[]string{"see click single", "V crank sol_b sol_m 4.6", "V crank bat_pos bat_neg 12.0"}},
		{"contact does not close: clunk, full volts across it, no current", "main_contact", 0.8,
			[]string{"see click single", "see turning none", "V crank sol_b sol_m 12.4", "A crank pos_cable 0.0"}},
		{"coil open: 12 V on its terminal, silent, OL", "coil", 0.95,
			[]string{"see click none", "V crank sol_s case 12.2", "R sol_s case OL"}},
		{"plunger stuck: fed, silent, coil measures as it should", "coil", 0.75,
			[]string{"see click none", "see turning none", "V crank sol_s case 11.6", "R sol_s case 1.0"}},
		{"contact welded: turns with the key off", "main_contact", 0.6,
			[]string{"see turning normal rest", "V rest sol_m bat_neg 11.9"}},
		// the motor
		{"brushes: volts there, no amperes, tap helps", "motor", 0.95,
			[]string{"see click single", "see turning none", "V crank sol_m case 12.2", "see tap_helps yes"}},
		{"brushes worn down: full volts, a third of the current, slow", "motor", 0.65,
			[]string{"see turning slow", "V crank sol_m case 11.7", "A crank pos_cable 60", "V crank bat_pos bat_neg 12.2"}},
		{"seized: stall current direct, locked on the bench", "motor", 0.9,
			[]string{"see turning none", "A direct_feed motor 480", "see turning none direct_feed", "see turn_by_hand locked bench"}},
		{"dragging bearings: free run draws three times", "motor", 0.8,
			[]string{"see turning slow", "A crank pos_cable 240", "A bench motor 75", "see turn_by_hand stiff bench"}},
		// what it turns
		{"freewheel gone", "drive", 0.7,
			[]string{"see turning free_spin", "A crank pos_cable 35"}},
		{"engine stuck: stall current, starter free on the bench", "drive", 0.7,
			[]string{"see turning none", "A crank pos_cable 430", "V crank sol_m case 8.6", "see turning free_spin bench", "see turn_by_hand locked isolated"}},
		// the control side
		{"start fuse blown", "start_fuse", 0.9,
			[]string{"see click none", "V crank bat_pos bat_neg 12.6", "V crank fuse_out bat_neg 0.0"}},
		{"key switch dead", "ignition_switch", 0.9,
			[]string{"see click none", "V crank fuse_out bat_neg 12.5", "V crank ign_out bat_neg 0.0"}},
		{"neutral switch not made", "interlock", 0.9,
			[]string{"see click none", "V crank ign_out bat_neg 12.4", "V crank ilk_out bat_neg 0.01"}},
		// With the ground side open the case rises to supply too, and the same
		// 0 V stands across the coil: sure only once the case was read.
		{"start wire broken in the harness", "control_wire", 0.4,
			[]string{"see click none", "V crank ilk_out bat_neg 12.4", "V crank sol_s case 0.0"}},
		{"start wire broken, case read too", "control_wire", 0.9,
			[]string{"see click none", "V crank ilk_out bat_neg 12.4", "V crank sol_s case 0.0", "V crank case bat_neg 0.0"}},
		{"key switch contacts burnt: 5 V lost in it, coil too weak", "ignition_switch", 0.9,
			[]string{"see click none", "V crank fuse_out ign_out 6.8", "V crank sol_s case 4.9"}},
		{"green start wire: 4 V lost", "control_wire", 0.9,
			[]string{"see click none", "V crank ilk_out sol_s 6.5", "V crank bat_pos bat_neg 12.5"}},
	}
	innocent := 0
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			op := weigh(t, a, ev(t, a, c.lines...))
			require.NotEmpty(t, op.Stations)
			got := op.Stations[0]
			assert.Equal(t, c.station, got.Station, "%+v", op.Diagnoses[:min(4, len(op.Diagnoses))])
			assert.GreaterOrEqual(t, got.Probability, c.least, "%+v", op.Diagnoses[:min(4, len(op.Diagnoses))])
			assert.NotEqual(t, diagnose.Contradiction, op.Verdict.Status)
			if v := op.Verdict; v.Status == diagnose.Isolated && *v.Station != c.station {
				innocent++
			}
		})
	}
	assert.Zero(t, innocent, "an innocent station named with certainty")
}
