package web_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/record"
	"corriente/internal/store"
	"corriente/internal/web"
)

// A machine's page is put together from its jobs: what is to come, what was done, what its plate says,
// each with the job it comes from.
func TestAMachinesPage(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Irrigation pump")
	at := "/api/jobs/" + j.ID
	page := func() (v web.MachineView) {
		t.Helper()
		require.Equal(t, 200, c.do("GET", "/api/machines/"+j.Machine.ID, nil, &v))
		return v
	}
	was := page()
	assert.Equal(t, "Irrigation pump", was.Machine.Name)
	assert.Len(t, was.Jobs, 2, "this job and the one of earlier years")

	until := time.Now().Add(50 * time.Hour).UTC().Truncate(time.Second)
	require.Equal(t, 200, c.do("PUT", at+"/waits/"+store.NewID().String(),
		map[string]any{"kind": "parts", "note": "impeller", "until": until.Format(time.RFC3339)}, nil))
	require.Equal(t, 200, c.do("PUT", at+"/waits/"+store.NewID().String(), map[string]any{"kind": "customer", "note": ""}, nil))
	require.Equal(t, 200, c.do("PATCH", at, map[string]any{"plate": map[string]any{"power": "0.8 kW", "voltage": "12 V"}}, nil))
	require.Equal(t, 200, c.do("POST", at+"/repairs",
		map[string]any{"id": store.NewID().String(), "station": j.Diagnosis.Stations[0].Station, "what": "new plug, crimped"}, nil))
	v := page()
	require.Len(t, v.Due, len(was.Due)+2)
	i := slices.IndexFunc(v.Due, func(d web.MachineDue) bool { return strings.Contains(d.What, "impeller") })
	require.GreaterOrEqual(t, i, 0)
	assert.True(t, v.Due[i].On.Equal(until))
	far := time.Now().AddDate(100, 0, 0)
	on := func(d web.MachineDue) time.Time {
		if d.On == nil {
			return far
		}
		return *d.On
	}
	assert.True(t, slices.IsSortedFunc(v.Due, func(a, b web.MachineDue) int { return on(a).Compare(on(b)) }), "the next first")
	assert.Nil(t, v.Due[len(v.Due)-1].On)
	require.NotEmpty(t, v.Fitted)
	assert.Equal(t, "new plug, crimped", v.Fitted[0].What)
	assert.Equal(t, j.ID, v.Fitted[0].Job)
	assert.Empty(t, v.Fitted[0].Proof, "nobody proved it yet")
	require.NotEmpty(t, v.Values)
	assert.Equal(t, "0.8 kW, 12 V", v.Values[0].Says)

	require.Equal(t, 404, c.do("GET", "/api/machines/"+store.NewID().String(), nil, nil))
}

// How suspicion went over HTTP ends where the verdict stands, and its first step is before anything.
func TestHowSuspicionWent(t *testing.T) {
	c, _ := serve(t)
	c.signIn("counter")
	j := c.job("Ferry Waterlily, main engine")
	var v record.SuspicionView
	require.Equal(t, 200, c.do("GET", "/api/jobs/"+j.ID+"/suspicion", nil, &v))
	last := len(v.Steps) - 1
	assert.Zero(t, v.Steps[0].After)
	assert.Equal(t, len(j.Evidence), v.Steps[last].After)
	assert.InDelta(t, j.Suspects[0].Probability, v.Lines[0].Shares[last], 0.01)
	assert.Equal(t, j.Suspects[0].Label, v.Lines[0].Label)
	var p record.PathView
	require.Equal(t, 200, c.do("GET", "/api/jobs/"+j.ID+"/path", nil, &p))
	assert.Equal(t, record.AtDecide, p.Next)
}
