package train

import (
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/policy"
)

func figure(t *testing.T, shown string) float64 {
	t.Helper()
	v, err := strconv.ParseFloat(number.FindString(shown), 64)
	require.NoError(t, err, shown)
	return v
}

// The display climbs through the ranges that are too small, runs in, and stays at the
// reading; on a held range it does not climb; OL stays OL.
func TestTheDisplaySettles(t *testing.T) {
	f := settling("12.34 V", 12.34, false, Volts, 0)
	assert.Equal(t, []Frame{{0, "OL"}, {500, "7.65 V"}, {750, "11.72 V"}, {1000, "12.34 V"}}, f)
	f = settling("12.34 V", 12.34, false, Volts, 60)
	assert.Equal(t, "7.65 V", f[0].Shown)
	assert.Equal(t, "12.34 V", f[len(f)-1].Shown)
	assert.Equal(t, []Frame{{0, "OL"}}, settling("OL", 0, true, Ohms, 0))
	high := settling("2.345 Mohm", 2.345e6, false, Ohms, 0)
	low := settling("2.3 ohm", 2.3, false, Ohms, 0)
	assert.Greater(t, high[len(high)-1].AtMs, low[len(low)-1].AtMs, "megohms take longer")
	at := -1
	for _, x := range high {
		assert.Greater(t, x.AtMs, at)
		at = x.AtMs
	}
}

// From switching on, the battery is lowest and the current highest while the motor still
// stands (a motor at rest makes no back EMF); at rest nothing is kept.
func TestTheMeterKeepsLeastAndMost(t *testing.T) {
	at, err := Start(adviser(t, "starter"), exercise(t, "sg1"))
	require.NoError(t, err)
	require.NoError(t, at.Do(Move{Kind: "zero", Dial: Clamp}))
	require.NoError(t, at.Do(Move{Kind: "read", State: "crank", Ready: true, Clips: true, Dial: Volts, From: "bat_pos", To: "bat_neg"}))
	volts := at.Log[1]
	assert.Equal(t, volts.Shown, volts.Most)
	assert.Less(t, figure(t, volts.Least), figure(t, volts.Shown)-0.3)
	require.NoError(t, at.Do(Move{Kind: "read", State: "crank", Ready: true, Dial: Clamp, Through: "pos_cable"}))
	amps := at.Log[2]
	assert.Equal(t, amps.Shown, amps.Least)
	assert.Greater(t, figure(t, amps.Most), 1.3*figure(t, amps.Shown))
	require.NoError(t, at.Do(Move{Kind: "read", State: "rest", Ready: true, Clips: true, Dial: Volts, From: "bat_pos", To: "bat_neg"}))
	assert.Empty(t, at.Log[3].Least+at.Log[3].Most)
}

// A tip held by hand on a bare battery terminal slips once in a while; the first time it
// warns, the second time it ends the attempt. Clipped on, or behind a fuse, it never does.
func TestATipSlipsWhereNothingLimitsTheCurrent(t *testing.T) {
	a := adviser(t, "starter")
	slipped, ended, readings := 0, 0, 0
	for seed := range uint64(40) {
		at, err := Start(a, Exercise{Circuit: "starter", Seed: seed, Faults: []string{"battery.weak=x3"}})
		require.NoError(t, err)
		for range 12 {
			if at.Do(Move{Kind: "read", State: "rest", Ready: true, Dial: Volts, From: "bat_pos", To: "bat_neg"}) != nil {
				break
			}
			e := at.Log[len(at.Log)-1]
			readings++
			if e.Slipped {
				slipped++
				assert.Contains(t, e.Says, "Clip the leads on")
				assert.Nil(t, e.evidence, "no reading comes of it")
			}
			if e.Danger != nil {
				ended++
				assert.True(t, slices.ContainsFunc(at.Log, func(d Done) bool { return d.Slipped }), "there was a warning before")
			}
		}
		safe, err := Start(a, Exercise{Circuit: "starter", Seed: seed, Faults: []string{"battery.weak=x3"}})
		require.NoError(t, err)
		for range 12 {
			require.NoError(t, safe.Do(Move{Kind: "read", State: "rest", Ready: true, Clips: true, Dial: Volts,
				From: "bat_pos", To: "bat_neg"}))
			require.NoError(t, safe.Do(Move{Kind: "read", State: "rest", Ready: true, Dial: Volts, From: "ign_out", To: "bat_neg"}))
		}
		assert.Nil(t, safe.Stopped)
	}
	assert.InDelta(t, 1.0/slipOf, float64(slipped+ended)/float64(readings), 0.04)
	assert.Positive(t, ended)
}

// The scope shows the armature that the fault makes: a damaged commutator and worn brushes
// are told from a sound motor most of the time, at the current that the circuit draws.
func TestTheScopeShowsTheArmature(t *testing.T) {
	a := adviser(t, "blower_resistor")
	words := func(f string) map[string]int {
		n := map[string]int{}
		for seed := range uint64(25) {
			at, err := Start(a, Exercise{Circuit: "blower_resistor", Seed: seed, Faults: []string{f}})
			require.NoError(t, err)
			require.NoError(t, at.Do(Move{Kind: "look", State: a.C.RunState, Ready: true, Observe: "current_trace"}))
			e := at.Log[0]
			if e.Sweep == nil {
				assert.Contains(t, e.Says, "stands")
				continue
			}
			n[e.Shown]++
			want, mean := at.faulty.Work(a.C.RunState).Motor.I, 0.0
			for _, v := range e.Sweep.Amperes {
				mean += float64(v) / float64(len(e.Sweep.Amperes))
			}
			assert.InDelta(t, want, mean, 0.35*want)
			assert.LessOrEqual(t, len(e.Sweep.Amperes), sweepPoints)
			assert.Positive(t, e.Sweep.Seconds)
		}
		return n
	}
	sound, bars := words("feed_wire.high_resistance=0.1ohm"), words("motor.commutator_damaged")
	assert.GreaterOrEqual(t, sound["even, no weak bar"], 22)
	assert.GreaterOrEqual(t, bars["a weak bar"]+bars["dropouts"], 18)
}

// With hindsight nobody needs longer than the adviser, and what it names is right.
func TestWithHindsight(t *testing.T) {
	for _, id := range []string{"sg3", "fu1"} {
		ex := exercise(t, id)
		a := adviser(t, ex.Circuit)
		h, err := WithHindsight(t.Context(), a, ex)
		require.NoError(t, err)
		require.NotNil(t, h)
		minutes, _, right, err := Auto(t.Context(), a, ex, policy.Adviser)
		require.NoError(t, err)
		assert.True(t, right)
		assert.LessOrEqual(t, h.Minutes, minutes)
		assert.Positive(t, h.Minutes)
		assert.NotEmpty(t, h.Moves)
		again, err := WithHindsight(t.Context(), a, ex)
		require.NoError(t, err)
		assert.Equal(t, h, again)
	}
}
