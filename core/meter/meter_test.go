package meter

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"corriente/core/unit"
)

func TestLimitIsPercentPlusCounts(t *testing.T) {
	v := Handheld().For(unit.Voltage)
	// 0.5 % of 12.00 V + 2 counts of 10 mV = 60 mV + 20 mV.
	assert.InDelta(t, 0.080, v.Limit(12), 1e-12)
	// JCGM 100, 4.3.7: a rectangular distribution's sigma is half-width/√3; the display adds one count/√12.
	assert.InDelta(t, math.Sqrt(0.08*0.08/3+0.01*0.01/12), v.Sigma(12), 1e-12)
}

func TestCountFollowsRange(t *testing.T) {
	a := Accuracy{Percent: 0.5, Counts: 2, Resolution: 0.01, Ranges: []float64{0.6, 6, 60}}
	assert.InDelta(t, 0.01, a.Count(12.6), 1e-15)
	assert.InDelta(t, 0.001, a.Count(5.9), 1e-15)
	assert.InDelta(t, 0.0001, a.Count(-0.25), 1e-15)
	v, over := a.Shows(61)
	assert.True(t, over)
	assert.Zero(t, v)
	v, over = a.Shows(0.123456)
	assert.False(t, over)
	assert.InDelta(t, 0.1235, v, 1e-12)
}

// A starter's armature has some ten milliohms: no handheld ohmmeter can judge it (common practice).
func TestHandheldCannotJudgeAStarterWinding(t *testing.T) {
	r := Handheld().For(unit.Resistance)
	assert.True(t, r.CannotTell(0.011))
	assert.True(t, r.CannotTell(0.25))
	assert.False(t, r.CannotTell(10))
}

func TestAClampReadsNoVolts(t *testing.T) {
	assert.Nil(t, Clamp().For(unit.Voltage))
	assert.NotNil(t, Default(unit.Current).For(unit.Current))
	assert.Equal(t, DefaultInput, Handheld().Input())
}
