package diagnose_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/unit"
)

// Nothing infinite and no NaN leaves the core, whatever a technician may honestly say
// first: every answer to every look by itself, at every voltage, and pairs of readings
// drawn from all that a meter could show.
func TestNothingInfiniteLeavesTheCore(t *testing.T) {
	for _, id := range circuit.Families() {
		t.Run(id, func(t *testing.T) {
			f, err := circuit.Family(id)
			require.NoError(t, err)
			volts := []float64{f.NominalVoltage}
			if !f.Mains && f.NominalVoltage >= 12 {
				volts = []float64{12, 36, 48}
			}
			if testing.Short() {
				volts = volts[:1]
			}
			for _, v := range volts {
				c := f.Clone()
				c.ScaleTo(v)
				a, err := diagnose.NewAdviser(c)
				require.NoError(t, err)
				for _, o := range c.Observations {
					for _, x := range o.Outcomes {
						leavesWhole(t, a, casefile.Evidence{Observe: o.ID, State: o.States[0], Outcome: x.ID})
					}
				}
				rng := rand.New(rand.NewPCG(uint64(v), 3))
				cands := a.Candidates()
				for range 8 {
					leavesWhole(t, a, anyReading(cands, rng), anyReading(cands, rng))
				}
			}
		})
	}
}

// anyReading is a question with something that a meter could show.
func anyReading(cands []casefile.Evidence, rng *rand.Rand) casefile.Evidence {
	e := cands[rng.IntN(len(cands))]
	for e.Observe != "" {
		e = cands[rng.IntN(len(cands))]
	}
	shows := []string{"0", "0.001", "-0.4", "3.3", "12.35", "47.9", "-12.6", "199.9"}
	if e.Measure == unit.Resistance {
		shows = []string{"0", "OL", "0.1", "4.7", "82", "5k", "2M", "59M"}
	}
	e.Value = shows[rng.IntN(len(shows))]
	if e.Measure == unit.Voltage && strings.HasPrefix(e.Value, "199") {
		e.Value = "26"
	}
	return e
}

func leavesWhole(t *testing.T, a *diagnose.Adviser, es ...casefile.Evidence) {
	t.Helper()
	var in []casefile.Evidence
	for _, e := range es {
		if e.Check(a.C, nil) == nil {
			in = append(in, e)
		}
	}
	op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: in})
	if !assert.NoError(t, err, "%+v", in) {
		return
	}
	b, err := json.Marshal(op.Result)
	if !assert.NoError(t, err, "%+v", in) {
		t.Logf("%+v", op.Result)
	} else {
		for _, bad := range []string{"Inf", "NaN"} {
			assert.NotContains(t, string(b), bad, "%+v", in)
		}
	}
	for _, n := range op.Next {
		for _, x := range n.Expects {
			assert.LessOrEqual(t, x.Low, x.High, fmt.Sprint(n))
		}
	}
}
