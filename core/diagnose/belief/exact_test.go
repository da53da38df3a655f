package belief

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/gauss"
	"corriente/core/diagnose/readings"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// lone is a starter of which only one value is uncertain.
func lone(t *testing.T, station, param string) *Reasoner {
	t.Helper()
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	c = c.Clone()
	for i := range c.Stations {
		for name, p := range c.Stations[i].Params {
			if c.Stations[i].ID != station || name != param {
				p.Spread, p.SD = 0, 0
			}
			c.Stations[i].Params[name] = p
		}
	}
	a, err := New(c)
	require.NoError(t, err)
	require.Len(t, a.Uncertain, 1)
	return a
}

// With one uncertain value the evidence of a cell is an integral that can be done
// on a grid: the Gaussian update must give the same.
func TestEvidenceAgainstExactIntegration(t *testing.T) {
	if testing.Short() {
		t.Skip("many machines, one goroutine: nothing for the race detector")
	}
	for _, value := range [][2]string{{"motor", "resistance"}, {"pos_cable", "resistance"}, {"battery", "resistance"}} {
		a := lone(t, value[0], value[1])
		for seed := range uint64(6) {
			rng := rand.New(rand.NewPCG(seed, 3))
			theta := a.Net.Nominal()
			theta[a.Uncertain[0]] *= math.Exp(0.5 * a.Scale[0] * rng.NormFloat64())
			mc := machine.New(a.Model, theta, nil, rng)
			j := &Job{}
			for _, at := range [][2]string{{"bat_pos", "bat_neg"}, {"sol_m", "case"}} {
				e := casefile.Evidence{Measure: unit.Voltage, State: "crank", From: at[0], To: at[1]}
				require.NoError(t, mc.Measure(&e, meter.Handheld()))
				require.Nil(t, e.Check(a.C, nil))
				j.Evidence = append(j.Evidence, e)
			}
			prior, _ := a.Prior(j)
			p, err := a.Weigh(t.Context(), a.Collect(j, 0, len(j.Evidence)), prior, "exact", 400)
			require.NoError(t, err)
			for i := range p.Cells[:min(len(p.Cells), 12)] {
				sc := &p.Cells[i]
				c := &a.Cells[sc.Cell]
				if len(a.Diags[c.Diagnosis].Faults) > 0 && c.Width[0]+c.Width[1] > 0 {
					continue // its severity is uncertain too
				}
				want := prior[sc.Cell] + integrate(a, j, c)
				assert.InDelta(t, want, sc.LogPost, 0.12, "%s.%s seed %d: %s", value[0], value[1], seed,
					a.Label(a.Diags[c.Diagnosis].Faults))
			}
		}
	}
}

// integrate is the logarithm of a cell's evidence by brute force: the solved
// circuit at every value, on a fine grid.
func integrate(a *Reasoner, j *Job, c *cells.Cell) float64 {
	w := a.newWeigher(a.Collect(j, 0, len(j.Evidence)), nil)
	var terms []float64
	const n, reach = 800, 5.0
	for k := range n {
		z := -reach + 2*reach*(float64(k)+0.5)/n
		at := a.Moved(c, []float64{z, 0, 0})
		lp := -z*z/2 - math.Log(2*math.Pi)/2 + math.Log(2*reach/n)
		for i := range w.es.Num {
			r := &w.es.Num[i]
			l := &cells.Solved{}
			w.s.Linearize(l, r.State, at)
			readings.Predict(w.s, &w.p, r, l, at)
			v := 1 + r.Noise*r.Noise + math.Pow(w.p.Extra*r.SlopeAt(w.p.Mean), 2)
			e := r.U - r.Warp(w.p.Mean)
			lp += -e*e/(2*v) - math.Log(2*math.Pi*v)/2
		}
		terms = append(terms, lp)
	}
	return gauss.LogSumExp(terms)
}
