package repair

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"corriente/core/circuit"
)

var sure = []Diagnosis{{[]string{"motor.brushes_worn"}, 1}}

func starter(t testing.TB) *circuit.Circuit {
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	return c
}

func option(c *Comparison, id string) Option {
	for _, o := range c.Options {
		if o.ID == id {
			return o
		}
	}
	return Option{}
}

// By hand: a brush set of 24, 150 min at 60 an hour, 4 days at 20; works 88 times in 100.
func TestExpectedCostByHand(t *testing.T) {
	cmp, err := Compare(starter(t), "motor", sure, Terms{HourRate: 60, LossPerDay: 20, Years: 4, Comeback: 30}, 0, nil)
	require.NoError(t, err)
	r, n := option(cmp, "repair"), option(cmp, "replace")
	labour := 150.0
	standing := (4 + 150.0/60/8) * 20
	assert.InDelta(t, labour, r.Labour, 1e-9)
	assert.InDelta(t, standing, r.Standing, 1e-9)
	assert.InDelta(t, 0.88, r.Success, 1e-12)
	assert.InDelta(t, 0.5, r.ComebackP, 1e-12, "four years at a median life of four")
	fail := 60 + 30 + 20 + n.Parts + n.Labour + n.Standing
	again := 24 + labour + 30 + 20
	assert.InDelta(t, 24+labour+standing+0.12*fail+0.88*0.5*again, r.Expected, 1e-9)
}

func TestUncertainDiagnosisMakesEveryOptionDearer(t *testing.T) {
	tm := Terms{HourRate: 60, LossPerDay: 20, Years: 4, Comeback: 30}
	a, err := Compare(starter(t), "motor", sure, tm, 0, nil)
	require.NoError(t, err)
	b, err := Compare(starter(t), "motor", []Diagnosis{{[]string{"motor.brushes_worn"}, 0.6}, {[]string{"battery.weak"}, 0.4}}, tm, 0, nil)
	require.NoError(t, err)
	for _, id := range []string{"repair", "replace"} {
		assert.Greater(t, option(b, id).Expected, option(a, id).Expected, id)
		assert.InDelta(t, 0.6, option(b, id).Cure, 1e-12)
	}
}

// At each break-even the two options cost the same.
func TestBreakEvenIsWhereTheCostsMeet(t *testing.T) {
	c := starter(t)
	rapid.Check(t, func(rt *rapid.T) {
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(rt, n) }
		tm := Terms{HourRate: f("rate", 20, 120), LossPerDay: f("loss", 1, 200), Years: f("years", 0.5, 15), Comeback: f("comeback", 0, 200)}
		st := rapid.SampledFrom([]string{"motor", "pos_clamp", "battery", "drive"}).Draw(rt, "station")
		ds := []Diagnosis{{[]string{st + "." + c.Station(st).Repair.Cures[0]}, f("p", 0.3, 1)}}
		cmp, err := Compare(c, st, ds, tm, 0, nil)
		if err != nil {
			rt.Fatal(err)
		}
		for _, b := range cmp.BreakEvens {
			best, other, t2 := cmp.Options[0], cmp.Options[1], tm
			switch b.Quantity {
			case "parts":
				best.Parts = b.Value
			case "wait_days":
				best.Standing += (b.Value - best.WaitDays) * tm.LossPerDay
			case "success":
				best.Cure, best.workmanship = b.Value, 1
			case "years":
				t2.Years = b.Value
			}
			best.settle(t2)
			other.settle(t2)
			if math.Abs(best.Expected-other.Expected) > 0.01 {
				rt.Fatalf("%s at %g: %g against %g", b.Quantity, b.Value, best.Expected, other.Expected)
			}
		}
		for _, o := range cmp.Options {
			if o.Low > o.High || math.IsNaN(o.Expected) {
				rt.Fatalf("range %g to %g", o.Low, o.High)
			}
		}
	})
}

func TestAccessAlreadyOpenIsNotPaidTwice(t *testing.T) {
	tm := Terms{HourRate: 60, LossPerDay: 0, Years: 4}
	a, _ := Compare(starter(t), "motor", sure, tm, 0, nil)
	b, _ := Compare(starter(t), "motor", sure, tm, 31, nil)
	assert.InDelta(t, 31, option(a, "repair").Minutes-option(b, "repair").Minutes, 1e-9)
}

func TestNonsenseTermsAreRefused(t *testing.T) {
	for _, tm := range []Terms{{HourRate: -1, Years: 1}, {Years: 0}, {Years: math.NaN()}, {LossPerDay: math.Inf(1), Years: 1}} {
		_, err := Compare(starter(t), "motor", sure, tm, 0, nil)
		assert.Error(t, err)
	}
	_, err := Compare(starter(t), "mast", sure, Terms{Years: 1}, 0, nil)
	assert.Error(t, err)
}
