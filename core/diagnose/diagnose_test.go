package diagnose_test

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

func adviser(t testing.TB) *diagnose.Adviser {
	t.Helper()
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	a, err := diagnose.NewAdviser(c)
	require.NoError(t, err)
	return a
}

// ev reads "V crank bat_pos bat_neg 11.9", "A crank pos_cable 5", "R sol_m case OL" or "see click single".
func ev(t testing.TB, a *diagnose.Adviser, lines ...string) []casefile.Evidence {
	t.Helper()
	var out []casefile.Evidence
	for _, l := range lines {
		f := strings.Fields(l)
		var e casefile.Evidence
		switch f[0] {
		case "V":
			e = casefile.Evidence{Measure: unit.Voltage, State: f[1], From: f[2], To: f[3], Value: f[4]}
		case "A":
			e = casefile.Evidence{Measure: unit.Current, State: f[1], Through: f[2], Value: f[3]}
		case "~":
			e = casefile.Evidence{Measure: unit.ACVoltage, State: f[1], From: f[2], To: f[3], Value: f[4]}
		case "C":
			e = casefile.Evidence{Measure: unit.Capacitance, State: f[1], From: f[2], To: f[3], Value: f[4]}
		case "R":
			e = casefile.Evidence{Measure: unit.Resistance, State: "isolated", From: f[1], To: f[2], Value: f[3]}
		default:
			e = casefile.Evidence{Observe: f[1], Outcome: f[2]}
			if len(f) > 3 {
				e.State = f[3]
			}
		}
		if p := e.Check(a.C, nil); p != nil {
			t.Fatal(p)
		}
		out = append(out, e)
	}
	return out
}

func weigh(t testing.TB, a *diagnose.Adviser, e []casefile.Evidence) *diagnose.Opinion {
	t.Helper()
	op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e})
	require.NoError(t, err)
	return op
}

// What the trade concludes from these readings (common practice: voltage drop
// under load, supply side first, ground side after).
func TestWhatTheTradeConcludes(t *testing.T) {
	a := adviser(t)
	cases := []struct {
		name    string
		lines   []string
		station string
		faults  []string // any of these, "" when the station is enough
	}{
		{"burnt solenoid contact: 2.3 V lost across it at 132 A",
			[]string{"see turning slow", "V crank bat_pos bat_neg 11.62", "A crank pos_cable 132",
				"V crank sol_b sol_m 2.33", "V crank case bat_neg 0.19"}, "main_contact", []string{"main_contact.high_resistance"}},
		{"corroded plus clamp: post reads high, clamp reads low, only a click",
			[]string{"see click single", "see turning none", "V crank bat_pos bat_neg 12.4",
				"V crank pos_cable_start bat_neg 5.8", "V crank bat_pos pos_cable_start 6.6"}, "pos_clamp",
			[]string{"pos_clamp.high_resistance"}},
		{"bad ground cable: 3 V between block and minus clamp",
			[]string{"see turning slow", "V crank bat_pos bat_neg 11.9", "V crank block gnd_cable_end 3.1",
				"V crank bat_pos sol_m 0.2"}, "gnd_cable", []string{"gnd_cable.high_resistance"}},
		{"open brushes: full volts at the motor, no current, solenoid works",
			[]string{"see click single", "see turning none", "V crank sol_m case 12.3", "A crank pos_cable 0.1"},
			"motor", []string{"motor.brushes_worn", "motor.winding_open"}},
		{"interlock not made: start voltage before it, none after, silent",
			[]string{"see click none", "V crank ign_out bat_neg 12.5", "V crank ilk_out bat_neg 0.0",
				"V crank bat_pos bat_neg 12.6"}, "interlock", []string{"interlock.stuck_open"}},
		{"seized: volts at the motor, hundreds of amperes, does not turn, engine free",
			[]string{"see turning none", "A crank pos_cable 420", "V crank sol_m case 9.1",
				"see turning none direct_feed", "A direct_feed motor 450"}, "motor", []string{"motor.seized"}},
		{"flat battery: 10.9 V at rest, chatters",
			[]string{"see click chatter", "V rest bat_pos bat_neg 10.9"}, "battery", []string{"battery.discharged", "battery.dead_cell"}},
		{"coil open: full volts on the start terminal, silent, OL on ohms",
			[]string{"see click none", "V crank sol_s case 12.4", "R sol_s case OL"}, "coil", []string{"coil.open"}},
		{"freewheel slips: spins free and fast, engine stands",
			[]string{"see turning free_spin", "V crank sol_m case 11.6", "A crank pos_cable 38"}, "drive", []string{"drive.slipping"}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			op := weigh(t, a, ev(t, a, c.lines...))
			require.NotEmpty(t, op.Stations)
			assert.Equal(t, c.station, op.Stations[0].Station, "%+v", op.Diagnoses[:min(4, len(op.Diagnoses))])
			require.NotEmpty(t, op.Diagnoses[0].Faults)
			assert.Contains(t, c.faults, op.Diagnoses[0].Faults[0])
			assert.Contains(t, []string{diagnose.Isolated, diagnose.FaultFound, diagnose.Undecided}, op.Verdict.Status)
			assert.Greater(t, op.Stations[0].Probability, 0.6)
		})
	}
}

func TestGoodCrankIsCleared(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	c := f.Clone()
	for k, v := range map[string]float64{"resistance": 0.018, "ke": 0.021, "load": 2.9, "friction": 0.25, "brush_drop": 0.8} {
		require.NoError(t, c.SetParam("motor", k, circuit.Param{Value: v, Spread: 0.08})) // this vehicle's values are known
	}
	a, err := diagnose.NewAdviser(c)
	require.NoError(t, err)
	op := weigh(t, a, ev(t, a, "see turning normal", "see click single", "V crank bat_pos bat_neg 11.65",
		"V crank bat_pos sol_m 0.22", "V crank case bat_neg 0.13",
		"A crank pos_cable 152", "V rest bat_pos bat_neg 12.62", "see turning none rest",
		"V crank bat_pos fuse_out 0.02", "V crank fuse_out sol_s 0.40", "V crank bat_pos pos_cable_start 0.03",
		"V crank gnd_cable_end bat_neg 0.03"))
	assert.Equal(t, diagnose.NothingWrong, op.Verdict.Status, "%+v", op.Diagnoses[:3])
	assert.Nil(t, op.Verdict.Station)
	assert.Empty(t, op.Verdict.Faults)
}

func TestProbabilitiesSumToOne(t *testing.T) {
	a := adviser(t)
	rng := rand.New(rand.NewPCG(1, 2))
	for range 12 {
		op := weigh(t, a, randomEvidence(t, a, rng, 5))
		sum := 0.0
		for _, d := range op.Diagnoses {
			require.False(t, math.IsNaN(d.Probability))
			require.GreaterOrEqual(t, d.Probability, 0.0)
			sum += d.Probability
		}
		assert.LessOrEqual(t, sum, 1+1e-4)
		for _, s := range op.Stations {
			assert.LessOrEqual(t, s.Probability, 1+1e-6)
		}
	}
}

// randomEvidence lets a random faulty machine answer random questions.
func randomEvidence(t testing.TB, a *diagnose.Adviser, rng *rand.Rand, n int) []casefile.Evidence {
	t.Helper()
	fs := a.Model.Faults()
	f := fs[rng.IntN(len(fs))]
	sev := 0.0
	if sc := a.Model.ScaleOf(f); sc != nil {
		sev = sc.Middle
	}
	m := machine.New(a.Model, a.Net.Nominal(), []machine.Hidden{{Fault: f, Severity: sev}}, rng)
	var out []casefile.Evidence
	for len(out) < n {
		st := &a.C.States[rng.IntN(len(a.C.States))]
		x, y := a.C.Nodes[rng.IntN(len(a.C.Nodes))].ID, a.C.Nodes[rng.IntN(len(a.C.Nodes))].ID
		if x == y {
			continue
		}
		e := casefile.Evidence{Measure: unit.Voltage, State: st.ID, From: x, To: y}
		if !st.Powered() {
			e.Measure = unit.Resistance
		}
		require.NoError(t, m.Measure(&e, meter.Handheld()))
		if p := e.Check(a.C, nil); p == nil {
			out = append(out, e)
		}
	}
	return out
}

func byFault(op *diagnose.Opinion) map[string]float64 {
	m := map[string]float64{}
	for _, d := range op.Diagnoses {
		m[strings.Join(d.Faults, "+")] = d.Probability
	}
	return m
}

// The order in which readings were taken changes nothing.
func TestOrderOfEvidenceChangesNothing(t *testing.T) {
	notForRaces(t)
	a := adviser(t)
	rng := rand.New(rand.NewPCG(5, 6))
	for range 6 {
		e := randomEvidence(t, a, rng, 6)
		p := byFault(weigh(t, a, e))
		rng.Shuffle(len(e), func(i, j int) { e[i], e[j] = e[j], e[i] })
		q := byFault(weigh(t, a, e))
		for k, x := range p {
			assert.InDelta(t, x, q[k], 1e-6, k) // results are printed to six decimals
		}
	}
}

// The same reading entered three times is one reading, nearly.
func TestRepeatsAreNotNewEvidence(t *testing.T) {
	a := adviser(t)
	once := ev(t, a, "see turning slow", "V crank bat_pos bat_neg 11.4", "V crank bat_pos sol_m 0.62")
	thrice := append(slices.Clone(once), once[2], once[2])
	p, q := weigh(t, a, once), weigh(t, a, thrice)
	assert.InDelta(t, p.Stations[0].Probability, q.Stations[0].Probability, 0.05)
	codes := []string{}
	for _, w := range q.Warnings {
		codes = append(codes, w.Code)
	}
	assert.Equal(t, 2, strings.Count(strings.Join(codes, " "), "repeat"))
}

func TestUnloadedVoltsDecideNothing(t *testing.T) {
	a := adviser(t)
	op := weigh(t, a, ev(t, a, "see turning none", "V rest sol_b bat_neg 12.61", "V rest pos_cable_start bat_neg 12.61"))
	var said []string
	for _, w := range op.Warnings {
		said = append(said, fmt.Sprint(w.Index, w.Code))
	}
	assert.Contains(t, said, "3decides_nothing", "full volts with no current flowing prove nothing (common practice)")
}

func TestOhmsBelowTheMeterAreSaid(t *testing.T) {
	a := adviser(t)
	op := weigh(t, a, ev(t, a, "R sol_m case 0.1"))
	require.NotEmpty(t, op.Warnings)
	assert.Equal(t, "below_meter_resolution", op.Warnings[0].Code)
}

func TestImpossibleReadingsAreAContradiction(t *testing.T) {
	a := adviser(t)
	// 12.6 V at the posts and 12.5 V at the motor under 150 A, yet 4 V lost in the cable between them.
	op := weigh(t, a, ev(t, a, "V crank bat_pos bat_neg 11.7", "V crank sol_m bat_neg 11.4",
		"V crank bat_pos sol_m 0.25", "V crank pos_cable_start sol_b 4.0", "A crank pos_cable 150"))
	assert.Equal(t, diagnose.Contradiction, op.Verdict.Status, "%+v", op.Diagnoses[:2])
	assert.Contains(t, op.Verdict.Clash, 4)
}

func TestIntermittentComplaintClearsNothingWhileAway(t *testing.T) {
	a := adviser(t)
	e := ev(t, a, "see turning normal", "see click single", "V crank bat_pos bat_neg 11.65",
		"V crank bat_pos sol_m 0.22", "V crank case bat_neg 0.13",
		"A crank pos_cable 152", "V rest bat_pos bat_neg 12.62")
	op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Intermittent: true})
	require.NoError(t, err)
	assert.NotEqual(t, diagnose.NothingWrong, op.Verdict.Status)
}

// Nobody says whether the fault was there as it was read: a reading that shows it
// speaks for it, good ones clear nothing.
func TestWhenNobodyKnowsWhetherTheFaultWasThere(t *testing.T) {
	a := adviser(t)
	share := func(symptom string, lines ...string) float64 {
		e := ev(t, a, lines...)
		for i := range e {
			e[i].Symptom = symptom
		}
		op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Intermittent: true})
		require.NoError(t, err)
		for _, s := range op.Stations {
			if s.Station == "pos_clamp" {
				return s.Probability
			}
		}
		return 0
	}
	good := []string{"see click single", "V crank bat_pos bat_neg 12.1"}
	shown := append(slices.Clone(good), "V crank bat_pos pos_cable_start 4.1")
	passed := append(slices.Clone(good), "V crank bat_pos pos_cable_start 0.02")
	assert.Greater(t, share("", shown...), 0.9)
	assert.Greater(t, share("unknown", shown...), 0.9)
	assert.Greater(t, share("present", shown...), 0.9)
	assert.Greater(t, share("", passed...), 0.01, "it may have been away")
	assert.InEpsilon(t, share("absent", passed...), share("unknown", passed...), 1,
		"a good reading says about as little as one taken while it was away")
	assert.Less(t, share("present", passed...), 0.005)
}

// Readings under different conditions may differ without contradicting each other
// (common practice: heat opens a cracked joint, a wiggled wire breaks).
func TestConditionsMayDiffer(t *testing.T) {
	a := adviser(t)
	weighed := func(conditions []string, lines ...string) *diagnose.Opinion {
		e := ev(t, a, lines...)
		for i, c := range conditions {
			e[i].Condition = c
		}
		return weigh(t, a, e)
	}
	hot := []string{"see turning slow", "V crank bat_pos bat_neg 11.8", "V crank pos_cable_start sol_b 0.15",
		"V crank pos_cable_start sol_b 2.6"}
	op := weighed([]string{"hot", "", "cold", "hot"}, hot...)
	assert.Equal(t, "pos_cable", op.Stations[0].Station)
	assert.Greater(t, op.Stations[0].Probability, 0.9)
	assert.Equal(t, diagnose.Contradiction, weighed(nil, hot...).Verdict.Status, "under one condition they clash")
	op = weighed([]string{"", "", "wiggle"}, "see click none", "V crank sol_s case 12.0", "V crank sol_s case 0.0")
	assert.Contains(t, []string{"control_wire", "ignition_switch", "interlock", "start_wire"}, op.Stations[0].Station)
	assert.NotEqual(t, diagnose.Contradiction, op.Verdict.Status)
	// A condition that changes nothing is a repeat like any other.
	one := weighed(nil, hot[:3]...).Stations
	assert.Equal(t, one[0].Station, weighed([]string{"", "", "hot"}, hot[:3]...).Stations[0].Station)
}

func TestStruckEvidenceIsNotWeighed(t *testing.T) {
	a := adviser(t)
	e := ev(t, a, "see turning none", "V crank sol_b sol_m 6.2")
	clean := byFault(weigh(t, a, e[:1]))
	e[1].Struck = true
	for k, x := range byFault(weigh(t, a, e)) {
		assert.InDelta(t, clean[k], x, 1e-6)
	}
}

// A look that its teller is not sure of moves the suspects less: here a damaged commutator
// against worn brushes, which show another word more often.
func TestADoubtfulLookMovesLess(t *testing.T) {
	a := adviser(t)
	motor := func(doubt string) float64 {
		e := casefile.Evidence{Observe: "current_trace", State: "crank", Outcome: "weak_bar", Uncertainty: doubt}
		require.Nil(t, e.Check(a.C, nil))
		p := map[string]float64{}
		for f, q := range byFault(weigh(t, a, []casefile.Evidence{e})) {
			if f, _, _ = strings.Cut(f, "="); strings.HasPrefix(f, "motor.") {
				p[f] += q
			}
		}
		require.Positive(t, p["motor.brushes_worn"], "%v", p)
		return p["motor.commutator_damaged"] / p["motor.brushes_worn"]
	}
	sure, fair, hardly := motor(""), motor("20 %"), motor("50 %")
	assert.Greater(t, sure, 1.05*fair, "%.3f %.3f %.3f", sure, fair, hardly)
	assert.Greater(t, fair, 1.05*hardly)
	assert.InDelta(t, sure, motor("0 %"), 1e-9)
	for _, bad := range []string{"60 %", "0.2", "-1 %", "some"} {
		e := casefile.Evidence{Observe: "current_trace", State: "crank", Outcome: "weak_bar", Uncertainty: bad}
		assert.ErrorContains(t, e.Check(a.C, nil), "the chance that it is wrong, 0 to 50 %")
	}
}

func TestCannotReachIsNotAsked(t *testing.T) {
	a := adviser(t)
	e := ev(t, a, "see turning none")
	op, err := a.Weigh(context.Background(),
		&diagnose.Job{Evidence: e, Known: casefile.Known{Unreachable: []string{"sol_m", "motor_connector"}}})
	require.NoError(t, err)
	for _, n := range op.Next {
		assert.NotEqual(t, "sol_m", n.From)
		assert.NotEqual(t, "sol_m", n.To)
		assert.NotEqual(t, "sol_b", n.From, "its access group cannot be reached")
	}
}

// A joint's estimated ohms agree with Ohm's law on the readings given.
func TestSeverityIsOhmsLaw(t *testing.T) {
	a := adviser(t)
	op := weigh(t, a, ev(t, a, "see turning slow", "A crank pos_cable 110.0", "V crank pos_cable_start sol_b 2.20",
		"V crank bat_pos bat_neg 11.9"))
	require.Equal(t, []string{"pos_cable.high_resistance"}, op.Diagnoses[0].Faults)
	s := op.Diagnoses[0].Severity["pos_cable.resistance"]
	want := 2.20/110 - 0.0009 // less the good cable's own
	assert.InEpsilon(t, want, s.Estimate, 0.1)
	assert.Less(t, s.Low, want)
	assert.Greater(t, s.High, want)
}

func TestPicturePathDescends(t *testing.T) {
	a := adviser(t)
	op := weigh(t, a, ev(t, a, "V crank sol_m bat_neg 9.05", "V crank sol_b bat_neg 11.38"))
	pic, err := op.Picture("crank")
	require.NoError(t, err)
	require.NotEmpty(t, pic.Paths)
	main := pic.Paths[0]
	assert.Equal(t, "bat_pos", main.Nodes[0].ID)
	assert.Equal(t, "bat_neg", main.Nodes[len(main.Nodes)-1].ID)
	for i := 1; i < len(main.Nodes); i++ {
		assert.LessOrEqual(t, main.Nodes[i].Ghost, main.Nodes[i-1].Ghost+1e-6, "in a good circuit volts only fall along the current")
		assert.LessOrEqual(t, main.Nodes[i].Low, main.Nodes[i].High)
	}
	for _, n := range main.Nodes {
		if n.ID == "sol_m" {
			require.NotNil(t, n.Measured)
			assert.InDelta(t, 9.05, *n.Measured, 1e-9)
			assert.Less(t, n.High-n.Low, 0.4, "a measured node's band is the meter's own")
		}
	}
}

func BenchmarkAdviserBank(b *testing.B) {
	c, _ := circuit.Family("starter")
	for b.Loop() {
		a, err := diagnose.NewAdviser(c)
		if err != nil {
			b.Fatal(err)
		}
		if _, err := a.Weigh(context.Background(), &diagnose.Job{Brief: true}); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkReadingToNext(b *testing.B) {
	a := adviser(b)
	e := ev(b, a, "see turning slow", "V crank bat_pos bat_neg 11.62", "V crank sol_b bat_neg 11.38", "V crank case bat_neg 0.19")
	weigh(b, a, e[:3]) // the job as it stood before
	for b.Loop() {
		if _, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Brief: true}); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkPicture(b *testing.B) {
	a := adviser(b)
	op := weigh(b, a, ev(b, a, "see turning slow", "V crank bat_pos bat_neg 11.62", "V crank sol_b bat_neg 11.38"))
	for b.Loop() {
		if _, err := op.Picture("crank"); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkReadingExplained(b *testing.B) {
	a := adviser(b)
	e := ev(b, a, "see turning slow", "V crank bat_pos bat_neg 11.62", "V crank sol_b bat_neg 11.38",
		"V crank case bat_neg 0.19", "A crank pos_cable 132", "V crank sol_m bat_neg 9.05",
		"V crank block bat_neg 0.17", "V crank gnd_cable_end bat_neg 0.04", "V crank sol_s case 10.9")
	weigh(b, a, e[:8])
	for b.Loop() {
		if _, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e}); err != nil {
			b.Fatal(err)
		}
	}
}

// Every explanation and every picture of every state can be had, and none says
// nonsense, whatever was read.
func TestPicturesAndWordsForEveryState(t *testing.T) {
	a := adviser(t)
	rng := rand.New(rand.NewPCG(11, 3))
	for range 6 {
		op := weigh(t, a, randomEvidence(t, a, rng, 4))
		for _, st := range a.C.States {
			pic, err := op.Picture(st.ID)
			require.NoError(t, err)
			assert.Equal(t, st.Powered(), pic.Powered)
			for _, p := range pic.Paths {
				require.Len(t, p.Nodes, len(p.Stations)+1)
				for _, n := range p.Nodes {
					require.False(t, math.IsNaN(n.Low+n.Mid+n.High+n.Ghost), "%s %s", st.ID, n.ID)
					assert.LessOrEqual(t, n.Low, n.Mid+1e-9)
					assert.LessOrEqual(t, n.Mid, n.High+1e-9)
					assert.NotEmpty(t, n.Label)
				}
				for _, s := range p.Stations {
					assert.GreaterOrEqual(t, s.Suspect, 0.0)
					assert.LessOrEqual(t, s.Allowed, s.AtNormal+1e-9, "an allowance shrinks with the current, never grows")
				}
			}
			assert.Len(t, pic.Others, 2, "the battery and what the motor turns")
		}
		for _, e := range op.Evidence {
			assert.NotEmpty(t, e.Says)
		}
		for _, n := range op.Next {
			assert.NotEmpty(t, n.Because)
			assert.Positive(t, n.Minutes)
			assert.GreaterOrEqual(t, n.People, 1)
		}
		_, err := op.Picture("moon")
		assert.Error(t, err)
	}
}

func TestStatesWithoutCurrentSayThatVoltsProveNothing(t *testing.T) {
	a := adviser(t)
	op := weigh(t, a, nil)
	pic, err := op.Picture("rest")
	require.NoError(t, err)
	assert.False(t, pic.Flows)
	assert.Contains(t, pic.Note, "prove nothing")
	pic, err = op.Picture("isolated")
	require.NoError(t, err)
	assert.False(t, pic.Powered)
	assert.Contains(t, pic.Note, "only ohms")
	pic, err = op.Picture("crank")
	require.NoError(t, err)
	assert.True(t, pic.Flows)
}

// A drop is known when both its ends were read, or when it was read across.
func TestMeasuredStepsComeFromAnyWayOfReading(t *testing.T) {
	a := adviser(t)
	drop := func(lines ...string) *float64 {
		pic, err := weigh(t, a, ev(t, a, lines...)).Picture("crank")
		require.NoError(t, err)
		for _, s := range pic.Paths[0].Stations {
			if s.ID == "main_contact" {
				return s.Measured
			}
		}
		return nil
	}
	assert.Nil(t, drop("V crank sol_b bat_neg 11.4"))
	for name, lines := range map[string][]string{
		"both ends":                 {"V crank sol_b bat_neg 11.4", "V crank sol_m bat_neg 9.1"},
		"across":                    {"V crank sol_b sol_m 2.3"},
		"leads the other way round": {"V crank sol_m sol_b -2.3"},
		"by way of the plus post":   {"V crank bat_pos bat_neg 11.7", "V crank bat_pos sol_b 0.3", "V crank bat_pos sol_m 2.6"},
	} {
		d := drop(lines...)
		require.NotNil(t, d, name)
		assert.InDelta(t, 2.3, math.Abs(*d), 1e-6, name)
	}
}

func preview(t *testing.T, a *diagnose.Adviser, op *diagnose.Opinion, line string) diagnose.Preview {
	t.Helper()
	return op.Preview(&ev(t, a, line)[0])
}

func TestPreviewWarnsBeforeItIsStored(t *testing.T) {
	a := adviser(t)
	op := weigh(t, a, ev(t, a, "see turning none"))
	codes := func(p diagnose.Preview) (out []string) {
		for _, w := range p.Warnings {
			out = append(out, w.Code)
		}
		return out
	}
	assert.Contains(t, codes(preview(t, a, op, "R sol_b sol_m 0")), "zero_or_ol", "an open contact reads OL; 0 is the likelier slip")
	assert.Contains(t, codes(preview(t, a, op, "R sol_m case 0.1")), "below_meter_resolution")
	assert.Contains(t, codes(preview(t, a, op, "V rest sol_b bat_neg 12.6")), "decides_nothing")
	assert.Equal(t, "bad", preview(t, a, op, "V crank bat_pos bat_neg 4.2").Verdict)
	assert.Equal(t, "good", preview(t, a, op, "R sol_b sol_m OL").Verdict)
}

// What weighs a job as it grows and what weighs a whole case say the same.
func TestGrowingJobSaysTheSameAsWholeCase(t *testing.T) {
	lines := []string{"see turning slow", "V crank bat_pos bat_neg 11.6", "V crank sol_b bat_neg 11.3",
		"V crank sol_m bat_neg 9.2", "V crank case bat_neg 0.2"}
	grow, whole := adviser(t), adviser(t)
	var last *diagnose.Opinion
	for i := range lines {
		last = weigh(t, grow, ev(t, grow, lines[:i+1]...))
	}
	once := weigh(t, whole, ev(t, whole, lines...))
	assert.Equal(t, once.Result, last.Result)
}

// Many jobs share one adviser at once.
func TestAdviserIsSafeForConcurrentUse(t *testing.T) {
	a := adviser(t)
	want := weigh(t, adviser(t), ev(t, a, "see turning slow", "V crank sol_b sol_m 2.3"))
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: ev(t, a, "see turning slow", "V crank sol_b sol_m 2.3")})
			if assert.NoError(t, err) {
				assert.Equal(t, want.Diagnoses, op.Diagnoses)
			}
		})
	}
	wg.Wait()
}

func TestAStoppedRequestStopsTheReasoning(t *testing.T) {
	a := adviser(t)
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, err := a.Weigh(ctx, &diagnose.Job{Evidence: ev(t, a, "see turning slow")})
	assert.ErrorIs(t, err, context.Canceled)
}

// A reading costs its access once: the second at the same place is cheap.
func TestAccessIsPaidOnce(t *testing.T) {
	a := adviser(t)
	one := &diagnose.Job{Evidence: ev(t, a, "V crank sol_b bat_neg 11.4")}
	two := &diagnose.Job{Evidence: ev(t, a, "V crank sol_b bat_neg 11.4", "V crank sol_m bat_neg 11.2")}
	back := &diagnose.Job{Evidence: ev(t, a, "V crank sol_b bat_neg 11.4", "V rest bat_pos bat_neg 12.6", "V crank sol_m bat_neg 11.2")}
	s1, s2, s3 := a.Spent(one), a.Spent(two), a.Spent(back)
	assert.Greater(t, s1, a.C.AccessMinutes["motor_connector"], "terminals, battery, the state and the reading")
	assert.InDelta(t, 0.5, s2-s1, 1e-9)
	assert.Greater(t, s3-s2, a.C.State("crank").Minutes, "going back into a state is paid again")
}

// A pair never beats the single fault that explains as well without paying its
// prior.
func TestPairsPayTheirPrior(t *testing.T) {
	a := adviser(t)
	op := weigh(t, a, ev(t, a, "see click none", "V crank fuse_out bat_neg 12.5", "V crank ign_out bat_neg 0.0"))
	single := 0.0
	for _, d := range op.Diagnoses {
		if len(d.Faults) == 1 && d.Faults[0] == "ignition_switch.stuck_open" {
			single = d.Probability
		}
	}
	for _, d := range op.Diagnoses {
		if len(d.Faults) == 2 && slices.Contains(d.Faults, "ignition_switch.stuck_open") {
			assert.Less(t, d.Probability, 0.3*single, "%v", d.Faults)
		}
	}
}

// Two faults that both show are both named.
func TestTwoFaultsAreBothNamed(t *testing.T) {
	a := adviser(t)
	op := weigh(t, a, ev(t, a, "see turning slow", "A crank pos_cable 90", "V crank bat_pos pos_cable_start 1.6",
		"V crank block gnd_cable_end 1.5", "V crank bat_pos bat_neg 12.0"))
	require.NotEmpty(t, op.Diagnoses)
	assert.ElementsMatch(t, []string{"pos_clamp.high_resistance", "gnd_cable.high_resistance"}, op.Diagnoses[0].Faults)
	require.Equal(t, diagnose.Isolated, op.Verdict.Status)
	both := append([]string{*op.Verdict.Station}, op.Verdict.Also...)
	assert.ElementsMatch(t, []string{"pos_clamp", "gnd_cable"}, both)
}

// "Normal" and full volts never turn into certainty about a part nobody looked
// at: an empty job is undecided and asks something.
func TestEmptyJobIsUndecidedAndAsks(t *testing.T) {
	a := adviser(t)
	op := weigh(t, a, nil)
	assert.Equal(t, diagnose.Undecided, op.Verdict.Status)
	assert.NotEmpty(t, op.Next)
	assert.Empty(t, op.Warnings)
	assert.Less(t, op.Stations[0].Probability, 0.5)
	// A list without anything in it is written as one, not as null.
	assert.NotNil(t, op.Warnings)
	assert.NotNil(t, op.Evidence)
	assert.NotNil(t, op.Next)
	assert.NotNil(t, op.Diagnoses)
}

// No reading, however odd, makes a figure that is none.
func TestNoReadingMakesNaN(t *testing.T) {
	a := adviser(t)
	for _, l := range []string{"V crank bat_pos bat_neg 0", "V crank bat_pos bat_neg -12.6",
		"V crank bat_pos bat_neg 59.9", "A crank motor -900", "A crank motor 2999",
		"R sol_s case 999M", "R sol_s case 0", "R sol_m case OL", "V rest sol_m case 12",
		"V direct_feed sol_m case 0.01", "V bench sol_m case 55"} {
		op := weigh(t, a, ev(t, a, l))
		for _, d := range op.Diagnoses {
			require.False(t, math.IsNaN(d.Probability), l)
			for _, s := range d.Severity {
				require.False(t, math.IsNaN(s.Estimate+s.Low+s.High), l)
			}
		}
		for _, n := range op.Next {
			require.False(t, math.IsNaN(n.Bits), l)
		}
	}
}
