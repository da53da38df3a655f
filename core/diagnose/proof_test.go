package diagnose

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// What a proof asks for is passed by the machine once it is mended, and not by the same
// machine with its fault: worn brushes, a bad ground cable, a weak battery.
func TestAProofTellsMendedFromBroken(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	a, err := NewAdviser(f)
	require.NoError(t, err)
	for _, c := range []struct{ fault, station string }{{"motor.brushes_worn=0.9ohm", "motor"}, {"gnd_cable.high_resistance=0.02ohm", "gnd_cable"}, {"battery.weak=x9", "battery"}} {
		fl, sev, _, err := a.Model.Parse(c.fault)
		require.NoError(t, err)
		rng := rand.New(rand.NewPCG(8, 8))
		spread := machine.Spread(a.Model, 0.1, rng)
		broken := machine.New(a.Model, spread, []machine.Hidden{{Fault: fl, Severity: sev}}, rng)
		mended := machine.New(a.Model, spread, nil, rng)
		j := &Job{}
		take := func(m *machine.Machine, e casefile.Evidence) casefile.Evidence {
			if e.Observe != "" {
				e.Outcome = a.Answer(m, e.Observe, e.State, nil, rng)
			} else {
				require.NoError(t, m.Measure(&e, meter.Default(e.Measure)), "%+v", e)
			}
			require.Nil(t, e.Check(f, nil))
			return e
		}
		op, err := a.Weigh(t.Context(), j)
		require.NoError(t, err)
		for len(op.Next) > 0 && len(j.Evidence) < 12 && op.Verdict.Status != Isolated {
			n := op.Next[0]
			j.Evidence = append(j.Evidence, take(broken, casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From, To: n.To, Through: n.Through}))
			op, err = a.Weigh(t.Context(), j)
			require.NoError(t, err)
		}
		plan := op.Proof(c.station, nil)
		require.GreaterOrEqual(t, len(plan), 3, c.fault)
		require.LessOrEqual(t, len(plan), mostChecks)
		verdict := func(m *machine.Machine) (passed, failed int) {
			var after []casefile.Evidence
			for i := range plan {
				after = append(after, take(m, plan[i].evidence()))
			}
			for _, k := range op.Proof(c.station, after) {
				require.NotNil(t, k.Passed, "%+v", k)
				if *k.Passed {
					passed++
				} else {
					failed++
				}
			}
			return passed, failed
		}
		_, failed := verdict(mended)
		assert.Zero(t, failed, "%s mended", c.fault)
		_, failed = verdict(broken)
		assert.NotZero(t, failed, "%s still there", c.fault)
	}
}

// Inside the motor the most telling look comes first, and an answered one last.
func TestInsideLooksComeInOrder(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	ds := []Ranked{{Faults: []string{"motor.brushes_worn"}, Probability: 0.5}, {Faults: []string{"motor.bearing_drag"}, Probability: 0.45}, {Probability: 0.05}}
	in := Inside(f, ds, nil)
	require.Len(t, in, 5)
	assert.Contains(t, []string{"brushes_seen", "bearing_feel"}, in[0].Observe)
	assert.Greater(t, in[0].Bits, 0.3)
	for i := 1; i < len(in); i++ {
		assert.GreaterOrEqual(t, in[i-1].Bits, in[i].Bits)
	}
	sure := Inside(f, []Ranked{{Faults: []string{"motor.seized"}, Probability: 1}}, []casefile.Evidence{{Observe: "brushes_seen", Outcome: "fine"}})
	assert.Equal(t, "fine", sure[len(sure)-1].Outcome)
	assert.InDelta(t, 0, sure[0].Bits, 1e-9, "nothing left to learn")
}

// Whether a motor is worth opening is the share of what is suspected inside it.
func TestInsideShare(t *testing.T) {
	f, err := circuit.Family("window")
	require.NoError(t, err)
	ds := []Ranked{{Faults: []string{"motor.brushes_worn"}, Probability: 0.2}, {Faults: []string{"thermal_cutout.stuck_open"}, Probability: 0.1},
		{Faults: []string{"ground_point.open", "drive.binding"}, Probability: 0.1}, {Faults: []string{"ground_point.open"}, Probability: 0.3}, {Probability: 0.1}}
	assert.InDelta(t, 0.5, InsideShare(f, ds), 1e-12, "of what is listed; the cut-out sits in the motor")
	assert.Zero(t, InsideShare(f, nil))
	assert.Zero(t, InsideShare(f, ds[3:]))
}

// Learned rates move the prior of the faults among themselves, and are said.
func TestLearnedRatesShiftTheAdvice(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	a, err := NewAdviser(f)
	require.NoError(t, err)
	share := func(k casefile.Known) float64 {
		op, err := a.Weigh(t.Context(), &Job{Known: k})
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
	sh := a.Shifts(&Job{Known: k})
	require.Len(t, sh, 1)
	assert.Contains(t, sh[0].Why, "here it was this 14 times of 20")
}
