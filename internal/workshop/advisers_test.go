package workshop

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/internal/store"
)

// aJob is a job as the store hands it out, with what was entered so far.
func aJob(t testing.TB, family string, es ...casefile.Evidence) *store.Job {
	t.Helper()
	c, err := circuit.Family(family)
	require.NoError(t, err)
	for i := range es {
		require.Nil(t, es[i].Check(c, nil))
	}
	return &store.Job{ID: uuid.New(), Revision: 1, Case: &casefile.Case{Circuit: c, Evidence: es}}
}

// entered is a job after one more entry.
func entered(j *store.Job, e casefile.Evidence) *store.Job {
	then, with := *j, *j.Case
	with.Evidence = append(append([]casefile.Evidence{}, j.Case.Evidence...), e)
	then.Case, then.Revision = &with, j.Revision+1
	return &then
}

var (
	sweepsNot = casefile.Evidence{Observe: "sweep", State: "low", Outcome: "none"}
	sweeps    = casefile.Evidence{Observe: "sweep", State: "high", Outcome: "normal"}
)

func written(t testing.TB, op *diagnose.Opinion) string {
	t.Helper()
	b, err := json.Marshal(op.Result)
	require.NoError(t, err)
	return string(b)
}

// places counts how many at once are at work.
func (q *queue) atWork() int {
	q.mu.Lock()
	defer q.mu.Unlock()
	return q.places - q.free
}

// What was foreseen is what comes of it, to the letter, under the ids and times that it then has; whoever enters it
// waits for nothing.
func TestWhatWasForeseenIsWhatComesOfIt(t *testing.T) {
	a, j := NewAdvisers(time.Minute), aJob(t, "wiper")
	require.NoError(t, a.Foresee(t.Context(), j, sweepsNot, true, func() bool { return true }))
	e := sweepsNot
	e.ID, e.TakenAt = uuid.NewString(), "2026-05-04T10:00:00Z"
	then := entered(j, e)
	over, cancel := context.WithCancel(t.Context())
	cancel() // a place in the queue cannot be had any more
	op, err := a.Weigh(over, then)
	require.NoError(t, err)
	require.True(t, op.Thought)
	require.Len(t, op.Evidence, 1)
	assert.Equal(t, e.ID, op.Job.Evidence[0].ID)

	fresh, err := NewAdvisers(time.Minute).Weigh(t.Context(), then)
	require.NoError(t, err)
	assert.Equal(t, written(t, fresh), written(t, op))

	_, err = a.Weigh(over, entered(then, sweeps))
	assert.ErrorIs(t, err, context.Canceled, "what was not foreseen waits for its turn")
}

// What is not wanted any more is not thought through, and gives its place back.
func TestWhatIsNotWantedIsNotThoughtThrough(t *testing.T) {
	a, j := NewAdvisers(time.Minute), aJob(t, "wiper")
	old, newer := a.Look(j.ID), a.Look(j.ID)
	assert.False(t, old())
	assert.True(t, newer())
	require.NoError(t, a.Foresee(t.Context(), j, sweepsNot, true, old))
	op, err := a.Glance(t.Context(), entered(j, sweepsNot))
	require.NoError(t, err)
	assert.False(t, op.Thought)
	assert.Zero(t, a.queue.atWork())
}

// Twenty who ask at once get one answer, word for word, and no place stays taken.
func TestWhoAskAtOnceShareOneAnswer(t *testing.T) {
	a, j := NewAdvisers(time.Minute), aJob(t, "blower_resistor")
	var wg sync.WaitGroup
	ops := make([]*diagnose.Opinion, 20)
	for k := range ops {
		wg.Go(func() {
			op, err := a.Weigh(t.Context(), j)
			if assert.NoError(t, err) {
				ops[k] = op
			}
		})
	}
	wg.Wait()
	for k := range ops {
		require.NotNil(t, ops[k])
		assert.Equal(t, written(t, ops[0]), written(t, ops[k]))
	}
	assert.Zero(t, a.queue.atWork())
}

// A verdict is in the database for the revision it was weighed at, and for no other; a job that is taken out is
// forgotten.
func TestAVerdictIsStoredForItsRevision(t *testing.T) {
	a, j := NewAdvisers(time.Minute), aJob(t, "wiper")
	a.SetStored(j)
	assert.False(t, a.Stored(j), "nothing was weighed yet")
	_, err := a.Glance(t.Context(), j)
	require.NoError(t, err)
	assert.False(t, a.Stored(j))
	a.SetStored(j)
	assert.True(t, a.Stored(j))
	_, err = a.Weigh(t.Context(), j)
	require.NoError(t, err)
	assert.True(t, a.Stored(j), "thought through, it is the same verdict")
	then := entered(j, sweepsNot)
	assert.False(t, a.Stored(then))
	_, err = a.Glance(t.Context(), then)
	require.NoError(t, err)
	assert.False(t, a.Stored(then))
	a.SetStored(then)
	a.Forget()
	assert.False(t, a.Stored(then))
}

// Circuits that agree in every value are prepared once; more than there is room for are emptied, the longest unused
// first, and say the same afterwards.
func TestCircuitsShareWhatIsPreparedAndAreEmptied(t *testing.T) {
	a := NewAdvisers(time.Minute)
	one, err := a.Get(aJob(t, "wiper").Case.Circuit)
	require.NoError(t, err)
	same, err := a.Get(aJob(t, "wiper").Case.Circuit)
	require.NoError(t, err)
	assert.Same(t, one, same)

	first := aJob(t, "blower_resistor")
	op, err := a.Weigh(t.Context(), first)
	require.NoError(t, err)
	held, err := a.Get(first.Case.Circuit)
	require.NoError(t, err)
	assert.Positive(t, held.Bytes())
	for k := range keepAnyway {
		j := aJob(t, "blower_resistor")
		c := *j.Case.Circuit
		c.Title = fmt.Sprint("Blower ", k)
		j.Case.Circuit = &c
		_, err := a.Weigh(t.Context(), j)
		require.NoError(t, err)
	}
	a.trim(1)
	assert.Zero(t, held.Bytes())
	last := 0
	for _, e := range a.prepared.Values() {
		if e.a.Bytes() > 0 {
			last++
		}
	}
	assert.Equal(t, keepAnyway, last, "the latest are kept whatever they hold")
	a.Forget()
	again, err := a.Weigh(t.Context(), first)
	require.NoError(t, err)
	assert.Equal(t, written(t, op), written(t, again))
}
