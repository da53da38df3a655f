package diagnose_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// A pair that explains readings no better than one of its faults alone stays
// behind it by its prior.
func TestAPairPaysItsPrior(t *testing.T) {
	c, err := circuit.Family("blower_resistor")
	require.NoError(t, err)
	a, err := diagnose.NewAdviser(c)
	require.NoError(t, err)
	rng := rand.New(rand.NewPCG(9, 9))
	for range 12 {
		f := a.Model.Faults()[rng.IntN(len(a.Model.Faults()))]
		h := machine.Hidden{Fault: f}
		if sc := a.Model.ScaleOf(f); sc != nil {
			h.Severity = math.Sqrt(sc.Lo * sc.Hi)
		}
		mc := machine.New(a.Model, a.Net.Nominal(), []machine.Hidden{h}, rng)
		if !mc.Matters() {
			continue
		}
		j := &diagnose.Job{}
		for _, e := range a.Candidates() {
			if e.Measure != unit.Voltage || rng.IntN(4) > 0 || len(j.Evidence) > 6 {
				continue
			}
			require.NoError(t, mc.Measure(&e, meter.Handheld()))
			require.Nil(t, e.Check(a.C, nil))
			j.Evidence = append(j.Evidence, e)
		}
		op, err := a.Weigh(t.Context(), j)
		require.NoError(t, err)
		single := map[string]float64{}
		for _, d := range op.Diagnoses {
			if len(d.Faults) == 1 {
				single[d.Faults[0]] = d.Probability
			}
		}
		truth := f.String()
		for _, d := range op.Diagnoses {
			if len(d.Faults) == 2 && (d.Faults[0] == truth || d.Faults[1] == truth) && single[truth] > 0.3 {
				assert.Less(t, d.Probability, single[truth], "%v against %s alone", d.Faults, truth)
			}
		}
	}
}
