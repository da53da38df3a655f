package machine

import (
	"math"
	"math/rand/v2"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/meter"
	"corriente/core/unit"
)

func model(t testing.TB) *fault.Model {
	t.Helper()
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	n, err := circuit.Compile(c)
	require.NoError(t, err)
	m, err := fault.NewModel(n)
	require.NoError(t, err)
	return m
}

// A meter's reading stays within its maker's limit of the truth, shows whole
// counts, and errs the same way each time in the same place.
func TestMeterErrsAsMetersDo(t *testing.T) {
	m := model(t)
	in := meter.Handheld()
	for seed := range uint64(60) {
		mc := New(m, m.Net.Nominal(), nil, rand.New(rand.NewPCG(seed, 1)))
		e := casefile.Evidence{Measure: unit.Voltage, State: "crank", From: "bat_pos", To: "bat_neg"}
		require.NoError(t, mc.Measure(&e, in))
		got, err := strconv.ParseFloat(e.Value, 64)
		require.NoError(t, err)
		w := mc.Work("crank")
		truth := w.V[m.Net.C.NodeIndex("bat_pos")]
		assert.LessOrEqual(t, math.Abs(got-truth), in.DCVoltage.Limit(truth)+0.005+1e-9)
		assert.InDelta(t, math.Round(got*100), got*100, 1e-6, "whole counts of 10 mV")
		again := e
		require.NoError(t, mc.Measure(&again, in))
		assert.Equal(t, e.Value, again.Value)
	}
}

func TestOpenLineReadsOL(t *testing.T) {
	m := model(t)
	mc := New(m, m.Net.Nominal(), []Hidden{{fault.Fault{Station: "coil", Mode: "open"}, 0}}, rand.New(rand.NewPCG(1, 1)))
	e := casefile.Evidence{Measure: unit.Resistance, State: "isolated", From: "sol_s", To: "case"}
	require.NoError(t, mc.Measure(&e, meter.Handheld()))
	assert.Equal(t, "OL", e.Value)
	assert.Error(t, mc.Measure(&e, meter.Clamp()), "a clamp reads no ohms")
	e.State = "moon"
	assert.Error(t, mc.Measure(&e, meter.Handheld()))
}

// A floating node shows a ghost of tenths of a volt, not full supply.
func TestGhostsAreSmall(t *testing.T) {
	m := model(t)
	for seed := range uint64(40) {
		mc := New(m, m.Net.Nominal(), []Hidden{{fault.Fault{Station: "start_fuse", Mode: "open"}, 0}}, rand.New(rand.NewPCG(seed, 2)))
		e := casefile.Evidence{Measure: unit.Voltage, State: "rest", From: "fuse_out", To: "bat_neg"}
		require.NoError(t, mc.Measure(&e, meter.Handheld()))
		v, err := strconv.ParseFloat(e.Value, 64)
		require.NoError(t, err)
		assert.Less(t, math.Abs(v), 1.0)
	}
}

func TestSpreadGivesMachinesThatRun(t *testing.T) {
	m := model(t)
	rng := rand.New(rand.NewPCG(9, 9))
	var lo, hi float64 = 2, 0
	for range 60 {
		mc := New(m, Spread(m, 0.3, rng), nil, rng)
		w := mc.Work("crank")
		assert.False(t, w.Motor.Stalled)
		s := w.Motor.W / 330
		lo, hi = math.Min(lo, s), math.Max(hi, s)
		assert.InDelta(t, 1, mc.Speed(), 1e-9, "a sound machine runs at its own speed")
		assert.True(t, mc.Matters())
	}
	assert.Greater(t, hi, 1.2*lo, "and they differ")
}

func TestMildFaultsDoNotMatter(t *testing.T) {
	m := model(t)
	rng := rand.New(rand.NewPCG(1, 1))
	mild := New(m, m.Net.Nominal(), []Hidden{{fault.Fault{Station: "pos_clamp", Mode: "high_resistance"}, 0.0002}}, rng)
	assert.False(t, mild.Matters(), "a joint that loses 40 mV is not a fault")
	bad := New(m, m.Net.Nominal(), []Hidden{{fault.Fault{Station: "pos_clamp", Mode: "high_resistance"}, 0.01}}, rng)
	assert.True(t, bad.Matters())
	assert.Less(t, bad.Speed(), 0.97)
}
