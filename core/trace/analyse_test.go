package trace

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// some draws a motor and a scope as they are met: 8 to 24 bars, 600 to 6,000 rpm,
// noisy, eight bits.
func some(rng *rand.Rand, weak bool) (Motor, Scope) {
	m := Motor{MeanA: 2 + 60*rng.Float64(), RPM: 600 * math.Pow(10, rng.Float64()), Bars: 8 + rng.IntN(17),
		Brushes: 2, Ripple: 0.04 + 0.08*rng.Float64(), Drift: 0.2 * (rng.Float64() - 0.5)}
	if rng.IntN(4) == 0 {
		m.Brushes = 4
	}
	humps := HumpsOf(m.Bars, m.Brushes)
	if weak {
		m.Weak = map[int]float64{rng.IntN(humps): 0.75 + 0.15*rng.Float64()}
	}
	hz := m.RPM / 60 * float64(humps)
	s := Scope{Rate: hz * (12 + 20*rng.Float64()), Noise: 0.01 * m.MeanA, Bits: 8}
	s.N = int(s.Rate * 60 / m.RPM * (25 + 40*rng.Float64()))
	return m, s
}

func TestWeakBarsAreFoundAndHealthyMotorsAreNot(t *testing.T) {
	if testing.Short() {
		t.Skip("many machines: nothing more for the race detector")
	}
	found, named, exact, told, n := 0, 0, 0, 0, 60
	for seed := range uint64(n) {
		rng := rand.New(rand.NewPCG(seed, 11))
		m, s := some(rng, true)
		x := m.Trace(s, rng)
		r, err := Analyse(x, 1/s.Rate, Options{Bars: m.Bars, Brushes: m.Brushes})
		require.NoError(t, err)
		if r.WeakBars != nil && len(*r.WeakBars) == 1 {
			found++
		} else {
			t.Logf("missed: %+v %+v: %v %v", m, s, r.RPM, r.Warnings)
		}
		if r.RPM != nil {
			assert.InEpsilon(t, m.RPM*(1+m.Drift/2), *r.RPM, 0.005, "seed %d", seed)
		}
		// Not told the number of bars.
		x = m.Trace(s, rng)
		r, err = Analyse(x, 1/s.Rate, Options{Brushes: m.Brushes})
		require.NoError(t, err)
		if r.Bars != nil {
			told++
			if *r.Humps == HumpsOf(m.Bars, m.Brushes) {
				exact++
			}
		}

		m, s = some(rng, false)
		x = m.Trace(s, rng)
		r, err = Analyse(x, 1/s.Rate, Options{Bars: m.Bars, Brushes: m.Brushes})
		require.NoError(t, err)
		if r.WeakBars != nil && len(*r.WeakBars) > 0 {
			named++
		}
		if r.RPM != nil {
			assert.InEpsilon(t, m.RPM*(1+m.Drift/2), *r.RPM, 0.005, "healthy, seed %d", seed)
		}
		x = m.Trace(s, rng)
		r, err = Analyse(x, 1/s.Rate, Options{Brushes: m.Brushes})
		require.NoError(t, err)
		assert.Nil(t, r.RPM, "all bars alike and the number not given: nothing marks a revolution (seed %d, %v)", seed, r.Bars)
		assert.Nil(t, r.WeakBars)
	}
	t.Logf("weak bars found %d of %d, named on healthy motors %d; humps told %d, exact %d", found, n, named, told, exact)
	assert.GreaterOrEqual(t, found*100, 95*n)
	assert.Less(t, named*100, n)
	assert.GreaterOrEqual(t, exact*100, 97*told)
}

func TestMeanAndRMS(t *testing.T) {
	n := uint64(40)
	if testing.Short() { // enough for the race detector
		n = 4
	}
	for seed := range n {
		rng := rand.New(rand.NewPCG(seed, 12))
		m, s := some(rng, seed%2 == 0)
		s.Quiet, s.Offset = 0.1*float64(s.N)/s.Rate, 0.3
		s.N += int(0.3 * s.Rate) // time to settle
		x := m.Trace(s, rng)
		y := slices.Clone(x)
		r, err := Analyse(x, 1/s.Rate, Options{Bars: m.Bars, Brushes: m.Brushes})
		require.NoError(t, err)
		sum, sq := 0.0, 0.0
		for _, v := range y[r.From:r.To] {
			sum += float64(v) - 0.3
			sq += math.Pow(float64(v)-0.3, 2)
		}
		samples := float64(r.To - r.From)
		assert.InEpsilon(t, sum/samples, r.MeanA, 0.01)
		assert.InEpsilon(t, math.Sqrt(sq/samples), r.RMSA, 0.01)
		assert.InDelta(t, 0.3, r.OffsetA, 0.05+0.01*m.MeanA)
		if assert.NotNil(t, r.InrushA) {
			assert.Greater(t, *r.InrushA, 3*r.MeanA)
		}
	}
}

func TestChoppingIsNoCommutation(t *testing.T) {
	for _, hz := range []float64{2000, 4000} {
		rng := rand.New(rand.NewPCG(1, uint64(hz)))
		m := Motor{MeanA: 8, RPM: 1800, Bars: 12, Ripple: 0.08, Weak: map[int]float64{5: 0.8}}
		s := Scope{Rate: 100e3, N: 200e3, Noise: 0.05, ChopHz: hz, Duty: 0.6}
		r, err := Analyse(m.Trace(s, rng), 1/s.Rate, Options{Bars: 12})
		require.NoError(t, err)
		require.NotNil(t, r.ChopHz)
		assert.InEpsilon(t, hz, *r.ChopHz, 0.001)
		require.NotNil(t, r.RPM, "%v", r.Warnings)
		assert.InEpsilon(t, 1800, *r.RPM, 0.005)
		assert.Len(t, *r.WeakBars, 1)
		assert.Zero(t, r.Dropouts, "a module's chopping is no dropout")
	}
}

func TestDragIsNoWeakBar(t *testing.T) {
	rng := rand.New(rand.NewPCG(2, 2))
	m := Motor{MeanA: 10, RPM: 3000, Bars: 16, Ripple: 0.06, Drag: 0.06}
	s := Scope{Rate: 40e3, N: 60e3, Noise: 0.05, Bits: 10}
	r, err := Analyse(m.Trace(s, rng), 1/s.Rate, Options{Bars: 16})
	require.NoError(t, err)
	assert.Empty(t, *r.WeakBars)
	assert.InDelta(t, 6, r.DragPercent, 1)
	m.Weak = map[int]float64{3: 0.8}
	r, err = Analyse(m.Trace(s, rng), 1/s.Rate, Options{Bars: 16})
	require.NoError(t, err)
	assert.Len(t, *r.WeakBars, 1, "both at once")
}

func TestDropoutsAreCounted(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 3))
	m := Motor{MeanA: 10, RPM: 2400, Bars: 12, Ripple: 0.05, Dropout: 12}
	s := Scope{Rate: 50e3, N: 100e3, Noise: 0.03}
	r, err := Analyse(m.Trace(s, rng), 1/s.Rate, Options{Bars: 12})
	require.NoError(t, err)
	assert.InDelta(t, 24, r.Dropouts, 12)
	assert.Contains(t, r.Verdict, "drops out")
}

// Facts of the field: 22 bars and four brushes give 44 humps; opposed brushes make
// an odd number of bars into twice as many.
func TestHumps(t *testing.T) {
	for _, c := range [][3]int{{12, 2, 12}, {11, 2, 22}, {22, 4, 44}, {23, 4, 92}, {24, 4, 24}} {
		assert.Equal(t, c[2], HumpsOf(c[0], c[1]), fmt.Sprint(c))
	}
}

func TestScales(t *testing.T) {
	for text, want := range map[string]float64{"100mV/A": 0.1, "10 mV/A": 0.01, "1V/A": 1, "0,1 V/A": 0.1, "1mV/mA": 1, "A": 0, "": 0} {
		got, err := PerAmpere(text)
		require.NoError(t, err, text)
		assert.InDelta(t, want, got, 1e-12, text)
	}
	for _, text := range []string{"fast", "mV/A", "0mV/A", "100"} {
		_, err := PerAmpere(text)
		assert.Error(t, err, text)
	}
}

// Where nothing can be told, the reason says what to do, and warnings hold it as well.
func TestReasonsOfNothingTold(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 4))
	sound := Motor{MeanA: 20, RPM: 3000, Bars: 16, Ripple: 0.08}
	noise := make([]float32, 20000)
	for i := range noise {
		noise[i] = float32(20 + rng.NormFloat64())
	}
	switched := Motor{MeanA: 20, RPM: 3000, Bars: 16, Ripple: 0.02}
	for want, x := range map[string][]float32{
		"alike":    sound.Trace(Scope{Rate: 40e3, N: 20e3, Noise: 0.1}, rng),
		"no_line":  noise,
		"chopping": switched.Trace(Scope{Rate: 40e3, N: 20e3, Noise: 0.1, ChopHz: 150, Duty: 0.5}, rng),
	} {
		r, err := Analyse(x, 1/40e3, Options{})
		require.NoError(t, err)
		if assert.NotNil(t, r.CannotTell, "%s: %v rpm", want, r.RPM) {
			assert.Contains(t, want+" unsure", r.CannotTell.Code)
			assert.Contains(t, r.Warnings, r.CannotTell.Says)
		}
		assert.Nil(t, r.RPM)
		assert.Nil(t, r.WeakBars)
		assert.Zero(t, r.Confidence)
	}
}

// Whoever samples the same motor faster gets the same answer.
func TestFasterSamplesTellTheSame(t *testing.T) {
	m := Motor{MeanA: 30, RPM: 1800, Bars: 14, Ripple: 0.07, Weak: map[int]float64{5: 0.85}}
	for _, perHump := range []float64{12, 40, 300, 1000} {
		rate := perHump * m.RPM / 60 * 14
		s := Scope{Rate: rate, N: int(rate * 1.2), Noise: 0.3, Bits: 8}
		r, err := Analyse(m.Trace(s, rand.New(rand.NewPCG(5, 5))), 1/rate, Options{Bars: 14})
		require.NoError(t, err)
		require.NotNil(t, r.RPM, "%g samples a hump: %v", perHump, r.CannotTell)
		assert.InEpsilon(t, 1800, *r.RPM, 0.002, "%g samples a hump", perHump)
		assert.Len(t, *r.WeakBars, 1, "%g samples a hump", perHump)
	}
}

func TestNothingToAnalyse(t *testing.T) {
	_, err := Analyse(make([]float32, 1000), 1e-4, Options{})
	assert.ErrorContains(t, err, "never changes")
	_, err = Analyse([]float32{1}, 1e-4, Options{})
	assert.Error(t, err)
	_, err = Analyse([]float32{1, 2, 3}, 1e-4, Options{Bars: 2})
	assert.Error(t, err)
	for n := 2; n < 300; n += 7 { // short ones never panic
		rng := rand.New(rand.NewPCG(uint64(n), 1))
		x := make([]float32, n)
		for i := range x {
			x[i] = float32(rng.NormFloat64())
		}
		_, err := Analyse(x, 1e-4, Options{Bars: 12})
		assert.NoError(t, err)
	}
}
