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

// A job goes through its stages: where it goes on is one stage, what was passed by is not called
// undone, and nothing behind it is.
func TestAJobSaysWhereItGoesOn(t *testing.T) {
	c := job(t)
	on := open(t, c)
	var lines []record.StripLine
	closed := false
	state := func() (*record.PathView, map[string]string) {
		t.Helper()
		a, err := diagnose.NewAdviser(on.On.Circuit)
		require.NoError(t, err)
		op, err := a.Weigh(t.Context(), diagnose.JobOf(on.On))
		require.NoError(t, err)
		v := on.Record().Path(op, lines, closed)
		require.Len(t, v.Steps, 9)
		out, next := map[string]string{}, 0
		for _, s := range v.Steps {
			if out[s.Stage] = s.State; s.State == record.StageNext {
				assert.Equal(t, v.Next, s.Stage)
				next++
			}
		}
		if closed {
			assert.Zero(t, next, "a closed job goes on nowhere")
		} else {
			assert.Equal(t, 1, next)
		}
		assert.NotEmpty(t, v.Says)
		return v, out
	}

	v, s := state()
	assert.Equal(t, record.AtMeasure, v.Next)
	assert.Equal(t, "Take the first reading.", v.Says)
	assert.Equal(t, record.StageSkipped, s[record.AtComplaint], "nobody needs to write one")
	assert.Equal(t, record.StageOpen, s[record.AtDecide])

	put := func(w record.Write) {
		t.Helper()
		w.ID, w.At, w.By = uuid.NewString(), noon, "Jory"
		require.NoError(t, on.Put(&w))
	}
	words := "the fan is dead"
	put(record.Write{Patch: &record.Patch{Complaint: &words}})
	put(record.Write{Evidence: []casefile.Typed{
		{ID: uuid.NewString(), Observe: "turning", State: "run", Outcome: "none", TakenAt: at(1)},
		{ID: uuid.NewString(), Measure: "voltage", State: "run", From: "motor_plus", To: "motor_minus", Value: "12.4", TakenAt: at(2)},
		{ID: uuid.NewString(), Measure: "resistance", State: "isolated", From: "motor_plus", To: "motor_minus",
			Value: "OL", TakenAt: at(3)},
	}})
	v, s = state()
	assert.Equal(t, record.AtDecide, v.Next, v.Says)
	assert.Equal(t, record.StageDone, s[record.AtComplaint])
	assert.Equal(t, record.StageDone, s[record.AtMeasure])
	assert.Equal(t, record.StageSkipped, s[record.AtStrip])

	put(record.Write{Work: &record.WorkIn{ID: uuid.NewString(), Station: "motor", What: "new motor", At: at(4)}})
	lines = []record.StripLine{{ID: uuid.NewString(), Text: "2x 8 mm bolt", At: noon}, {ID: uuid.NewString(), Text: "fan", At: noon}}
	v, s = state()
	assert.Equal(t, record.AtBack, v.Next)
	assert.Equal(t, "2 things are still to go back.", v.Says)
	assert.Equal(t, record.StageDone, s[record.AtStrip])

	for i := range lines {
		lines[i].BackAt = &noon
	}
	v, s = state()
	assert.Equal(t, record.AtProve, v.Next)
	assert.Equal(t, record.StageDone, s[record.AtBack])

	closed = true
	v, _ = state()
	assert.Equal(t, "The job is closed.", v.Says)
}
