package prove

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

// 62 Hz without load and 60 with it is a droop of 3.3 %; four poles turn 1,860 rpm at 62 Hz
// (common practice; rpm = 120 f / poles).
func TestGenset(t *testing.T) {
	droop, rpm, good, _, err := Genset{Nominal: 60, NoLoad: 62, FullLoad: 60, Poles: 4}.GensetSays()
	require.NoError(t, err)
	assert.InDelta(t, 3.33, droop, 0.01)
	assert.InDelta(t, 1860, rpm, 1e-9)
	assert.True(t, good)
	for _, g := range []Genset{{Nominal: 60, NoLoad: 65, FullLoad: 58}, {Nominal: 50, NoLoad: 49, FullLoad: 46},
		{Nominal: 50, NoLoad: 51.5, FullLoad: 50, Volts: 190, NominalVolts: 230}, {Nominal: 50, NoLoad: 50, FullLoad: 52}} {
		_, _, good, says, err := g.GensetSays()
		require.NoError(t, err)
		assert.False(t, good, "%+v", g)
		assert.NotEmpty(t, says)
	}
	_, _, _, _, err = Genset{Nominal: 400, NoLoad: 62, FullLoad: 60}.GensetSays()
	assert.Error(t, err)
}

func TestTicksFollowTheJob(t *testing.T) {
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	ids := func(f Facts) map[string]bool {
		out := map[string]bool{}
		for _, x := range Ticks(c, f) {
			out[x.ID] = x.Must
		}
		return out
	}
	plain := ids(Facts{})
	assert.True(t, plain["cycles"])
	assert.NotContains(t, plain, "plugged")
	all := ids(Facts{Unplugged: true, Codes: true, Stripped: true, Generator: true, Temporary: true})
	for _, id := range []string{"cycles", "nothing_left", "plugged", "codes", "genset", "label"} {
		assert.True(t, all[id], id)
	}
}
