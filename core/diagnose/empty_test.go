package diagnose

import (
	"encoding/json"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
)

// An adviser that was emptied says what it said, also while others empty it: what it had solved is only solved
// again.
func TestAnEmptiedAdviserSaysTheSame(t *testing.T) {
	c, err := circuit.Family("wiper")
	require.NoError(t, err)
	a, err := NewAdviser(c)
	require.NoError(t, err)
	assert.Zero(t, a.Bytes())
	job := &Job{Evidence: []casefile.Evidence{{Observe: "sweep", State: "low", Outcome: "none"}}}
	require.Nil(t, job.Evidence[0].Check(c, nil))
	says := func() string {
		op, err := a.Weigh(t.Context(), job)
		require.NoError(t, err)
		b, err := json.Marshal(op.Result)
		require.NoError(t, err)
		return string(b)
	}
	want := says()
	held := a.Bytes()
	assert.Greater(t, held, 1<<20)
	a.Empty()
	assert.Zero(t, a.Bytes())
	assert.Equal(t, want, says())
	var wg sync.WaitGroup
	for range 3 {
		wg.Go(func() {
			for range 20 {
				a.Empty()
			}
		})
		wg.Go(func() {
			op, err := a.Weigh(t.Context(), job)
			if assert.NoError(t, err) {
				b, err := json.Marshal(op.Result)
				assert.NoError(t, err)
				assert.Equal(t, want, string(b))
			}
		})
	}
	wg.Wait()
	a.Empty()
	assert.Zero(t, a.Bytes(), "what was solved is counted once")
}
