package web_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/train"
	"corriente/internal/store"
	"corriente/internal/web"
)

// Moves are made once however often they are sent; an attempt is its owner's; a closed
// job becomes an exercise; the owner sees the trainee's attempts.
func TestTrainingOverHTTP(t *testing.T) {
	c, st := serve(t)
	c.signIn("pip")
	id := store.NewID().String()
	var v train.AttemptView
	require.Equal(t, 200, c.do("POST", "/api/training/attempts", map[string]any{"id": id, "exercise": "sg2"}, &v))
	for _, s := range v.Circuit.Stations {
		for m, r := range s.Faults {
			assert.Equal(t, 1.0, r, "%s.%s: what is likely is not given away", s.ID, m)
		}
	}
	move := map[string]any{"kind": "read", "state": "crank", "ready": true, "dial": "volts", "from": "bat_pos", "to": "bat_neg"}
	for range 3 {
		require.Equal(t, 200, c.do("PUT", "/api/training/attempts/"+id+"/moves/1", move, &v))
		require.Len(t, v.Log, 1)
	}
	shown := v.Log[0].Shown
	assert.Equal(t, 409, c.do("PUT", "/api/training/attempts/"+id+"/moves/1", map[string]any{"kind": "hint"}, nil),
		"another move stands there")
	assert.Equal(t, 409, c.do("PUT", "/api/training/attempts/"+id+"/moves/5", move, nil), "a gap")
	var p problem
	assert.Equal(t, 422, c.do("PUT", "/api/training/attempts/"+id+"/moves/2",
		map[string]any{"kind": "read", "state": "crank", "ready": true, "dial": "volts", "from": "bat_pos", "to": "moon"}, &p))
	require.Equal(t, 200, c.do("GET", "/api/training/attempts/"+id, nil, &v))
	require.Len(t, v.Log, 1, "what was refused is not kept")
	// The same seed on another's desk.
	c.signIn("jory")
	assert.Equal(t, 404, c.do("GET", "/api/training/attempts/"+id, nil, nil), "an attempt is its owner's")
	other := store.NewID().String()
	require.Equal(t, 200, c.do("POST", "/api/training/attempts", map[string]any{"id": other, "exercise": "sg2"}, &v))
	require.Equal(t, 200, c.do("PUT", "/api/training/attempts/"+other+"/moves/1", move, &v))
	assert.Equal(t, shown, v.Log[0].Shown)
	require.Equal(t, 200, c.do("PUT", "/api/training/attempts/"+other+"/moves/2",
		map[string]any{"kind": "verdict", "station": "gnd_cable", "fault": "high_resistance", "option": "replace"}, &v))
	require.NotNil(t, v.Debrief)
	assert.True(t, v.Debrief.RightPart)
	assert.Equal(t, 422, c.do("POST", "/api/training/attempts",
		map[string]any{"id": store.NewID(), "circuit": "capacitor_fan", "seed": 3}, nil), "nobody trains on the mains")

	// A job's outcome as an exercise.
	j := c.job("Orchard tractor 1")
	var ex web.ExerciseView
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/exercise", nil, &ex))
	require.Equal(t, 200, c.do("POST", "/api/training/attempts", map[string]any{"id": store.NewID(), "exercise": ex.ID}, &v))
	open := c.job("Frost fan east")
	assert.Equal(t, 422, c.do("POST", "/api/jobs/"+open.ID+"/exercise", nil, nil), "nobody knows yet what it was")

	// The drill.
	var q train.Round
	require.Equal(t, 200, c.do("GET", "/api/training/drill?seed=6", nil, &q))
	assert.NotEmpty(t, q.Options)
	var tally [2]int
	answer := map[string]any{"id": store.NewID(), "kind": q.Kind, "circuit": q.Circuit, "right": true}
	require.Equal(t, 200, c.do("POST", "/api/training/drill", answer, &tally))
	require.Equal(t, 200, c.do("POST", "/api/training/drill", answer, &tally), "sent again")
	assert.Equal(t, [2]int{1, 1}, tally)

	c.signIn("wanda")
	var tv web.TrainView
	require.Equal(t, 200, c.do("GET", "/api/training", nil, &tv))
	who := map[string]bool{}
	for _, a := range tv.Attempts {
		who[a.Who] = true
	}
	assert.True(t, who["Pip (apprentice)"] && who["Jory (technician)"])

	// Leaving a job out of learning takes it out of the sums, and back in.
	count := func() (n int) {
		r, err := st.Reliability(t.Context())
		require.NoError(t, err)
		return r.Jobs
	}
	was := count()
	require.Less(t, c.do("PUT", "/api/jobs/"+j.ID+"/excluded", map[string]any{"excluded": true}, nil), 300)
	assert.Equal(t, was-1, count())
	require.Less(t, c.do("PUT", "/api/jobs/"+j.ID+"/excluded", map[string]any{"excluded": false}, nil), 300)
	assert.Equal(t, was, count())
	assert.Equal(t, 404, c.do("PUT", "/api/jobs/"+open.ID+"/excluded", map[string]any{"excluded": true}, nil))
}
