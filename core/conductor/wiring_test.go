package conductor

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// 20 A over 6 m at 20 °C and 0.2 V needs 20·6/58/0.2 = 10.3 mm², so 16 (IEC 60028; the
// sizes of ISO 6722-1).
func TestSizeFor(t *testing.T) {
	c, err := SizeFor(20, 6, 0.2, 20)
	require.NoError(t, err)
	assert.InDelta(t, 10.34, c.Needed, 0.01)
	assert.Equal(t, 16.0, c.Area)
	assert.InDelta(t, 20*6/58.0/16, c.Drop, 1e-9)
	assert.False(t, c.ByHeat)
	c, err = SizeFor(60, 0.2, 0.5, 20)
	require.NoError(t, err)
	assert.True(t, c.ByHeat, "a short way: heat decides")
	assert.Equal(t, 10.0, c.Area)
	_, err = SizeFor(1000, 50, 0.1, 20)
	assert.ErrorContains(t, err, "120 mm²")
	_, err = SizeFor(-1, 1, 1, 20)
	assert.Error(t, err)
	rapid.Check(t, func(t *rapid.T) {
		i, l, d := rapid.Float64Range(0.1, 100).Draw(t, "i"), rapid.Float64Range(0.1, 10).Draw(t, "l"),
			rapid.Float64Range(0.1, 2).Draw(t, "d")
		c, err := SizeFor(i, l, d, 30)
		if err != nil {
			return
		}
		assert.LessOrEqual(t, c.Drop, d*1.0001)
		assert.GreaterOrEqual(t, c.Current, i)
	})
}

// ASTM B258: AWG 13 is 2.62 mm², AWG 10 5.26, AWG 2/0 67.4.
func TestGaugeFor(t *testing.T) {
	assert.Equal(t, "AWG 13", GaugeFor(2.5))
	assert.Equal(t, "AWG 10", GaugeFor(5.2))
	assert.Equal(t, "AWG 2/0", GaugeFor(60))
	assert.Equal(t, "above AWG 4/0", GaugeFor(150))
}

// 120 A through 5 mΩ is 72 W (Joule's law).
func TestJointHeat(t *testing.T) {
	w, level := JointHeat(120, 0.005)
	assert.InDelta(t, 72, w, 1e-9)
	assert.Equal(t, "fire", level)
	_, level = JointHeat(8, 0.003)
	assert.Equal(t, "cool", level)
}

// Both wiper speeds slow behind a long thin feed: 12.4 V at the battery, 10.4 at the
// motor, 5 A. A feed of 3 m of 4 mm² loses 5·3/58/4 + 5·0.005 = 0.09 V.
func TestRelayGain(t *testing.T) {
	g, err := Feed{Battery: 12.4, Motor: 10.4, Amperes: 5, Area: 4, Metres: 3, Contact: 0.005, Resistance: 0.4}.RelayGain()
	require.NoError(t, err)
	assert.InDelta(t, 12.31, g.After, 0.01)
	assert.InDelta(t, 100*((12.31-2)/(10.4-2)-1), g.Speed, 0.2)
	_, err = Feed{Battery: 12, Motor: 13, Amperes: 5, Area: 4, Metres: 3}.RelayGain()
	assert.Error(t, err)
	_, err = Feed{Battery: 12, Motor: 10, Amperes: 5, Area: 4, Metres: 3, Resistance: 3}.RelayGain()
	assert.ErrorContains(t, err, "stand still")
}

func TestStrands(t *testing.T) {
	s, err := Damage{Area: 2.5, Share: 0.6, Metres: 0.02, Amperes: 8, Fuse: 20}.Strands()
	require.NoError(t, err)
	assert.True(t, s.Fire, "20 A of fuse before 1 mm² of copper")
	s, err = Damage{Area: 2.5, Share: 0.1, Metres: 0.02, Amperes: 8, Fuse: 10}.Strands()
	require.NoError(t, err)
	assert.False(t, s.Fire)
	s, err = Damage{Area: 2.5, Share: 0.1, Metres: 0.02, Amperes: 8, Fuse: 10, Exposed: true}.Strands()
	require.NoError(t, err)
	assert.True(t, s.Fire, "loose strands near fuel, whatever still works")
	_, err = Damage{Area: 2.5, Share: 1.2, Metres: 0.02, Amperes: 8, Fuse: 10, Exposed: true}.Strands()
	assert.Error(t, err)
}

func TestAmpacityRises(t *testing.T) {
	last := 0.0
	for a := 0.3; a < 150; a *= 1.1 {
		v := Ampacity(a)
		assert.GreaterOrEqual(t, v, last)
		last = v
	}
	assert.InDelta(t, 35, Ampacity(4), 1e-9)
	assert.False(t, math.IsNaN(Ampacity(1e-9)))
}

func TestSpliceFor(t *testing.T) {
	s, err := SpliceFor(2.5)
	require.NoError(t, err)
	assert.Greater(t, s.Sleeve, 2*s.Strip)
	_, err = SpliceFor(0)
	assert.Error(t, err)
}
