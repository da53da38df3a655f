package repair

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a plan costs over the years begins with the work, never falls, meets what the comparison says
// at the time it was asked for, and the two lines cross where the break-even says they do.
func TestCostOverTheYears(t *testing.T) {
	ds := []Diagnosis{{Faults: []string{"motor.brushes_worn"}, Probability: 0.9},
		{Faults: []string{"solenoid_contact.high_resistance"}, Probability: 0.1}}
	q := Question{Stations: []string{"motor"}, Diagnoses: ds, Terms: Terms{HourRate: 58, LossPerDay: 25, Years: 4, Comeback: 60}}
	cmp, err := Compare(starter(t), q)
	require.NoError(t, err)
	over := cmp.Over
	require.NotEmpty(t, over.Plans)
	by := map[string]Option{}
	for _, o := range cmp.Options {
		by[o.ID] = o
	}
	for i, p := range over.Plans {
		o := by[p.ID]
		assert.Nil(t, o.Veto)
		require.Len(t, p.Costs, len(over.Years))
		for k, y := range over.Years {
			assert.GreaterOrEqual(t, p.Costs[k], o.Parts+o.Labour, "%s at %g years", p.ID, y)
			if k > 0 && !o.Temporary {
				assert.GreaterOrEqual(t, p.Costs[k], p.Costs[k-1]-1e-9, "%s: more time costs no less", p.ID)
			}
			if y == q.Terms.Years {
				assert.InDelta(t, o.Expected, p.Costs[k], 1e-6, p.ID)
			}
		}
		if i > 0 {
			assert.LessOrEqual(t, by[over.Plans[i-1].ID].Expected, o.Expected, "the cheapest first")
		}
	}
	for _, b := range cmp.BreakEvens {
		if b.Quantity != "years" || len(over.Plans) < 2 {
			continue
		}
		q2 := q
		q2.Terms.Years = b.Value
		then, err := Compare(starter(t), q2)
		require.NoError(t, err)
		cost := map[string]float64{}
		for _, o := range then.Options {
			cost[o.ID] = o.Expected
		}
		assert.InDelta(t, cost[over.Plans[0].ID], cost[over.Plans[1].ID], 0.02*cost[over.Plans[0].ID],
			"they cost the same after %.2f years", b.Value)
	}
}
