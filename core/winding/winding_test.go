package winding

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat"
	"pgregory.net/rapid"
)

// IEC 60034-1, 8.6.2: copper from 20 to 75 °C rises to (235+75)/(235+20) = 1.216 times; by
// the same rule aluminium to 300/245 = 1.224.
func TestTemperature(t *testing.T) {
	assert.InDelta(t, 1.2157, Copper.AtTemperature(1, 20, 75), 1e-4)
	assert.InDelta(t, 1.2245, Aluminium.AtTemperature(1, 20, 75), 1e-4)
	v, err := Corrected(Value{0.5, 0.05}, Value{0.2, 0.05}, Copper, Warmth{Now: 75, Wanted: 20})
	require.NoError(t, err)
	assert.InDelta(t, 0.3/1.2157, v.X, 1e-4)
	assert.InDelta(t, 0.05*math.Sqrt2/1.2157, v.U, 1e-4, "both readings count (JCGM 100, 5.1.2)")
	_, err = Corrected(Value{0.1, 0.01}, Value{0.5, 0.01}, Copper, Warmth{Now: 20, Wanted: 20})
	assert.ErrorContains(t, err, "leads alone")
}

// A healthy winding of 0.3 Ω is not condemned by a meter that cannot read it, and a
// clear one is.
func TestAMeterThatCannotTellSaysSo(t *testing.T) {
	assert.Equal(t, CannotTell, Against(Value{0.2, 0.1}, 0.25, 0.37))
	assert.Equal(t, Good, Against(Value{0.31, 0.005}, 0.25, 0.37))
	assert.Equal(t, Low, Against(Value{0.1, 0.005}, 0.25, 0.37))
	assert.Equal(t, High, Against(Value{0.9, 0.1}, 0.25, 0.37))
}

const debianPython = "/usr/bin/python3"

// The fit and its standard error against scipy's linregress and gonum's regression.
func TestFourWireAgainstScipyAndGonum(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	for _, n := range []int{3, 5, 12} {
		var ps []Pair
		var xs, ys []float64
		for i := range n {
			a := 1 + 1.5*float64(i) + rng.Float64()
			v := 0.6 + 0.031*a + 0.004*rng.NormFloat64()
			ps, xs, ys = append(ps, Pair{v, a}), append(xs, a), append(ys, v)
		}
		f, err := FourWire(ps)
		require.NoError(t, err)
		off, slope := stat.LinearRegression(xs, ys, nil, false)
		assert.InDelta(t, slope, f.R.X, 1e-12)
		assert.InDelta(t, off, f.Offset.X, 1e-12)
		in, err := json.Marshal([][]float64{xs, ys})
		require.NoError(t, err)
		cmd := exec.Command(debianPython, "-c",
			"import sys,json\nfrom scipy.stats import "+
				"linregress\nx,y=json.load(sys.stdin)\nr=linregress(x,y)\n"+
				"print(json.dumps([r.slope,r.stderr,r.intercept,r.intercept_stderr]))")
		cmd.Stdin = strings.NewReader(string(in))
		said, err := cmd.Output()
		require.NoError(t, err, "python3-scipy from Debian is needed")
		var r [4]float64
		require.NoError(t, json.Unmarshal(said, &r))
		assert.InDelta(t, r[0], f.R.X, 1e-10)
		assert.InDelta(t, r[1], f.R.U, 1e-10)
		assert.InDelta(t, r[2], f.Offset.X, 1e-10)
		assert.InDelta(t, r[3], f.Offset.U, 1e-9)
	}
	one, err := FourWire([]Pair{{0.15, 5}})
	require.NoError(t, err)
	assert.InDelta(t, 0.03, one.R.X, 1e-12)
	_, err = FourWire([]Pair{{0.1, 5}, {0.1, 5}, {0.1, 5.001}})
	assert.ErrorContains(t, err, "hardly differ")
	_, err = FourWire([]Pair{{0.1, 0}})
	assert.ErrorContains(t, err, "pair 1")
}

// Patterns of a bar-to-bar test (common practice).
func TestBarToBarPatterns(t *testing.T) {
	even := []float64{21, 22, 21, 20, 21, 22, 21, 21, 22, 20, 21, 21}
	for _, c := range []struct {
		name    string
		change  func([]float64)
		feed    Feed
		pattern string
		places  []int
	}{
		{"even", func([]float64) {}, Across, "even", []int{}},
		{"a short", func(d []float64) { d[4] = 1 }, Across, "short", []int{5}},
		{"adjacent bars fed, open coil", func(d []float64) { d[7] = 230 }, Adjacent, "open_coil", []int{8}},
		{"wave winding, open coil twice", func(d []float64) { d[1], d[7] = 90, 92 }, Adjacent, "open_coil", []int{2, 8}},
		{"poor joint", func(d []float64) { d[2] = 33 }, Adjacent, "poor_joint", []int{3}},
		{"a dead half with the break", func(d []float64) {
			for i := range 6 {
				d[i] = 0
			}
			d[2] = 126
		}, Across, "open_coil", []int{3}},
	} {
		d := append([]float64{}, even...)
		c.change(d)
		b, err := BarToBar(d, 0.1, c.feed)
		require.NoError(t, err)
		assert.Equal(t, c.pattern, b.Pattern, c.name)
		assert.Equal(t, c.places, b.Places, c.name)
	}
	b, err := BarToBar([]float64{0, 0.1, 0, 0.1}, 0.1, Across)
	require.NoError(t, err)
	assert.Equal(t, "cannot_tell", b.Pattern)
	_, err = BarToBar([]float64{1, -2, 3}, 0.1, Across)
	assert.ErrorContains(t, err, "bar pair 2")
}

// NEMA MG 1's own example of unbalance (from memory): 460, 467 and 450 V deviate by at
// most 9 V from a mean of 459: 1.96 %.
func TestUnbalance(t *testing.T) {
	assert.InDelta(t, 1.96, Unbalance(460, 467, 450), 0.01)
	assert.Zero(t, Unbalance(5, 5, 5))
}

// Line to line is 2 R in wye and 2/3 R in delta, and phases come back from lines.
func TestPhases(t *testing.T) {
	p, err := Phases(0.6, 0.6, 0.6, false)
	require.NoError(t, err)
	assert.InDelta(t, 0.3, p[0], 1e-12)
	p, err = Phases(0.2, 0.2, 0.2, true)
	require.NoError(t, err)
	assert.InDelta(t, 0.3, p[1], 1e-12)
	_, err = Phases(1, 0.2, 0.2, false)
	assert.Error(t, err)
	rapid.Check(t, func(t *rapid.T) {
		r := [3]float64{}
		for i := range r {
			r[i] = rapid.Float64Range(0.05, 5).Draw(t, "r")
		}
		// Two windings in series, in parallel with the third, seen from each pair.
		line := func(a, b, c float64) float64 { return a * (b + c) / (a + b + c) }
		p, err := Phases(line(r[0], r[1], r[2]), line(r[1], r[2], r[0]), line(r[2], r[0], r[1]), true)
		require.NoError(t, err)
		for i := range r {
			assert.InEpsilon(t, r[i], p[i], 1e-6)
		}
		p, err = Phases(r[0]+r[1], r[1]+r[2], r[2]+r[0], false)
		require.NoError(t, err)
		for i := range r {
			assert.InEpsilon(t, r[i], p[i], 1e-9)
		}
	})
}

// IEC 60252-1: 7.5 µF on 120 V, 60 Hz passes 0.339 A; here at 24 V, a fifth of it.
func TestCapacitor(t *testing.T) {
	v, err := FromCurrent(24, 0.339/5, 60, 0, 0)
	require.NoError(t, err)
	assert.InDelta(t, 7.5e-6, v.X, 0.02e-6)
	_, err = FromCurrent(120, 0.339, 60, 0, 0)
	assert.ErrorContains(t, err, "25 V")
	s, w := Discharge(7.5e-6, 20e3, 400)
	assert.InDelta(t, 0.75, s, 1e-9)
	assert.InDelta(t, 8, w, 1e-9)
	old := Mark{Farads: 7.5e-6, Volts: 400}
	assert.NoError(t, Mark{Farads: 7.5e-6, Volts: 450}.MayReplace(old, 5))
	for _, c := range []Mark{{Farads: 10e-6, Volts: 450}, {Farads: 7.5e-6, Volts: 250}, {Farads: 7.5e-6, Volts: 450, Start: true}} {
		assert.Error(t, c.MayReplace(old, 5), fmt.Sprint(c))
	}
}

func TestFloor(t *testing.T) {
	for _, c := range []struct {
		w    float64
		arm  bool
		want float64
	}{{0, true, 1e6}, {1000, true, 100e6}, {1000, false, 5e6}} {
		ohm, _ := Floor(c.w, c.arm)
		assert.Equal(t, c.want, ohm)
	}
}
