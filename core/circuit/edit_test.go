package circuit_test

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

// A connector put in takes its place on the path, and taken out again leaves the
// circuit as it was.
func TestInsertAndRemove(t *testing.T) {
	for id, after := range map[string]string{"starter": "pos_cable", "blower_module": "supply_wire",
		"window": "jamb_wire_a", "wiper": "low_wire", "traction": "motor_return"} {
		f, err := circuit.Family(id)
		require.NoError(t, err)
		c, err := f.Copy("own_"+id, "Own "+id)
		require.NoError(t, err)
		before, _ := load(t, id)
		w := before.NewWork()
		run := before.StatePos(f.RunState)
		w.Solve(run, before.Nominal(), before.SoundAll())
		amps := w.Motor.I
		require.NoError(t, c.Insert(after, circuit.Joint, "splice", "Splice", 0.0005), id)
		n, err := circuit.Compile(c)
		require.NoError(t, err)
		x := n.NewWork()
		x.Solve(n.StatePos(f.RunState), n.Nominal(), n.SoundAll())
		assert.InEpsilon(t, amps, x.Motor.I, 0.03, "%s: half a milliohm changes little", id)
		assert.Contains(t, c.Paths[0].Stations, "splice")
		require.NoError(t, c.Remove("splice"), id)
		assert.Len(t, c.Nodes, len(f.Nodes))
		assert.Len(t, c.Stations, len(f.Stations))
		n, err = circuit.Compile(c)
		require.NoError(t, err)
		x = n.NewWork()
		x.Solve(n.StatePos(f.RunState), n.Nominal(), n.SoundAll())
		assert.InEpsilon(t, amps, x.Motor.I, 1e-9, id)
		b, err := json.Marshal(c)
		require.NoError(t, err)
		_, err = circuit.Read(bytes.NewReader(b))
		require.NoError(t, err)
	}
}

func TestWhatCannotBeIsRefusedByName(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	c, err := f.Copy("own", "Own")
	require.NoError(t, err)
	was, err := json.Marshal(c)
	require.NoError(t, err)
	assert.ErrorContains(t, c.Remove("motor"), "starter motor")
	assert.ErrorContains(t, c.Remove("main_contact"), "cannot be taken out")
	assert.ErrorContains(t, c.Remove("mast"), "no station")
	assert.ErrorContains(t, c.Insert("battery", circuit.Joint, "x", "X", 0.1), "battery")
	assert.ErrorContains(t, c.Insert("pos_cable", circuit.Motor, "x", "X", 0.1), "cannot be put in")
	assert.ErrorContains(t, c.Insert("pos_cable", circuit.Wire, "coil", "X", 0.1), "already")
	assert.ErrorContains(t, c.Insert("pos_cable", circuit.Wire, "x", "X", 3), "does not turn", "three ohms in a starter's cable")
	now, err := json.Marshal(c)
	require.NoError(t, err)
	assert.JSONEq(t, string(was), string(now), "a refusal changes nothing")
	c.Nodes = append(c.Nodes, circuit.Node{ID: "loose", Label: "loose", Access: "open_air"})
	assert.ErrorContains(t, c.Solvable(), "loose")
	_, err = f.Copy("Not An Id", "x")
	require.Error(t, err)
	for id := range map[string]bool{"starter": true, "stator": true, "capacitor_fan": true, "actuator": true} {
		g, err := circuit.Family(id)
		require.NoError(t, err)
		x, err := g.Copy("copy", "Copy")
		require.NoError(t, err)
		require.NoError(t, x.Solvable(), id)
	}
}
