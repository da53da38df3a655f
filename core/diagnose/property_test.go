package diagnose_test

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/diagnose"
	"corriente/core/machine"
	"corriente/core/unit"
)

// someEvidence reads a simulated machine of a family at random places.
func someEvidence(t testing.TB, a *diagnose.Adviser, rng *rand.Rand, n int) []casefile.Evidence {
	t.Helper()
	fs := a.Model.Faults()
	f := fs[rng.IntN(len(fs))]
	sev := 0.0
	if sc := a.Model.ScaleOf(f); sc != nil {
		sev = sc.Middle
	}
	m := machine.New(a.Model, machine.Spread(a.Model, 0.2, rng), []machine.Hidden{{Fault: f, Severity: sev}}, rng)
	all := a.Candidates()
	var out []casefile.Evidence
	for len(out) < n {
		e := all[rng.IntN(len(all))]
		if e.Observe != "" {
			e.Outcome = a.Answer(m.Truth(), e.Observe, e.State, nil, rng)
		} else {
			require.NoError(t, m.Measure(&e, casefile.MeterFor(&e, nil)))
		}
		if e.Check(a.C, nil) == nil {
			out = append(out, e)
		}
	}
	return out
}

// In every family: the order of the evidence changes nothing, probabilities sum
// to one, nothing is NaN, and a struck reading is as if it had never been.
func TestPropertiesOverRandomEvidence(t *testing.T) {
	for _, id := range []string{"blower_module", "wiper", "window", "traction", "actuator", "stator", "capacitor_fan"} {
		a := adviserOf(t, id)
		for seed := range uint64(4) {
			rng := rand.New(rand.NewPCG(seed, 77))
			e := someEvidence(t, a, rng, 5)
			one := weigh(t, a, e)
			mixed := append([]casefile.Evidence{}, e...)
			rng.Shuffle(len(mixed), func(i, j int) { mixed[i], mixed[j] = mixed[j], mixed[i] })
			two := weigh(t, a, mixed)
			require.Equal(t, len(one.Stations), len(two.Stations))
			shares := map[string]float64{}
			for _, s := range one.Stations {
				shares[s.Station] = s.Probability
				assert.False(t, math.IsNaN(s.Probability))
			}
			for _, s := range two.Stations {
				assert.InDelta(t, shares[s.Station], s.Probability, 2e-6, "%s %d: %s", id, seed, s.Station)
			}
			sum := 0.0
			for _, d := range one.Diagnoses {
				sum += d.Probability
			}
			assert.LessOrEqual(t, sum, 1.00001)
			extra := someEvidence(t, a, rng, 1)[0]
			extra.Struck = true
			three := weigh(t, a, append(append([]casefile.Evidence{}, e...), extra))
			assert.InDelta(t, one.Stations[0].Probability, three.Stations[0].Probability, 1e-9)
		}
	}
}

// The same word again says nothing new; the same reading three times is hardly
// more than once.
func TestRepeatsInOtherFamilies(t *testing.T) {
	a := adviserOf(t, "two_wire_motor")
	e := ev(t, a, "see turning slow", "V run ground_ring bat_neg 0.31")
	once := weigh(t, a, e)
	thrice := weigh(t, a, append(append(append([]casefile.Evidence{}, e...), e...), e...))
	assert.InDelta(t, once.Stations[0].Probability, thrice.Stations[0].Probability, 0.05)
	repeats := 0
	for _, w := range thrice.Warnings {
		if w.Code == "repeat" {
			repeats++
		}
	}
	assert.Equal(t, 4, repeats)
}

// Every suggestion can be taken as it stands, costs something, and says what good
// looks like where it is a reading.
func TestSuggestionsCanBeTaken(t *testing.T) {
	for _, id := range []string{"starter", "contactor_motor", "blower_module", "blower_resistor", "wiper",
		"two_wire_motor", "window", "traction", "actuator", "stator", "capacitor_fan"} {
		a := adviserOf(t, id)
		op, err := a.Weigh(context.Background(), &diagnose.Job{})
		require.NoError(t, err)
		for _, n := range op.Next {
			assert.Greater(t, n.Minutes, 0.0)
			assert.NotEmpty(t, n.Because, "%s %+v", id, n)
			e := casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From,
				To: n.To, Through: n.Through}
			if n.Observe != "" {
				e.Outcome = a.C.Observation(n.Observe).Outcomes[0].ID
			} else {
				e.Value = "1"
				assert.True(t, n.Good != nil || n.GoodOL, "%s %+v", id, n)
			}
			assert.Nil(t, e.Check(a.C, nil), "%s %+v", id, n)
		}
	}
}

// Nothing is called right while an intermittent complaint was never read with the
// fault there.
func TestIntermittentInOtherFamilies(t *testing.T) {
	a := adviserOf(t, "blower_module")
	e := ev(t, a, "see airflow normal", "V speed_high motor_plus motor_minus 11.6", "A speed_high feed_wire 18",
		"V speed_high bat_pos motor_plus 0.5", "V speed_high motor_minus bat_neg 0.4",
		"see airflow normal speed_low")
	for i := range e {
		e[i].Symptom = "absent"
	}
	op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Intermittent: true})
	require.NoError(t, err)
	assert.NotEqual(t, diagnose.NothingWrong, op.Verdict.Status)
	for i := range e {
		e[i].Symptom = "present"
	}
	op, err = a.Weigh(context.Background(), &diagnose.Job{Evidence: e, Intermittent: true})
	require.NoError(t, err)
	assert.Less(t, op.Stations[0].Probability, 0.3)
}

// A job weighed as it grows, where hopeless cells are left out by what was known before,
// says what a fresh adviser says of the whole: random evidence, repeats, readings that
// contradict each other, a repair on the way.
func TestGrowingIsTheSameAsWhole(t *testing.T) {
	for _, id := range []string{"starter", "window", "traction", "two_wire_motor", "stator"} {
		grows, err := diagnose.NewAdviser(adviserOf(t, id).C)
		require.NoError(t, err)
		for seed := range uint64(2) {
			rng := rand.New(rand.NewPCG(seed, 78))
			e := someEvidence(t, grows, rng, 9)
			e = append(e, e[2], e[5], e[2])                                                 // the same again
			e = append(e, someEvidence(t, grows, rand.New(rand.NewPCG(seed+100, 1)), 3)...) // another machine's
			var repairs []casefile.Repair
			if seed == 1 {
				for _, s := range grows.C.Stations {
					if s.Replace != nil {
						repairs = []casefile.Repair{{Station: s.ID, After: 6}}
					}
				}
			}
			for n := 1; n <= len(e); n++ {
				j := &diagnose.Job{Evidence: e[:n], Brief: n%2 == 0}
				if len(repairs) > 0 && repairs[0].After <= n {
					j.Repairs = repairs
				}
				step, err := grows.Glance(t.Context(), j)
				require.NoError(t, err)
				if n != 4 && n != 9 && n != 12 && n != len(e) {
					continue
				}
				fresh, err := diagnose.NewAdviser(grows.C)
				require.NoError(t, err)
				whole, err := fresh.Glance(t.Context(), j)
				require.NoError(t, err)
				require.Equal(t, len(whole.Stations), len(step.Stations), "%s %d after %d", id, seed, n)
				for i := range whole.Stations {
					assert.InDelta(t, whole.Stations[i].Probability, step.Stations[i].Probability, 2.5e-6, "%s %d after %d", id, seed, n)
				}
				assert.Equal(t, whole.Verdict, step.Verdict, "%s %d after %d", id, seed, n)
			}
		}
	}
}
