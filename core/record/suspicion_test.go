package record_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/diagnose"
	"corriente/core/record"
)

// Suspicion goes from what is usual to what was found, a step for each reading that counts, and what
// is suspected adds up to all of it at each.
func TestSuspicionFromTheFirstReadingToTheLast(t *testing.T) {
	c := job(t, 1, 2)
	read := func(e casefile.Evidence) {
		e.ID = uuid.NewString()
		require.Nil(t, e.Check(c.Circuit, nil))
		c.Evidence = append(c.Evidence, e)
	}
	c.Evidence[1].Struck = true
	read(casefile.Evidence{Observe: "turning", State: "run", Outcome: "none", TakenAt: at(3)})
	read(casefile.Evidence{Measure: "voltage", State: "run", From: "motor_plus", To: "motor_minus", Value: "12.4", TakenAt: at(4)})
	read(casefile.Evidence{Measure: "resistance", State: "isolated", From: "motor_plus", To: "motor_minus", Value: "OL", TakenAt: at(5)})
	a, err := diagnose.NewAdviser(c.Circuit)
	require.NoError(t, err)
	weigh := func(c *casefile.Case) (*diagnose.Opinion, error) { return a.Glance(t.Context(), diagnose.JobOf(c)) }

	v, err := record.Of(c).Suspicion(weigh)
	require.NoError(t, err)
	require.Len(t, v.Steps, 5, "before anything, and one for each that is not struck out")
	assert.Equal(t, record.SuspicionStep{}, v.Steps[0])
	assert.Equal(t, "Turning: does not turn", v.Steps[2].Says)
	for k := range v.Steps {
		sum := 0.0
		for _, l := range v.Lines {
			require.Len(t, l.Shares, len(v.Steps))
			assert.GreaterOrEqual(t, l.Shares[k], 0.0)
			sum += l.Shares[k]
		}
		assert.InDelta(t, 1, sum, 0.002, "step %d", k)
	}
	last := len(v.Steps) - 1
	assert.Contains(t, v.Lines[0].Label, "Motor")
	assert.Greater(t, v.Lines[0].Shares[last], 0.5, "it leads")
	assert.Less(t, v.Lines[0].Shares[0], v.Lines[0].Shares[last], "and did not from the start")
	assert.Equal(t, "Anything else", v.Lines[len(v.Lines)-1].Label)
}

// Of a job with many readings a bounded number of steps is weighed, its first and its last among them.
func TestSuspicionOfALongJobIsBounded(t *testing.T) {
	minutes := make([]int, 90)
	for i := range minutes {
		minutes[i] = i
	}
	c := job(t, minutes...)
	a, err := diagnose.NewAdviser(c.Circuit)
	require.NoError(t, err)
	asked := 0
	v, err := record.Of(c).Suspicion(func(c *casefile.Case) (*diagnose.Opinion, error) {
		asked++
		return a.Glance(t.Context(), diagnose.JobOf(c))
	})
	require.NoError(t, err)
	assert.Equal(t, len(v.Steps), asked)
	assert.LessOrEqual(t, asked, 24)
	assert.Equal(t, 0, v.Steps[0].After)
	assert.Equal(t, 90, v.Steps[len(v.Steps)-1].After)
}
