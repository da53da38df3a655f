package casefile

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

func ranged(t *testing.T, id, parameters string, specs ...string) (*Case, error) {
	t.Helper()
	return Read(strings.NewReader(fmt.Sprintf(`{"format":"corriente-case/1","circuit":%q,"parameters":{%s},"specifications":[%s],"evidence":[]}`,
		id, parameters, strings.Join(specs, ","))))
}

func spec(fields ...any) string {
	return fmt.Sprintf(`{"measure":%q,"state":%q,"from":%q,"to":%q,"low":%q,"high":%q}`, fields...)
}

// ohms is what the case's circuit reads between two nodes.
func ohms(t *testing.T, c *Case, state, from, to string) float64 {
	t.Helper()
	n, err := circuit.Compile(c.Circuit)
	require.NoError(t, err)
	w := n.NewWork()
	w.PrepareOhms(n.StatePos(state), n.Nominal(), n.SoundAll())
	r, ok := w.Ohms(c.Circuit.NodeIndex(from), c.Circuit.NodeIndex(to))
	require.True(t, ok)
	return r
}

func lines(low, high [3]string) (out []string) {
	for i, ends := range [3][2]string{{"y1", "y2"}, {"y2", "y3"}, {"y3", "y1"}} {
		out = append(out, spec("resistance", "isolated", ends[0], ends[1], low[i], high[i]))
	}
	return out
}

// A stator's manual gives ohms line to line: half of it in each phase of a star, half as
// much again in each of a delta (two in a row beside one: 2/3 of a phase).
func TestRangesLineToLineSetThePhases(t *testing.T) {
	same := lines([3]string{"0.25 ohm", "0.25 ohm", "0.25 ohm"}, [3]string{"0.37 ohm", "0.37 ohm", "0.37 ohm"})
	for word, want := range map[string]float64{"wye": 0.31 / 2, "delta": 0.31 * 3 / 2} {
		c, err := ranged(t, "stator", `"stator.connection":"`+word+`"`, same...)
		require.NoError(t, err)
		for _, id := range []string{"phase_1", "phase_2", "phase_3"} {
			p := c.Circuit.Station(id).Params["resistance"]
			assert.InEpsilon(t, want, p.Value, 1e-4, "%s %s", word, id)
			assert.InEpsilon(t, 0.12/0.31/4, p.Common, 1e-9, "the phases share what the range leaves open")
			assert.InDelta(t, 0.02, p.Spread, 1e-9, "and are still alike")
		}
	}
	// Three different middles of a star have one answer: 0.1, 0.2 and 0.3 ohm.
	c, err := ranged(t, "stator", "", lines([3]string{"0.28 ohm", "0.48 ohm", "0.38 ohm"},
		[3]string{"0.32 ohm", "0.52 ohm", "0.42 ohm"})...)
	require.NoError(t, err)
	for id, want := range map[string]float64{"phase_1": 0.1, "phase_2": 0.2, "phase_3": 0.3} {
		assert.InEpsilon(t, want, c.Circuit.Station(id).Params["resistance"].Value, 1e-3, id)
	}
	assert.InEpsilon(t, 0.5, ohms(t, c, "isolated", "y2", "y3"), 1e-4)
}

func TestARangeOfOnePart(t *testing.T) {
	r := spec("resistance", "isolated", "plug_a", "plug_b", "5 ohm", "7 ohm")
	c, err := ranged(t, "actuator", "", r)
	require.NoError(t, err)
	p := c.Circuit.Station("motor").Params["resistance"]
	assert.InDelta(t, 6, ohms(t, c, "isolated", "plug_a", "plug_b"), 1e-3)
	assert.InEpsilon(t, 2.0/6/4, p.Spread, 1e-9)
	f, err := circuit.Family("actuator")
	require.NoError(t, err)
	assert.NotEqual(t, p.Value, f.Station("motor").Params["resistance"].Value, "the shared family must not change")
	// What the case names itself stays.
	c, err = ranged(t, "actuator", `"motor.resistance": 9`, r)
	require.NoError(t, err)
	assert.InDelta(t, 9, c.Circuit.Station("motor").Params["resistance"].Value, 1e-12)
	// Ends the other way round are the same part; OL and nothing set nothing.
	c, err = ranged(t, "actuator", "", spec("resistance", "isolated", "plug_b", "plug_a", "5 ohm", "7 ohm"),
		spec("resistance", "isolated", "plug_a", "bat_neg", "1 Mohm", "OL"))
	require.NoError(t, err)
	assert.InDelta(t, 6, ohms(t, c, "isolated", "plug_a", "plug_b"), 1e-3)
}

func TestRangesOfACVoltsSetTheWindings(t *testing.T) {
	f, err := circuit.Family("stator")
	require.NoError(t, err)
	c, err := ranged(t, "stator", "", spec("ac_voltage", "idle_unloaded", "y1", "y2", "14 V", "18 V"),
		spec("ac_voltage", "idle_unloaded", "y2", "y3", "14 V", "18 V"))
	require.NoError(t, err)
	n, err := circuit.Compile(c.Circuit)
	require.NoError(t, err)
	w := n.NewWork()
	w.Solve(n.StatePos("idle_unloaded"), n.Nominal(), n.SoundAll())
	v, ok := w.ACVolts(c.Circuit.NodeIndex("y3"), c.Circuit.NodeIndex("y1"))
	require.True(t, ok)
	assert.InDelta(t, 16, v, 0.01, "the third line follows, since the phases are alike")
	assert.Equal(t, f.Station("phase_1").Params["resistance"], c.Circuit.Station("phase_1").Params["resistance"])
}

func TestWrongRangesNameThePlace(t *testing.T) {
	for _, c := range []struct{ spec, place, says string }{
		{spec("resistance", "isolated", "y1", "y9", "1 ohm", "2 ohm"), "/specifications/0/to", "y9"},
		{spec("resistance", "moon", "y1", "y2", "1 ohm", "2 ohm"), "/specifications/0/state", "moon"},
		{spec("warmth", "isolated", "y1", "y2", "1 ohm", "2 ohm"), "/specifications/0/measure", "warmth"},
		{spec("resistance", "isolated", "y1", "y2", "2 ohm", "1 ohm"), "/specifications/0/low", "above"},
		{spec("resistance", "isolated", "y1", "y2", "squirrel", "1 ohm"), "/specifications/0/low", "squirrel"},
		{spec("resistance", "isolated", "y1", "y2", "1 ohm", "1 V"), "/specifications/0/high", "V"},
		{`{"measure":"resistance","state":"isolated","from":"y1","to":"y2","low":"1","high":"2","colour":"red"}`,
			"/specifications/0/colour", "no field"},
		{`7`, "/specifications/0", ""},
	} {
		_, err := ranged(t, "stator", "", c.spec)
		require.Error(t, err, c.spec)
		assert.Contains(t, err.Error(), c.place)
		assert.Contains(t, err.Error(), c.says)
	}
}

// Ranges that cannot all be met are met halfway, and nothing runs away.
func TestRangesThatContradictEachOther(t *testing.T) {
	c, err := ranged(t, "actuator", "", spec("resistance", "isolated", "plug_a", "plug_b", "5 ohm", "5 ohm"),
		spec("resistance", "isolated", "plug_b", "plug_a", "8 ohm", "8 ohm"))
	require.NoError(t, err)
	r := ohms(t, c, "isolated", "plug_a", "plug_b")
	assert.GreaterOrEqual(t, r, 5-1e-6)
	assert.LessOrEqual(t, r, 8+1e-6)
}
