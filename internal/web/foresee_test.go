package web_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/store"
	"corriente/internal/web"
)

// A reading is weighed while it is typed; entered then, it says what it says when nobody
// foresaw it, and another reading than the one typed is not taken for it.
func TestWhatIsForeseenIsWhatIsSaid(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Frost fan east")
	said := func(value string, previews ...string) string {
		reading := func(v string) map[string]any {
			return map[string]any{"id": store.NewID(), "measure": "voltage", "state": "crank", "from": "sol_m", "to": "case", "value": v}
		}
		for _, v := range previews {
			require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/preview", reading(v), nil))
		}
		if len(previews) > 0 {
			c.srv.Rest() // until what was foreseen is there
		}
		e := reading(value)
		var v web.JobView
		require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/evidence?quick=true&state=crank", map[string]any{"evidence": []any{e}}, &v))
		last := v.Evidence[len(v.Evidence)-1]
		assert.Equal(t, e["id"].(interface{ String() string }).String(), last.ID)
		assert.Equal(t, "Jory (technician)", last.By)
		require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/evidence/"+last.ID+"/strike?state=crank", map[string]any{"out": true}, nil))
		b, err := json.Marshal([]any{v.Diagnosis.Stations, v.Diagnosis.Diagnoses, v.Diagnosis.Verdict, v.Picture.Paths})
		require.NoError(t, err)
		return string(b)
	}
	plain, other := said("9.4"), said("2.1")
	require.NotEqual(t, plain, other)
	assert.Equal(t, plain, said("9.4", "9", "9.4"))
	assert.Equal(t, other, said("2.1", "9.4"), "what was typed first is not what was entered")
}
