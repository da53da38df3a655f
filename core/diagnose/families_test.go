package diagnose_test

import (
	"context"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
)

func adviserOf(t testing.TB, id string) *diagnose.Adviser {
	t.Helper()
	c, err := circuit.Family(id)
	require.NoError(t, err)
	a, err := diagnose.NewAdviser(c)
	require.NoError(t, err)
	return a
}

// Cases of every family as the trade tells them (common practice: volts under
// load, one part after the other; what moves, clicks and lights). The station
// must come out first.
func TestEveryFamilyConcludesAsTheTradeDoes(t *testing.T) {
	cases := []struct {
		family, name string
		station      string // "" is nothing wrong
		least        float64
		lines        []string
	}{
		{"contactor_motor", "contactor clicks, its studs drop 4 V", "main_contact", 0.9,
			[]string{"see click single", "see turning slow", "V run con_b con_m 4.1", "V run bat_pos bat_neg 12.0"}},
		{"contactor_motor", "a float charger hides a weak battery: 13.8 at rest, 7 under load", "battery", 0.8,
			[]string{"see turning slow", "V rest bat_pos bat_neg 13.8", "V run bat_pos bat_neg 7.3"}},
		{"contactor_motor", "motor cable corroded", "motor_cable", 0.9,
			[]string{"see turning slow", "V run con_m motor_term 2.2", "V run bat_pos bat_neg 12.0"}},
		{"blower_module", "full volts at the plug, none at the motor", "motor_connector", 0.9,
			[]string{"see airflow none", "V speed_high plug_plus bat_neg 12.4", "V speed_high motor_plus bat_neg 0.0"}},
		{"blower_module", "motor minus stays at supply, command there: module", "module", 0.75,
			[]string{"see airflow none", "V speed_high motor_minus bat_neg 12.4",
				"V speed_high module_cmd module_gnd 4.5", "V speed_high module_gnd bat_neg 0.01"}},
		{"blower_module", "no command at the module", "command", 0.85,
			[]string{"see airflow none", "V speed_high motor_minus bat_neg 12.4", "V speed_high module_cmd module_gnd 0.0"}},
		{"blower_module", "full volts across the motor, no current, a tap helps", "motor", 0.95,
			[]string{"see airflow none", "V speed_high motor_plus motor_minus 12.2", "A speed_high feed_wire 0.1", "see tap_helps yes"}},
		{"blower_resistor", "only full speed works", "resistor_pack", 0.8,
			[]string{"see airflow normal speed_4", "see airflow none speed_1", "see airflow none speed_2"}},
		{"blower_resistor", "one speed dead", "resistor_pack", 0.7,
			[]string{"see airflow normal speed_4", "see airflow normal speed_1", "see airflow none speed_2"}},
		{"wiper", "low dead, high works", "motor", 0.3,
			[]string{"see sweep none low", "see sweep normal high", "V low low_brush motor_gnd 12.3"}},
		{"wiper", "motor heard, arm still", "drive", 0.6, []string{"see sweep none low", "see motor_heard yes low"}},
		{"wiper", "does not park, both speeds good", "park_switch", 0.4,
			[]string{"see sweep normal low", "see sweep normal high", "see parks no off_midstroke",
				"V off_midstroke park_feed bat_neg 12.4"}},
		{"two_wire_motor", "relay clicks, volts before, none behind", "relay", 0.75,
			[]string{"see turning none", "see click single", "V run fuse_out bat_neg 12.5", "V run relay_out bat_neg 0.0"}},
		{"two_wire_motor", "ground ring 5 V above battery minus", "ground_point", 0.9,
			[]string{"see turning slow", "V run ground_ring bat_neg 5.1"}},
		{"two_wire_motor", "silent relay, 12 V on its coil, coil OL", "relay_coil", 0.9,
			[]string{"see turning none", "see click none", "V run coil_plus coil_minus 12.4", "R coil_plus coil_minus OL"}},
		{"window", "dead both ways, wire broken in the jamb: works at another door angle", "jamb_wire_a", 0.3,
			[]string{"see glass_moves none up", "see glass_moves none down", "see door_position_matters yes",
				"V up jamb_a bat_neg 12.5", "V up door_a bat_neg 0.0"}},
		{"window", "motor runs, glass does not move", "drive", 0.5, []string{"see glass_moves none up", "see motor_heard yes up"}},
		{"traction", "brake coil open: code, no click", "brake_coil", 0.9,
			[]string{"see moves none drive", "see blink_code 6 drive", "R brake_a brake_b OL"}},
		{"traction", "interlock open", "interlock", 0.85,
			[]string{"see moves none drive", "see blink_code 4 drive", "V key_on key_in bat_neg 25.0", "V key_on ilk_in bat_neg 0.0"}},
		{"actuator", "code stays with a known good motor, loop open before the plug", "harness_a", 0.3,
			[]string{"see blink_code 5 key_on", "see code_clears no known_good_fitted", "R out_a plug_a OL"}},
		{"actuator", "code goes with a known good motor", "motor", 0.7,
			[]string{"see blink_code 5 key_on", "see code_clears yes known_good_fitted"}},
		{"stator", "one phase dead on AC, battery not charged enough", "phase_1", 0.85,
			[]string{"~ idle_unloaded y1 y2 0.2", "~ idle_unloaded y2 y3 20.6", "~ idle_unloaded y3 y1 0.2"}},
		{"stator", "AC good on all pairs, no charge", "rectifier", 0.6,
			[]string{"~ idle_unloaded y1 y2 20.8", "~ idle_unloaded y2 y3 20.6", "~ idle_unloaded y3 y1 20.9",
				"V idle_charging bat_pos bat_neg 12.5", "see connector clean"}},
		{"stator", "a phase to the core", "phase_2", 0.8,
			[]string{"R y2 engine_ground 1.2", "R y1 engine_ground 1.8", "R y3 engine_ground 1.9"}},
		{"capacitor_fan", "hums, runs when pushed, 2 of 7.5 microfarads", "capacitor", 0.9,
			[]string{"see starts hums_then_runs_when_pushed", "C isolated run start 2.1"}},
		{"capacitor_fan", "shaft does not turn", "bearing", 0.9, []string{"see starts hums", "see turn_by_hand locked isolated"}},
		{"capacitor_fan", "dead, run winding OL", "run_winding", 0.9, []string{"see starts no_hum", "R common run OL"}},
	}
	as := map[string]*diagnose.Adviser{}
	for _, c := range cases {
		t.Run(c.family+" "+c.name, func(t *testing.T) {
			a := as[c.family]
			if a == nil {
				a = adviserOf(t, c.family)
				as[c.family] = a
			}
			op := weigh(t, a, ev(t, a, c.lines...))
			require.NotEmpty(t, op.Stations)
			assert.Equal(t, c.station, op.Stations[0].Station, "%v", op.Diagnoses[:min(4, len(op.Diagnoses))])
			assert.GreaterOrEqual(t, op.Stations[0].Probability, c.least, "%v", op.Diagnoses[:min(4, len(op.Diagnoses))])
		})
	}
}

// A stator's phases of a third of an ohm cannot be judged by a meter of a tenth:
// equal readings of about 0.6 say little.
func TestOhmsCannotJudgeAStator(t *testing.T) {
	a := adviserOf(t, "stator")
	op := weigh(t, a, ev(t, a, "R y1 y2 0.6", "R y2 y3 0.5", "R y3 y1 0.7"))
	assert.NotEqual(t, diagnose.Isolated, op.Verdict.Status)
	for _, x := range op.Evidence {
		for d, b := range x.Bits {
			if !strings.Contains(d, "open") {
				assert.Less(t, math.Abs(b), 2.5, "%s: ohms of this size hardly move anything but opens", d)
			}
		}
	}
	require.NotEmpty(t, op.Next)
}

// Probabilities sum to one in every family, whatever is said, and nothing is NaN.
func TestProbabilitiesOfEveryFamily(t *testing.T) {
	for _, id := range circuit.Families() {
		a := adviserOf(t, id)
		op, err := a.Weigh(context.Background(), &diagnose.Job{})
		require.NoError(t, err)
		sum := 0.0
		for _, d := range op.Diagnoses {
			sum += d.Probability
		}
		assert.LessOrEqual(t, sum, 1.0001, id)
		for _, s := range op.Stations {
			assert.False(t, math.IsNaN(s.Probability), id)
		}
		require.NotEmpty(t, op.Next, "%s: something must be worth doing first", id)
		for i := range a.C.States {
			pic, err := op.Picture(a.C.States[i].ID)
			require.NoError(t, err)
			require.NotEmpty(t, pic.Paths, "%s %s: a path must be drawn", id, a.C.States[i].ID)
		}
	}
}

// What is known moves the priors, and says so: a new part is suspected less, one
// that was apart more; nothing wrong keeps its share.
func TestWhatIsKnownShiftsThePriors(t *testing.T) {
	a := adviser(t)
	share := func(op *diagnose.Opinion, id string) float64 {
		for _, s := range op.Stations {
			if s.Station == id {
				return s.Probability
			}
		}
		return 0
	}
	e := ev(t, a, "see turning slow")
	plain := weigh(t, a, e)
	known := casefile.Known{NewParts: []string{"battery"}, WasApart: []string{"gnd_cable"}}
	op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Known: known, When: []string{"wet"}})
	require.NoError(t, err)
	assert.Less(t, share(op, "battery"), 0.6*share(plain, "battery"))
	assert.Greater(t, share(op, "gnd_cable"), 1.5*share(plain, "gnd_cable"))
	require.NotEmpty(t, op.Shifts)
	assert.Equal(t, "gnd_cable", op.Shifts[0].Station)
	assert.Contains(t, op.Shifts[0].Why, "apart")
	assert.Empty(t, plain.Shifts)
}

// After a repair the diagnosis goes on: what was put right is no longer the
// suspect, what the earlier readings pointed to besides still is.
func TestSecondFaultAfterARepair(t *testing.T) {
	a := adviser(t)
	e := ev(t, a, "see turning slow", "V crank bat_pos pos_cable_start 2.4", "V crank bat_pos bat_neg 12.0",
		"V crank block gnd_cable_end 0.9")
	op := weigh(t, a, e)
	assert.Equal(t, "pos_clamp", op.Stations[0].Station)
	e = append(e, ev(t, a, "see turning slow")...)
	op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Repairs: []casefile.Repair{{Station: "pos_clamp", After: 4}}})
	require.NoError(t, err)
	assert.Equal(t, "gnd_cable", op.Stations[0].Station, "%v", op.Stations[:4])
	// With nothing left to explain, it is proved good.
	good := append(append([]casefile.Evidence{}, e[:4]...),
		ev(t, a, "see turning normal", "V crank bat_pos bat_neg 11.6", "V crank bat_pos sol_m 0.24",
			"V crank case bat_neg 0.14", "A crank pos_cable 155")...)
	op, err = a.Weigh(context.Background(), &diagnose.Job{Evidence: good, Repairs: []casefile.Repair{{Station: "pos_clamp", After: 4}}})
	require.NoError(t, err)
	assert.Less(t, op.Stations[0].Probability, 0.2, "%v", op.Diagnoses[:3])
}

// A swap test of a part on the shelf is offered, and settles the part.
func TestSwapTest(t *testing.T) {
	a := adviserOf(t, "two_wire_motor")
	e := ev(t, a, "see turning none", "see click none")
	op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Known: casefile.Known{Shelf: []string{"relay_coil"}, Leaning: 1}})
	require.NoError(t, err)
	offered := false
	for _, l := range op.Looks {
		offered = offered || l.Observe == circuit.SwapHelps && l.Through == "relay_coil"
	}
	assert.True(t, offered)
	x := casefile.Evidence{Observe: circuit.SwapHelps, Through: "relay_coil", Outcome: "yes"}
	require.Nil(t, x.Check(a.C, nil))
	op = weigh(t, a, append(e, x))
	assert.Equal(t, "relay_coil", op.Stations[0].Station)
	assert.Greater(t, op.Stations[0].Probability, 0.8)
	bad := casefile.Evidence{Observe: circuit.SwapHelps, Outcome: "yes"}
	assert.NotNil(t, bad.Check(a.C, nil), "which part was swapped?")
}

// The leaning moves looks before readings or behind them, and nothing else.
func TestLeaning(t *testing.T) {
	a := adviserOf(t, "blower_module")
	e := ev(t, a, "see airflow none")
	first := func(l float64) (look int) {
		op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Known: casefile.Known{Leaning: l}})
		require.NoError(t, err)
		for i, n := range op.Next {
			if n.Observe != "" {
				return i
			}
		}
		return 99
	}
	assert.LessOrEqual(t, first(1), first(-1))
	quick, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Known: casefile.Known{Leaning: 1}})
	require.NoError(t, err)
	meter, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Known: casefile.Known{Leaning: -1}})
	require.NoError(t, err)
	assert.Equal(t, quick.Stations, meter.Stations, "a leaning changes no probability")
	// No clamp: no current is asked for.
	op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Known: casefile.Known{Without: []string{"current"}}})
	require.NoError(t, err)
	for _, n := range op.Next {
		assert.NotEqual(t, "current", n.Measure)
	}
}

// A slip is proposed when it would resolve a contradiction.
func TestSlipIsProposed(t *testing.T) {
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	own := c.Clone()
	for k, v := range map[string]float64{"pos_cable": 0.0009, "gnd_cable": 0.0006} { // this machine's own, known
		require.NoError(t, own.SetParam(k, "resistance", circuit.Param{Value: v, Spread: 0.05}))
	}
	a, err := diagnose.NewAdviser(own)
	require.NoError(t, err)
	op := weigh(t, a, ev(t, a, "see turning normal", "V crank bat_pos bat_neg 11.6", "A crank pos_cable 158",
		"V crank bat_pos sol_m 0.25", "V crank case bat_neg 0.14",
		"V crank sol_m case 11.2", "V crank sol_b case -11.3"))
	require.Equal(t, diagnose.Contradiction, op.Verdict.Status)
	assert.Contains(t, op.Verdict.Slip, "were the leads swapped")
}

// Where every likely fault leads to the same repair, no further reading is asked.
func TestGoodEnoughToDecide(t *testing.T) {
	a := adviserOf(t, "two_wire_motor")
	// A relay that is fed and does not pass: its coil sticks or its contact does not close.
	op := weigh(t, a, ev(t, a, "see turning none run", "see click none run", "V run fuse_out relay_out 12.3",
		"V run coil_plus coil_minus 12.2",
		"see turning normal relay_bridged", "R coil_plus coil_minus 82"))
	if op.Verdict.Repair != "" {
		assert.Contains(t, op.Verdict.Repair, "relay", "%v", op.Diagnoses[:4])
		assert.Empty(t, op.Next)
	}
	assert.Equal(t, []string{"relay_coil", "relay"}, []string{op.Stations[0].Station, op.Stations[1].Station})
}

// Blink codes: the table that holds names the fault; half believed, it says less;
// without a table a code says only that the controller finds something.
func TestBlinkCodesAreEvidence(t *testing.T) {
	a := adviserOf(t, "traction")
	e := ev(t, a, "see moves none drive", "see blink_code 3 key_on")
	share := func(codes map[int][]string, trust float64) float64 {
		op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Codes: codes, Known: casefile.Known{CodesTrust: trust}})
		require.NoError(t, err)
		for _, s := range op.Stations {
			if s.Station == "brake_coil" {
				return s.Probability
			}
		}
		return 0
	}
	table := map[int][]string{3: {"brake_coil.open"}, 5: {"motor.winding_open", "motor.brushes_worn"}}
	full, half, none := share(table, 1), share(table, 0.5), share(nil, 0)
	assert.Greater(t, full, half)
	assert.Greater(t, half, none)
	assert.Less(t, full, 0.99, "a code is evidence, never a verdict by itself")
}

// An interlock that no longer opens shows in no reading of a machine that works:
// only letting go of what it guards tells (common practice: an interlock is
// proved by opening it). On a machine that does not run, staying off says nothing.
func TestAWeldedInterlockShowsOnlyWhenItIsLetGo(t *testing.T) {
	share := func(op *diagnose.Opinion, station string) float64 {
		for _, s := range op.Stations {
			if s.Station == station {
				return s.Probability
			}
		}
		return 0
	}
	for _, x := range []struct{ family, works, dead, runs string }{
		{"traction", "see moves normal", "see moves none", "see interlock %s drive"},
		{"contactor_motor", "see turning normal run", "see turning none run", "see interlock %s run"},
		{"starter", "see turning normal crank", "", ""},
	} {
		t.Run(x.family, func(t *testing.T) {
			a := adviserOf(t, x.family)
			said := func(lines ...string) float64 { return share(weigh(t, a, ev(t, a, lines...)), "interlock") }
			before := said(x.works)
			bad := []string{x.works, "see interlock_opens stays_closed isolated"}
			good := []string{x.works, "see interlock_opens opens isolated"}
			if x.runs != "" {
				on, off := fmt.Sprintf(x.runs, "runs_on"), fmt.Sprintf(x.runs, "stops")
				bad, good = append(bad, on), append(good, off)
				assert.Greater(t, said(x.works, on), 5*before)
				assert.Less(t, said(x.works, off), before)
				// Said of a machine that does not run at all, it clears nothing.
				assert.InDelta(t, said(x.dead), said(x.dead, off), 0.002)
			}
			assert.Greater(t, said(bad[:2]...), 5*before)
			assert.Less(t, said(good...), before)
			if x.runs != "" { // the wheels and the meter say the same: believed
				assert.Greater(t, said(bad...), 0.9)
			}
		})
	}
}

// On the mains nothing is probed, so nothing is drawn that would be: no volts, no points
// for a probe.
func TestThePictureOfTheMainsShowsNoVolts(t *testing.T) {
	a := adviserOf(t, "capacitor_fan")
	op := weigh(t, a, nil)
	pic, err := op.Picture("powered_observe")
	require.NoError(t, err)
	assert.False(t, pic.Powered)
	assert.Contains(t, pic.Note, "Nothing is probed")
	for _, p := range pic.Paths {
		for _, n := range p.Nodes {
			assert.True(t, n.Hidden, n.ID)
			assert.Zero(t, n.High, n.ID)
		}
	}
	for _, n := range op.Next {
		assert.False(t, n.Measure != "" && n.State == "powered_observe", "%+v", n)
	}
	dead, err := op.Picture("isolated")
	require.NoError(t, err)
	assert.False(t, dead.Paths[0].Nodes[0].Hidden, "dead, it is measured")
}
