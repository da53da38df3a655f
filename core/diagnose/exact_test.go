package diagnose

import (
	"math"
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

// lone is a starter of which only one value is uncertain.
func lone(t *testing.T, station, param string) *Adviser {
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
	a, err := NewAdviser(c)
	require.NoError(t, err)
	require.Len(t, a.unc, 1)
	return a
}

// With one uncertain value the evidence of a cell is an integral that can be done
// on a grid: the Gaussian update must give the same.
func TestEvidenceAgainstExactIntegration(t *testing.T) {
	notForRaces(t)
	for _, value := range [][2]string{{"motor", "resistance"}, {"pos_cable", "resistance"}, {"battery", "resistance"}} {
		a := lone(t, value[0], value[1])
		for seed := range uint64(6) {
			rng := rand.New(rand.NewPCG(seed, 3))
			theta := a.Net.Nominal()
			theta[a.unc[0]] *= math.Exp(0.5 * a.scale[0] * rng.NormFloat64())
			mc := machine.New(a.Model, theta, nil, rng)
			j := &Job{}
			for _, at := range [][2]string{{"bat_pos", "bat_neg"}, {"sol_m", "case"}} {
				e := casefile.Evidence{Measure: unit.Voltage, State: "crank", From: at[0], To: at[1]}
				require.NoError(t, mc.Measure(&e, meter.Handheld()))
				require.Nil(t, e.Check(a.C, nil))
				j.Evidence = append(j.Evidence, e)
			}
			prior, _ := a.prior(j)
			p, err := a.weigh(t.Context(), a.collect(j, 0, len(j.Evidence)), prior, "exact", 400)
			require.NoError(t, err)
			for i := range p.cells[:min(len(p.cells), 12)] {
				sc := &p.cells[i]
				c := &a.cells[sc.cell]
				if len(a.diags[c.diag].faults) > 0 && c.width[0]+c.width[1] > 0 {
					continue // its severity is uncertain too
				}
				want := prior[sc.cell] + a.integrate(j, c)
				assert.InDelta(t, want, sc.logPost, 0.12, "%s.%s seed %d: %s", value[0], value[1], seed, a.label(a.diags[c.diag].faults))
			}
		}
	}
}

// integrate is the logarithm of a cell's evidence by brute force: the solved
// circuit at every value, on a fine grid.
func (a *Adviser) integrate(j *Job, c *cell) float64 {
	w := a.newWeigher(a.collect(j, 0, len(j.Evidence)), nil, nil)
	var terms []float64
	const n, reach = 800, 5.0
	for k := range n {
		z := -reach + 2*reach*(float64(k)+0.5)/n
		theta, sev := a.shifted(c, []float64{z, 0, 0})
		lp := -z*z/2 - math.Log(2*math.Pi)/2 + math.Log(2*reach/n)
		for i := range w.es.num {
			r := &w.es.num[i]
			l := &linear{}
			w.s.linearize(l, r.state, c, theta, sev, true)
			a.predict(&w.p, r, l, c, theta, sev, w.s)
			v := 1 + r.noise*r.noise + math.Pow(w.p.extra*r.slope(w.p.mean), 2)
			e := r.u - r.warp(w.p.mean)
			lp += -e*e/(2*v) - math.Log(2*math.Pi*v)/2
		}
		terms = append(terms, lp)
	}
	return logSumExp(terms)
}

// A pair that explains readings no better than one of its faults alone stays
// behind it by its prior.
func TestAPairPaysItsPrior(t *testing.T) {
	c, err := circuit.Family("blower_resistor")
	require.NoError(t, err)
	a, err := NewAdviser(c)
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
		j := &Job{}
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
