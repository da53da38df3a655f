package learn

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat/distuv"
	"pgregory.net/rapid"
)

// The textbook posterior: a Dirichlet over shares 0.5, 0.3, 0.2 worth 30 jobs, and 20 jobs of
// which 14 were the third: (30·0.2 + 14)/50 = 0.4.
func TestTheTextbookPosterior(t *testing.T) {
	rs := Rates(map[string]float64{"a.x": 5, "b.x": 3, "c.x": 2}, []Count{{"c.x", 14}, {"a.x", 6}})
	require.Len(t, rs, 3)
	assert.Equal(t, "c.x", rs[0].Fault)
	assert.InDelta(t, 0.4, rs[0].Here, 1e-12)
	assert.InDelta(t, 2, rs[0].Factor, 1e-12)
	assert.Equal(t, 14, rs[0].N)
	assert.Equal(t, 20, rs[0].Of)
	assert.InDelta(t, (30*0.5+6)/50, rs[1].Here, 1e-12)
	b := distuv.Beta{Alpha: 20, Beta: 30}
	assert.InDelta(t, b.Quantile(0.05), rs[0].Low, 1e-9)
	assert.InDelta(t, b.Quantile(0.95), rs[0].High, 1e-9)
	f := Factors(rs)
	assert.InDelta(t, 2, f["c.x"], 1e-9)
	assert.Nil(t, Factors(Rates(map[string]float64{"a.x": 1}, nil)))
}

// Gamma-Poisson: a mean of 4 years worth 3 sightings, and two failures in 2 years in all, is
// (3·4 + 2)/5 = 2.8 years.
func TestTimes(t *testing.T) {
	assert.InDelta(t, 2.8, Times(4, 3, 2, 2), 1e-12)
	assert.InDelta(t, 5, Times(4, 3, 0, 3), 1e-12, "time without a failure lengthens it")
}

func TestSharesSumToOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		shipped := map[string]float64{}
		var cs []Count
		for _, f := range []string{"a.x", "b.x", "c.x", "d.x"} {
			shipped[f] = rapid.Float64Range(0.01, 10).Draw(t, f)
			cs = append(cs, Count{f, rapid.IntRange(0, 500).Draw(t, "n")})
		}
		cs = append(cs, Count{"unknown.fault", 7})
		sum := 0.0
		for _, r := range Rates(shipped, cs) {
			sum += r.Here
			if !(r.Low <= r.Here+1e-9 && r.Here <= r.High+1e-9) && r.Here > 0.02 && r.Here < 0.98 {
				t.Fatalf("%+v", r)
			}
		}
		assert.InDelta(t, 1, sum, 1e-9)
	})
}

// Wilson's interval for 0 of 10 is 0 to 0.278, for 9 of 10 0.596 to 0.982 (Agresti and Coull,
// Am. Stat. 52, 1998, from memory).
func TestWilsonAndCalibration(t *testing.T) {
	lo, hi := Wilson(0, 10)
	assert.Zero(t, lo)
	assert.InDelta(t, 0.278, hi, 1e-3)
	lo, hi = Wilson(9, 10)
	assert.InDelta(t, 0.596, lo, 1e-3)
	assert.InDelta(t, 0.982, hi, 1e-3)
	bs := Calibration([]Claim{{0.96, true, 0}, {0.97, true, 1}, {0.98, false, 0}, {0.6, true, 0}, {1, true, 0}})
	require.Len(t, bs, 3)
	assert.Equal(t, 3, bs[1].N)
	assert.InDelta(t, 2.0/3, bs[1].Right, 1e-12)
}

func TestLifetimes(t *testing.T) {
	l := Lifetimes([]Event{{"a", "repair", 1}, {"a", "replace", 2.5}, {"b", "repair", 3}}, 5)
	assert.Equal(t, 1, l["repair"].Ends)
	assert.InDelta(t, 3.5, l["repair"].Years, 1e-12)
	assert.Equal(t, 0, l["replace"].Ends)
	assert.InDelta(t, 2.5, l["replace"].Years, 1e-12)
}

// Each group is shrunk towards the one around it: with 30 jobs of a kind of machine all of
// one fault, half the weight is theirs, and half of that is left after 30 more at one age.
func TestGroupsWithinGroups(t *testing.T) {
	shipped := map[string]float64{"a.x": 1, "b.x": 1}
	rs := Nested(shipped, nil, []Count{{"a.x", 30}}, []Count{{"b.x", 30}})
	require.Len(t, rs, 2)
	by := map[string]Rate{rs[0].Fault: rs[0], rs[1].Fault: rs[1]}
	// (30·0.5 + 30)/60 = 0.75, then 30·0.75/60 = 0.375.
	assert.InDelta(t, 0.375, by["a.x"].Here, 1e-12)
	assert.InDelta(t, 0.75, by["a.x"].Factor, 1e-12)
	assert.Equal(t, 30, by["a.x"].N)
	assert.Equal(t, 60, by["b.x"].Of)
	assert.InDelta(t, 0.5, by["a.x"].Shipped, 1e-12)
	assert.Equal(t, Rates(shipped, nil), Nested(shipped), "without jobs what ships holds")
	assert.Equal(t, Rates(shipped, []Count{{"a.x", 3}}), Nested(shipped, []Count{{"a.x", 3}}))
}

func TestAgesAndMinutes(t *testing.T) {
	for years, want := range map[int]int{-1: 0, 0: 1, 4: 1, 5: 2, 11: 2, 12: 3, 60: 3} {
		assert.Equal(t, want, Age(years), years)
	}
	// (3·10 + 40)/4 = 17.5 on other machines, then (3·17.5 + 30 + 30)/5 = 22.5 on these.
	assert.InDelta(t, 22.5, Minutes(10, []float64{40}, []float64{30, 30}), 1e-12)
	assert.InDelta(t, 10, Minutes(10, nil, nil), 1e-12)
}
