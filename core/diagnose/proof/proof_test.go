package proof_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/proof"
	"corriente/core/diagnose/words"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// What a proof asks for is passed by the machine once it is mended, and not by the same
// machine with its fault, in every family: also where the part lies off the way to the
// motor, works in another state, or makes alternating current.
func TestAProofTellsMendedFromBroken(t *testing.T) {
	for _, c := range []struct {
		family string
		faults []string
	}{
		{"starter", []string{"motor.brushes_worn=0.9ohm", "gnd_cable.high_resistance=0.02ohm", "battery.weak=x9",
			"main_contact.high_resistance=0.03ohm", "coil.open"}},
		{"wiper", []string{"park_switch.stuck_open", "park_wire.open", "high_wire.open", "motor.low_brush_worn=2ohm"}},
		{"window", []string{"door_switch_return.stuck_open", "jamb_wire_b.high_resistance=2ohm",
			"thermal_cutout.stuck_open", "drive.binding=x3"}},
		{"stator", []string{"phase_2.open", "phase_1.shorted_turns=0.5", "rectifier.no_output", "stator_connector.open"}},
		{"blower_module", []string{"module.no_output", "fuse_a.open", "command.no_command"}},
		{"blower_resistor", []string{"resistor_pack.tap_2_open", "ground_point.high_resistance=0.6ohm"}},
		{"traction", []string{"brake_coil.open", "throttle.no_command", "motor_connector.high_resistance=0.2ohm"}},
		{"contactor_motor", []string{"main_contact.stuck_open", "interlock.welded"}},
		{"two_wire_motor", []string{"relay_coil.open", "trigger_wire.open"}},
		{"actuator", []string{"motor.winding_open", "harness_a.open"}},
	} {
		if testing.Short() && c.family != "wiper" {
			continue
		}
		t.Run(c.family, func(t *testing.T) {
			f, err := circuit.Family(c.family)
			require.NoError(t, err)
			a, err := belief.New(f)
			require.NoError(t, err)
			for _, x := range c.faults {
				proves(t, a, x)
			}
		})
	}
}

// proves works one job up to its verdict and takes the proof on the machine mended and on
// the same machine as it was.
func proves(t *testing.T, a *belief.Reasoner, of string) {
	fl, sev, _, err := a.Model.Parse(of)
	require.NoError(t, err)
	rng := rand.New(rand.NewPCG(8, 8))
	spread := machine.Spread(a.Model, 0.1, rng)
	broken := machine.New(a.Model, spread, []machine.Hidden{{Fault: fl, Severity: sev}}, rng)
	mended := machine.New(a.Model, spread, nil, rng)
	j := &belief.Job{Brief: false}
	take := func(m *machine.Machine, e casefile.Evidence) casefile.Evidence {
		if e.Observe != "" {
			// A word is asked for until it is clear: three times the same.
			said := map[string]int{}
			for e.Outcome = ""; e.Outcome == ""; {
				w := words.Answer(a.Space, m.Truth(), words.Asked{Observe: e.Observe, State: e.State}, rng)
				if said[w]++; said[w] == 3 {
					e.Outcome = w
				}
			}
		} else {
			require.NoError(t, m.Measure(&e, meter.Default(e.Measure)), "%+v", e)
		}
		require.Nil(t, e.Check(a.C, nil))
		return e
	}
	op, err := explain.Weigh(t.Context(), a, j)
	require.NoError(t, err)
	for len(op.Next) > 0 && len(j.Evidence) < 10 && op.Verdict.Status != explain.Isolated {
		n := op.Next[0]
		j.Evidence = append(j.Evidence, take(broken,
			casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From,
				To: n.To, Through: n.Through}))
		op, err = explain.Weigh(t.Context(), a, j)
		require.NoError(t, err)
	}
	plan := proof.Checks(op, []string{fl.Station}, nil)
	require.NotEmpty(t, plan, of)
	// What convicted the part is among them.
	best, at := 0.2, -1
	for i := range j.Evidence {
		e := &j.Evidence[i]
		if b := proof.Accused(op, i, fl.Station); b > best &&
			!slices.Contains([]string{"smell", "connector", "tap_helps", circuit.SwapHelps}, e.Observe) &&
			!slices.Contains(proof.Stripped(a.C), e.Observe) {
			best, at = b, i
		}
	}
	if at >= 0 {
		k := proof.Check{Measure: string(j.Evidence[at].Measure), Observe: j.Evidence[at].Observe,
			State: j.Evidence[at].State, From: j.Evidence[at].From, To: j.Evidence[at].To, Through: j.Evidence[at].Through}
		if proof.Band(op, &k, a.GoodCircuit(&belief.Posterior{})) {
			assert.True(t, slices.ContainsFunc(plan,
				func(x proof.Check) bool { return proof.Same(&j.Evidence[at], &x) }), "%s: %+v is asked again: %+v",
				of, j.Evidence[at], plan)
		}
	}
	require.LessOrEqual(t, len(plan), proof.MostChecks)
	verdict := func(m *machine.Machine) (failed []string) {
		var after []casefile.Evidence
		for i := range plan {
			after = append(after, take(m, plan[i].Evidence()))
		}
		for i, k := range proof.Checks(op, []string{fl.Station}, after) {
			require.NotNil(t, k.Passed, "%+v", k)
			if !*k.Passed {
				failed = append(failed, fmt.Sprintf("%s%s %s %s-%s%s: %s%s, good %v %s", k.Measure, k.Observe,
					k.State, k.From, k.To, k.Through, after[i].Value, after[i].Outcome, k.Good, k.Want))
			}
		}
		return failed
	}
	assert.Empty(t, verdict(mended), "%s mended", of)
	assert.NotEmpty(t, verdict(broken), "%s still there: %+v", of, plan)
}

// The part is proved in the state it works in: a park switch by parking, a window's other
// direction by going down, a charging stator by a battery that is charged; and no band of
// direct volts is asked of a wire that carries alternating current.
func TestAProofAsksForThePurpose(t *testing.T) {
	for _, c := range []struct {
		family, station string
		evidence        []casefile.Evidence
		want            func(k proof.Check) bool
	}{
		{"wiper", "park_switch", nil, func(k proof.Check) bool { return k.Observe == "parks" }},
		{"wiper", "high_wire", nil, func(k proof.Check) bool { return k.State == "high" }},
		{"window", "motor", []casefile.Evidence{{Observe: "glass_moves", State: "down", Outcome: "none"}},
			func(k proof.Check) bool { return k.Observe == "glass_moves" && k.State == "down" }},
		{"stator", "phase_1", nil, func(k proof.Check) bool {
			return k.Measure == "voltage" && k.State == "idle_charging" && k.From == "bat_pos"
		}},
		{"capacitor_fan", "capacitor", nil, func(k proof.Check) bool { return k.Observe == "starts" }},
	} {
		f, err := circuit.Family(c.family)
		require.NoError(t, err)
		a, err := belief.New(f)
		require.NoError(t, err)
		for i := range c.evidence {
			require.Nil(t, c.evidence[i].Check(f, nil))
		}
		op, err := explain.Glance(t.Context(), a, &belief.Job{Evidence: c.evidence})
		require.NoError(t, err)
		plan := proof.Checks(op, []string{c.station}, nil)
		assert.True(t, slices.ContainsFunc(plan, c.want), "%s %s: %+v", c.family, c.station, plan)
		for _, k := range plan {
			st := f.State(k.State)
			assert.True(t, k.Measure == "" || st.CanRead(k.Measure), "%+v", k)
			assert.False(t, k.Measure == "voltage" && st.Supply == "running" && k.From != "bat_pos", "%+v", k)
			assert.False(t, k.Measure != "" && st.Supply == "mains", "nothing is probed on the mains")
		}
	}
}

// The band is a good machine's, whatever the bad motor drew: a jammed blower's amperes do
// not widen it, and a new motor of the same kind passes.
func TestTheBandIsOfAGoodMachine(t *testing.T) {
	f, err := circuit.Family("blower_module")
	require.NoError(t, err)
	a, err := belief.New(f)
	require.NoError(t, err)
	op, err := explain.Glance(t.Context(), a, &belief.Job{})
	require.NoError(t, err)
	fresh := proof.Check{Measure: "current", State: "speed_high", Through: "motor"}
	proof.Band(op, &fresh, a.GoodCircuit(&belief.Posterior{}))
	es := []casefile.Evidence{{Measure: unit.Current, State: "speed_high", Through: "motor", Value: "38 A"},
		{Measure: unit.Current, State: "speed_high", Through: "motor", Value: "37 A"}}
	for i := range es {
		require.Nil(t, es[i].Check(f, nil))
	}
	op, err = explain.Glance(t.Context(), a, &belief.Job{Evidence: es})
	require.NoError(t, err)
	plan := proof.Checks(op, []string{"motor"}, nil)
	i := slices.IndexFunc(plan, func(k proof.Check) bool { return k.Measure == "current" && k.State == "speed_high" })
	require.GreaterOrEqual(t, i, 0, "what convicted it is asked again: %+v", plan)
	assert.InDelta(t, fresh.Good.Low, plan[i].Good.Low, 1e-9)
	assert.InDelta(t, fresh.Good.High, plan[i].Good.High, 1e-9)
	assert.Less(t, plan[i].Good.High, 36.0)
}

// Inside the motor the most telling look comes first, and an answered one last.
func TestInsideLooksComeInOrder(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	ds := []explain.Ranked{{Faults: []string{"motor.brushes_worn"}, Probability: 0.5},
		{Faults: []string{"motor.bearing_drag"}, Probability: 0.45}, {Probability: 0.05}}
	in := explain.Inside(f, ds, nil)
	require.Len(t, in, 8)
	assert.Contains(t, []string{"brushes_seen", "bearing_feel"}, in[0].Observe)
	assert.Greater(t, in[0].Bits, 0.3)
	for i := 1; i < len(in); i++ {
		assert.GreaterOrEqual(t, in[i-1].Bits, in[i].Bits)
	}
	sure := explain.Inside(f, []explain.Ranked{{Faults: []string{"motor.seized"}, Probability: 1}},
		[]casefile.Evidence{{Observe: "brushes_seen", Outcome: "fine"}})
	assert.Equal(t, "fine", sure[len(sure)-1].Outcome)
	assert.InDelta(t, 0, sure[0].Bits, 1e-9, "nothing left to learn")
}

// Whether a motor is worth opening is the share of what is suspected inside it.
func TestInsideShare(t *testing.T) {
	f, err := circuit.Family("window")
	require.NoError(t, err)
	ds := []explain.Ranked{{Faults: []string{"motor.brushes_worn"}, Probability: 0.2},
		{Faults: []string{"thermal_cutout.stuck_open"}, Probability: 0.1},
		{Faults: []string{"ground_point.open", "drive.binding"}, Probability: 0.1},
		{Faults: []string{"ground_point.open"}, Probability: 0.3}, {Probability: 0.1}}
	assert.InDelta(t, 0.5, explain.InsideShare(f, ds), 1e-12, "of what is listed; the cut-out sits in the motor")
	assert.Zero(t, explain.InsideShare(f, nil))
	assert.Zero(t, explain.InsideShare(f, ds[3:]))
}

// Learned rates move the prior of the faults among themselves, and are said.
func TestLearnedRatesShiftTheAdvice(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	a, err := belief.New(f)
	require.NoError(t, err)
	share := func(k casefile.Known) float64 {
		op, err := explain.Weigh(t.Context(), a, &belief.Job{Known: k})
		require.NoError(t, err)
		for _, s := range op.Stations {
			if s.Station == "motor" {
				return s.Probability
			}
		}
		return 0
	}
	k := casefile.Known{Rates: map[string]casefile.Learned{"motor.brushes_worn": {Factor: 3, N: 14, Of: 20}}}
	assert.Greater(t, share(k), 1.3*share(casefile.Known{}))
	sh := a.Shifts(&belief.Job{Known: k})
	require.Len(t, sh, 1)
	assert.Contains(t, sh[0].Why, "here it was this 14 times of 20")
}
