package readings_test

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/readings"
	"corriente/core/fault"
	"corriente/core/meter"
	"corriente/core/unit"
)

// What a cell expects of a reading moves with the uncertain values as its slopes say:
// against central differences, the circuit solved anew at values moved by a hundredth
// of a standard deviation. Over every family, powered and not, parts made alike too.
func TestSlopesAgainstFiniteDifferences(t *testing.T) {
	if testing.Short() {
		t.Skip("many machines, one goroutine: nothing for the race detector")
	}
	const h = 0.01
	for _, id := range circuit.Families() {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		a, err := belief.New(c)
		require.NoError(t, err)
		rng := rand.New(rand.NewPCG(4, 4))
		s, checked := a.NewSolver(), 0
		for range 160 {
			k := rng.IntN(len(a.Cells))
			cell := &a.Cells[k]
			if cell.Phase == cells.Chatter {
				continue // between two solutions, each with slopes of its own
			}
			if slices.ContainsFunc(a.Diags[cell.Diagnosis].Faults,
				func(f fault.Fault) bool { return f.String() == "motor.shorted_turns" }) {
				continue // their braking is held where it stands
			}
			e := anywhere(c, rng)
			if e.From == e.To || e.Check(c, nil) != nil || e.Measure == unit.Voltage && c.State(e.State).Supply == "running" {
				continue // charging has a regulator's corners
			}
			r := readings.Prepare(a.Space, &e, meter.Default(e.Measure), 0)
			at := func(z []float64) (*readings.Predicted, bool) {
				point := a.Moved(cell, z)
				var l *cells.Solved
				if c.States[r.State].Powered() {
					l = &cells.Solved{}
					s.Linearize(l, r.State, point)
					if l.Chatters || l.Island[r.From] != l.Island[r.To] {
						return nil, false
					}
				}
				p := &readings.Predicted{Slopes: make([]float64, a.Values)}
				readings.Predict(s, p, &r, l, point)
				return p, !p.Open
			}
			z := make([]float64, a.Values)
			mid, ok := at(z)
			if !ok {
				continue
			}
			for u := range a.Uncertain {
				if a.Net.Params[a.Uncertain[u]].Name == "surface_charge" {
					continue // gone once current flows
				}
				z[u] = h
				up, ok1 := at(z)
				z[u] = -h
				down, ok2 := at(z)
				z[u] = 0
				if !ok1 || !ok2 {
					continue
				}
				want := (up.Mean - down.Mean) / (2 * h)
				if !a.IsLog[u] && a.Moved(cell, z).Theta[a.Uncertain[u]] == 0 {
					want = (up.Mean - mid.Mean) / h // it cannot fall below nothing
				}
				// The brushes' knee is held, which moves some millivolts; running states have
				// slopes by coarser steps.
				tol := 0.02*math.Abs(want) + 0.002*math.Max(1, math.Abs(mid.Mean))
				if e.Measure == unit.Voltage {
					tol += 0.01
				}
				if !assert.InDelta(t, want, mid.Slopes[u], tol, "%s, %s, %v %s %s %s, value %d", id,
					a.Diags[cell.Diagnosis].Faults, e.Measure, e.State, e.From, e.To, u) {
					return
				}
				checked++
			}
		}
		assert.Greater(t, checked, 50, id)
	}
}

// anywhere is a reading between two points of a circuit, in some state.
func anywhere(c *circuit.Circuit, rng *rand.Rand) casefile.Evidence {
	e := casefile.Evidence{Measure: unit.Voltage, Value: "1", State: c.States[rng.IntN(len(c.States))].ID,
		From: c.Nodes[rng.IntN(len(c.Nodes))].ID, To: c.Nodes[rng.IntN(len(c.Nodes))].ID}
	switch st := c.State(e.State); {
	case !st.Powered():
		e.Measure = unit.Resistance
	case st.CanRead(string(unit.ACVoltage)):
		e.Measure = unit.ACVoltage
	}
	return e
}

// The root of parts made alike, against their covariance.
func TestAlikeIsTheRootOfItsCovariance(t *testing.T) {
	a := &cells.Space{Alike: []cells.Alike{{U: []int{0, 2, 3}, Own: 0.02, Common: 0.4}}}
	var rows [4][]float64
	for i := range rows {
		rows[i] = make([]float64, 4)
		rows[i][i] = 1
		cells.Mix(a, rows[i])
	}
	for i := range rows {
		for j := range rows {
			got, want := 0.0, 0.0
			for k := range rows[i] {
				got += rows[i][k] * rows[j][k]
			}
			switch {
			case i == 1 || j == 1:
				if i == j {
					want = 1 // it is not one of them
				}
			case i == j:
				want = 0.02*0.02 + 0.4*0.4
			default:
				want = 0.4 * 0.4
			}
			assert.InDelta(t, want, got, 1e-12, "%d %d", i, j)
		}
	}
}

// The phases of a stator are wound alike: whatever their ohms, equal ones are good, and
// one that differs is not (common practice: within a few hundredths of each other). A
// bridge that resolves a milliohm tells; an ordinary meter does not.
func TestAStatorIsJudgedByItsBalance(t *testing.T) {
	c, err := circuit.Family("stator")
	require.NoError(t, err)
	a, err := belief.New(c)
	require.NoError(t, err)
	bridge := map[string]meter.Instrument{"bridge": {Kind: meter.Multimeter,
		Resistance: &meter.Accuracy{Percent: 0.5, Counts: 3, Resolution: 0.001}}}
	weigh := func(r1, r2, r3 float64) *explain.Opinion {
		j := &belief.Job{Instruments: bridge}
		for i, at := range [][2]string{{"y1", "y2"}, {"y2", "y3"}, {"y3", "y1"}} {
			e := casefile.Evidence{Measure: unit.Resistance, State: "isolated", From: at[0], To: at[1],
				Instrument: "bridge", Leads: "0.000 ohm",
				Value: unit.Format([]float64{r1 + r2, r2 + r3, r3 + r1}[i], unit.Resistance)}
			require.Nil(t, e.Check(c, bridge))
			j.Evidence = append(j.Evidence, e)
		}
		op, err := explain.Weigh(t.Context(), a, j)
		require.NoError(t, err)
		return op
	}
	phases := func(op *explain.Opinion) map[string]float64 {
		out := map[string]float64{}
		for _, s := range op.Stations {
			out[s.Station] = s.Probability
		}
		return out
	}
	for _, r := range []float64{0.12, 0.31, 0.7} {
		op := weigh(r, r, r)
		assert.NotEqual(t, explain.Contradiction, op.Verdict.Status, r)
		for _, id := range []string{"phase_1", "phase_2", "phase_3"} {
			assert.Less(t, phases(op)[id], 0.15, "%g ohm: all alike", r)
		}
		op = weigh(r, 0.6*r, r)
		require.Equal(t, explain.Isolated, op.Verdict.Status, r)
		assert.Equal(t, "phase_2", *op.Verdict.Station)
		assert.Equal(t, []string{"phase_2.shorted_turns"}, op.Diagnoses[0].Faults)
	}
}
